// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BarsPanel.h"

#include "app/style/FlowLayout.h"
#include "app/style/Theme.h"

#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QSpinBox>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kAroundPicture = 14;
constexpr double kReach = 9;

} // namespace

// ---- the picture

BarsCanvas::BarsCanvas(Bench& bench, QWidget* parent) : QWidget(parent), m_bench(bench) {
  setMouseTracking(true);
  setMinimumSize(320, 200);
  setAccessibleName(tr("The whole source picture with its bars"));
  connect(&bench, &Bench::changed, this, qOverload<>(&QWidget::update));
}

void BarsCanvas::setPicture(const QImage& picture) {
  m_picture = picture;
  update();
}

QRectF BarsCanvas::pictureRect() const {
  const QRectF room = QRectF(rect()).adjusted(kAroundPicture, kAroundPicture, -kAroundPicture, -kAroundPicture);
  const QSizeF size =
      QSizeF(m_picture.isNull() ? QSize(16, 9) : m_picture.size()).scaled(room.size(), Qt::KeepAspectRatio);
  return {room.center() - QPointF(size.width() / 2, size.height() / 2), size};
}

QPointF BarsCanvas::toScreen(QPointF place) const {
  const QRectF shown = pictureRect();
  return {shown.left() + place.x() * shown.width(), shown.top() + place.y() * shown.height()};
}

QRectF BarsCanvas::keptRect() const {
  const Size raster = m_bench.source().raster();
  const Bars bars = m_side == Side::None ? m_bench.source().bars() : m_bars;
  return {toScreen({double(bars.left) / raster.width, double(bars.top) / raster.height}),
          toScreen({1 - double(bars.right) / raster.width, 1 - double(bars.bottom) / raster.height})};
}

BarsCanvas::Side BarsCanvas::under(QPointF at) const {
  if (!m_bench.media()) return Side::None;
  const QRectF kept = keptRect();
  const double away[] = {std::abs(at.x() - kept.left()), std::abs(at.y() - kept.top()), std::abs(at.x() - kept.right()),
                         std::abs(at.y() - kept.bottom())};
  const auto nearest = std::min_element(std::begin(away), std::end(away));
  return *nearest < kReach ? Side(nearest - std::begin(away)) : Side::None;
}

std::vector<PaintedPart> BarsCanvas::paintedParts() const {
  const Bars bars = m_bench.source().bars();
  const QRect kept = keptRect().toAlignedRect();
  const auto part = [](const QString& name, int pixels, const QRect& rect) {
    return PaintedPart{name, BarsPanel::tr("%n pixels", nullptr, pixels), rect, false, false};
  };
  return {part(BarsPanel::tr("Left bar"), bars.left, {kept.left() - 3, kept.top(), 6, kept.height()}),
          part(BarsPanel::tr("Top bar"), bars.top, {kept.left(), kept.top() - 3, kept.width(), 6}),
          part(BarsPanel::tr("Right bar"), bars.right, {kept.right() - 3, kept.top(), 6, kept.height()}),
          part(BarsPanel::tr("Bottom bar"), bars.bottom, {kept.left(), kept.bottom() - 3, kept.width(), 6})};
}

void BarsCanvas::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  m_bars = m_bench.source().bars();
  m_side = under(event->position());
}

void BarsCanvas::mouseMoveEvent(QMouseEvent* event) {
  const Side side = m_side == Side::None ? under(event->position()) : m_side;
  setCursor(side == Side::None                          ? Qt::ArrowCursor
            : side == Side::Left || side == Side::Right ? Qt::SplitHCursor
                                                        : Qt::SplitVCursor);
  if (m_side == Side::None) return;
  const QRectF shown = pictureRect();
  const Size raster = m_bench.source().raster();
  const int x = int(std::lround((event->position().x() - shown.left()) / shown.width() * raster.width));
  const int y = int(std::lround((event->position().y() - shown.top()) / shown.height() * raster.height));
  switch (m_side) {
  case Side::Left:
    m_bars.left = std::clamp(x, 0, std::max(0, raster.width - m_bars.right - BenchSource::kLeastKept));
    break;
  case Side::Top:
    m_bars.top = std::clamp(y, 0, std::max(0, raster.height - m_bars.bottom - BenchSource::kLeastKept));
    break;
  case Side::Right:
    m_bars.right = std::clamp(raster.width - x, 0, std::max(0, raster.width - m_bars.left - BenchSource::kLeastKept));
    break;
  case Side::Bottom:
    m_bars.bottom = std::clamp(raster.height - y, 0, std::max(0, raster.height - m_bars.top - BenchSource::kLeastKept));
    break;
  case Side::None:
    break;
  }
  update();
}

void BarsCanvas::mouseReleaseEvent(QMouseEvent*) {
  if (m_side == Side::None) return;
  m_side = Side::None;
  m_bench.source().setBars(m_bars);
  update();
}

