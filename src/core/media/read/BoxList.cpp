// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/BoxList.h"

#include "io/Descriptor.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr size_t kMostBoxes = 1'000'000; ///< a recording in fragments has two for each of them

} // namespace

uint64_t bigEndian(const unsigned char* at, size_t bytes) {
  uint64_t value = 0;
  for (size_t i = 0; i < bytes; ++i) value = value << 8 | at[i];
  return value;
}

std::vector<Box> topBoxes(const std::string& path) {
  std::vector<Box> boxes;
  const auto file = openToRead(path);
  if (!file) return boxes;
  const int64_t end = sizeOf(*file);
  for (int64_t at = 0; at + 8 <= end && boxes.size() < kMostBoxes;) {
    std::array<unsigned char, 16> head{};
    if (readAt(*file, at, head.data(), head.size()) < 8) break;
    uint64_t size = bigEndian(head.data(), 4);
    if (size == 1) size = bigEndian(head.data() + 8, 8); // 64 bits follow
    if (size == 0) size = uint64_t(end - at);            // up to the end
    if (size < 8 || size > uint64_t(INT64_MAX - at)) break;
    Box box;
    std::copy_n(head.begin() + 4, 4, box.type.begin());
    box.position = at;
    box.size = int64_t(size);
    boxes.push_back(box);
    at += box.size;
  }
  return boxes;
}

} // namespace tromb
