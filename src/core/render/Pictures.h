// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "picture/Composer.h"
#include "picture/PictureSource.h"
#include "render/ElementPainter.h"
#include "render/Plan.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

namespace tromb {

/// What composes a shot in its deliverable. Reads the picture under it, where there is one. Errors: those of the file.
[[nodiscard]] Result<Composer> composerFor(const PlanPiece& piece);

/// Gives a composer the picture under a shot's, where there is one. Errors: those of the file.
[[nodiscard]] Status giveStill(Composer& composer, const PlanPiece& piece);

/// The pictures of a shot in the order in which its deliverable shows them. Errors: those of PictureSource.
[[nodiscard]] Result<PictureSource> sourceFor(const PlanPiece& piece, std::stop_token stop = {});

/// The pictures that an export encodes, before the encoder, one by one: quick where the frames that are asked for
/// ascend. One thread at a time. The plan must outlive it.
class PlanPictures {
public:
  /// `stop` ends every call, also later ones, with Cancelled.
  explicit PlanPictures(const Plan& plan, std::stop_token stop = {})
      : m_plan(plan), m_stop(std::move(stop)), m_painter(plan, m_stop) {}
  /// Frame `n` of the plan, in [0, frameCount). Errors: those of PictureSource, Composer and ElementPainter.
  [[nodiscard]] Result<Frame> at(int64_t n);

private:
  const Plan& m_plan;
  std::stop_token m_stop;
  const PlanPiece* m_piece = nullptr; ///< the one that source and composer are of
  std::optional<PictureSource> m_source;
  std::optional<Composer> m_composer;
  ElementPainter m_painter;
};

/// The picture that an export encodes as frame `n` of the plan, before the encoder. Opens the source anew.
[[nodiscard]] Result<Frame> renderFrame(const Plan& plan, int64_t n);

/// A picture in memory for screens: `width` × `height`, four bytes a pixel (blue, green, red, and 255 or, in a
/// transparent one, how opaque it is; colours are times that already), rows without padding.
struct ScreenPicture {
  Size size;
  std::vector<uint8_t> bytes;
  bool transparent = false;
};

/// A canvas or any decoded picture as the screen shows it, scaled to the largest size of its shape within `most`.
[[nodiscard]] Result<ScreenPicture> toScreen(const Frame& picture, Size most);
[[nodiscard]] Result<ScreenPicture> toScreen(const Frame& picture); ///< pixel for pixel

/// Brings canvases to the screen, pixel for pixel, again and again; those of ordinary video quickly, within 2 codes of
/// what `toScreen` gives. One thread at a time.
class ScreenConverter {
public:
  ScreenConverter();
  ScreenConverter(ScreenConverter&&) noexcept;
  ScreenConverter& operator=(ScreenConverter&&) noexcept;
  ~ScreenConverter();
  /// Errors: those of Scaler.
  [[nodiscard]] Result<ScreenPicture> convert(const Frame& canvas);

private:
  struct Quick;
  std::unique_ptr<Quick> m_quick;
};

/// Part of a picture for screens (four bytes a pixel as in ScreenPicture, `stride` bytes a row) at another size, as
/// Scaler makes it. `part` lies inside it.
[[nodiscard]] Result<ScreenPicture> resampled(const uint8_t* bytes, ptrdiff_t stride, Size size, const RectF& part,
                                              Size to, Kernel kernel);

/// The upright, square-pixel source picture without its bars, as large as fits `most` (never enlarged): what
/// previews draw windows from. The frame nearest to `frame`; with `near` any key frame before it will do.
[[nodiscard]] Result<ScreenPicture> sourcePicture(const Reading& reading, int64_t frame, Size most, bool near);

/// `count` pictures spread over a source's length, as `sourcePicture` makes them from near key frames; stills give
/// one. Fewer when stopped.
[[nodiscard]] Result<std::vector<ScreenPicture>> sourceStrip(const Reading& reading, int count, Size most,
                                                             std::stop_token stop = {});

/// Draws pictures of one source for a screen, again and again: `sourcePicture` for frames that are decoded already.
/// One thread at a time.
class ScreenComposer {
public:
  explicit ScreenComposer(const PictureShape& shape, Size most, Kernel kernel = Kernel::Sharp);
  [[nodiscard]] Result<ScreenPicture> draw(const Frame& picture);

private:
  Size m_size;
  bool m_transparent;
  bool m_quick; ///< for what is only watched
  ScreenConverter m_converter;
  Composer m_composer; ///< knows how to turn and widen: the whole picture laid on a canvas of its own shape
  Composer m_opacity;  ///< the same for how opaque it is
  std::vector<Placement> m_whole;
};

} // namespace tromb
