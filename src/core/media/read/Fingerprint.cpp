// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/Fingerprint.h"

#include "io/Descriptor.h"
#include "io/Digest.h"

#include <algorithm>
#include <cerrno>
#include <vector>

namespace tromb {
namespace {

constexpr int64_t kStretch = 65'536;

} // namespace

Result<std::string> fingerprintOf(const std::string& path) {
  const auto file = openToRead(path);
  if (!file) return tl::unexpected(file.error());
  const int64_t length = sizeOf(*file);
  Digest digest;
  std::vector<char> bytes(static_cast<size_t>(kStretch));
  for (const int64_t from : {int64_t(0), length / 2, length - kStretch}) {
    const int64_t at = std::clamp<int64_t>(from, 0, std::max<int64_t>(0, length - kStretch));
    const int64_t count = std::min(kStretch, length - at);
    const ptrdiff_t got = readAt(*file, at, bytes.data(), size_t(count));
    if (got != count)
      return fail(
          ErrorCode::Unreadable,
          say("reading the file failed (%1)", (got < 0 ? systemMessage(errno) : std::string("it is being changed"))),
          path, say("Copy it again from where it was recorded"), say("byte %1", at));
    digest.add(bytes.data(), size_t(count));
  }
  return std::to_string(length) + "-" + digest.hex();
}

} // namespace tromb
