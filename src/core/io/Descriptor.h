// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <cstddef>
#include <cstdint>
#include <string>
#include <utility>

namespace tromb {

/// An open file of the operating system that closes itself. Movable; one thread at a time.
class Descriptor {
public:
  Descriptor() = default;
  explicit Descriptor(int fd) : m_fd(fd) {}
  Descriptor(Descriptor&& other) noexcept : m_fd(std::exchange(other.m_fd, -1)) {}
  Descriptor& operator=(Descriptor&& other) noexcept {
    std::swap(m_fd, other.m_fd);
    return *this;
  }
  ~Descriptor();
  [[nodiscard]] int get() const { return m_fd; }
  [[nodiscard]] explicit operator bool() const { return m_fd >= 0; }
  /// Closes it now. False, with errno set, where the system says that what was written is not kept.
  [[nodiscard]] bool close();

private:
  int m_fd = -1;
};

/// Opens a regular file to be read; never waits, as opening a pipe would. Errors: Missing; Unreadable (no permission, a
/// folder, a pipe or a device).
[[nodiscard]] Result<Descriptor> openToRead(const std::string& path);

/// The length of an open file in bytes; 0 where it cannot be told.
[[nodiscard]] int64_t sizeOf(const Descriptor& file);

/// Reads up to `count` bytes from byte `at`, fewer only at the end of the file. Returns −1, with errno set, on an
/// error.
[[nodiscard]] ptrdiff_t readAt(const Descriptor& file, int64_t at, void* to, size_t count);

/// Writes all bytes at the present position. Returns false, with errno set, on an error.
[[nodiscard]] bool writeAll(const Descriptor& file, const void* bytes, size_t count);

/// What to tell when writing to `path` ended with the errno value `code`: a full disk, a limit on the size of files, or
/// the system's own words. `reassurance` says what was not lost by it, and may be empty. Thread-safe.
[[nodiscard]] tl::unexpected<Error> cannotWrite(const std::string& path, int code, const Message& reassurance = {});

} // namespace tromb
