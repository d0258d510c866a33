// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/DeliverableDialog.h"

#include "app/spec/EncodingForm.h"
#include "app/spec/ShapeButton.h"
#include "app/style/Icons.h"
#include "app/style/StatusLine.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "model/Translation.h"
#include "time/Cadence.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QSpinBox>
#include <QToolButton>

namespace tromb {
namespace {

QSpinBox* sideField(const QString& name, QWidget* parent) {
  auto* field = new QSpinBox(parent);
  field->setRange(kSmallestSide, kLargestSide);
  field->setAccessibleName(name);
  field->setButtonSymbols(QAbstractSpinBox::NoButtons);
  field->setAlignment(Qt::AlignRight);
  return field;
}

} // namespace

DeliverableDialog::DeliverableDialog(const Document& document, int column, QWidget* parent)
    : QDialog(parent), m_document(document) {
  setObjectName(QStringLiteral("deliverableDialog"));
  const bool fresh = column < 0;
  setWindowTitle(fresh ? tr("Add a deliverable") : tr("Change a deliverable"));
  const Project& project = document.project();
  const MediaInfo* first = nullptr;
  for (const Source& source : project.sources)
    if (const auto* media = document.media(source.id); !first && media && *media && (*media)->video) first = &**media;
  m_deliverable = fresh ? newDeliverable(project, "vertical-story", first) : project.deliverables[size_t(column)];
  if (!fresh) m_ownName = m_deliverable.name;

  auto* rows = new QVBoxLayout(this);
  auto* columns = new QHBoxLayout;
  columns->setSpacing(22);
  columns->addWidget(buildChoices(), 3);
  columns->addWidget(buildConsequences(), 2);
  rows->addLayout(columns, 1);
  auto* buttons = new QDialogButtonBox(this);
  m_accept = buttons->addButton(fresh ? tr("Add it") : tr("Change it"), QDialogButtonBox::AcceptRole);
  m_accept->setProperty("main", true);
  m_accept->setDefault(true);
  buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  rows->addWidget(buttons);
  resize(900, 600);
  refresh();
  m_width->setFocus();
}

QWidget* DeliverableDialog::buildChoices() {
  auto* page = new QWidget(this);
  auto* rows = new QVBoxLayout(page);
  rows->setContentsMargins(0, 0, 0, 0);
  auto* head = new QLabel(tr("Where does it go?"), page);
  head->setProperty("rank", "head");
  rows->addWidget(head);
  auto* grid = new QGridLayout;
  m_shapes = new QButtonGroup(this);
  if (destinationData()) {
    int place = 0;
    for (const Destination& d : destinationData()->destinations) {
      auto* button = new ShapeButton(QString::fromStdString(d.name), d.canvas, page);
      button->setToolTip(QString::fromStdString(d.summary + " (" + d.basis + ")"));
      m_shapes->addButton(button, place);
      grid->addWidget(button, place / 3, place % 3);
      connect(button, &QAbstractButton::clicked, this, [this, &d] { take(d); });
      ++place;
    }
  }
  rows->addLayout(grid);

  auto* form = new QFormLayout;
  form->setHorizontalSpacing(14);
  form->setVerticalSpacing(9);
  form->setLabelAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  m_name = new QLineEdit(page);
  m_name->setMaxLength(80);
  m_nameAnswer = new QLabel(page);
  m_nameAnswer->setStyleSheet(QStringLiteral("color: %1").arg(Theme::current().broken.name()));
  form->addRow(tr("&Name"), m_name);
  form->addRow(QString(), m_nameAnswer);

  m_width = sideField(tr("Width in pixels"), page);
  m_height = sideField(tr("Height in pixels"), page);
  auto* turnButton = new QToolButton(page);
  turnButton->setIcon(icon(QStringLiteral("arrow-left-right")));
  turnButton->setText(tr("Swap"));
  turnButton->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  turnButton->setToolTip(tr("Swap width and height (Ctrl+T)"));
  turnButton->setShortcut(QKeySequence(Qt::CTRL | Qt::Key_T));
  turnButton->setAccessibleName(tr("Swap width and height"));
  m_lock = new QToolButton(page);
  m_lock->setCheckable(true);
  m_lock->setText(tr("Keep ratio"));
  m_lock->setIcon(icon(QStringLiteral("lock")));
  m_lock->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_lock->setToolTip(tr("When one side is typed, the other follows"));
  auto* size = new QHBoxLayout;
  size->addWidget(m_width, 1);
  size->addWidget(new QLabel(QStringLiteral("×"), page));
  size->addWidget(m_height, 1);
  size->addWidget(turnButton);
  size->addWidget(m_lock);
  auto* canvas = new QLabel(tr("&Canvas"), page);
  canvas->setBuddy(m_width);
  form->addRow(canvas, size);
  m_sizeAnswer = new QLabel(page);
  m_lower = new QPushButton(page);
  m_upper = new QPushButton(page);
  auto* answer = new QHBoxLayout;
  answer->addWidget(m_sizeAnswer);
  answer->addWidget(m_lower);
  answer->addWidget(m_upper);
  answer->addStretch();
  form->addRow(QString(), answer);

  m_rate = new QComboBox(page);
  m_rate->setAccessibleName(tr("Frame rate"));
  for (const FrameRate& rate : FrameRate::offered())
    m_rate->addItem(QString::fromStdString(rate.name()), QString::fromStdString(rate.value().toString()));
  form->addRow(tr("&Frames a second"), m_rate);
  m_encoding = new EncodingForm(m_deliverable, *form, page);
  m_sharpOnly = new QCheckBox(tr("Never enlarge a picture"), page);
  m_sharpOnly->setToolTip(tr("Windows stop where the picture would become soft; a shot that cannot fill says so"));
  form->addRow(QString(), m_sharpOnly);
  rows->addLayout(form);
  rows->addStretch();

  connect(m_name, &QLineEdit::textEdited, this, [this](const QString& text) {
    m_deliverable.name = text.trimmed().toStdString();
    m_nameTyped = true;
    refresh();
  });
  connect(m_width, &QSpinBox::valueChanged, this, [this] { sideTyped(true); });
  connect(m_height, &QSpinBox::valueChanged, this, [this] { sideTyped(false); });
  connect(turnButton, &QToolButton::clicked, this, &DeliverableDialog::turn);
  connect(m_lock, &QToolButton::toggled, this, [this] { m_ratio = m_deliverable.canvas.ratio(); });
  connect(m_rate, &QComboBox::activated, this, [this] {
    if (const auto rate = FrameRate::parse(m_rate->currentData().toString().toStdString())) m_deliverable.rate = *rate;
    refresh();
  });
  connect(m_encoding, &EncodingForm::changed, this, &DeliverableDialog::refresh);
  connect(m_sharpOnly, &QCheckBox::toggled, this, [this](bool on) {
    m_deliverable.sharpOnly = on;
    if (!m_filling) refresh();
  });
  for (QPushButton* button : {m_lower, m_upper})
    connect(button, &QPushButton::clicked, this, [this, button] {
      const QSize offered = button->property("canvas").toSize();
      m_deliverable.canvas = {offered.width(), offered.height()};
      refresh();
    });
  return page;
}

QWidget* DeliverableDialog::buildConsequences() {
  auto* page = new QWidget(this);
  page->setProperty("bar", true);
  page->setAttribute(Qt::WA_StyledBackground);
  auto* rows = new QVBoxLayout(page);
  rows->setContentsMargins(16, 14, 10, 10);
  auto* head = new QLabel(tr("Consequences"), page);
  head->setProperty("rank", "head");
  rows->addWidget(head);
  m_facts = new QLabel(page);
  m_facts->setWordWrap(true);
  rows->addWidget(m_facts);
  auto* list = new QLabel(tr("Your shots, filling this canvas"), page);
  list->setProperty("rank", "head");
  rows->addSpacing(6);
  rows->addWidget(list);
  auto* area = new QScrollArea(page);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  area->setAccessibleName(tr("Consequences for each shot"));
  auto* inside = new QWidget;
  m_shots = new QVBoxLayout(inside);
  m_shots->setContentsMargins(0, 0, 8, 0);
  m_shots->setSpacing(0);
  area->setWidget(inside);
  rows->addWidget(area, 1);
  return page;
}

void DeliverableDialog::take(const Destination& to) {
  recommend(m_deliverable, to);
  m_ratio = to.canvas.ratio();
  refresh();
}

/// Names a new deliverable after its canvas and destination, until the user types a name.
void DeliverableDialog::nameByItself() {
  if (m_nameTyped || !m_ownName.empty()) return;
  const Destination* to = destination(m_deliverable.destination);
  m_deliverable.name = freeDeliverableName(m_document.project(), to ? to->name : sizeText(m_deliverable.canvas));
}

void DeliverableDialog::sideTyped(bool width) {
  if (m_filling) return;
  Size& canvas = m_deliverable.canvas;
  (width ? canvas.width : canvas.height) = width ? m_width->value() : m_height->value();
  if (m_lock->isChecked())
    (width ? canvas.height : canvas.width) =
        width ? legalHeightFor(canvas.width, m_ratio) : legalWidthFor(canvas.height, m_ratio);
  m_deliverable.destination.clear();
  m_deliverable.encoding.bitRate = 0; // the usual one for the new size
  refresh();
}

void DeliverableDialog::turn() {
  std::swap(m_deliverable.canvas.width, m_deliverable.canvas.height);
  m_ratio = m_deliverable.canvas.ratio();
  m_deliverable.destination.clear();
  refresh();
}

void DeliverableDialog::refreshSize() {
  const Size canvas = m_deliverable.canvas;
  const bool legal = isLegalSize(canvas);
  for (QWidget* part :
       {static_cast<QWidget*>(m_sizeAnswer), static_cast<QWidget*>(m_lower), static_cast<QWidget*>(m_upper)})
    part->setVisible(!legal);
  if (legal) return;
  const auto w = legalNeighbours(canvas.width);
  const auto h = legalNeighbours(canvas.height);
  m_sizeAnswer->setText(tr("Video cannot have %1. Use").arg(QString::fromStdString(sizeText(canvas))));
  m_sizeAnswer->setStyleSheet(QStringLiteral("color: %1").arg(Theme::current().broken.name()));
  const std::pair<QPushButton*, Size> answers[] = {{m_lower, {w.first, h.first}}, {m_upper, {w.second, h.second}}};
  for (const auto& [button, size] : answers) {
    button->setText(QString::fromStdString(sizeText(size)));
    button->setAccessibleName(tr("Use %1").arg(button->text()));
    button->setProperty("canvas", QSize(size.width, size.height));
  }
}

void DeliverableDialog::refreshShots() {
  while (QLayoutItem* item = m_shots->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  for (const Shot& shot : m_document.project().shots) {
    const auto* media = m_document.media(shot.source);
    Deliverable filled = m_deliverable;
    filled.framings.clear();
    const Cell cell = cellOf(filled, shot, *m_document.project().source(shot.source), media);
    QString second = cell.state == Cell::State::Unusable ? cell.reason : cellWords(cell);
    if (cell.state == Cell::State::Good) second = tr("detail %1").arg(second);
    if (media && *media && (*media)->video && (*media)->kind == MediaKind::Video) {
      const FrameClock& shotAt = (*media)->video->clock;
      second += tr(" · %1: %2")
                    .arg(QString::fromStdString(shotAt.rate().name()),
                         said(cadenceWords(shotAt, m_deliverable.rate, shot.speed)));
    }
    m_shots->addWidget(new StatusLine(cell.state, QString::fromStdString(shot.name), second, this));
  }
  if (m_document.project().shots.empty()) {
    auto* none = new QLabel(tr("Bring in footage to see how sharp it will be."), this);
    none->setProperty("rank", "faint");
    none->setWordWrap(true);
    m_shots->addWidget(none);
  }
  m_shots->addStretch();
}

void DeliverableDialog::refresh() {
  m_filling = true;
  nameByItself();
  const Deliverable& d = m_deliverable;
  const Encoding e = resolvedEncoding(d);
  if (m_name->text().trimmed().toStdString() != d.name) m_name->setText(QString::fromStdString(d.name));
  if (m_width->value() != d.canvas.width) m_width->setValue(d.canvas.width);
  if (m_height->value() != d.canvas.height) m_height->setValue(d.canvas.height);
  int rate = m_rate->findData(QString::fromStdString(d.rate.value().toString()));
  if (rate < 0) {
    m_rate->addItem(QString::fromStdString(d.rate.name()), QString::fromStdString(d.rate.value().toString()));
    rate = m_rate->count() - 1;
  }
  m_rate->setCurrentIndex(rate);
  m_encoding->refresh();
  m_sharpOnly->setChecked(d.sharpOnly);
  int place = 0;
  m_shapes->setExclusive(false);
  if (destinationData())
    for (const Destination& to : destinationData()->destinations)
      m_shapes->button(place++)->setChecked(to.id == d.destination);
  m_shapes->setExclusive(true);
  refreshSize();

  const bool taken = d.name != m_ownName && m_document.project().deliverableNamed(d.name);
  m_nameAnswer->setVisible(taken || d.name.empty());
  m_nameAnswer->setText(taken ? tr("Another deliverable has this name") : tr("It needs a name"));
  Status holds = encodable(e, pictureOf(d));
  if (holds) holds = levelCarries(e, pictureOf(d));
  m_accept->setEnabled(isLegalSize(d.canvas) && !taken && !d.name.empty() && holds);

  QStringList facts;
  facts << (holds ? said(codecText(e)) : said(holds.error()));
  const Rational length = m_document.project().duration();
  if (const auto bytes = expectedBytes(e, length)) {
    if (e.hasPicture()) facts << tr("%1 bits a pixel").arg(bitsPerPixel(e.bitRate, d.canvas, d.rate), 0, 'f', 3);
    if (length > Rational(0)) facts << tr("about %1 for all shots").arg(QString::fromStdString(bytesText(*bytes)));
  }
  m_facts->setText(facts.join(QStringLiteral(" · ")));
  refreshShots();
  m_filling = false;
}

} // namespace tromb
