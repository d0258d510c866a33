// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <string>
#include <utility>

namespace tromb {

/// Called where a disk is full, by the thread that writes. True: there may be room now, and writing is tried again.
using WhenFull = std::function<bool()>;

/// An open file of the operating system that closes itself. Movable; one thread at a time.
class Descriptor {
public:
  Descriptor() = default;
  explicit Descriptor(int fd) : m_fd(fd) {}
  Descriptor(Descriptor&& other) noexcept
      : m_fd(std::exchange(other.m_fd, -1)), m_whenFull(std::move(other.m_whenFull)) {}
  Descriptor& operator=(Descriptor&& other) noexcept {
    std::swap(m_fd, other.m_fd);
    std::swap(m_whenFull, other.m_whenFull);
    return *this;
  }
  ~Descriptor();
  [[nodiscard]] int get() const { return m_fd; }
  [[nodiscard]] explicit operator bool() const { return m_fd >= 0; }
  /// Closes it now. False, with errno set, where the system says that what was written is not kept.
  [[nodiscard]] bool close();
  /// What writing to it does where the disk is full; without it, that is an error.
  void setWhenFull(WhenFull whenFull) { m_whenFull = std::move(whenFull); }
  /// After a write that failed with an errno value: true if it is to be tried again.
  [[nodiscard]] bool triesAgain(int code) const;

private:
  int m_fd = -1;
  WhenFull m_whenFull;
};

/// Opens a regular file to be read; never waits, as opening a pipe would. Errors: Missing; Unreadable (no permission, a
/// folder, a pipe or a device).
[[nodiscard]] Result<Descriptor> openToRead(const std::string& path);

/// The length of an open file in bytes; 0 where it cannot be told.
[[nodiscard]] int64_t sizeOf(const Descriptor& file);

/// What tells an open file from all others of this system, and from itself before it was written to last, whatever it
/// is called: its device, number, length and time of change. Empty where it cannot be told.
[[nodiscard]] std::string identityOf(const Descriptor& file);
/// The same of a file under a name; empty where nothing has that name.
[[nodiscard]] std::string identityOf(const std::string& path);

/// Reads up to `count` bytes from byte `at`, fewer only at the end of the file. Returns −1, with errno set, on an
/// error.
[[nodiscard]] ptrdiff_t readAt(const Descriptor& file, int64_t at, void* to, size_t count);

/// Writes all bytes at the present position. Returns false, with errno set, on an error.
[[nodiscard]] bool writeAll(const Descriptor& file, const void* bytes, size_t count);

/// What to tell when writing to `path` ended with the errno value `code`: a full disk, a limit on the size of files, or
/// the system's own words. `reassurance` says what was not lost by it, and may be empty. Thread-safe.
[[nodiscard]] tl::unexpected<Error> cannotWrite(const std::string& path, int code, const Message& reassurance = {});

} // namespace tromb
