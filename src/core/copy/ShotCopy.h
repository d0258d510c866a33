// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "copy/CopyPlan.h"
#include "media/CodedUnits.h"
#include "render/Plan.h"

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <tuple>

struct AVPacket;

namespace tromb {

/// Why the pictures of a shot are encoded in a deliverable that copies what is so already.
struct WhyEncoded {
  Message why;       ///< "its rate is 30, and the deliverable's 25"; empty: they can be copied
  std::string level; ///< that the deliverable would need for it, where that is all
};
/// Of a piece of the plan: its source's codec, profile, level, samples, colours, size and rate have to be the
/// deliverable's, and its picture whole and still. Reads no file. Thread-safe.
[[nodiscard]] WhyEncoded whyEncoded(const Plan& plan, const PlanPiece& piece);

/// The plan of a deliverable that need not be in the project, or not as it is here. Errors: those of Plan::build.
[[nodiscard]] Result<Plan> planWith(const Project& project, const Footage& footage, const Deliverable& deliverable,
                                    const Region* region = nullptr);

/// About the bytes of a plan's file, without its container: what is copied has the bit rate of its source, the rest
/// that of the encoding. Nothing where that follows from the pictures. Reads no file. Thread-safe.
[[nodiscard]] std::optional<int64_t> expectedBytes(const Plan& plan);
/// The same of a deliverable, see planWith, of all of it or of a region; as if it were encoded where it cannot be
/// planned. `seconds` is its length.
[[nodiscard]] std::optional<int64_t> expectedBytes(const Project& project, const Footage& footage,
                                                   const Deliverable& deliverable, const Rational& seconds,
                                                   const Region* region = nullptr);

/// What becomes of a shot's pictures. Shots that go on in the source where the one before ends are one part, which
/// is cut at its own ends alone.
struct ShotCopy {
  WhyEncoded encoded;                ///< its `why` is empty where it is copied
  int64_t encodedBefore = 0;         ///< pictures at its beginning that are encoded, since its cut lies within a group
  int64_t encodedBehind = 0;         ///< … and at its end
  std::optional<int64_t> freeBefore; ///< frames of its source at which its beginning would be free
  std::optional<int64_t> freeBehind;
  std::optional<int64_t> freeEnd; ///< … and its end
};

/// What has been read of files: by path, bytes, and frames.
using CopyMemory = std::map<std::tuple<std::string, int64_t, int64_t, int64_t>, CopyPart>;

/// A stretch of a deliverable whose pictures are copied.
struct CopiedStretch {
  size_t piece = 0;  ///< of the plan, the first of them
  int64_t first = 0; ///< frames [first, end) of the deliverable
  int64_t end = 0;
  int64_t source = 0; ///< frame of the source that `first` shows
  bool open = false;  ///< see CopyPart
};

/// What a deliverable copies.
struct ShotCopies {
  std::vector<ShotCopy> shots;           ///< of each piece of the plan
  std::vector<CopiedStretch> stretches;  ///< ascending
  std::string headers;                   ///< the parameter sets of all sources, behind start codes; may be empty
  std::map<std::string, SetNumbers> own; ///< those of a source, by path, whose sets bear other numbers here
  int64_t ahead = 0;                     ///< frames by which copied pictures are decoded before they are shown
  [[nodiscard]] int64_t copied() const;  ///< frames
};
/// Reads files round the cuts alone. A file that cannot be read is not copied. `memory` may be null. Thread-safe for
/// different memories.
[[nodiscard]] ShotCopies planShotCopies(const Plan& plan, CopyMemory* memory = nullptr,
                                        const std::stop_token& stop = {});

/// Hands out the packets of what a deliverable copies, in order. One thread at a time; movable.
class CopyStream {
public:
  /// The plan outlives this.
  CopyStream(const Plan& plan, ShotCopies copies, std::stop_token stop);
  CopyStream(CopyStream&&) noexcept;
  CopyStream& operator=(CopyStream&&) noexcept;
  ~CopyStream();
  [[nodiscard]] const ShotCopies& copies() const;
  /// The end of the stretch that a frame of the deliverable is in; the frame itself where it is not copied.
  [[nodiscard]] int64_t endOf(int64_t frame) const;
  /// The next packet, of as many as there are frames in the stretch that `frame` is in: asked for once for each of
  /// them, in order. Its times are in frames of the deliverable; units lie behind start codes. Errors: those of
  /// reading, Unsupported (what the file says of its pictures does not hold), and those of the sink.
  [[nodiscard]] Status next(int64_t frame, const std::function<Status(AVPacket& packet)>& sink);

private:
  struct State;
  std::unique_ptr<State> m_state;
};

} // namespace tromb
