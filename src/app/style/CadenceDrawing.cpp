// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/CadenceDrawing.h"

#include "app/style/Theme.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <set>

namespace tromb {
namespace {

constexpr int kMostFrames = 13; ///< of the quicker row
constexpr double kRowHeight = 11;
constexpr int64_t kMostLooked = 10'000; ///< frames in which something uneven is looked for

/// Where to begin so that `count` frames hold the first that does not follow as all before it do; 0 where that is near
/// the beginning, or nowhere.
int64_t firstUneven(const FrameMap& frames, int64_t count, int64_t most) {
  const auto step = [&](int64_t n) { return frames.nearest(n) - frames.nearest(n - 1); };
  const int64_t usual = step(1);
  for (int64_t n = 2; n + 1 < std::min(most, kMostLooked); ++n)
    if (step(n) != usual) return n < count ? 0 : n - count / 2;
  return 0;
}

} // namespace

CadenceDrawing::CadenceDrawing(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Which frames are shown"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

QStringList CadenceDrawing::treatmentNames() {
  return {tr("nearest frame"), tr("every frame once"), tr("neighbours mixed"), tr("interpolated")};
}

void CadenceDrawing::setCadence(const ShotCadence& cadence) {
  m_drawn = DrawnCadence(cadence);
  update();
}

void CadenceDrawing::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  m_drawn.paint(painter, rect());
}

DrawnCadence::DrawnCadence(const ShotCadence& cadence) {
  const FrameMap& frames = cadence.frames;
  const FrameClock& clock = cadence.clock;
  const FrameRate& rate = cadence.rate;
  const TimeMap& time = frames.time();
  const Rational length = secondsOf(time.length());
  if (time.held() || length <= Rational(0)) return;
  // As much as shows about a dozen frames of the quicker row.
  const Rational quickest = std::max(rate.value(), clock.rate().value() * time.speedAt(Rational(0)));
  const int64_t most = std::max<int64_t>(1, (length * rate.value()).ceil());
  const int64_t count = std::clamp<int64_t>((Rational(kMostFrames) * rate.value() / quickest).nearest(), 1, most);
  // Most are even all along, and are painted with every cell.
  const auto speed = time.speed();
  const bool even = !clock.variable() && speed && Cadence(clock.rate(), rate, *speed).even();
  const int64_t begin = even ? 0 : firstUneven(frames, count, most);
  const Rational shown = rate.timeOf(count);
  const auto share = [&](const Rational& since) { return ((since - rate.timeOf(begin)) / shown).toDouble(); };
  std::set<int64_t> seen;
  for (int64_t n = begin; n < begin + count; ++n) {
    const ShownFrames link = frames.shown(n);
    const bool alone = link.nextShare <= 0;
    const bool again = alone && n > begin && m_links.back().nextShare <= 0 && seen.contains(link.frame);
    m_links.push_back(link);
    m_shown.push_back({share(rate.timeOf(n)), share(rate.timeOf(n + 1)), n, again});
    seen.insert(link.frame);
    if (!alone) seen.insert(link.next);
  }
  // Both rows lie on one line of time, the deliverable's.
  const bool back = time.reversed();
  const int64_t next = frames.shown(begin + count).frame;
  const int64_t from = begin > 0 ? frames.shown(begin).frame : back ? frames.end() - 1 : frames.first();
  for (int64_t k = from; back ? k >= frames.first() : k < frames.end(); k += back ? -1 : 1) {
    const Rational begins = clock.timeOf(k);
    const Rational ends = k + 1 < clock.frameCount() ? clock.timeOf(k + 1) : begins + clock.rate().frameDuration();
    const double left =
        std::max(0.0, share(time.sinceBegin(back ? std::min(ends, time.out()) : std::max(begins, time.in()))));
    // What is shown next, and what comes after it, is not left out.
    if (left >= 1 - 1e-9 || ((back ? k <= next : k >= next) && !seen.contains(k))) break;
    const double right = share(time.sinceBegin(back ? std::max(begins, time.in()) : std::min(ends, time.out())));
    m_source.push_back({left, std::min(1.0, right), k, !seen.contains(k)});
  }
}

DrawnCadence::Counts DrawnCadence::counts() const {
  const auto marked = [](const std::vector<Box>& row) {
    return int(std::count_if(row.begin(), row.end(), [](const Box& box) { return box.marked; }));
  };
  return {marked(m_source), marked(m_shown),
          int(std::count_if(m_links.begin(), m_links.end(), [](const ShownFrames& l) { return l.nextShare > 0; }))};
}

QString DrawnCadence::words() const {
  if (m_shown.empty()) return {};
  const Counts c = counts();
  return CadenceDrawing::tr("of %1 frames of the source %2 are left out; of %3 shown %4 are repeated and %5 mixed")
      .arg(m_source.size())
      .arg(c.leftOut)
      .arg(m_shown.size())
      .arg(c.again)
      .arg(c.mixed);
}

void DrawnCadence::paint(QPainter& painter, const QRectF& room, Ground ground) const {
  if (m_source.empty()) return;
  const Theme& theme = Theme::current();
  const bool grey = ground == Ground::Surround;
  const QColor shown = grey ? QColor(Qt::white) : theme.accent;
  const QColor marked = grey ? statusColourOnSurround(Cell::State::Soft) : theme.soft;
  const QColor edge = grey ? QColor(Qt::white) : theme.faint;
  const QColor source = grey ? theme.surround.darker(150) : theme.line;
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  const double wide = room.width() - 2;
  const auto rectOf = [&](const Box& box, double top) {
    return QRectF(room.left() + 1 + box.from * wide + 0.75, top, (box.to - box.from) * wide - 1.5, kRowHeight);
  };
  const double head = room.top() + 1;
  const double foot = room.bottom() - kRowHeight - 2;
  for (size_t n = 0; n < m_links.size(); ++n) {
    const auto line = [&](int64_t frame, double share) {
      const auto its =
          std::find_if(m_source.begin(), m_source.end(), [&](const Box& box) { return box.frame == frame; });
      if (its == m_source.end()) return; // just behind what is drawn
      QColor colour = shown;
      colour.setAlphaF(float(0.25 + 0.75 * share));
      painter.setPen(QPen(colour, 1.4));
      // What is shown at once lies below it, however long either lasts.
      const QRectF above = rectOf(*its, head);
      const QRectF below = rectOf(m_shown[n], foot);
      const double middle = std::min(above.width(), below.width()) / 2;
      painter.drawLine(QPointF(above.left() + middle, head + kRowHeight), QPointF(below.left() + middle, foot));
    };
    line(m_links[n].frame, 1 - m_links[n].nextShare);
    if (m_links[n].nextShare > 0) line(m_links[n].next, m_links[n].nextShare);
  }
  for (const Box& box : m_source) {
    const QRectF rect = rectOf(box, head);
    painter.setPen(QPen(box.marked ? marked : edge, 1));
    painter.setBrush(box.marked ? QBrush(Qt::NoBrush) : QBrush(source));
    painter.drawRect(rect);
    if (!box.marked) continue;
    painter.drawLine(rect.topLeft(), rect.bottomRight());
    painter.drawLine(rect.bottomLeft(), rect.topRight());
  }
  for (const Box& box : m_shown) {
    const QRectF rect = rectOf(box, foot);
    painter.setPen(QPen(shown, 1));
    painter.setBrush(box.marked ? (grey ? theme.surround : theme.sheet) : shown);
    painter.drawRect(rect);
    if (!box.marked) continue;
    // Shown again: a notch at its foot.
    painter.setBrush(shown);
    painter.drawPolygon(QPolygonF({rect.bottomLeft() + QPointF(1, 0), rect.bottomRight() - QPointF(1, 0),
                                   QPointF(rect.center().x(), rect.center().y())}));
  }
  painter.restore();
}

} // namespace tromb
