// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/Frame.h"
#include "time/Rational.h"

#include <string>
#include <string_view>

namespace tromb {

/// Kinds of files that hold one picture.
enum class PictureKind { Png, Jpeg, Webp };

[[nodiscard]] const char* pictureWord(PictureKind kind); ///< "png", "jpeg", "webp"; also the ending of files, but "jpg"
[[nodiscard]] const char* pictureEnding(PictureKind kind);
[[nodiscard]] bool pictureByWord(std::string_view word, PictureKind& kind);

/// Writes a canvas as a picture, atomically. PNG has 8 bits, or 16 where the canvas has more than 8; JPEG (JFIF, 4:4:4)
/// and WebP have 8 and are nearly without loss. PNG and JPEG tell the shape of the pixels. High dynamic range is shown
/// as Rec. 709 shows it. Errors: CannotWrite, Exists, Encoder. Thread-safe.
[[nodiscard]] Status writePicture(const Frame& canvas, const std::string& path, PictureKind kind, bool overwrite,
                                  const Rational& pixelAspect = Rational(1));

} // namespace tromb
