// SPDX-License-Identifier: GPL-3.0-or-later
// How OrderStrip is drawn.
#include "analysis/Waveform.h"
#include "app/order/OrderStrip.h"
#include "app/style/Theme.h"
#include "model/ElementPictures.h"
#include "model/Translation.h"
#include "time/Cadence.h"
#include "time/Timecode.h"

#include <QPainter>
#include <QScrollBar>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kShotSound = 12;       ///< at the foot of the picture
constexpr double kLeastPicture = 14; ///< narrower shots are drawn without a picture
constexpr double kLeastDetailed = 5; ///< pixels of width

} // namespace

void OrderStrip::paintRuler(QPainter& painter) const {
  const Theme& theme = Theme::current();
  // The smallest step of whole seconds (or frames) whose labels do not touch.
  const double label = fontMetrics().horizontalAdvance(QStringLiteral("00:00:00:00 "));
  Rational step = m_session.rate().frameDuration();
  for (const Rational& each : {m_session.rate().timeOf(5), Rational(1), Rational(2), Rational(5), Rational(10),
                               Rational(30), Rational(60), Rational(300), Rational(600), Rational(3600)}) {
    if (step.toDouble() * m_pixelsPerSecond >= label) break;
    step = each;
  }
  painter.setPen(theme.faint);
  const auto first = std::max<int64_t>(0, (timeAt(0) / step).floor());
  for (int64_t i = first;; ++i) {
    const Rational time = step * Rational(i);
    const double x = xOf(time);
    if (x > width() || time > m_session.starts().back()) break;
    painter.drawLine(QPointF(x, rulerHeight() - 5), QPointF(x, rulerHeight() - 1));
    const QString words = QString::fromStdString(
        timecode(m_session.rate().frameAt(time), m_session.rate(), hasDropFrame(m_session.rate())));
    if (x + label < width()) painter.drawText(QPointF(x + 3, rulerHeight() - 5), words);
  }
}

void OrderStrip::paintRegions(QPainter& painter) const {
  const Theme& theme = Theme::current();
  for (const Region& region : m_document.project().regions) {
    const QRectF rect(xOf(region.in), rulerHeight(), xOf(region.out) - xOf(region.in), regionHeight() - 2);
    QColor wash = theme.accent;
    wash.setAlphaF(0.22F);
    painter.fillRect(rect, wash);
    painter.setPen(QPen(theme.accent, 1.4));
    painter.drawLine(rect.topLeft(), rect.bottomLeft());
    painter.drawLine(rect.topRight(), rect.bottomRight());
    painter.setPen(theme.ink);
    painter.drawText(
        rect.adjusted(4, -1, -4, 0), Qt::AlignVCenter | Qt::AlignLeft,
        fontMetrics().elidedText(QString::fromStdString(region.name), Qt::ElideRight, int(rect.width()) - 8));
  }
}

/// Draws the pictures and the sound of a shot.
void OrderStrip::paintShotPicture(QPainter& painter, int row, const QRectF& picture) {
  const Shot& shot = m_document.project().shots[size_t(row)];
  const Result<MediaInfo>* media = m_document.media(shot.source);
  const bool drawn = picture.width() >= kLeastPicture && m_pictures != Settings::StripPictures::None;
  if (const Poster* poster = drawn ? m_posters.poster(row) : nullptr) {
    const QImage& image = poster->atLeast(picture.height() * 16 / 9);
    const double tile = picture.height() * image.width() / std::max(1, image.height());
    const double from = std::max(picture.left(), picture.left() + std::floor(-picture.left() / tile) * tile);
    if (m_pictures == Settings::StripPictures::Ends)
      painter.drawImage(QRectF(picture.left(), picture.top(), tile, picture.height()), image);
    else
      for (double x = from; x < std::min(picture.right(), double(width())); x += tile)
        painter.drawImage(QRectF(x, picture.top(), tile, picture.height()), image);
  }
  // Its sound, where it is heard, over the foot of its picture.
  if (media && *media && !(*media)->audio.empty() && !shot.muted && !shot.time().held()) {
    const QRectF foot(picture.left(), picture.bottom() - kShotSound, picture.width(), kShotSound);
    painter.fillRect(foot, QColor(0, 0, 0, 110));
    painter.setPen(QColor(255, 255, 255, 210));
    const double level = std::pow(10, shot.levelDb / 20);
    const auto sourceTime = [time = shot.time()](double at) {
      return time.sourceTime(secondsOf(int64_t(at * kTicksASecond))).toDouble();
    };
    paintWaveform(painter, foot, shot.source, sourceTime, [level](double) { return level; });
  }
}

