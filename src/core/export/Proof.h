// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/Plan.h"

#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <stop_token>

namespace tromb {

/// One line of a proof.
struct ProofCheck {
  std::string code;     ///< stable word: canvas, rate, frames, duration, …
  std::string expected; ///< empty when nothing particular was asked for
  std::string found;
  bool pass = true;
};

struct ProofReport {
  std::vector<ProofCheck> checks;
  [[nodiscard]] bool passed() const;
};

/// Reads a finished file back, decoding every frame and all sound, and compares it with the plan (or, without
/// one, with what any delivered file should be). `onFrame` is told how many frames are done.
/// Errors: those of probe, Decoder, Cancelled. Thread-safe.
[[nodiscard]] Result<ProofReport> proofFile(const std::string& path, const Plan* plan, std::stop_token stop = {},
                                            const std::function<void(int64_t)>& onFrame = {});

[[nodiscard]] nlohmann::ordered_json toJson(const ProofReport& report);

/// True when `moov` lies before `mdat`, so that playing can begin before all is loaded (ISO/IEC 14496-12).
[[nodiscard]] bool indexBeforeMedia(const std::string& path);

} // namespace tromb
