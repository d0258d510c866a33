// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Fingerprint.h"

#include "media/Av.h"

extern "C" {
#include <libavutil/mem.h>
#include <libavutil/sha.h>
}

#include <algorithm>
#include <array>
#include <cerrno>
#include <filesystem>
#include <fstream>
#include <vector>

namespace tromb {
namespace {

constexpr int64_t kStretch = 65'536;
constexpr int kBits = 256;

struct Free {
  void operator()(AVSHA* sha) const { av_free(sha); }
};

} // namespace

Result<std::string> fingerprintOf(const std::string& path) {
  std::error_code status;
  if (!std::filesystem::exists(path, status))
    return fail(ErrorCode::Missing, "the file is not there", path, "Check the path");
  std::ifstream file(path, std::ios::binary);
  const auto length = int64_t(std::filesystem::file_size(path, status));
  if (!file || status)
    return fail(ErrorCode::Unreadable, "the file cannot be opened (" + systemMessage(errno) + ")", path);
  const std::unique_ptr<AVSHA, Free> sha(av_sha_alloc());
  if (!sha) throw std::bad_alloc();
  av_sha_init(sha.get(), kBits);
  std::vector<char> bytes(static_cast<size_t>(kStretch));
  for (const int64_t from : {int64_t(0), length / 2, length - kStretch}) {
    const int64_t at = std::clamp<int64_t>(from, 0, std::max<int64_t>(0, length - kStretch));
    const int64_t count = std::min(kStretch, length - at);
    if (!file.seekg(at) || !file.read(bytes.data(), count))
      return fail(ErrorCode::Unreadable, "reading the file failed", path, "Copy it again from where it was recorded");
    av_sha_update(sha.get(), reinterpret_cast<const uint8_t*>(bytes.data()), size_t(count));
  }
  std::array<uint8_t, kBits / 8> digest{};
  av_sha_final(sha.get(), digest.data());
  std::string text = std::to_string(length) + "-";
  for (const uint8_t byte : digest) {
    constexpr const char* kHex = "0123456789abcdef";
    text += kHex[byte >> 4];
    text += kHex[byte & 15];
  }
  return text;
}

} // namespace tromb
