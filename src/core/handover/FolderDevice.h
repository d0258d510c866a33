// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <cstdint>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>

namespace tromb {

/// What was handed over, and where it is now.
struct HandedFile {
  std::string path; ///< there: in the folder, or its address
  int64_t bytes = 0;
  std::string digest;               ///< SHA-256 of what was sent, 64 lower-case digits
  bool wasThere = false;            ///< the very same file lay there already: nothing was sent
  std::optional<int64_t> freeBytes; ///< room that is left there, where it can be told
};

/// A finished file that is to be put into the folder of a device: a stick, a card, a phone that shows itself as a disk.
struct FolderHandOver {
  std::string path;
  std::string folder;
  std::function<void(double)> onFraction = {}; ///< told how far it is, 0 to 1, by the calling thread
  /// Called once the file has its name there, before it is looked at again. For stand-ins of devices that do something
  /// to what they are given.
  std::function<void(const std::string& path)> whenArrived = {};
};

/// Copies a file and reads it back from the device, byte for byte: what something on the way has changed or cut off is
/// an error, and stays there under its name for somebody to look at. A file of the same name with other contents gets
/// company with a number. Errors: Missing, Unreadable (also: it changed while it was read), CannotWrite (no room, with
/// how much is missing; no folder), FallsShort (it arrived otherwise), Cancelled. Thread-safe.
[[nodiscard]] Result<HandedFile> handToFolder(const FolderHandOver& request, const std::stop_token& stop = {});

/// SHA-256 of a file. Errors: Missing, Unreadable, Cancelled.
[[nodiscard]] Result<std::string> digestOf(const std::string& path, const std::stop_token& stop = {});

} // namespace tromb
