// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <string_view>

namespace tromb {

/// SHA-256 (FIPS 180-4) over bytes that come piece by piece. One thread at a time.
class Digest {
public:
  Digest();
  ~Digest();
  void add(const void* bytes, size_t count);
  [[nodiscard]] std::string hex(); ///< 64 lower-case digits; ends the digest

private:
  struct State;
  std::unique_ptr<State> m_state;
};

/// The name under which a cache keeps what belongs to a key: the digest of the key, so that nothing that stands in some
/// file can ever become part of a path.
[[nodiscard]] std::string cacheName(std::string_view key);

} // namespace tromb
