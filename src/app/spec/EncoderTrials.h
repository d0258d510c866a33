// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/write/Hardware.h"
#include "model/Worker.h"

#include <QObject>
#include <map>
#include <optional>

namespace tromb {

/// What came of trying the encoders in graphics hardware, tried beside the window when first asked for.
class EncoderTrials : public QObject {
  Q_OBJECT

public:
  explicit EncoderTrials(QObject* parent = nullptr) : QObject(parent) {}
  /// The one that works for a codec and samples; null where none does, and while they are tried.
  [[nodiscard]] const HardwareEncoder* working(Codec codec, const Samples& samples);

signals:
  void tried();

private:
  /// By codec and depth; empty while they are tried.
  std::map<std::pair<Codec, int>, std::optional<std::vector<HardwareTrial>>> m_trials;
  Worker m_trying;
};

} // namespace tromb
