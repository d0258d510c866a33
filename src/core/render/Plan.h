// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "element/CaptionFile.h"
#include "element/ElementDrawing.h"
#include "media/Reading.h"
#include "project/Timing.h"
#include "time/FrameMap.h"

#include <optional>
#include <utility>
#include <vector>

namespace tromb {

/// The picture under a shot's picture, and how it is read.
struct PlanStill {
  Reading reading;
  PictureShape shape;
};

/// One shot in one deliverable.
struct PlanPiece {
  Reading reading; ///< How the shot's source is read.
  PictureShape shape;
  Size canvas;
  CanvasFormat format; ///< of the canvas
  Framing framing;
  bool moving = false;            ///< its placements are not the same for all frames
  double detail = 0;              ///< source pixels per canvas pixel, the smaller of both axes; the least of all frames
  double uncoveredPercent = 0;    ///< The share of the canvas that is uncovered, the most of all frames.
  int64_t firstFrame = 0;         ///< in the deliverable
  int64_t frameCount = 0;         ///< may be 0 for a shot shorter than half a frame
  FrameMap frames;                ///< which frames of the source its frames show, counted from the shot's beginning
  int64_t skipped = 0;            ///< frames of the shot that a stretch leaves out before the piece's first
  Rational start;                 ///< exact seconds of the deliverable's running order
  Shot shot;                      ///< with its in, out, pace and sound level
  std::optional<PlanStill> still; ///< where its ground is one

  /// What of the source is shown as frame n of the piece, n in [0, frameCount), see FrameMap. Counted in fields where
  /// it is read by fields.
  [[nodiscard]] ShownFrames shown(int64_t n) const { return frames.shown(n + skipped); }
  /// The frame of the source's file that it is.
  [[nodiscard]] int64_t sourceFrame(int64_t n) const {
    const int64_t picture = shown(n).frame;
    return reading.repeats ? reading.repeats->frameOf(picture) : picture / (reading.byFields ? 2 : 1);
  }
  /// How it is laid on the canvas in frame n of the piece: at the frame's own time, so that a move goes on evenly
  /// where a source frame is shown twice.
  [[nodiscard]] std::vector<Placement> placements(int64_t n, const FrameRate& rate) const;
};

/// A sound bed and how its file is read.
struct PlanBed {
  SoundBed bed; ///< begins in the deliverable's running order
  Reading reading;
};

/// What elements lie on in a deliverable: its canvas, what its destination holds to be safe and what it covers, and no
/// less from the edges than graphics need.
[[nodiscard]] ElementCanvas elementCanvasOf(const Deliverable& deliverable);

/// An element as it lies over one deliverable.
struct PlanElement {
  Element element;
  int64_t firstFrame = 0;         ///< in the deliverable; of a region before 0 where the element began before it
  int64_t frameCount = 0;         ///< at least 1
  std::optional<Reading> picture; ///< of one that is a picture

  /// How opaque it is on frame n of the deliverable, 0 where it is not seen. Taken at the middle of the frame, so that
  /// both ends of a fade are alike.
  [[nodiscard]] double opacity(int64_t n, const FrameRate& rate) const;
};

/// "What is on frame n of deliverable d": immutable and checked, the one source of framing and timing for
/// preview, export, command line and tests. Safe to read from any number of threads.
class Plan {
public:
  /// Errors: InvalidArgument (no such deliverable, no shots, illegal canvas), and the source's own error when a
  /// shot's file cannot be used.
  [[nodiscard]] static Result<Plan> build(const Project& project, const Footage& footage,
                                          const std::string& deliverableId);
  /// Builds the plan of a region alone, with the same frames and the same sound that the whole has there. Its ends are
  /// rounded to the deliverable's frames. Errors: also InvalidArgument when it holds no frame.
  [[nodiscard]] static Result<Plan> build(const Project& project, const Footage& footage,
                                          const std::string& deliverableId, const Region& region);

  [[nodiscard]] const Deliverable& deliverable() const { return m_deliverable; }
  [[nodiscard]] const Encoding& encoding() const { return m_encoding; } ///< every value filled in
  [[nodiscard]] Size canvas() const { return m_deliverable.canvas; }
  [[nodiscard]] const CanvasFormat& format() const { return m_deliverable.format; }
  [[nodiscard]] const FrameRate& rate() const { return m_deliverable.rate; }
  [[nodiscard]] int64_t frameCount() const { return m_frameCount; }
  [[nodiscard]] Rational duration() const { return rate().timeOf(m_frameCount); }
  /// One for each shot, in running order; those outside a region have no frames.
  [[nodiscard]] const std::vector<PlanPiece>& pieces() const { return m_pieces; }
  [[nodiscard]] const std::vector<PlanBed>& beds() const { return m_beds; }
  /// What lies over the pictures, the lowest first. Pointers to them stay good as long as the plan is not changed.
  [[nodiscard]] const std::vector<PlanElement>& elements() const { return m_elements; }
  [[nodiscard]] const ElementCanvas& elementCanvas() const { return m_elementCanvas; }
  /// The captions that go into a file beside the picture, in seconds of the plan, in order; none where they are burned
  /// in, or left out.
  [[nodiscard]] const std::vector<Caption>& captions() const { return m_captions; }
  /// Returns true if something lies over the pictures of some of these frames.
  [[nodiscard]] bool hasElements(int64_t first, int64_t count) const;
  /// Returns true if what lies over these frames is the same on all of them.
  [[nodiscard]] bool sameElements(int64_t first, int64_t count) const;
  /// The id of the deliverable whose places elements have, see Sharing.h.
  [[nodiscard]] const std::string& framedAs() const;
  /// How the deliverable's running order lies to the project's.
  [[nodiscard]] const Timing& timing() const { return m_timing; }
  /// Seconds of the deliverable's running order at which frame 0 is shown: 0 but for a region.
  [[nodiscard]] Rational begin() const { return rate().timeOf(m_firstFrame); }
  [[nodiscard]] const std::string& regionName() const { return m_regionName; } ///< empty for the whole
  /// The marks that the encoding asks for, in order, in seconds of the plan. Those of regions end where the next
  /// begins.
  [[nodiscard]] std::vector<Chapter> chapters() const;
  [[nodiscard]] bool hasSound() const;
  [[nodiscard]] const Output& output() const { return m_output; } ///< How the project is delivered.

  struct At {
    const PlanPiece* piece;
    int64_t frame; ///< The frame of the piece.
    ShownFrames shown;
  };
  /// Frame n in [0, frameCount).
  [[nodiscard]] At at(int64_t n) const;

private:
  explicit Plan(Timing timing) : m_timing(std::move(timing)) {}
  Deliverable m_deliverable;
  Encoding m_encoding;
  std::vector<PlanPiece> m_pieces;
  std::vector<PlanBed> m_beds;
  std::vector<PlanElement> m_elements;
  ElementCanvas m_elementCanvas;
  std::vector<Caption> m_captions;
  std::vector<Region> m_regions; ///< in the deliverable's running order
  Timing m_timing;
  Output m_output;
  std::string m_regionName;
  int64_t m_firstFrame = 0; ///< Counted from the beginning of the whole running order.
  int64_t m_frameCount = 0;
};

} // namespace tromb
