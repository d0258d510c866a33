// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <string>

namespace tromb::fuzz {

/// A folder of this process alone, in memory.
inline const std::string& folder() {
  static const std::string path = [] {
    std::string made = "/dev/shm/tromb-fuzz-XXXXXX";
    if (!::mkdtemp(made.data())) std::abort();
    static const std::string kept = made;
    std::atexit([] { std::filesystem::remove_all(kept); });
    return made;
  }();
  return path;
}

/// The bytes as a file there.
inline std::string file(const uint8_t* bytes, size_t size, const std::string& name) {
  const std::string path = folder() + "/" + name;
  std::FILE* out = std::fopen(path.c_str(), "wb");
  if (!out || (size > 0 && std::fwrite(bytes, 1, size, out) != size)) std::abort();
  std::fclose(out);
  return path;
}

/// What must hold.
inline void hold(bool condition) {
  if (!condition) std::abort();
}

} // namespace tromb::fuzz
