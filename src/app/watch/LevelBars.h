// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Watch.h"

#include <QTimer>
#include <QWidget>

namespace tromb {

/// How loud the sound is that is heard: a bar for the peak of each channel, and below them the momentary loudness.
class LevelBars : public QWidget {
  Q_OBJECT

public:
  explicit LevelBars(Watch& watch, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {sizeHint().width(), 60}; }

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  void look();
  Watch& m_watch;
  QTimer m_every;
  std::array<float, kStereo> m_bars;  ///< dB, falling
  std::array<float, kStereo> m_peaks; ///< dB, held for a while
  std::array<int, kStereo> m_held{};  ///< looks since then
  float m_loudness = SoundLevel::kNoPeakDb;
};

} // namespace tromb
