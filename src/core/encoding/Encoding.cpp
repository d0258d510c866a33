// SPDX-License-Identifier: GPL-3.0-or-later
#include "encoding/Encoding.h"

#include "encoding/H264Level.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace tromb {
namespace {

std::string withUnit(double value, const char* unit) {
  std::array<char, 48> text{};
  std::snprintf(text.data(), text.size(),
                value < 10 && std::abs(value - std::round(value)) > 0.05 ? "%.1f %s" : "%.0f %s", value, unit);
  return text.data();
}

} // namespace

const char* rateControlWord(RateControl control) {
  return control == RateControl::ConstantQuality ? "crf" : control == RateControl::Variable ? "vbr" : "cbr";
}

bool rateControlByWord(std::string_view word, RateControl& control) {
  for (const RateControl c : {RateControl::ConstantQuality, RateControl::Variable, RateControl::Constant})
    if (word == rateControlWord(c)) {
      control = c;
      return true;
    }
  return false;
}

const std::vector<std::string>& profiles() {
  static const std::vector<std::string> list{"baseline", "main", "high"};
  return list;
}

const std::vector<std::string>& speeds() {
  static const std::vector<std::string> list{"ultrafast", "superfast", "veryfast", "faster",  "fast",
                                             "medium",    "slow",      "slower",   "veryslow"};
  return list;
}

int64_t usualBitRate(Size canvas, const FrameRate& rate) {
  constexpr int64_t kStep = 100'000;
  const double fast = rate.value() > Rational(30) ? 1.5 : 1.0;
  const double bits = 8e6 * fast * canvas.width * canvas.height / (1920.0 * 1080.0);
  return std::max<int64_t>(kStep, std::llround(bits / kStep) * kStep);
}

Encoding resolved(const Encoding& encoding, Size canvas, const FrameRate& rate) {
  Encoding e = encoding;
  if (e.bitRate <= 0) e.bitRate = usualBitRate(canvas, rate);
  if (e.rateControl == RateControl::Constant)
    e.maxBitRate = e.bitRate;
  else if (e.maxBitRate <= 0)
    e.maxBitRate = e.rateControl == RateControl::Variable ? e.bitRate * 3 / 2 : 0;
  e.maxBitRate =
      e.maxBitRate > 0 ? std::max(e.maxBitRate, e.rateControl == RateControl::ConstantQuality ? 0 : e.bitRate) : 0;
  if (e.level.empty()) {
    const H264Level* lowest = lowestLevel(canvas, rate, e.profile, e.maxBitRate);
    if (!lowest) lowest = &h264Levels().back();
    e.level = lowest->name;
  }
  return e;
}

Status encodable(const Encoding& e) {
  const bool constantQuality = e.rateControl == RateControl::ConstantQuality;
  if (constantQuality && e.crf < kLeastCrf)
    return fail(ErrorCode::InvalidArgument,
                say("constant quality below 1 is lossless, which profile %1 cannot hold", e.profile), {},
                say("Use a crf of 1 or more"));
  const auto possible = [](int64_t rate) { return rate >= kLeastBitRate && rate <= kMostBitRate; };
  for (const int64_t rate :
       {constantQuality ? kLeastBitRate : e.bitRate, e.maxBitRate > 0 ? e.maxBitRate : kLeastBitRate})
    if (!possible(rate))
      return fail(ErrorCode::InvalidArgument, say("a bit rate of %1 cannot be encoded", bitRateText(rate)), {},
                  say("Use %1 to %2", bitRateText(kLeastBitRate), bitRateText(kMostBitRate)));
  return {};
}

Status levelCarries(const Encoding& e, Size canvas, const FrameRate& rate) {
  const H264Level* level = levelByName(e.level);
  if (level && carries(*level, canvas, rate, e.profile, e.maxBitRate)) return {};
  const H264Level* fitting = lowestLevel(canvas, rate, e.profile, e.maxBitRate);
  const Message what = e.maxBitRate > 0 ? say("H.264 level %1 cannot carry %2×%3 at %4 and %5", e.level, canvas.width,
                                              canvas.height, rate.name(), bitRateText(e.maxBitRate))
                                        : say("H.264 level %1 cannot carry %2×%3 at %4", e.level, canvas.width,
                                              canvas.height, rate.name());
  return fail(ErrorCode::InvalidArgument, what, {},
              fitting ? say("Use level %1 or leave the level to Tromb", fitting->name)
                      : say("Make the canvas, the rate or the bit rate smaller"));
}

int64_t estimatedBytes(int64_t videoBitRate, int64_t audioBitRate, const Rational& seconds) {
  return (Rational(videoBitRate + audioBitRate) * seconds / Rational(8)).nearest();
}

double bitsPerPixel(int64_t bitRate, Size canvas, const FrameRate& rate) {
  return double(bitRate) / (double(canvas.width) * canvas.height * rate.toDouble());
}

Result<int64_t> parseBitRate(std::string_view text) {
  std::string_view digits = text;
  int64_t unit = 1;
  if (digits.ends_with('k')) unit = 1000;
  if (digits.ends_with('M')) unit = 1'000'000;
  if (unit > 1) digits.remove_suffix(1);
  const auto value = Rational::parseDecimal(digits);
  const Rational bits = value ? *value * Rational(unit) : Rational(0);
  if (bits < Rational(1) || bits > Rational(1'000'000'000'000))
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a bit rate", std::string(text)), {},
                say("Write bits per second, with k or M if you like: 8M, 192k, 2500000"));
  return bits.nearest();
}

std::string bitRateText(int64_t bitRate) {
  return bitRate >= 1'000'000 ? withUnit(double(bitRate) / 1e6, "Mb/s") : withUnit(double(bitRate) / 1e3, "kb/s");
}

std::string bytesText(int64_t bytes) {
  if (bytes >= 1'000'000'000) return withUnit(double(bytes) / 1e9, "GB");
  return bytes >= 1'000'000 ? withUnit(double(bytes) / 1e6, "MB") : withUnit(double(bytes) / 1e3, "kB");
}

} // namespace tromb
