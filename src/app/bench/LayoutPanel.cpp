// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/LayoutPanel.h"

#include "app/style/FlowLayout.h"

#include <QColorDialog>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPixmap>
#include <QStandardItemModel>
#include <QToolButton>
#include <QVBoxLayout>

namespace tromb {
namespace {

/// Names of framingByName, and words for them.
constexpr std::pair<const char*, const char*> kLayouts[] = {
    {"fill", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Fill the canvas")},
    {"fit", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Whole picture")},
    {"stack2", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Two stacked")},
    {"stack3", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Three stacked")},
    {"side2", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Two side by side")},
    {"side3", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Three side by side")},
    {"backdrop", QT_TRANSLATE_NOOP("tromb::LayoutPanel", "Over a backdrop")},
};

int indexOf(const Framing& framing) {
  const bool fits = framing.windows.front().base == WindowBase::Fit;
  switch (framing.layout) {
  case Layout::Single:
    return fits ? 1 : 0;
  case Layout::Stack2:
    return 2;
  case Layout::Stack3:
    return 3;
  case Layout::Side2:
    return 4;
  case Layout::Side3:
    return 5;
  case Layout::Backdrop:
    return 6;
  }
  return 0;
}

QWidget* line(QWidget* parent) {
  auto* made = new QWidget(parent);
  auto* row = new FlowLayout(made, 6);
  row->setContentsMargins(0, 0, 0, 0);
  return made;
}

/// Returns shares in which the given one is `share`. The others give up room in proportion to their size, but keep the
/// least share.
std::vector<double> sharesWith(std::vector<double> shares, size_t chosen, double share) {
  const size_t count = shares.size();
  shares[chosen] = std::clamp(share, kLeastShare, 1 - kLeastShare * double(count - 1));
  std::vector<bool> settled(count, false);
  settled[chosen] = true;
  // A share that would be too small gets the least one, and the rest is divided anew among the others.
  for (;;) {
    double left = 1;
    double whole = 0;
    for (size_t i = 0; i < count; ++i)
      if (settled[i])
        left -= shares[i];
      else
        whole += shares[i];
    size_t poor = count;
    for (size_t i = 0; i < count; ++i)
      if (!settled[i] && shares[i] / whole * left < kLeastShare) poor = i;
    if (poor == count) {
      for (size_t i = 0; i < count; ++i)
        if (!settled[i]) shares[i] *= left / whole;
      return shares;
    }
    shares[poor] = kLeastShare;
    settled[poor] = true;
  }
}

} // namespace

LayoutPanel::LayoutPanel(Bench& bench, QWidget* parent) : QWidget(parent), m_bench(bench) {
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(12, 8, 12, 8);
  rows->setSpacing(6);
  const auto field = [](const QString& name, double least, double most, QWidget* in) {
    auto* box = new QDoubleSpinBox(in);
    box->setRange(least, most);
    box->setDecimals(1);
    box->setSuffix(QStringLiteral(" %"));
    box->setKeyboardTracking(false);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    box->setAlignment(Qt::AlignRight);
    box->setAccessibleName(name);
    box->setToolTip(name);
    box->setMaximumWidth(box->fontMetrics().horizontalAdvance(QStringLiteral("100.0 %")) + 20);
    in->layout()->addWidget(box);
    return box;
  };
  auto* first = line(this);
  auto* head = new QLabel(tr("Layout"), first);
  head->setProperty("rank", "head");
  first->layout()->addWidget(head);
  m_layout = new QComboBox(first);
  m_layout->setAccessibleName(tr("Layout of the active cell"));
  for (const auto& [name, words] : kLayouts) m_layout->addItem(tr(words), QString::fromLatin1(name));
  first->layout()->addWidget(m_layout);
  connect(m_layout, &QComboBox::activated, this, &LayoutPanel::chooseLayout);
  m_colour = new QToolButton(first);
  m_colour->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_colour->setText(tr("Colour …"));
  m_colour->setToolTip(tr("Colour of the gap, of the ground, and of what shows through a transparent picture"));
  m_colour->setFocusPolicy(Qt::TabFocus);
  connect(m_colour, &QToolButton::clicked, this, &LayoutPanel::chooseColour);
  rows->addWidget(first);

  m_several = line(this);
  m_several->layout()->addWidget(new QLabel(tr("Gap"), m_several));
  m_gap = field(tr("Gap between the windows, of the canvas"), 0, kMostGap * 100, m_several);
  connect(m_gap, &QDoubleSpinBox::valueChanged, this,
          [this](double value) { change(tr("Gap"), [value](Framing& framing) { framing.gap = value / 100; }); });
  m_several->layout()->addWidget(new QLabel(tr("Shares"), m_several));
  for (int i = 0; i < 3; ++i) {
    m_shares[i] = field(tr("Share of window %1 of the canvas").arg(i + 1), kLeastShare * 100, 80, m_several);
    connect(m_shares[i], &QDoubleSpinBox::valueChanged, this, [this, i] { shareTyped(i); });
  }
  rows->addWidget(m_several);

  m_under = line(this);
  m_under->layout()->addWidget(new QLabel(tr("Under it"), m_under));
  m_ground = new QComboBox(m_under);
  m_ground->setAccessibleName(tr("What lies under the picture"));
  m_ground->addItems({tr("a soft copy of itself"), tr("a colour"), tr("a gradient from its edges"), tr("a still")});
  connect(m_ground, &QComboBox::activated, this, [this](int index) {
    change(tr("Backdrop"), [this, index](Framing& framing) {
      framing.ground = Ground(index);
      if (framing.ground == Ground::Still && framing.still.empty())
        framing.still = m_still->itemData(0).toString().toStdString();
    });
  });
  m_under->layout()->addWidget(m_ground);
  m_still = new QComboBox(m_under);
  m_still->setAccessibleName(tr("The still under the picture"));
  m_still->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  m_still->setMinimumContentsLength(14);
  connect(m_still, &QComboBox::activated, this, [this](int index) {
    change(tr("Backdrop"),
           [id = m_still->itemData(index).toString().toStdString()](Framing& framing) { framing.still = id; });
  });
  m_under->layout()->addWidget(m_still);
  rows->addWidget(m_under);
  first->layout()->addWidget(m_colour);

  connect(&bench, &Bench::changed, this, &LayoutPanel::refresh);
  refresh();
}

void LayoutPanel::change(const QString& text, const std::function<void(Framing&)>& edit) {
  if (m_showing || !m_bench.media()) return;
  Framing framing = m_bench.cell(m_bench.column()).framing;
  edit(framing);
  m_bench.placing().apply(framing, text);
}

void LayoutPanel::chooseLayout(int index) {
  change(m_layout->itemText(index), [this, index](Framing& framing) {
    const Framing before = framing;
    (void)framingByName(m_layout->itemData(index).toString().toStdString(), framing);
    framing.gap = before.gap;
    framing.colour = before.colour;
    framing.ground = before.ground;
    framing.still = before.still;
    framing.unknown = before.unknown;
  });
}

void LayoutPanel::chooseColour() {
  const Colour now = m_bench.cell(m_bench.column()).framing.colour;
  const QColor chosen = QColorDialog::getColor({now.red, now.green, now.blue}, this, tr("Colour"));
  if (chosen.isValid())
    change(tr("Colour"), [chosen](Framing& framing) {
      framing.colour = {uint8_t(chosen.red()), uint8_t(chosen.green()), uint8_t(chosen.blue())};
    });
}

void LayoutPanel::shareTyped(int window) {
  change(tr("Shares"), [this, window](Framing& framing) {
    const size_t count = framing.windows.size();
    if (framing.shares.size() != count) framing.shares.assign(count, 1.0 / double(count));
    framing.shares = sharesWith(framing.shares, size_t(window), m_shares[window]->value() / 100);
  });
}

void LayoutPanel::refreshGround(const Framing& framing) {
  const Document& document = m_bench.document();
  std::vector<std::pair<std::string, std::string>> stills; // id and name
  for (const Source& source : document.project().sources) {
    const Result<MediaInfo>* media = document.media(source.id);
    const bool still = media && *media && (*media)->kind == MediaKind::Still;
    if (still || source.id == framing.still) stills.emplace_back(source.id, sourceName(source));
  }
  if (stills != m_stills) { // seldom: this runs at every step of a drag
    m_stills = stills;
    m_still->clear();
    for (const auto& [id, name] : stills) m_still->addItem(QString::fromStdString(name), QString::fromStdString(id));
  }
  // Without a still there is none to choose.
  const int last = int(Ground::Still);
  auto* items = qobject_cast<QStandardItemModel*>(m_ground->model());
  items->item(last)->setEnabled(m_still->count() > 0);
  m_ground->setItemData(last, m_still->count() > 0 ? QString() : tr("Bring in a still with the footage first"),
                        Qt::ToolTipRole);
  m_ground->setCurrentIndex(int(framing.ground));
  m_still->setCurrentIndex(m_still->findData(QString::fromStdString(framing.still)));
  m_still->setToolTip(m_still->currentText());
  m_still->setVisible(framing.ground == Ground::Still);
}

void LayoutPanel::refresh() {
  m_showing = true;
  const bool usable = m_bench.media() != nullptr;
  setEnabled(usable);
  if (usable) {
    const Framing framing = m_bench.cell(m_bench.column()).framing;
    const size_t count = framing.windows.size();
    m_layout->setCurrentIndex(indexOf(framing));
    m_several->setVisible(count > 1);
    m_under->setVisible(framing.layout == Layout::Backdrop);
    const bool shows = framing.layout == Layout::Backdrop ? framing.ground == Ground::Colour : count > 1;
    const MediaInfo* media = m_bench.media();
    m_colour->setVisible(shows || (media->video && media->video->alpha));
    QPixmap swatch(12, 12);
    swatch.fill(QColor(framing.colour.red, framing.colour.green, framing.colour.blue));
    m_colour->setIcon(swatch);
    m_gap->setValue(framing.gap * 100);
    for (size_t i = 0; i < 3; ++i) {
      m_shares[i]->setVisible(i < count);
      m_shares[i]->setValue((i < framing.shares.size() ? framing.shares[i] : 1.0 / double(count)) * 100);
    }
    if (framing.layout == Layout::Backdrop) refreshGround(framing);
  }
  m_showing = false;
}

} // namespace tromb
