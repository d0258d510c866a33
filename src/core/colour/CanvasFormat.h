// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "colour/ColourTags.h"

#include <cstdint>
#include <string_view>

namespace tromb {

/// Subsampling of colour: 4:2:0, 4:2:2, or none.
enum class Chroma { C420, C422, C444 };

/// How the samples of a canvas are stored: depth, subsampling, colour and range. With the matrix kMatrixRgb the planes
/// are green, blue and red; otherwise they are Y′, C′b and C′r. Value, thread-safe.
struct CanvasFormat {
  int depth = 8; ///< bits of a sample: 8, 10 or 16
  Chroma chroma = Chroma::C420;
  ColourTags colour = kRec709;
  friend bool operator==(const CanvasFormat&, const CanvasFormat&) = default;

  [[nodiscard]] bool isRgb() const { return colour.matrix == kMatrixRgb; }
  /// By how many binary places chroma planes are smaller than luma, across and down.
  [[nodiscard]] int shiftX() const { return chroma == Chroma::C444 ? 0 : 1; }
  [[nodiscard]] int shiftY() const { return chroma == Chroma::C420 ? 1 : 0; }

  /// Code values of luma for black, and from black to white (Rec. ITU-R BT.709, BT.2100: 16 and 219 of 8 bits).
  [[nodiscard]] double lumaBlack() const { return colour.fullRange ? 0 : 16 * step(); }
  [[nodiscard]] double lumaSpan() const { return colour.fullRange ? mostCode() : 219 * step(); }
  /// Code value of chroma for no colour, and the span from −0.5 to 0.5.
  [[nodiscard]] double chromaNone() const { return 128 * step(); }
  [[nodiscard]] double chromaSpan() const { return colour.fullRange ? mostCode() : 224 * step(); }
  [[nodiscard]] int mostCode() const { return (1 << depth) - 1; }
  /// Codes of this depth for one of 8 bits.
  [[nodiscard]] double step() const { return double(1 << (depth - 8)); }

  /// The same with another depth or subsampling.
  [[nodiscard]] CanvasFormat withDepth(int bits) const { return {bits, chroma, colour}; }
  [[nodiscard]] CanvasFormat withChroma(Chroma other) const { return {depth, other, colour}; }
};

/// Red, green and blue of full range for screens and picture files.
[[nodiscard]] constexpr CanvasFormat rgbFormat(int depth = 8) {
  return {depth, Chroma::C444, {kPrimaries709, kTransfer709, kMatrixRgb, true}};
}

[[nodiscard]] const char* chromaWord(Chroma chroma); ///< "420", "422", "444"
[[nodiscard]] bool chromaByWord(std::string_view word, Chroma& chroma);
/// The word for the colour of a deliverable: "rec709", "hlg" or "pq"; null for others.
[[nodiscard]] const char* colourWord(const ColourTags& tags);
[[nodiscard]] bool colourByWord(std::string_view word, ColourTags& tags);
/// "8-bit 4:2:0", for people.
[[nodiscard]] Message samplesText(const CanvasFormat& format);

} // namespace tromb