void OrderStrip::paintShot(QPainter& painter, int row) {
  const Theme& theme = Theme::current();
  const Shot& shot = m_document.project().shots[size_t(row)];
  const QRectF rect = shotRect(row);
  if (rect.right() < 0 || rect.left() > width()) return;
  const QRectF inside = rect.adjusted(0.5, 0, -1.5, 0);
  const int words = fontMetrics().height() + 1;
  const QRectF picture(inside.left(), inside.top(), inside.width(), inside.height() - words);
  const Result<MediaInfo>* media = m_document.media(shot.source);
  const bool unusable = media && !*media;
  const bool selected = m_session.isSelected(row);
  if (inside.width() < kLeastDetailed) { // a shot this narrow has no room for anything else
    painter.fillRect(picture, selected ? theme.accent : unusable ? theme.broken : theme.surround);
    return;
  }
  painter.save();
  painter.setClipRect(inside);
  painter.fillRect(inside, theme.sheet);
  if (!m_slim) painter.fillRect(picture, theme.surround);
  if (!m_slim) paintShotPicture(painter, row, picture);
  if (unusable) {
    painter.fillRect(picture, theme.raised);
    drawStatusShape(painter, QRectF(picture.left() + 5, picture.center().y() - 5, 10, 10), Cell::State::Unusable);
  }
  QString label = QStringLiteral("%1  %2").arg(row + 1).arg(QString::fromStdString(shot.name));
  if (shot.muted) label += tr(" · muted");
  if (const QString pace = said(paceText(shot.time())); !pace.isEmpty()) label += QStringLiteral(" · ") + pace;
  if (inside.width() > 18) {
    painter.setPen(unusable ? theme.broken : theme.ink);
    painter.drawText(QRectF(std::max(inside.left(), 0.0) + 5, m_slim ? inside.top() : picture.bottom(),
                            inside.width() - 7, m_slim ? inside.height() : words),
                     Qt::AlignVCenter | Qt::AlignLeft,
                     fontMetrics().elidedText(label, Qt::ElideRight, int(inside.width()) - 8));
  }
  painter.restore();
  painter.setPen(QPen(selected ? theme.accent : theme.line, selected ? 2.5 : 1));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(inside.adjusted(selected ? 1 : 0, selected ? 1 : 0, selected ? -1 : 0, selected ? -1 : 0));
  if (selected && !m_slim && rect.width() > 3 * kGripWidth)
    for (const double x : {inside.left() + 1, inside.right() - kGripWidth + 1}) {
      const QRectF grip(x, picture.center().y() - 12, kGripWidth - 2, 24);
      painter.setPen(Qt::NoPen);
      painter.setBrush(theme.accent);
      painter.drawRoundedRect(grip, 2, 2);
    }
}

void OrderStrip::paintWaveform(QPainter& painter, const QRectF& rect, const std::string& source,
                               const std::function<double(double)>& sourceTime,
                               const std::function<double(double)>& gain) {
  const WaveformService::Peaks* peaks = m_waveforms.peaks(source);
  if (!peaks) return;
  for (int x = int(std::max(0.0, rect.left())); x < std::min(rect.right(), double(width())); ++x) {
    const double at = (x - rect.left()) / m_pixelsPerSecond;
    // Backwards, a pixel's end lies before its beginning.
    const double begins = std::max(0.0, sourceTime(at)) * kPeaksASecond;
    const double ends = std::max(0.0, sourceTime(at + 1 / m_pixelsPerSecond)) * kPeaksASecond;
    const auto from = size_t(std::min(begins, ends));
    const size_t to = std::max(from + 1, size_t(std::max(begins, ends)));
    float peak = 0;
    for (size_t i = from; i < std::min(to, peaks->size()); ++i) peak = std::max(peak, (*peaks)[i]);
    // The height is proportional to the level in decibels, from −48 to 0, because hearing is roughly logarithmic.
    const double level = std::max(0.0, 1 + std::log10(std::max(1e-6, double(peak) * gain(at))) / 2.4);
    const double half = std::min(1.0, level) * rect.height() / 2;
    painter.drawLine(QPointF(x, rect.center().y() - half), QPointF(x, rect.center().y() + half));
  }
}

