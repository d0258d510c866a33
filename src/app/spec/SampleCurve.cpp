// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/SampleCurve.h"

#include "app/style/Theme.h"

#include <QLocale>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kLeastSpan = 0.01; ///< of likeness: less would make a mountain of nothing
constexpr double kDot = 3.2;        ///< radius in pixels

QString likenessSaid(double ssim) {
  return QLocale().toString(ssim, 'f', 3);
}

QString bytesSaid(int64_t bytes) {
  return QString::fromStdString(bytesText(bytes));
}

} // namespace

QString settingSaid(const Encoding& e) {
  if (*e.rateControl == RateControl::ConstantQuality) return SampleCurve::tr("quality %1").arg(*e.crf);
  if (*e.rateControl == RateControl::Settled)
    return QString::fromUtf8(e.info().name.data(), qsizetype(e.info().name.size()));
  return QString::fromStdString(bitRateText(e.bitRate));
}

SampleCurve::SampleCurve(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Size of the file against likeness where it is hardest"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

QSize SampleCurve::sizeHint() const {
  return {300, 7 * fontMetrics().height()};
}

void SampleCurve::show(const std::vector<SampleRung>& rungs, const std::optional<SamplePoint>& present,
                       const std::optional<Knee>& knee) {
  m_rungs = rungs;
  m_present = present;
  m_knee = knee;
  update();
}

QRectF SampleCurve::area() const {
  const QFontMetrics letters = fontMetrics();
  const double left = letters.horizontalAdvance(QStringLiteral("0.000")) + 8;
  return QRectF(rect()).adjusted(left, letters.height() * 0.6,
                                 -letters.horizontalAdvance(QStringLiteral("00.0 MB")) / 2.0, -letters.height() - 4);
}

QPointF SampleCurve::placeOf(int64_t bytes, double ssim) const {
  const QRectF room = area();
  double least = m_rungs.front().ssim;
  double most = least;
  for (const SampleRung& each : m_rungs) {
    least = std::min(least, each.ssim);
    most = std::max(most, each.ssim);
  }
  least = std::min(least, most - kLeastSpan);
  const double first = std::log2(double(m_rungs.front().fileBytes));
  const double last = std::log2(double(m_rungs.back().fileBytes));
  const double across = last > first ? (std::log2(double(bytes)) - first) / (last - first) : 0.5;
  return {room.left() + across * room.width(), room.bottom() - (ssim - least) / (most - least) * room.height()};
}

void SampleCurve::paintEvent(QPaintEvent*) {
  if (m_rungs.empty()) return;
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF room = area();
  const QFontMetrics letters = fontMetrics();
  painter.setPen(QPen(theme.line, 1));
  painter.drawLine(room.bottomLeft(), room.bottomRight());
  painter.drawLine(room.topLeft(), room.bottomLeft());
  painter.setPen(theme.faint);
  const auto beside = [&](double ssim) {
    // The lowest stands on the line, clear of the sizes below it.
    const double y = std::min(placeOf(m_rungs.front().fileBytes, ssim).y(), room.bottom() - letters.height() / 2.0);
    painter.drawText(QRectF(0, y - letters.height() / 2.0, room.left() - 6, letters.height()),
                     Qt::AlignRight | Qt::AlignVCenter, likenessSaid(ssim));
  };
  beside(m_rungs.front().ssim);
  if (placeOf(1, m_rungs.front().ssim).y() - placeOf(1, m_rungs.back().ssim).y() > letters.height())
    beside(m_rungs.back().ssim);
  double behind = -1;
  for (const SampleRung& each : m_rungs) {
    const QString words = bytesSaid(each.fileBytes);
    const double width = letters.horizontalAdvance(words) + 8;
    const double x = placeOf(each.fileBytes, each.ssim).x();
    if (x - width / 2 < behind) continue;
    painter.drawText(QRectF(x - width / 2, room.bottom() + 2, width, letters.height()), Qt::AlignCenter, words);
    behind = x + width / 2;
  }
  if (m_knee && m_knee->within) {
    const QPointF at = placeOf(m_knee->fileBytes, m_knee->ssim);
    painter.setPen(QPen(theme.ink, 1, Qt::DashLine));
    painter.drawLine(QPointF(at.x(), room.top()), QPointF(at.x(), room.bottom()));
    const QString words = tr("more hardly helps");
    const bool fits = at.x() + 6 + letters.horizontalAdvance(words) < width();
    const QRectF box(at.x() + 6, room.bottom() - letters.height() - 2, letters.horizontalAdvance(words) + 4,
                     letters.height());
    if (fits) painter.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, words);
  }
  QPainterPath line;
  for (const SampleRung& each : m_rungs) {
    const QPointF at = placeOf(each.fileBytes, each.ssim);
    if (line.elementCount() == 0)
      line.moveTo(at);
    else
      line.lineTo(at);
  }
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme.accent, 1.8));
  painter.drawPath(line);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.accent);
  for (const SampleRung& each : m_rungs) painter.drawEllipse(placeOf(each.fileBytes, each.ssim), kDot, kDot);
  if (m_present) {
    painter.setBrush(theme.sheet);
    painter.setPen(QPen(theme.accent, 2.4));
    painter.drawEllipse(placeOf(m_present->fileBytes, m_present->ssim), 2 * kDot, 2 * kDot);
  }
}

std::vector<PaintedPart> SampleCurve::paintedParts() const {
  std::vector<PaintedPart> parts;
  for (const SampleRung& each : m_rungs) {
    const QPointF at = placeOf(each.fileBytes, each.ssim);
    parts.push_back({settingSaid(each.encoding),
                     tr("%1, likeness %2").arg(bytesSaid(each.fileBytes), likenessSaid(each.ssim)),
                     QRectF(at - QPointF(kDot, kDot), QSizeF(2 * kDot, 2 * kDot)).toRect(), false, false});
  }
  return parts;
}

} // namespace tromb
