// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/BoxList.h"

#include "io/Descriptor.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr size_t kMostBoxes = 1'000'000; ///< a recording in fragments has two for each of them

uint64_t bigEndian(const unsigned char* at, size_t bytes) {
  uint64_t value = 0;
  for (size_t i = 0; i < bytes; ++i) value = value << 8 | at[i];
  return value;
}

/// An element of EBML (RFC 8794): its name with the marker bits, and where its contents begin and end.
struct Element {
  uint64_t name = 0;
  int64_t begin = 0;
  int64_t end = 0;
};

bool readElement(const Descriptor& file, int64_t at, int64_t limit, Element& element) {
  std::array<unsigned char, 12> head{};
  const auto got = int64_t(readAt(file, at, head.data(), head.size()));
  const auto lengthOf = [](unsigned char first) {
    int length = 1;
    while (length <= 8 && !(first & (0x80 >> (length - 1)))) ++length;
    return length;
  };
  const int name = lengthOf(head[0]);
  if (name > 4 || name >= got) return false;
  const int size = lengthOf(head[size_t(name)]);
  if (size > 8 || name + size > got) return false;
  element.name = bigEndian(head.data(), size_t(name));
  const uint64_t mask = (uint64_t(1) << (7 * size)) - 1;
  const uint64_t value = bigEndian(head.data() + name, size_t(size)) & mask;
  element.begin = at + name + size;
  element.end = value == mask ? limit : element.begin + int64_t(std::min(value, uint64_t(limit)));
  return true;
}

bool cuesBeforeClusters(const std::string& path) {
  constexpr uint64_t kSegment = 0x18538067;
  constexpr uint64_t kCues = 0x1C53BB6B;
  constexpr uint64_t kCluster = 0x1F43B675;
  const auto file = openToRead(path);
  if (!file) return false;
  const int64_t end = sizeOf(*file);
  Element element;
  int64_t at = 0;
  for (size_t count = 0; at < end && count < kMostBoxes; ++count) {
    if (!readElement(*file, at, end, element)) return false;
    if (element.name == kCues || element.name == kCluster) return element.name == kCues;
    at = element.name == kSegment ? element.begin : element.end;
  }
  return false;
}

} // namespace

bool indexBeforeMedia(const std::string& path) {
  for (const Box& box : topBoxes(path))
    if (box.is("moov") || box.is("mdat")) return box.is("moov");
  return cuesBeforeClusters(path);
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
