// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// A box of an ISO base media file (ISO/IEC 14496-12).
struct Box {
  std::array<char, 4> type{};
  int64_t position = 0; ///< Where its first byte is in the file.
  int64_t size = 0;     ///< with its head; up to the file's end where it says so
  [[nodiscard]] bool is(std::string_view name) const { return std::string_view(type.data(), type.size()) == name; }
};

/// A number that is written with its highest byte first.
[[nodiscard]] uint64_t bigEndian(const unsigned char* at, size_t bytes);

/// Returns the boxes that lie side by side at the top of a file, in order. Returns none if it cannot be read or is of
/// another kind.
/// Thread-safe.
[[nodiscard]] std::vector<Box> topBoxes(const std::string& path);

} // namespace tromb
