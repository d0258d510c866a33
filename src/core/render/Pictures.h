// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "picture/Composer.h"
#include "render/Plan.h"

#include <cstdint>
#include <stop_token>
#include <vector>

namespace tromb {

/// What composes a shot in its deliverable. Reads the picture under it, where there is one. Errors: those of the file.
[[nodiscard]] Result<Composer> composerFor(const PlanPiece& piece);

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
  ScreenComposer(const PictureShape& shape, Size most);
  [[nodiscard]] Result<ScreenPicture> draw(const Frame& picture);

private:
  Size m_size;
  bool m_transparent;
  Composer m_composer; ///< knows how to turn and widen: the whole picture laid on a canvas of its own shape
  Composer m_opacity;  ///< the same for how opaque it is
  std::vector<Placement> m_whole;
};

} // namespace tromb
