// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/watch/LevelBars.h"

#include "app/style/Theme.h"

#include <QPainter>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kLookMs = 50;
constexpr float kLeastDb = -60;
constexpr float kHotDb = -1; ///< the usual limit of true peaks (EBU R 128)
constexpr float kFallDb = 1; ///< a look: 20 dB a second, as IEC 60268-10 has it for its type I
constexpr int kHoldLooks = 30;
constexpr int kBarWidth = 9;

double share(float db) {
  return std::clamp((double(db) - kLeastDb) / -kLeastDb, 0.0, 1.0);
}

} // namespace

LevelBars::LevelBars(Watch& watch, QWidget* parent) : QWidget(parent), m_watch(watch) {
  m_bars.fill(SoundLevel::kNoPeakDb);
  m_peaks.fill(SoundLevel::kNoPeakDb);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Expanding);
  setAccessibleName(tr("Level of the sound"));
  setToolTip(tr("Peaks of left and right in dB of full scale; below, the loudness of the last 0.4 s in LUFS"));
  m_every.setInterval(kLookMs);
  connect(&m_every, &QTimer::timeout, this, &LevelBars::look);
  connect(&watch, &Watch::stateChanged, this, [this] { m_every.start(); });
}

QSize LevelBars::sizeHint() const {
  return {fontMetrics().horizontalAdvance(QStringLiteral("−00.0")) + 10, 120};
}

void LevelBars::look() {
  const SoundLevel level = m_watch.level();
  bool still = !m_watch.playing();
  for (size_t c = 0; c < m_bars.size(); ++c) {
    m_bars[c] = std::max(level.peakDb[c], m_bars[c] - kFallDb);
    if (level.peakDb[c] >= m_peaks[c] || ++m_held[c] > kHoldLooks) {
      m_peaks[c] = level.peakDb[c];
      m_held[c] = 0;
    }
    still = still && m_bars[c] <= kLeastDb && m_peaks[c] <= kLeastDb;
  }
  m_loudness = level.momentaryLufs;
  if (still) m_every.stop();
  update();
}

void LevelBars::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.fillRect(rect(), theme.surround);
  const int words = fontMetrics().height() + 4;
  const QRectF room(0, 8, width(), height() - 16 - words);
  const double left = (width() - 2 * kBarWidth - 3) / 2.0;
  for (size_t c = 0; c < m_bars.size(); ++c) {
    const QRectF bar(left + double(c) * (kBarWidth + 3), room.top(), kBarWidth, room.height());
    painter.fillRect(bar, QColor(0, 0, 0, 90));
    painter.setPen(QColor(255, 255, 255, 110));
    for (const float db : {-6.0F, -12.0F, -20.0F, -40.0F}) {
      const double y = bar.bottom() - share(db) * bar.height();
      painter.drawLine(QPointF(bar.left(), y), QPointF(bar.right(), y));
    }
    const double high = share(m_bars[c]) * bar.height();
    painter.fillRect(QRectF(bar.left(), bar.bottom() - high, bar.width(), high), QColor(255, 255, 255, 190));
    if (m_peaks[c] > kLeastDb) {
      // Too hot is said by shape, too: the mark is as wide as both bars have room.
      const double y = bar.bottom() - share(m_peaks[c]) * bar.height();
      const bool hot = m_peaks[c] > kHotDb;
      painter.fillRect(QRectF(bar.left() - (hot ? 2 : 0), y - (hot ? 3 : 1), bar.width() + (hot ? 4 : 0), hot ? 5 : 2),
                       hot ? statusColourOnSurround(Cell::State::Unusable) : QColor(Qt::white));
    }
  }
  painter.setPen(Qt::white);
  const QString said = m_loudness > kLeastDb ? QString::number(double(m_loudness), 'f', 1) : QStringLiteral("–");
  painter.drawText(QRectF(0, height() - words - 2, width(), words), int(Qt::AlignCenter),
                   QString(said).replace(QLatin1Char('-'), QChar(0x2212)));
}

} // namespace tromb
