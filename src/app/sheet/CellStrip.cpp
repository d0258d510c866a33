// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sheet/CellStrip.h"

#include "app/style/FlowLayout.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "geometry/LegalSize.h"

#include <QDoubleSpinBox>
#include <QLabel>
#include <QSignalBlocker>
#include <QSlider>
#include <QToolButton>
#include <algorithm>

namespace tromb {
namespace {

QDoubleSpinBox* numberField(const QString& name, const QString& suffix, double least, double most, QWidget* parent) {
  auto* field = new QDoubleSpinBox(parent);
  field->setAccessibleName(name);
  field->setRange(least, most);
  field->setDecimals(2);
  field->setSingleStep(most > 64 ? 1 : 0.05);
  field->setSuffix(suffix);
  field->setKeyboardTracking(false);
  field->setButtonSymbols(QAbstractSpinBox::NoButtons);
  field->setAlignment(Qt::AlignRight);
  field->setMaximumWidth(field->fontMetrics().horizontalAdvance(QStringLiteral("100.00 %")) + 22);
  return field;
}

} // namespace

CellStrip::CellStrip(Session& session, SheetView& sheet, const Actions& actions, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_sheet(sheet), m_what(new QLabel(this)),
      m_consequence(new QLabel(this)), m_x(numberField(tr("Centre from the left"), tr(" %"), 0, 100, this)),
      m_y(numberField(tr("Centre from the top"), tr(" %"), 0, 100, this)),
      m_zoom(numberField(tr("Zoom"), tr(" ×"), 1, kMostZoom, this)) {
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  setObjectName(QStringLiteral("cellStrip"));
  auto* row = new FlowLayout(this, 3);
  row->setContentsMargins(10, 4, 10, 4);
  m_what->setProperty("rank", "head");
  m_what->setMinimumWidth(m_what->fontMetrics().horizontalAdvance(tr("12 cells · whole picture")));
  row->addWidget(m_what);
  for (const char* id : {"fill", "whole", "two", "three", "backdrop", "centre", "zoom-in", "zoom-out"}) {
    QToolButton* button = actions.button(id, Qt::ToolButtonTextUnderIcon, this);
    button->setAutoRaise(true);
    row->addWidget(button);
  }
  const std::pair<const char*, QDoubleSpinBox*> fields[] = {
      {QT_TR_NOOP("across"), m_x}, {QT_TR_NOOP("down"), m_y}, {QT_TR_NOOP("zoom"), m_zoom}};
  for (const auto& [name, field] : fields) {
    auto* label = new QLabel(tr(name), this);
    label->setProperty("rank", "faint");
    label->setBuddy(field);
    row->addWidget(label);
    row->addWidget(field);
    connect(field, &QDoubleSpinBox::valueChanged, this, [this, field = field](double value) { typed(field, value); });
  }
  m_consequence->setTextFormat(Qt::PlainText);
  row->addWidget(m_consequence);
  auto* sizeWords = new QLabel(tr("size"), this);
  sizeWords->setProperty("rank", "faint");
  auto* size = new QSlider(Qt::Horizontal, this);
  sizeWords->setBuddy(size);
  size->setObjectName(QStringLiteral("sheetSize"));
  size->setRange(72, 320);
  size->setValue(sheet.pictureHeight());
  size->setFixedWidth(84);
  size->setAccessibleName(tr("Height of the pictures"));
  size->setToolTip(tr("Height of the pictures"));
  auto* fit = new QToolButton(this);
  fit->setText(tr("fit"));
  fit->setAccessibleName(tr("As high as lets every cell be seen"));
  fit->setToolTip(fit->accessibleName());
  fit->setCheckable(true);
  fit->setChecked(sheet.fits());
  fit->setFocusPolicy(Qt::TabFocus);
  connect(size, &QSlider::valueChanged, this, [&sheet, fit](int pixels) {
    sheet.setPictureHeight(pixels);
    fit->setChecked(false);
    Settings::setLeft(QStringLiteral("sheetHeight"), pixels);
  });
  connect(fit, &QToolButton::clicked, this, [&sheet](bool on) {
    sheet.setFits(on);
    Settings::setLeft(QStringLiteral("sheetHeight"), on ? 0 : sheet.pictureHeight());
  });
  connect(&sheet, &SheetView::heightChanged, this, [&sheet, size, fit] {
    const QSignalBlocker silent(size);
    size->setValue(sheet.pictureHeight());
    fit->setChecked(sheet.fits());
  });
  row->addWidget(sizeWords);
  row->addWidget(size);
  row->addWidget(fit);

  connect(&session, &Session::selectionChanged, this, &CellStrip::refresh);
  connect(sheet.model(), &QAbstractItemModel::dataChanged, this, &CellStrip::refresh);
  connect(sheet.model(), &QAbstractItemModel::modelReset, this, &CellStrip::refresh);
  refresh();
}

void CellStrip::refresh() {
  const std::vector<CellPlace> places = m_session.cells();
  if (places.empty()) return show(nullptr, 0);
  const CellPlace current = m_session.current();
  const CellPlace place = std::find(places.begin(), places.end(), current) != places.end() ? current : places.front();
  const Cell cell = m_document.cell(place);
  show(&cell, int(places.size()));
}

void CellStrip::show(const Cell* cell, int count) {
  m_showing = true;
  const bool usable = cell && !cell->placements.empty();
  for (QDoubleSpinBox* field : {m_x, m_y, m_zoom}) field->setEnabled(usable);
  m_what->setText(count == 0 ? tr("No cell selected")
                             : tr("%n cells", nullptr, count) + QStringLiteral(" · ") + layoutWords(cell->framing));
  if (usable) {
    const Window window = windowNow(*cell, 0);
    m_x->setValue(window.x * 100);
    m_y->setValue(window.y * 100);
    m_zoom->setValue(window.zoom);
    QString text = tr("detail %1").arg(QString::fromStdString(detailText(cell->detail)));
    if (cell->state == Cell::State::Soft) {
      const Size sharp = largestSharpCanvas(cell->shape, cell->canvas.ratio());
      if (sharp.width > 0) text += tr(" · sharp to %1").arg(QString::fromStdString(sizeText(sharp)));
    }
    if (cell->uncoveredPercent > 0) text += tr(" · bars %1 %").arg(cell->uncoveredPercent, 0, 'f', 1);
    m_consequence->setText(text);
  } else {
    m_consequence->setText(cell ? cell->reason : QString());
  }
  m_consequence->setToolTip(m_consequence->text());
  colourWords(m_consequence, cell && cell->complains() ? statusColour(cell->state) : Theme::current().faint);
  m_showing = false;
}

void CellStrip::typed(const QDoubleSpinBox* field, double value) {
  if (m_showing) return;
  m_sheet.change(tr("Place"), [&](const Cell& cell) {
    return reframed(cell, 0, field == m_zoom, [&](Window& window) {
      (field == m_x ? window.x : field == m_y ? window.y : window.zoom) = field == m_zoom ? value : value / 100;
    });
  });
}

} // namespace tromb
