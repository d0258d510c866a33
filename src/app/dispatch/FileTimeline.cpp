// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/FileTimeline.h"

#include "app/style/Theme.h"
#include "encoding/Encoding.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kLabels = 15; ///< characters at the left for what a band shows
constexpr int kMarks = 18;
constexpr int kBand = 40; ///< least height, which holds two lines of type
constexpr int kApart = 6;
constexpr double kMarkReach = 6; ///< pixels

QString timeWords(double seconds) {
  return QString::fromStdString(clockText(Rational(std::llround(seconds * 10), 10)));
}

} // namespace

TimelineBand bitsBand(const QString& name, const std::vector<float>& bitsBySecond, double most) {
  const auto text = [](double bits) { return QString::fromStdString(bitRateText(int64_t(bits))); };
  TimelineBand band;
  band.name = name;
  const double largest = bitsBySecond.empty() ? 0 : double(*std::max_element(bitsBySecond.begin(), bitsBySecond.end()));
  band.second = FileTimeline::tr("up to %1").arg(text(largest));
  band.values = bitsBySecond;
  band.steps = true;
  band.high = most;
  band.words = text;
  return band;
}

std::vector<TimelineBand> bandsOf(const ProofCurves& curves) {
  std::vector<TimelineBand> bands;
  if (!curves.bitRate.empty()) {
    const ProofCurves::Height height = curves.bitRateHeight();
    bands.push_back(bitsBand(FileTimeline::tr("Bits a second"), curves.bitRate, height.most));
    if (height.limited) bands.back().limit = curves.mostBitRate;
    bands.back().most = true;
  }
  if (!curves.likeness.empty() && curves.framesASecond > 0) {
    TimelineBand band;
    band.name = FileTimeline::tr("Likeness");
    band.low = curves.likenessFloor();
    band.second = FileTimeline::tr("SSIM from %1").arg(band.low, 0, 'f', 2);
    band.values = curves.likeness;
    band.every = 1 / curves.framesASecond;
    band.words = [](double ssim) { return FileTimeline::tr("SSIM %1").arg(ssim, 0, 'f', 3); };
    bands.push_back(std::move(band));
  }
  if (!curves.loudness.empty()) {
    TimelineBand band;
    band.name = FileTimeline::tr("Loudness");
    band.second = curves.loudnessTarget < 0 ? FileTimeline::tr("%1 LUFS asked").arg(curves.loudnessTarget)
                                            : FileTimeline::tr("short-term");
    band.values = curves.loudness;
    band.first = 1;
    band.low = ProofCurves::kQuietest;
    band.high = 0;
    if (curves.loudnessTarget < 0) band.limit = curves.loudnessTarget;
    band.words = [](double lufs) { return FileTimeline::tr("%1 LUFS").arg(lufs, 0, 'f', 1); };
    bands.push_back(std::move(band));
  }
  return bands;
}

std::vector<TimelineMark> marksOf(const ProofCurves& curves) {
  std::vector<TimelineMark> marks;
  for (const ProofCurves::Mark& mark : curves.marks)
    marks.push_back({said(ProofCheck{mark.code, {}, {}}.title()), mark.at});
  return marks;
}

