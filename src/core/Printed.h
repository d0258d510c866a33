// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstdio>
#include <string>

namespace tromb {

/// Text as std::printf makes it, for numbers that have a format of their own; at most 127 bytes. Thread-safe.
template <typename... Values> [[nodiscard]] std::string printed(const char* format, Values... values) {
  std::array<char, 128> text{};
  std::snprintf(text.data(), text.size(), format, values...);
  return text.data();
}

} // namespace tromb