void OrderStrip::paintBed(QPainter& painter, int place) {
  const Theme& theme = Theme::current();
  const SoundBed& bed = m_document.project().beds[size_t(place)];
  const QRectF rect = bedRect(place);
  const bool selected = place == m_session.bed();
  painter.save();
  painter.setClipRect(rect.adjusted(-1, -1, 1, 1));
  painter.fillRect(rect, theme.raised);
  const double gain = std::pow(10, bed.levelDb / 20);
  const double length = rect.width() / m_pixelsPerSecond;
  painter.setPen(theme.accent);
  paintWaveform(
      painter, rect.adjusted(0, 2, 0, -2), bed.source, [in = bed.in.toDouble()](double at) { return in + at; },
      [&](double at) {
        if (const double in = bed.fadeIn.toDouble(); at < in) return gain * at / in;
        if (const double out = bed.fadeOut.toDouble(); length - at < out)
          return gain * std::max(0.0, (length - at) / out);
        return gain;
      });
  QString label = tr("sound");
  if (const Source* source = m_document.project().source(bed.source))
    label = QString::fromStdString(sourceName(*source));
  if (bed.levelDb != 0) label += QStringLiteral(" · %1 dB").arg(bed.levelDb);
  if (bed.duck) label += tr(" · ducks under speech");
  const QRectF words(std::max(rect.left(), 0.0) + 5, rect.top(), fontMetrics().horizontalAdvance(label) + 8.0,
                     rect.height());
  QColor back = theme.sheet;
  back.setAlphaF(0.8F);
  painter.fillRect(words.adjusted(-3, 5, -3, -5), back);
  painter.setPen(theme.ink);
  painter.drawText(words, Qt::AlignVCenter | Qt::AlignLeft, label);
  painter.setPen(QPen(selected ? theme.accent : theme.line, selected ? 2.5 : 1));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5));
  painter.restore();
}

void OrderStrip::paintElements(QPainter& painter) const {
  const Theme& theme = Theme::current();
  const Project& project = m_document.project();
  QColor ground = theme.raised;
  for (int i = 0; i < int(m_elements.size()); ++i) {
    const QRectF at = elementRect(i);
    if (at.right() < 0 || at.left() > width() || m_elements[size_t(i)].first >= m_session.starts().back()) continue;
    const QRectF bar = at.adjusted(0.5, 0.5, -0.5, -1.5);
    painter.setPen(QPen(theme.faint, 1));
    painter.setBrush(ground);
    painter.drawRoundedRect(bar, 3, 3);
    const QRectF words = bar.adjusted(4, 0, -3, 0);
    if (words.width() < 8) continue;
    painter.setPen(theme.ink);
    painter.drawText(words, Qt::AlignVCenter | Qt::AlignLeft,
                     fontMetrics().elidedText(elementWords(project, project.elements[size_t(i)]), Qt::ElideRight,
                                              int(words.width())));
  }
  painter.setBrush(Qt::NoBrush);
}

void OrderStrip::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.fillRect(rect(), theme.paper);
  if (m_document.project().shots.empty()) {
    painter.setPen(theme.faint);
    painter.drawText(rect(), Qt::AlignCenter, tr("The running order is empty: add a shot from the footage"));
    return;
  }
  paintRuler(painter);
  if (regionCount() > 0) paintRegions(painter);
  for (int row = 0; row < int(m_document.project().shots.size()); ++row) paintShot(painter, row);
  if (elementHeight() > 0) paintElements(painter);
  for (int bed = 0; bed < bedCount(); ++bed) paintBed(painter, bed);
  if (m_hold.grip == Grip::Shot && m_hold.moving && m_hold.dropBefore >= 0) {
    const double x = xOf(m_session.starts()[size_t(m_hold.dropBefore)]);
    painter.fillRect(QRectF(x - 2, shotsTop() - 3, 4, shotHeight() + 6), theme.accent);
  }
  const double x = xOf(m_session.playhead());
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme.ink, 1.5));
  painter.drawLine(QPointF(x, rulerHeight() - 6), QPointF(x, height() - (m_scroll->isVisible() ? kScroll : 0) - 2));
  painter.setBrush(theme.ink);
  painter.drawPolygon(QPolygonF{
      {x - 5, double(rulerHeight() - 12)}, {x + 5, double(rulerHeight() - 12)}, {x, double(rulerHeight() - 4)}});
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 1));
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

} // namespace tromb
