// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Encoding.h"

#include <string>
#include <vector>

namespace tromb {

/// What came of trying an encoder in graphics hardware.
struct HardwareTrial {
  const HardwareEncoder* encoder = nullptr;
  Message reason; ///< why it cannot be used; empty where it works
};

/// Tries the encoders in graphics hardware for pictures of some samples, each once: in a process of its own, by
/// encoding a few pictures that are then decoded and compared. What came of it is kept in memory, and in `folder` for
/// as long as FFmpeg, the system's kernel and its drivers stay the same, unless an encoder said itself that it cannot;
/// an empty folder keeps nothing. Takes up to half a minute where drivers hang. Thread-safe.
[[nodiscard]] std::vector<HardwareTrial> hardwareTrials(Codec codec, const Samples& samples, const std::string& folder);

/// The first that works for an encoding that asks for hardware; null where none does, or none is asked for. `why` is
/// then the reason, if there is one.
[[nodiscard]] const HardwareEncoder* hardwareFor(const Encoding& resolved, const CanvasFormat& format,
                                                 const std::string& folder, Message* why = nullptr);

} // namespace tromb