FileTimeline::FileTimeline(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::TabFocus);
  setMouseTracking(true);
  setObjectName(QStringLiteral("fileTimeline"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void FileTimeline::setBands(double seconds, std::vector<TimelineBand> bands) {
  m_seconds = seconds;
  const bool grown = bands.size() != m_bands.size();
  m_bands = std::move(bands);
  if (grown) updateGeometry();
  update();
}

void FileTimeline::setMarks(std::vector<TimelineMark> marks, const QString& none) {
  m_marks = std::move(marks);
  m_none = none;
  m_chosen = -1;
  setAccessibleName(tr("The file along its time; %n things were found", nullptr, int(m_marks.size())));
  update();
}

void FileTimeline::setAt(double seconds) {
  if (seconds == m_at) return;
  m_at = seconds;
  update();
}

QSize FileTimeline::sizeHint() const {
  return {400, int(foot()) + fontMetrics().height() + 2};
}

QRectF FileTimeline::marksArea() const {
  const double left = double(kLabels) * fontMetrics().averageCharWidth();
  return {left, 0, std::max(10.0, width() - left - 4), kMarks};
}

QRectF FileTimeline::area(size_t band) const {
  const QRectF marks = marksArea();
  const int high = std::max(kBand, 2 * fontMetrics().height() + 2);
  return {marks.left(), kMarks + double(band) * (high + kApart), marks.width(), double(high)};
}

double FileTimeline::foot() const {
  return m_bands.empty() ? kMarks : area(m_bands.size() - 1).bottom();
}

double FileTimeline::x(double seconds) const {
  const QRectF all = marksArea();
  return all.left() + all.width() * std::clamp(seconds / std::max(1e-3, m_seconds), 0.0, 1.0);
}

double FileTimeline::secondsAt(double place) const {
  const QRectF all = marksArea();
  return std::clamp((place - all.left()) / all.width(), 0.0, 1.0) * m_seconds;
}

int FileTimeline::markAt(const QPointF& place) const {
  int nearest = -1;
  double least = kMarkReach;
  for (size_t i = 0; i < m_marks.size(); ++i)
    if (const double away = std::abs(x(m_marks[i].at) - place.x()); away < least) {
      least = away;
      nearest = int(i);
    }
  return nearest;
}

QString FileTimeline::words(int mark) const {
  const TimelineMark& its = m_marks[size_t(mark)];
  return tr("%1 at %2").arg(its.words, timeWords(its.at));
}

void FileTimeline::paintBand(QPainter& painter, const TimelineBand& band, const QRectF& area) const {
  const Theme& theme = Theme::current();
  const auto y = [&](double value) {
    return area.bottom() - area.height() * std::clamp((value - band.low) / (band.high - band.low), 0.0, 1.0);
  };
  const auto time = [&](size_t i) { return std::min(m_seconds, band.first + double(i) * band.every); };
  QPainterPath path;
  if (band.steps) {
    path.moveTo(area.left(), area.bottom());
    for (size_t i = 0; i < band.values.size(); ++i) {
      path.lineTo(x(time(i)), y(double(band.values[i])));
      path.lineTo(x(time(i + 1)), y(double(band.values[i])));
    }
    path.lineTo(area.right(), area.bottom());
    path.closeSubpath();
    QColor filled = theme.accent;
    filled.setAlphaF(0.35F);
    painter.fillPath(path, filled);
  } else {
    // Of many values in one column of pixels the least is drawn.
    const auto least = size_t(std::max(1.0, area.width()));
    const size_t together = std::max<size_t>(1, band.values.size() / least);
    for (size_t i = 0; i < band.values.size(); i += together) {
      const auto begin = band.values.begin() + ptrdiff_t(i);
      const auto end = band.values.begin() + ptrdiff_t(std::min(band.values.size(), i + together));
      const QPointF at(x(time(i)), y(double(*std::min_element(begin, end))));
      if (i == 0) path.moveTo(area.left(), at.y());
      path.lineTo(at);
    }
    painter.setPen(QPen(theme.accent, 1.5));
    painter.setBrush(Qt::NoBrush);
    painter.drawPath(path);
  }
  if (!band.limit) return;
  painter.setPen(QPen(band.most ? theme.bars : theme.faint, 1, Qt::DashLine));
  painter.drawLine(QPointF(area.left(), y(*band.limit)), QPointF(area.right(), y(*band.limit)));
}

void FileTimeline::paintEvent(QPaintEvent* /*event*/) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const Theme& theme = Theme::current();
  for (size_t i = 0; i < m_bands.size(); ++i) {
    const QRectF its = area(i);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.raised);
    painter.drawRect(its);
    painter.setPen(theme.ink);
    const QRectF words(0, its.top(), its.left() - 8, its.height());
    painter.drawText(words, Qt::AlignLeft | Qt::AlignTop, m_bands[i].name);
    painter.setPen(theme.faint);
    painter.drawText(words.adjusted(0, fontMetrics().height(), 0, fontMetrics().height()), Qt::AlignLeft | Qt::AlignTop,
                     m_bands[i].second);
    paintBand(painter, m_bands[i], its);
  }
  const QRectF marks = marksArea();
  if (m_at >= 0) {
    painter.setPen(QPen(theme.ink, 1));
    painter.drawLine(QPointF(x(m_at), marks.top() + 4), QPointF(x(m_at), foot()));
  }
  for (size_t i = 0; i < m_marks.size(); ++i) {
    const double at = x(m_marks[i].at);
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
  painter.drawText(times, Qt::AlignRight, timeWords(m_seconds));
  painter.drawText(times, Qt::AlignHCenter,
                   m_chosen >= 0         ? words(m_chosen)
                   : m_marks.empty()     ? m_none
                   : m_marks.size() == 1 ? words(0)
                                         : tr("%n things were found", nullptr, int(m_marks.size())));
  if (hasFocus()) {
    painter.setPen(QPen(theme.accent, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

void FileTimeline::choose(int mark) {
  m_chosen = mark;
  update();
}

void FileTimeline::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || event->position().x() < marksArea().left()) return;
  const int mark = markAt(event->position());
  if (mark >= 0) choose(mark);
  emit wanted(mark >= 0 ? m_marks[size_t(mark)].at : secondsAt(event->position().x()));
}

void FileTimeline::mouseMoveEvent(QMouseEvent* event) {
  const double seconds = secondsAt(event->position().x());
  if (event->buttons().testFlag(Qt::LeftButton)) {
    emit wanted(seconds);
    return;
  }
  const int mark = markAt(event->position());
  QStringList lines{mark >= 0 ? words(mark) : timeWords(seconds)};
  for (const TimelineBand& band : m_bands) {
    // A value that stands at the end of its stretch is meant from the stretch's beginning on.
    const double place = (seconds - band.first) / band.every + (band.first > 0 ? 1 : 0);
    if (place >= 0 && size_t(place) < band.values.size()) lines << band.words(double(band.values[size_t(place)]));
  }
  QToolTip::showText(event->globalPosition().toPoint(), lines.join(QLatin1Char('\n')), this);
}

void FileTimeline::keyPressEvent(QKeyEvent* event) {
  const auto count = int(m_marks.size());
  if (event->key() == Qt::Key_Left && count > 0) return choose(std::max(0, m_chosen - 1));
  if (event->key() == Qt::Key_Right && count > 0) return choose(std::min(count - 1, m_chosen + 1));
  const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
  if (enter && m_chosen >= 0) {
    emit wanted(m_marks[size_t(m_chosen)].at);
    return;
  }
  QWidget::keyPressEvent(event);
}

} // namespace tromb
