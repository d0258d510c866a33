// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"
#include "project/Footage.h"

#include <nlohmann/json_fwd.hpp>

namespace tromb {

/// One thing that a check before an export found.
struct Finding {
  std::string code; ///< stable word: bars, soft, soft-still, enlarged-canvas, odd-size, level-too-low, settings,
                    ///< rate-mismatch, fast-move, interlaced, hdr, transparent, down-mixed, silent-speed, no-sound,
                    ///< beyond-source, source-missing, source-unreadable, limit-canvas and the other limits of a
                    ///< destination (see SpecLine)
  Severity severity = Severity::Note;
  std::string deliverable; ///< name; empty when it concerns the whole project
  std::string shot;        ///< name; empty when it concerns the whole deliverable
  Message message;
  Message fix;                 ///< what to do; may be empty
  std::string deliverableId{}; ///< where it is; empty as the names are
  std::string shotId{};
  std::vector<Fix> fixes{}; ///< what mends it, done to the deliverable; may be empty
};

/// Everything that falls short in the chosen deliverables (ids; all when empty). Never fails: what cannot be
/// planned is itself a finding. Thread-safe.
[[nodiscard]] std::vector<Finding> preflight(const Project& project, const Footage& footage,
                                             const std::vector<std::string>& deliverableIds = {});

/// Detail below this is a soft enlargement; a hair under 1 leaves room for rounding to even pixels.
inline constexpr double kSharpDetail = 0.995;

[[nodiscard]] const char* severityWord(Severity severity); ///< "note", "warning", "error"
[[nodiscard]] nlohmann::ordered_json toJson(const std::vector<Finding>& findings);
/// "0.56": detail as it is shown everywhere.
[[nodiscard]] std::string detailText(double detail);
/// "1080×1920".
[[nodiscard]] std::string sizeText(Size size);

} // namespace tromb
