// SPDX-License-Identifier: GPL-3.0-or-later
// Times and rates as they are typed, and the labels that frames have.
#include "Input.h"
#include "time/FrameClock.h"
#include "time/Timecode.h"

#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const size_t bar = text.find('|');
  const auto rate = FrameRate::parse(text.substr(0, bar));
  const std::string_view time = bar == std::string_view::npos ? text : text.substr(bar + 1);
  const FrameRate at = rate.value_or(FrameRate());
  if (const auto seconds = parseTime(time, at)) (void)clockText(*seconds);
  if (const auto frame = frameOfTimecode(time, at)) {
    fuzz::hold(*frame >= 0);
    const bool drop = time.find(';') != std::string_view::npos;
    const auto again = frameOfTimecode(timecode(*frame, at, drop), at);
    fuzz::hold(again && *again == *frame);
  }
  if (const auto number = Rational::parseDecimal(time); number && *number > Rational(0) && *number <= Rational(1000))
    if (const auto near = FrameRate::near(*number)) fuzz::hold(FrameRate::parse(near->value().toString()).has_value());
  return 0;
}