void BarsCanvas::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const Theme& theme = Theme::current();
  painter.fillRect(rect(), theme.surround);
  painter.setRenderHints(QPainter::SmoothPixmapTransform | QPainter::Antialiasing);
  if (!m_bench.media()) return;
  const QRectF shown = pictureRect();
  painter.fillRect(shown, QColor(40, 40, 40));
  if (!m_picture.isNull()) painter.drawImage(shown, m_picture);
  // Dimming would not be visible on black bars, so the part that is cut away is hatched.
  const QRectF kept = keptRect();
  QPainterPath cut;
  cut.addRect(shown);
  QPainterPath left;
  left.addRect(kept);
  cut = cut.subtracted(left);
  painter.fillPath(cut, QColor(0, 0, 0, 120));
  painter.fillPath(cut, QBrush(QColor(255, 255, 255, 110), Qt::BDiagPattern));
  painter.setPen(QPen(QColor(0, 0, 0, 150), 4));
  painter.drawRect(kept);
  painter.setPen(QPen(QColor(255, 255, 255), 2));
  painter.drawRect(kept);
  painter.setBrush(theme.accent);
  painter.setPen(QPen(QColor(255, 255, 255), 1.5));
  const QPointF middle = kept.center();
  for (const double x : {kept.left(), kept.right()})
    painter.drawRoundedRect(QRectF(x - 4, middle.y() - 14, 8, 28), 2, 2);
  for (const double y : {kept.top(), kept.bottom()})
    painter.drawRoundedRect(QRectF(middle.x() - 14, y - 4, 28, 8), 2, 2);
}

// ---- with numbers

BarsPanel::BarsPanel(Bench& bench, QWidget* parent)
    : QWidget(parent), m_bench(bench), m_canvas(new BarsCanvas(bench, this)) {
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  rows->addWidget(m_canvas, 1);
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* row = new FlowLayout(bar, 6);
  row->setContentsMargins(10, 8, 10, 8);
  m_head = new QLabel(bar);
  m_head->setProperty("rank", "head");
  row->addWidget(m_head);
  const QString names[] = {tr("left"), tr("top"), tr("right"), tr("bottom")};
  for (int i = 0; i < 4; ++i) {
    row->addWidget(new QLabel(names[i], bar));
    m_sides[i] = new QSpinBox(bar);
    m_sides[i]->setAccessibleName(tr("Cut away at the %1, in pixels of the source").arg(names[i]));
    m_sides[i]->setToolTip(m_sides[i]->accessibleName());
    m_sides[i]->setKeyboardTracking(false);
    m_sides[i]->setButtonSymbols(QAbstractSpinBox::NoButtons);
    m_sides[i]->setFixedWidth(m_sides[i]->fontMetrics().horizontalAdvance(QStringLiteral("00000")) + 16);
    m_sides[i]->setAlignment(Qt::AlignRight);
    row->addWidget(m_sides[i]);
    connect(m_sides[i], &QSpinBox::valueChanged, this, [this] {
      if (!m_showing)
        m_bench.source().setBars({m_sides[0]->value(), m_sides[1]->value(), m_sides[2]->value(), m_sides[3]->value()});
    });
  }
  const auto button = [&](const QString& text, const QString& tip, auto run) {
    auto* made = new QToolButton(bar);
    made->setText(text);
    made->setToolTip(tip);
    made->setFocusPolicy(Qt::TabFocus);
    connect(made, &QToolButton::clicked, this, run);
    row->addWidget(made);
    return made;
  };
  m_measured = button(tr("As measured"), tr("Where the bars were found"), [this] {
    if (const auto measured = m_bench.source().measuredBars()) m_bench.source().setBars(*measured);
  });
  m_none = button(tr("No bars"), tr("Keep the whole picture"), [this] { m_bench.source().setBars({}); });
  button(tr("Done"), tr("Back to the windows (Escape)"), [this] { emit done(); })->setShortcut(Qt::Key_Escape);
  rows->addWidget(bar);
  auto* words = new QLabel(
      tr("Drag the lines to where the picture begins. What is outside is cut away in every shot and deliverable."),
      this);
  words->setProperty("rank", "faint");
  words->setWordWrap(true);
  words->setContentsMargins(10, 2, 10, 8);
  rows->addWidget(words);
  connect(&bench, &Bench::changed, this, &BarsPanel::refresh);
}

void BarsPanel::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void BarsPanel::refresh() {
  if (!isVisible()) return;
  m_showing = true;
  const bool usable = m_bench.media();
  m_head->setText(usable ? tr("Bars of %1")
                               .arg(QString::fromStdString(
                                   sourceName(*m_bench.document().project().source(m_bench.shot()->source))))
                         : tr("No picture"));
  const Bars bars = m_bench.source().bars();
  const Size raster = m_bench.source().raster();
  const int sides[] = {bars.left, bars.top, bars.right, bars.bottom};
  for (int i = 0; i < 4; ++i) {
    m_sides[i]->setEnabled(usable);
    const int whole = i % 2 == 0 ? raster.width : raster.height;
    m_sides[i]->setRange(0, std::max(0, whole - sides[(i + 2) % 4] - BenchSource::kLeastKept));
    m_sides[i]->setValue(sides[i]);
  }
  const auto measured = m_bench.source().measuredBars();
  m_measured->setEnabled(usable && measured && *measured != bars);
  m_none->setEnabled(usable && !bars.none());
  m_showing = false;
}

} // namespace tromb
