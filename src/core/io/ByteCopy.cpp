// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/ByteCopy.h"

#include <algorithm>
#include <cerrno>
#include <fcntl.h>
#include <vector>

namespace tromb {
namespace {

constexpr size_t kAtOnce = 1 << 20;

/// Fills a block from a place of a file, fewer bytes at its end alone.
Result<std::string_view> blockAt(const NamedFile& from, int64_t at, std::vector<char>& block,
                                 const std::stop_token& stop) {
  if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("it was stopped"));
  block.resize(kAtOnce);
  const ptrdiff_t got = readAt(from.file, at, block.data(), block.size());
  if (got < 0) return fail(ErrorCode::Unreadable, say("reading failed (%1)", systemMessage(errno)), from.path);
  return std::string_view(block.data(), size_t(got));
}

} // namespace

Status readBytes(const NamedFile& file, const OnBytes& onBytes, const std::stop_token& stop) {
  std::vector<char> block;
  for (int64_t at = 0;;) {
    const auto bytes = blockAt(file, at, block, stop);
    if (!bytes) return tl::unexpected(bytes.error());
    if (bytes->empty()) return {};
    at += int64_t(bytes->size());
    onBytes(*bytes);
  }
}

Status copyBytes(const NamedFile& from, const NamedFile& to, const OnBytes& onBytes, const std::stop_token& stop,
                 const Message& reassurance) {
  std::vector<char> block;
  for (int64_t at = 0;;) {
    const auto bytes = blockAt(from, at, block, stop);
    if (!bytes) return tl::unexpected(bytes.error());
    if (bytes->empty()) return {};
    if (!writeAll(to.file, bytes->data(), bytes->size())) return cannotWrite(to.path, errno, reassurance);
    at += int64_t(bytes->size());
    onBytes(*bytes);
  }
}

Result<std::optional<int64_t>> firstDifference(const NamedFile& original, const NamedFile& copy, const OnBytes& onBytes,
                                               const std::stop_token& stop) {
  (void)::posix_fadvise(copy.file.get(), 0, 0, POSIX_FADV_DONTNEED);
  std::vector<char> one;
  std::vector<char> other;
  for (int64_t at = 0;;) {
    const auto a = blockAt(original, at, one, stop);
    if (!a) return tl::unexpected(a.error());
    const auto b = blockAt(copy, at, other, stop);
    if (!b) return tl::unexpected(b.error());
    const auto [first, second] = std::mismatch(a->begin(), a->end(), b->begin(), b->end());
    if (first != a->end() || second != b->end()) return std::optional(at + int64_t(first - a->begin()));
    if (a->empty()) return std::optional<int64_t>();
    at += int64_t(a->size());
    onBytes(*a);
  }
}

} // namespace tromb
