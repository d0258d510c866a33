// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/ExifOrientation.h"

#include "io/Descriptor.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <vector>

namespace tromb {
namespace {

constexpr size_t kMostBlock = 1 << 20; ///< what holds the tag is a few kilobytes long
constexpr int kMostParts = 10'000;     ///< of a file, looked through

/// Reads numbers of either byte order from bytes; 0 beyond their end.
class Bytes {
public:
  Bytes(std::span<const uint8_t> data, bool big) : m_data(data), m_big(big) {}
  [[nodiscard]] uint32_t number(size_t at, size_t bytes) const {
    if (at > m_data.size() || bytes > m_data.size() - at) return 0;
    uint32_t value = 0;
    for (size_t i = 0; i < bytes; ++i) value = value << 8 | m_data[at + (m_big ? i : bytes - 1 - i)];
    return value;
  }

private:
  std::span<const uint8_t> m_data;
  bool m_big;
};

/// A file that is looked through part by part.
class Parts {
public:
  explicit Parts(const Descriptor& file) : m_file(file), m_end(sizeOf(file)) {}
  [[nodiscard]] std::vector<uint8_t> bytes(int64_t at, size_t count) const {
    if (at < 0 || at >= m_end) return {};
    std::vector<uint8_t> data(std::min({count, kMostBlock, size_t(m_end - at)}));
    const ptrdiff_t got = readAt(m_file, at, data.data(), data.size());
    data.resize(size_t(std::max<ptrdiff_t>(0, got)));
    return data;
  }
  [[nodiscard]] int64_t end() const { return m_end; }

private:
  const Descriptor& m_file;
  int64_t m_end;
};

bool begins(const std::vector<uint8_t>& data, size_t at, std::string_view word) {
  return data.size() >= at + word.size() && std::memcmp(data.data() + at, word.data(), word.size()) == 0;
}

/// JPEG: segments with a length, up to the picture's own data.
int ofJpeg(const Parts& parts) {
  int64_t at = 2;
  for (int i = 0; i < kMostParts; ++i) {
    const auto head = parts.bytes(at, 10);
    if (head.size() < 10 || head[0] != 0xFF || head[1] == 0xDA) return 1;
    const auto length = int64_t(Bytes(head, true).number(2, 2));
    if (head[1] == 0xE1 && begins(head, 4, std::string_view("Exif\0\0", 6)))
      return orientationTag(parts.bytes(at + 10, size_t(std::max<int64_t>(0, length - 8))));
    at += 2 + std::max<int64_t>(2, length);
  }
  return 1;
}

/// PNG and RIFF: chunks with a name and a length.
int ofChunks(const Parts& parts, int64_t at, std::string_view wanted, bool png) {
  for (int i = 0; i < kMostParts && at < parts.end(); ++i) {
    const auto head = parts.bytes(at, 8);
    if (head.size() < 8) return 1;
    const auto length = int64_t(Bytes(head, png).number(png ? 0 : 4, 4));
    if (begins(head, png ? 4 : 0, wanted)) {
      const auto data = parts.bytes(at + 8, size_t(length));
      const bool prefixed = begins(data, 0, std::string_view("Exif\0\0", 6)); // some writers keep JPEG's
      return orientationTag(std::span(data).subspan(prefixed ? 6 : 0));
    }
    at += 8 + length + (png ? 4 : length % 2);
  }
  return 1;
}

int ofTiff(const Parts& parts) {
  const auto head = parts.bytes(0, 8);
  const bool big = begins(head, 0, "MM");
  const auto directory = int64_t(Bytes(head, big).number(4, 4));
  auto data = head; // as if the directory stood right behind the head
  const auto entries = parts.bytes(directory, 2 + 12 * 4096);
  data[4] = data[5] = data[6] = data[7] = 0;
  data[big ? 7 : 4] = 8;
  data.insert(data.end(), entries.begin(), entries.end());
  return orientationTag(data);
}

} // namespace

int orientationTag(std::span<const uint8_t> tiff) {
  if (tiff.size() < 10 || tiff[0] != tiff[1] || (tiff[0] != 'I' && tiff[0] != 'M')) return 1;
  const Bytes bytes(tiff, tiff[0] == 'M');
  const size_t directory = bytes.number(4, 4);
  const uint32_t count = bytes.number(directory, 2);
  for (uint32_t i = 0; i < count; ++i) {
    const size_t entry = directory + 2 + size_t(12) * i;
    if (entry + 12 > tiff.size()) return 1;
    if (bytes.number(entry, 2) != 274) continue;
    const uint32_t value = bytes.number(entry + 8, 2);
    return value >= 1 && value <= 8 ? int(value) : 1;
  }
  return 1;
}

StillOrientation stillOrientation(const std::string& path) {
  const auto file = openToRead(path);
  if (!file) return {};
  const Parts parts(*file);
  const auto head = parts.bytes(0, 12);
  if (head.size() < 12) return {};
  int value = 1;
  if (head[0] == 0xFF && head[1] == 0xD8)
    value = ofJpeg(parts);
  else if (begins(head, 1, "PNG\r\n"))
    value = ofChunks(parts, 8, "eXIf", true);
  else if (begins(head, 0, "RIFF") && begins(head, 8, "WEBP"))
    value = ofChunks(parts, 12, "EXIF", false);
  else if (begins(head, 0, std::string_view("II*\0", 4)) || begins(head, 0, std::string_view("MM\0*", 4)))
    value = ofTiff(parts);
  // 5 and 7 turn a mirrored picture; here turning comes first.
  static constexpr std::array<StillOrientation, 9> kOf{{{0, false},
                                                        {0, false},
                                                        {0, true},
                                                        {180, false},
                                                        {180, true},
                                                        {90, true},
                                                        {90, false},
                                                        {270, true},
                                                        {270, false}}};
  return kOf[size_t(value)];
}

} // namespace tromb
