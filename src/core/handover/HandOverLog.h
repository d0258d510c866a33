// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <cstdint>
#include <string>
#include <vector>

namespace tromb {

/// One hand-over of a finished file, as it is kept with its project.
struct HandOver {
  int64_t at = 0;    ///< seconds since 1970, UTC
  std::string path;  ///< the file that was handed over
  std::string to;    ///< the folder, or the service's address
  std::string place; ///< where it is there
  int64_t bytes = 0;
  std::string digest; ///< SHA-256
  friend bool operator==(const HandOver&, const HandOver&) = default;
};

/// Where the hand-overs of a project are kept: beside it, a line of JSON each (see docs/format.md).
[[nodiscard]] std::string handOverLog(const std::string& projectPath);
/// Adds one, safe beside other programs that do so at the same time. Errors: CannotWrite.
[[nodiscard]] Status addHandOver(const std::string& projectPath, const HandOver& handOver);
/// All of them, oldest first; lines that cannot be read are left out. Empty where there are none.
[[nodiscard]] std::vector<HandOver> handOvers(const std::string& projectPath);

} // namespace tromb
