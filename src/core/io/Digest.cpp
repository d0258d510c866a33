// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Digest.h"

extern "C" {
#include <libavutil/mem.h>
#include <libavutil/sha.h>
}

#include <array>
#include <cstdint>
#include <new>

namespace tromb {
namespace {

constexpr int kBits = 256;

struct Free {
  void operator()(AVSHA* sha) const { av_free(sha); }
};

} // namespace

struct Digest::State {
  std::unique_ptr<AVSHA, Free> sha{av_sha_alloc()};
};

Digest::Digest() : m_state(std::make_unique<State>()) {
  if (!m_state->sha || av_sha_init(m_state->sha.get(), kBits) < 0) throw std::bad_alloc();
}
Digest::~Digest() = default;

void Digest::add(const void* bytes, size_t count) {
  av_sha_update(m_state->sha.get(), static_cast<const uint8_t*>(bytes), count);
}

std::string Digest::hex() {
  std::array<uint8_t, kBits / 8> digest{};
  av_sha_final(m_state->sha.get(), digest.data());
  std::string text;
  for (const uint8_t byte : digest) {
    constexpr const char* kDigits = "0123456789abcdef";
    text += kDigits[byte >> 4];
    text += kDigits[byte & 15];
  }
  return text;
}

std::string cacheName(std::string_view key) {
  Digest digest;
  digest.add(key.data(), key.size());
  return digest.hex();
}

} // namespace tromb
