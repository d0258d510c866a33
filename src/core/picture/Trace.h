// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "io/Descriptor.h"
#include "media/Frame.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace tromb {

/// What is kept of one picture of a deliverable, to know it again: a small copy, how sharp it is, and its edges.
struct PictureTrace {
  static constexpr int kLongSide = 96;  ///< most cells of the small copy of luma; chroma has a quarter of that
  static constexpr int kCellPixels = 8; ///< least pixels along a cell, so that encoding leaves its mean
  static constexpr int kEdgeLines = 2;  ///< outermost lines or columns that belong to an edge
  static constexpr int kEdgeParts = 24; ///< means along each edge
  static constexpr int kPatches = 128;  ///< most patches of luma that are kept as they are
  static constexpr int kPatchSide = 8;  ///< samples along each side of a patch

  /// Sizes of the small copies for a canvas.
  struct Shape {
    Size luma;
    Size chroma;
    Size patches; ///< how many beside and below each other, one in each field of the picture
    explicit Shape(Size canvas);
    [[nodiscard]] size_t cells() const {
      return size_t(luma.width) * size_t(luma.height) + 2 * size_t(chroma.width) * size_t(chroma.height);
    }
    [[nodiscard]] size_t patchBytes() const {
      return size_t(patches.width) * size_t(patches.height) * size_t(kPatchSide * kPatchSide);
    }
    [[nodiscard]] size_t bytes() const { ///< of one, packed
      return cells() + patchBytes() + size_t(4 * kEdgeParts) + sizeof(float) + sizeof(uint32_t);
    }
  };

  std::vector<uint8_t> cells; ///< means of 8-bit samples, row by row: Y, then U, then V
  float sharpness = 0;        ///< mean of the largest steps between neighbouring luma samples: one in two hundred
  std::array<uint8_t, size_t(4 * kEdgeParts)> edges{}; ///< luma: top, bottom, left, right

  /// Where in its field each patch lies; pictures that are compared have the same. It is another from picture to
  /// picture, so that in time all of the canvas is looked at.
  uint32_t scatter = 0;
  std::vector<uint8_t> patches; ///< 8-bit samples of luma, patch by patch and row by row

  /// Makes the trace of a canvas or of a decoded picture, which is planar Y′CbCr of 8 to 12 bits and of the size that
  /// `shape` was made for.
  [[nodiscard]] static PictureTrace of(const Frame& picture, const Shape& shape, uint32_t scatter);
  /// Structural similarity of luma in the mean of the patches, 1 where they are equal (Wang, Bovik, Sheikh, Simoncelli:
  /// Image quality assessment, IEEE Transactions on Image Processing 13, 2004, with windows of 8×8 samples). That of
  /// whole pictures lies within about 0.01 of it. `other` has the same shape and scatter.
  [[nodiscard]] double likeness(const PictureTrace& other) const;

  /// As bytes for a file of this machine, and back; what is too short is padded with nothing.
  [[nodiscard]] std::vector<uint8_t> packed() const;
  [[nodiscard]] static PictureTrace unpacked(std::string_view bytes, const Shape& shape);
};

/// What is kept of a deliverable's sound: every channel at 4 kHz, each value the mean of twelve samples.
struct SoundTrace {
  static constexpr int kEvery = 12; ///< samples at 48 kHz
  static constexpr int kRate = 4000;
  using Value = int16_t; ///< full scale is 16384, so that overs up to 6 dB are kept
  static constexpr float kFull = 16384;
};

/// Gathers interleaved samples at 48 kHz into values of a SoundTrace. One thread at a time.
class SoundGatherer {
public:
  explicit SoundGatherer(int channels) : m_sum(size_t(channels)) {}
  /// Appends the values that are complete now to `values`, interleaved.
  void add(std::span<const float> samples, std::vector<SoundTrace::Value>& values);

private:
  std::vector<float> m_sum; ///< by channel
  int m_count = 0;
};

/// The traces of a whole deliverable, in a file without a name that is gone when this is; about 350 kB a second of 25
/// pictures, so nothing piles up in memory. Pictures are added by one thread and sound by one (the same or another);
/// what was added is read afterwards.
class TraceFile {
public:
  /// Creates an empty file of traces in `folder`, for sound of so many channels. Errors: CannotWrite.
  /// `whenFull`: see Descriptor::setWhenFull.
  [[nodiscard]] static Result<TraceFile> create(const std::string& folder, Size canvas, int channels,
                                                const WhenFull& whenFull = {});

  [[nodiscard]] const PictureTrace::Shape& shape() const { return m_shape; }
  /// The next picture, shown for `frames` frames. Errors: CannotWrite.
  [[nodiscard]] Status addPicture(const PictureTrace& trace, int64_t frames);
  [[nodiscard]] Status addSound(std::span<const float> samples); ///< interleaved, at 48 kHz

  [[nodiscard]] int64_t frameCount() const { return int64_t(m_placeOfFrame.size()); }
  [[nodiscard]] Result<PictureTrace> picture(int64_t frame) const;
  [[nodiscard]] int channels() const { return m_channels; }
  [[nodiscard]] int64_t soundCount() const { return m_soundCount; } ///< values of each channel
  /// `count` values of every channel from `first`, interleaved; fewer at the end.
  [[nodiscard]] Result<std::vector<SoundTrace::Value>> sound(int64_t first, int64_t count) const;

private:
  TraceFile(Size canvas, int channels) : m_shape(canvas), m_channels(channels), m_gatherer(channels) {}
  PictureTrace::Shape m_shape;
  int m_channels;
  std::string m_folder; ///< for messages
  Descriptor m_pictures;
  Descriptor m_sound;
  std::vector<uint32_t> m_placeOfFrame; ///< For each frame, the place of its trace in the file.
  uint32_t m_pictureCount = 0;
  int64_t m_soundCount = 0;
  SoundGatherer m_gatherer;
};

} // namespace tromb
