// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <cstdint>
#include <memory>
#include <string>

namespace tromb {

struct ServiceSettings {
  std::string folder;         ///< where uploads and what is made of them are kept; made where it is not there
  std::string token;          ///< by which whoever sends signs in; never empty
  int64_t tokenUntil = 0;     ///< seconds since 1970, UTC, from which on it is outdated; 0: never
  int64_t roomBytes = 0;      ///< for all uploads together; 0: as much as the disk has
  std::string destination;    ///< id of the destination whose limits it keeps to; empty: none
  int answerMilliseconds = 0; ///< that every answer takes longer
  int port = 0;               ///< 0: any that is free
};

/// A stand-in of a publishing service, to see what becomes of a file on the way to its viewers, and for tests. It
/// listens on the loopback interface alone, and reads nothing but what was uploaded. Uploads are resumable, in the
/// manner of the IETF's draft "Resumable Uploads for HTTP": POST /uploads announces one ({"name", "bytes", "sha256"}),
/// HEAD on its location tells Upload-Offset, PATCH with Upload-Offset adds a part, GET tells its state and, once it was
/// compressed, its renditions. The same file (by its digest) is the same upload, however often it is announced. What is
/// beyond a limit is refused in words. Everything lies on the disk: a service that is started anew goes on where the
/// last one ended.
///
/// Renditions are H.264 at 1080, 720, 480 and 360 lines of the shorter side, none larger than what was sent, at 4.5,
/// 2.5, 1.2 and 0.7 Mb/s at 30 frames a second (common practice, no published source).
class StandInService {
public:
  /// Errors: CannotWrite (the folder), InvalidArgument (no token, no such destination, a port that is taken).
  [[nodiscard]] static Result<std::unique_ptr<StandInService>> start(const ServiceSettings& settings);
  ~StandInService(); ///< Ends what is under way; it can be gone on with.
  StandInService(const StandInService&) = delete;
  StandInService& operator=(const StandInService&) = delete;
  [[nodiscard]] std::string address() const; ///< "http://127.0.0.1:PORT"

private:
  struct State;
  explicit StandInService(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
