// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/ProofTimeline.h"

#include "app/style/Theme.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <algorithm>
#include <array>
#include <cmath>

namespace tromb {
namespace {

constexpr int kLabels = 15; ///< characters at the left for what a band shows
constexpr int kMarks = 18;
constexpr std::array<int, 4> kHeights{kMarks, 56, 40, 40}; ///< pixels, by Band
constexpr int kApart = 6;
constexpr double kMarkReach = 6; ///< pixels

QString timeWords(double seconds) {
  return QString::fromStdString(clockText(Rational(std::llround(seconds * 10), 10)));
}

} // namespace

ProofTimeline::ProofTimeline(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::TabFocus);
  setMouseTracking(true);
  setObjectName(QStringLiteral("proofTimeline"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void ProofTimeline::setCurves(const ProofCurves& curves) {
  if (curves == m_curves) return;
  m_curves = curves;
  m_chosen = -1;
  setAccessibleName(tr("The file along its time; %n things were found", nullptr, int(curves.marks.size())));
  updateGeometry();
  update();
}

void ProofTimeline::setAt(double seconds) {
  if (seconds == m_at) return;
  m_at = seconds;
  update();
}

QSize ProofTimeline::sizeHint() const {
  return {400, int(foot()) + fontMetrics().height() + 2};
}

bool ProofTimeline::has(Band band) const {
  return band == Band::Likeness ? !m_curves.likeness.empty() : band == Band::Loudness ? !m_curves.loudness.empty() : true;
}

QRectF ProofTimeline::area(Band band) const {
  const double left = double(kLabels) * fontMetrics().averageCharWidth();
  double top = 0;
  for (int which = 0; which < int(band); ++which)
    if (has(Band(which))) top += kHeights[size_t(which)] + (which > 0 ? kApart : 0);
  return {left, top, std::max(10.0, width() - left - 4), double(kHeights[size_t(band)])};
}

double ProofTimeline::foot() const {
  return area(has(Band::Loudness) ? Band::Loudness : has(Band::Likeness) ? Band::Likeness : Band::Bits).bottom();
}

double ProofTimeline::x(double seconds) const {
  const QRectF all = area(Band::Marks);
  return all.left() + all.width() * std::clamp(seconds / std::max(1e-3, m_curves.seconds), 0.0, 1.0);
}

double ProofTimeline::secondsAt(double place) const {
  const QRectF all = area(Band::Marks);
  return std::clamp((place - all.left()) / all.width(), 0.0, 1.0) * m_curves.seconds;
}

int ProofTimeline::markAt(const QPointF& place) const {
  int nearest = -1;
  double least = kMarkReach;
  for (size_t i = 0; i < m_curves.marks.size(); ++i)
    if (const double away = std::abs(x(m_curves.marks[i].at) - place.x()); away < least) {
      least = away;
      nearest = int(i);
    }
  return nearest;
}

QString ProofTimeline::words(int mark) const {
  const ProofCurves::Mark& its = m_curves.marks[size_t(mark)];
  return tr("%1 at %2").arg(said(ProofCheck{its.code, {}, {}}.title()), timeWords(its.at));
}

void ProofTimeline::paintBits(QPainter& painter, const QRectF& area) const {
  const Theme& theme = Theme::current();
  const std::vector<float>& bits = m_curves.bitRate;
  if (bits.empty()) return;
  const ProofCurves::Height height = m_curves.bitRateHeight();
  QPainterPath path;
  path.moveTo(area.left(), area.bottom());
  for (size_t i = 0; i < bits.size(); ++i) {
    const double y = area.bottom() - area.height() * double(bits[i]) / height.most;
    path.lineTo(x(double(i)), y);
    path.lineTo(x(std::min(m_curves.seconds, double(i) + 1)), y);
  }
  path.lineTo(area.right(), area.bottom());
  path.closeSubpath();
  QColor filled = theme.accent;
  filled.setAlphaF(0.35F);
  painter.setPen(Qt::NoPen);
  painter.fillPath(path, filled);
  if (height.limited) {
    const double y = area.bottom() - area.height() * m_curves.mostBitRate / height.most;
    painter.setPen(QPen(theme.bars, 1, Qt::DashLine));
    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
  }
}

void ProofTimeline::paintLikeness(QPainter& painter, const QRectF& area) const {
  const double floor = m_curves.likenessFloor();
  const std::vector<float> least = m_curves.likenessIn(size_t(area.width()));
  QPainterPath path;
  for (size_t i = 0; i < least.size(); ++i) {
    const double down = std::clamp((1 - double(least[i])) / (1 - floor), 0.0, 1.0);
    const QPointF at(area.left() + area.width() * (double(i) + 0.5) / double(least.size()),
                     area.top() + area.height() * down);
    if (i == 0)
      path.moveTo(at);
    else
      path.lineTo(at);
  }
  painter.setPen(QPen(Theme::current().accent, 1.5));
  painter.setBrush(Qt::NoBrush);
  painter.drawPath(path);
}

void ProofTimeline::paintLoudness(QPainter& painter, const QRectF& area) const {
  const Theme& theme = Theme::current();
  const auto y = [&](double lufs) {
    return area.bottom() - area.height() * std::clamp(1 - lufs / ProofCurves::kQuietest, 0.0, 1.0);
  };
  QPainterPath path;
  for (size_t i = 0; i < m_curves.loudness.size(); ++i) {
    const QPointF at(x(std::min(m_curves.seconds, double(i) + 1)), y(double(m_curves.loudness[i])));
    if (i == 0) path.moveTo(area.left(), at.y());
    path.lineTo(at);
  }
  painter.setPen(QPen(theme.accent, 1.5));
  painter.setBrush(Qt::NoBrush);
  painter.drawPath(path);
  if (m_curves.loudnessTarget >= 0) return;
  painter.setPen(QPen(theme.faint, 1, Qt::DashLine));
  painter.drawLine(QPointF(area.left(), y(m_curves.loudnessTarget)), QPointF(area.right(), y(m_curves.loudnessTarget)));
}

void ProofTimeline::paintEvent(QPaintEvent* /*event*/) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const Theme& theme = Theme::current();
  const auto label = [&](Band band, const QString& upper, const QString& lower) {
    const QRectF its = area(band);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.raised);
    painter.drawRect(its);
    painter.setPen(theme.ink);
    const QRectF words(0, its.top(), its.left() - 8, its.height());
    painter.drawText(words, Qt::AlignLeft | Qt::AlignTop, upper);
    painter.setPen(theme.faint);
    painter.drawText(words.adjusted(0, fontMetrics().height(), 0, fontMetrics().height()), Qt::AlignLeft | Qt::AlignTop,
                     lower);
  };
  const double most =
      m_curves.bitRate.empty() ? 0 : double(*std::max_element(m_curves.bitRate.begin(), m_curves.bitRate.end()));
  label(Band::Bits, tr("Bits a second"), tr("up to %1").arg(QString::fromStdString(bitRateText(int64_t(most)))));
  paintBits(painter, area(Band::Bits));
  if (has(Band::Likeness)) {
    label(Band::Likeness, tr("Likeness"), tr("SSIM from %1").arg(m_curves.likenessFloor(), 0, 'f', 1));
    paintLikeness(painter, area(Band::Likeness));
  }
  if (has(Band::Loudness)) {
    label(Band::Loudness, tr("Loudness"),
          m_curves.loudnessTarget < 0 ? tr("%1 LUFS asked").arg(m_curves.loudnessTarget) : tr("short-term"));
    paintLoudness(painter, area(Band::Loudness));
  }
  const QRectF marks = area(Band::Marks);
  if (m_at >= 0) {
    painter.setPen(QPen(theme.ink, 1));
    painter.drawLine(QPointF(x(m_at), marks.top()), QPointF(x(m_at), foot()));
  }
  for (size_t i = 0; i < m_curves.marks.size(); ++i) {
    const double at = x(m_curves.marks[i].at);
    const bool chosen = int(i) == m_chosen;
    painter.setPen(QPen(theme.bars, chosen ? 2 : 1));
    painter.drawLine(QPointF(at, kMarks - 4), QPointF(at, foot()));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.bars);
    const double half = chosen ? 7 : 5;
    painter.drawPolygon(QPolygonF{{at - half, 2}, {at + half, 2}, {at, kMarks - 4.0}});
  }
  painter.setPen(theme.faint);
  const QRectF times(marks.left(), foot() + 1, marks.width(), fontMetrics().height());
  painter.drawText(times, Qt::AlignLeft, timeWords(0));
  painter.drawText(times, Qt::AlignRight, timeWords(m_curves.seconds));
  painter.drawText(times, Qt::AlignHCenter,
                   m_chosen >= 0            ? words(m_chosen)
                   : m_curves.marks.empty() ? tr("nothing was found amiss")
                                            : tr("%n things were found", nullptr, int(m_curves.marks.size())));
  if (hasFocus()) {
    painter.setPen(QPen(theme.accent, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

void ProofTimeline::choose(int mark) {
  m_chosen = mark;
  update();
}

void ProofTimeline::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || event->position().x() < area(Band::Marks).left()) return;
  const int mark = markAt(event->position());
  if (mark >= 0) choose(mark);
  emit wanted(mark >= 0 ? m_curves.marks[size_t(mark)].at : secondsAt(event->position().x()));
}

void ProofTimeline::mouseMoveEvent(QMouseEvent* event) {
  const double seconds = secondsAt(event->position().x());
  const int mark = markAt(event->position());
  QStringList lines{mark >= 0 ? words(mark) : timeWords(seconds)};
  const auto second = size_t(seconds);
  if (second < m_curves.bitRate.size()) lines << QString::fromStdString(bitRateText(int64_t(m_curves.bitRate[second])));
  if (const auto frame = size_t(std::max(0.0, seconds * m_curves.framesASecond)); frame < m_curves.likeness.size())
    lines << tr("SSIM %1").arg(double(m_curves.likeness[frame]), 0, 'f', 3);
  if (second < m_curves.loudness.size())
    lines << tr("%1 LUFS").arg(QString::number(double(m_curves.loudness[second]), 'f', 1));
  QToolTip::showText(event->globalPosition().toPoint(), lines.join(QLatin1Char('\n')), this);
}

void ProofTimeline::keyPressEvent(QKeyEvent* event) {
  const auto count = int(m_curves.marks.size());
  if (event->key() == Qt::Key_Left && count > 0) return choose(std::max(0, m_chosen - 1));
  if (event->key() == Qt::Key_Right && count > 0) return choose(std::min(count - 1, m_chosen + 1));
  const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
  if (enter && m_chosen >= 0) {
    emit wanted(m_curves.marks[size_t(m_chosen)].at);
    return;
  }
  QWidget::keyPressEvent(event);
}

} // namespace tromb
