// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "picture/Between.h"
#include "picture/PictureReader.h"

#include <map>
#include <memory>

namespace tromb {

/// The one place where pictures of a source come from, for exports, watching, strips and analysis, in any order: one,
/// or one between two. Whoever goes backwards says so: then all from the key frame before a picture are decoded and
/// kept, so that each group is decoded once; what does not fit into memory waits in a temporary file, and is decoded
/// again where there is no room for that either. One thread at a time; cheap to move.
class PictureSource {
public:
  static constexpr size_t kMostBytes = size_t(512) << 20; ///< of pictures in memory, as it is usual

  /// Errors: those of PictureReader.
  [[nodiscard]] static Result<PictureSource> open(const Reading& reading, ReadOptions options = {},
                                                  bool backwards = false, size_t mostBytes = kMostBytes);
  PictureSource(PictureSource&&) noexcept;
  PictureSource& operator=(PictureSource&&) noexcept;
  ~PictureSource();

  /// The picture that is shown as frame `number`, as VideoReader::shown says. Errors: those of PictureReader.
  [[nodiscard]] Result<NumberedFrame> shown(int64_t number, const std::stop_token& unasked = {});
  /// What a deliverable's frame shows. `damaged` also where a picture is another than the one that is asked for, since
  /// it is lost; the number is that of the first. Errors: also those of Between.
  [[nodiscard]] Result<NumberedFrame> shown(const ShownFrames& frames);
  /// The picture alone of `shown`.
  [[nodiscard]] Result<Frame> frameAt(int64_t number, const std::stop_token& unasked = {});
  /// A picture at `number` or before it that is there quickly, at which decoding can begin: for where any will do.
  [[nodiscard]] Result<Frame> near(int64_t number);
  /// For whoever goes through a source in order: makes the next `read` give this picture, or the first after it where
  /// it is missing.
  [[nodiscard]] Status goTo(int64_t number) { return m_reader.goTo(number); }
  /// The next picture, without a frame at the end.
  [[nodiscard]] Result<NumberedFrame> read() { return m_reader.read(); }
  /// Pictures that were decoded to go backwards, to see what it costs.
  [[nodiscard]] int64_t decodedBackwards() const { return m_decoded; }

private:
  struct Spill;
  struct Kept {
    NumberedFrame picture; ///< without a frame while it waits in the file
    int64_t place = -1;    ///< in the file; −1: in memory
  };
  PictureSource(const Reading& reading, PictureReader reader, bool backwards, size_t mostBytes);
  void forget(int64_t before, int64_t after);
  [[nodiscard]] Result<NumberedFrame> decodeBack(int64_t number, const std::stop_token& unasked);
  void keep(int64_t asked, NumberedFrame picture);
  void drop(std::map<int64_t, Kept>::iterator kept);
  void makeRoom();
  [[nodiscard]] NumberedFrame take(Kept& kept);

  bool m_still;
  bool m_backwards;
  bool m_shortGroups = false; ///< key frames lie close together, as far as was seen going backwards
  bool m_mixes = false;       ///< two neighbours are asked for again and again
  PictureReader m_reader;
  size_t m_mostBytes;
  size_t m_bytes = 0;             ///< of kept pictures in memory
  std::map<int64_t, Kept> m_kept; ///< by the number that was asked for
  std::unique_ptr<Spill> m_spill;
  int64_t m_decoded = 0;
  Between m_between;
};

} // namespace tromb
