// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "handover/FolderDevice.h"

#include <vector>

namespace tromb {

/// One of the files that a publishing service shows to viewers in place of the one it was given.
struct Rendition {
  std::string name;
  Size canvas;
  int64_t bytes = 0;
  int64_t bitRate = 0; ///< of the whole file, bits a second
  std::string path;    ///< where it was fetched to; empty where it was not
};

struct PublishRequest {
  std::string path;
  std::string address; ///< "http://127.0.0.1:PORT"
  std::string token;
  /// Where renditions are fetched to; made where it is not there. Empty: they are not.
  std::string folder;
  int64_t partBytes = 4'000'000; ///< of one request
  /// How long to go on where the service cannot be reached or breaks connections off, in seconds since it was heard
  /// last.
  double patience = 30;
  enum class Stage { Sending, Compressing, Fetching };
  /// Told how far it is, 0 to 1 in each stage, by the calling thread.
  std::function<void(Stage, double)> onProgress = {};
};

struct Published {
  HandedFile file;                   ///< `wasThere`: the service had all of it already
  std::vector<Rendition> renditions; ///< the largest first
};

/// Hands a file to a publishing service (see StandInService), goes on where an earlier try has ended, and waits for
/// what the service makes of it. Where the connection breaks off it tries again; nothing that has arrived is sent
/// twice. Errors: Missing, Unreadable, InvalidArgument (a token that is not known or is outdated, an address that is
/// none), Unsupported (a service beyond this machine), CannotWrite (the service is full or cannot be reached),
/// FallsShort (it refuses the file, with its words), Cancelled. Thread-safe.
[[nodiscard]] Result<Published> publish(const PublishRequest& request, const std::stop_token& stop = {});

} // namespace tromb
