// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "encoding/Codec.h"

namespace tromb {

/// Why this machine cannot encode a codec; empty where it can. Thread-safe.
[[nodiscard]] Message whyUnavailable(Codec codec);
[[nodiscard]] Message whyUnavailable(SoundCodec codec);

} // namespace tromb
