// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "time/FrameRate.h"

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// Bits a second of AAC sound.
inline constexpr int64_t kLeastAudioBitRate = 8'000;
inline constexpr int64_t kMostAudioBitRate = 512'000;
/// Bits a second of the picture: what the encoder takes.
inline constexpr int64_t kLeastBitRate = 10'000;
inline constexpr int64_t kMostBitRate = 1'000'000'000;
/// Constant quality: 0 would be lossless, which none of the profiles here can hold.
inline constexpr double kLeastCrf = 1;
inline constexpr double kMostCrf = 51;

enum class RateControl { ConstantQuality, Variable, Constant };

/// How a deliverable's picture and sound are encoded: H.264 and AAC in MP4.
struct Encoding {
  RateControl rateControl = RateControl::Variable;
  double crf = 20;              ///< x264's constant-quality scale, 0 to 51; used by ConstantQuality
  int64_t bitRate = 0;          ///< video bits per second; 0 = the usual one for the size and rate
  int64_t maxBitRate = 0;       ///< fill rate of the decoder's buffer, bits per second; 0 = 1.5 × bitRate
  std::string profile = "high"; ///< baseline, main or high
  std::string level;            ///< "4.1"; empty = the lowest that fits
  std::string speed = "medium"; ///< x264's speed presets, ultrafast to veryslow
  int64_t audioBitRate = 192'000;
  std::string unknown; ///< see Project.h
  friend bool operator==(const Encoding&, const Encoding&) = default;
};

[[nodiscard]] const char* rateControlWord(RateControl control); ///< "crf", "vbr", "cbr"
[[nodiscard]] bool rateControlByWord(std::string_view word, RateControl& control);
[[nodiscard]] const std::vector<std::string>& profiles();
[[nodiscard]] const std::vector<std::string>& speeds();

/// The usual bit rate for web delivery: 8 Mb/s for 1080p up to 30 frames, in proportion to the pixels, half as
/// much again above 30; rounded to 100 kb/s. Common practice, no published source.
[[nodiscard]] int64_t usualBitRate(Size canvas, const FrameRate& rate);

/// The encoding with every "0 = usual" filled in for a canvas and rate; the level too.
[[nodiscard]] Encoding resolved(const Encoding& encoding, Size canvas, const FrameRate& rate);

/// Succeeds if the encoder can make what a resolved encoding asks for. Errors: InvalidArgument, with what to do.
[[nodiscard]] Status encodable(const Encoding& resolved);
/// Succeeds if the level of a resolved encoding carries canvas, rate and bit rate. Errors: InvalidArgument, with the
/// level that does.
[[nodiscard]] Status levelCarries(const Encoding& resolved, Size canvas, const FrameRate& rate);

/// Bytes that a bit rate fills in a time, without the container: (video + audio) · s / 8.
[[nodiscard]] int64_t estimatedBytes(int64_t videoBitRate, int64_t audioBitRate, const Rational& seconds);

/// Video bits spent on a pixel: bit rate / (width · height · rate).
[[nodiscard]] double bitsPerPixel(int64_t bitRate, Size canvas, const FrameRate& rate);

/// Reads "8M", "192k", "2500000". Bits per second, 1 to 10^12.
[[nodiscard]] Result<int64_t> parseBitRate(std::string_view text);
/// "8 Mb/s", "192 kb/s": for people.
[[nodiscard]] std::string bitRateText(int64_t bitRate);
/// "61.4 MB" (10⁶): for people.
[[nodiscard]] std::string bytesText(int64_t bytes);

} // namespace tromb
