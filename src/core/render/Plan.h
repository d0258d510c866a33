// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "project/Footage.h"
#include "time/Cadence.h"

namespace tromb {

/// One shot in one deliverable.
struct PlanPiece {
  std::string shotId;
  std::string shotName;
  MediaInfo media;
  PictureShape shape;
  std::vector<Placement> placements;
  double detail = 0;           ///< source pixels per canvas pixel, the smaller of both axes
  double uncoveredPercent = 0; ///< of the canvas
  int64_t firstFrame = 0;      ///< in the deliverable
  int64_t frameCount = 0;      ///< may be 0 for a shot shorter than half a frame
  int64_t sourceFirst = 0;     ///< source frame of the in point
  int64_t sourceEnd = 1;       ///< one past the last source frame of the shot
  Rational sourceIn;           ///< seconds; where the sound starts
  Rational duration;           ///< exact seconds of running order
  Rational speed{1};

  /// The source frame shown as frame n of the piece, n in [0, frameCount).
  [[nodiscard]] int64_t sourceFrame(int64_t n, const FrameRate& rate) const;
};

/// "What is on frame n of deliverable d": immutable and checked, the one source of framing and timing for
/// preview, export, command line and tests. Safe to read from any number of threads.
class Plan {
public:
  /// Errors: InvalidArgument (no such deliverable, no shots, illegal canvas), and the source's own error when a
  /// shot's file cannot be used.
  [[nodiscard]] static Result<Plan> build(const Project& project, const Footage& footage,
                                          const std::string& deliverableId);

  [[nodiscard]] const Deliverable& deliverable() const { return m_deliverable; }
  [[nodiscard]] const Encoding& encoding() const { return m_encoding; } ///< every value filled in
  [[nodiscard]] Size canvas() const { return m_deliverable.canvas; }
  [[nodiscard]] const FrameRate& rate() const { return m_deliverable.rate; }
  [[nodiscard]] int64_t frameCount() const { return m_frameCount; }
  [[nodiscard]] Rational duration() const { return rate().timeOf(m_frameCount); }
  [[nodiscard]] const std::vector<PlanPiece>& pieces() const { return m_pieces; }
  [[nodiscard]] bool hasSound() const;

  struct At {
    const PlanPiece* piece;
    int64_t sourceFrame;
  };
  /// Frame n in [0, frameCount).
  [[nodiscard]] At at(int64_t n) const;

private:
  Plan() = default;
  Deliverable m_deliverable;
  Encoding m_encoding;
  std::vector<PlanPiece> m_pieces;
  int64_t m_frameCount = 0;
};

} // namespace tromb
