// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/PartFile.h"
#include "media/write/PictureEncoder.h"
#include "picture/Trace.h"
#include "render/Plan.h"

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

/// How the pictures of a deliverable are cut into segments, each encoded by an encoder of its own and beginning with a
/// closed group, so that one can be made without what lies before it. The cuts depend on the plan alone: whoever makes
/// it, and however often they were interrupted, makes the same pictures.
class SegmentCuts {
public:
  /// 30 s each, the last one up to twice as long. One segment: where that is all, where a second pass spreads what the
  /// first one has learned over the whole, where pictures are copied, and for loops.
  explicit SegmentCuts(const Plan& plan);
  [[nodiscard]] size_t count() const { return m_firsts.size(); }
  /// Keeping them is worth it: there are several, or an encoder in graphics hardware may give up within the only one.
  [[nodiscard]] bool kept() const { return count() > 1 || m_hardware; }
  /// Each can be made without what was spent on the others: its quality is constant, and no peak is held.
  [[nodiscard]] bool independent() const { return m_independent; }
  [[nodiscard]] int64_t first(size_t segment) const { return m_firsts[segment]; } ///< a frame
  [[nodiscard]] int64_t end(size_t segment) const { return segment + 1 < count() ? first(segment + 1) : m_frames; }
  /// Makes two of the one in which that frame lies, which is not its first.
  void cutAt(int64_t frame);

private:
  int64_t m_frames;
  std::vector<int64_t> m_firsts;
  bool m_independent;
  bool m_hardware;
};

/// Some in a row of a deliverable's segments.
struct SegmentRange {
  size_t first = 0;
  size_t end = 0;
};

/// Follows what is spent from segment to segment, so that together they keep to a bit rate and a decoder's buffer as
/// one encoder would.
class Spending {
public:
  /// Of a resolved encoding.
  Spending(const Encoding& encoding, const FrameRate& rate);
  void add(int64_t bits); ///< the next picture, in the order of decoding
  /// Tells an encoder that begins now how full the buffer is, and how much it may spend so that what was spent too
  /// much or too little before is made up for within a minute.
  void brief(PictureStream& stream) const;
  /// As bytes for a file of this machine.
  struct State {
    int64_t bits = 0;
    int64_t pictures = 0;
    double full = 0; ///< 0 to 1
  };
  [[nodiscard]] const State& state() const { return m_state; }
  void takeUp(const State& state) { m_state = state; }

private:
  State m_state;
  double m_rate; ///< pictures a second
  int64_t m_bitRate = 0;
  int64_t m_maxBitRate = 0;
  int64_t m_bufferBits = 0;
};

/// Pictures of a source in a row that were lost.
struct LostPictures {
  size_t piece = 0;  ///< of the plan
  int64_t first = 0; ///< frame of the deliverable
  int64_t count = 0;
};

/// Who made a segment.
struct SegmentMaker {
  std::string encoder; ///< FFmpeg's name
  std::string headers; ///< OutputFile::headers
};

/// The file of a segment in a folder.
[[nodiscard]] std::string segmentPath(const std::string& folder, size_t segment);

/// Whole segments of one deliverable on the disk, each a file in a folder: packets, traces and losses. A file appears
/// once it is whole and synced; one that is damaged, or was made otherwise, counts as not there. One thread at a time.
class SegmentStore {
public:
  /// `key` says how they are made: with which versions, for what. Makes the folder. Errors: CannotWrite.
  [[nodiscard]] static Result<SegmentStore> open(const std::string& folder, std::string key, Size canvas,
                                                 WhenFull whenFull);
  /// Where a segment ends.
  struct End {
    Spending::State spent; ///< until there
    int64_t frame = 0;     ///< of the deliverable, the first one behind it
  };
  struct Made {
    SegmentMaker by;
    End end;
  };
  /// Nothing where a segment is not there, whole. Reads all of it to be sure, so that `replay` need not.
  [[nodiscard]] std::optional<Made> made(size_t segment) const;
  /// Removes the segments from `first` up to `end`.
  void forget(size_t first, size_t end) const;

  struct Replay {
    std::function<Status(AVPacket& packet)> packet;
    std::function<Status(const PictureTrace& trace, int64_t frames)> trace;
    std::function<void(const LostPictures& lost)> lost;
  };
  /// Hands out what a segment holds. Errors: those of the sinks, and Unreadable.
  [[nodiscard]] Status replay(size_t segment, const Replay& to) const;

  /// Begins to write a segment; one that was begun and not finished is dropped. Errors: CannotWrite, for all of these.
  [[nodiscard]] Status begin(size_t segment, const SegmentMaker& maker);
  [[nodiscard]] Status add(const AVPacket& packet);
  [[nodiscard]] Status add(const PictureTrace& trace, int64_t frames);
  void add(const LostPictures& lost) { m_lost.push_back(lost); }
  [[nodiscard]] Status finish(const End& end);
  /// What has been added of packets is whole groups: in case of need, the segment can end there. Traces may have been
  /// added of pictures behind it; whoever replays leaves them out.
  void mark(const End& end);
  /// Ends the segment where it was marked last; one without a mark is dropped.
  [[nodiscard]] Status finishAtMark();

private:
  SegmentStore(std::string folder, std::string key, Size canvas, WhenFull whenFull);
  [[nodiscard]] std::string pathOf(size_t segment) const { return segmentPath(m_folder, segment); }
  [[nodiscard]] Status put(const void* bytes, size_t count);
  template <typename Value> [[nodiscard]] Status putValue(const Value& value);
  [[nodiscard]] Status flush();

  std::string m_folder;
  std::string m_head;
  PictureTrace::Shape m_shape;
  WhenFull m_whenFull;
  std::unique_ptr<PartFile> m_part;
  std::string m_pending;
  int64_t m_bytes = 0; ///< that have been put
  uint32_t m_check = 0;
  std::vector<LostPictures> m_lost;
  struct Marked {
    int64_t bytes = 0;
    uint32_t check = 0;
    End end;
  };
  std::optional<Marked> m_marked;
};

} // namespace tromb
