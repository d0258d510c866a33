// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/IndexPlace.h"

#include "io/Descriptor.h"
#include "media/read/BoxList.h"

#include <algorithm>
#include <array>

namespace tromb {
namespace {

constexpr size_t kMostElements = 1'000'000; ///< looked at before a file without an index counts as such

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
  for (size_t count = 0; at < end && count < kMostElements; ++count) {
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

} // namespace tromb
