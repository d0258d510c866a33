// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <functional>
#include <string>
#include <vector>

namespace tromb::demo {

/// One file of the sample footage.
struct Scene {
  std::string file;
  std::string shotName; ///< empty: footage that is not in the running order
  std::string group;    ///< of the footage list
  std::function<Status(const std::string& folder)> write;
};

/// The Fennick Vale Balloon Morning in its running order.
[[nodiscard]] std::vector<Scene> scenes();

} // namespace tromb::demo
