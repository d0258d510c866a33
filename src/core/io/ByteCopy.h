// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/Descriptor.h"

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>

namespace tromb {

/// An open file, and what it is called in messages.
struct NamedFile {
  const Descriptor& file;
  const std::string& path;
};

/// Told of the bytes of a file, one stretch after the other.
using OnBytes = std::function<void(std::string_view bytes)>;

/// Reads all of a file from its beginning. Errors: Unreadable, Cancelled.
[[nodiscard]] Status readBytes(const NamedFile& file, const OnBytes& onBytes, const std::stop_token& stop = {});

/// Writes all of a file to the present place of another; `onBytes` is told what was written. Errors: also CannotWrite,
/// with `reassurance` as in cannotWrite.
[[nodiscard]] Status copyBytes(const NamedFile& from, const NamedFile& to, const OnBytes& onBytes,
                               const std::stop_token& stop = {}, const Message& reassurance = {});

/// The byte from which on a copy differs from its original; where one is only longer, the length of the other. Nothing
/// where they are the same. What the system remembers of the copy is dropped first, so that the disk answers. `onBytes`
/// is told what is the same. Errors: Unreadable, Cancelled.
[[nodiscard]] Result<std::optional<int64_t>> firstDifference(const NamedFile& original, const NamedFile& copy,
                                                             const OnBytes& onBytes, const std::stop_token& stop = {});

} // namespace tromb
