// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/Timecode.h"

#include "time/Ticks.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <stdexcept>

namespace tromb {
namespace {

constexpr int64_t kMostHours = 27'776; ///< of kLongest

/// Labels left out at the start of most minutes: 2 for 29.97, 4 for 59.94.
int64_t droppedPerMinute(const FrameRate& rate) {
  return rate.nominal() / 15;
}

tl::unexpected<Error> notATime(std::string_view text, const Message& why) {
  return fail(ErrorCode::InvalidArgument, say("'%1' is not a time: %2", std::string(text), why), {},
              say("Write seconds (12.5), HH:MM:SS.mmm or timecode HH:MM:SS:FF"));
}

} // namespace

bool hasDropFrame(const FrameRate& rate) {
  return rate.value() == Rational(30000, 1001) || rate.value() == Rational(60000, 1001);
}

std::string timecode(int64_t frame, const FrameRate& rate, bool dropFrame) {
  const bool slow = rate.value() < Rational(1); // labels count seconds, and leave out those in which no frame begins
  if (slow) frame = rate.timeOf(frame).floor();
  const int64_t nominal = slow ? 1 : rate.nominal();
  if (dropFrame) {
    if (!hasDropFrame(rate)) throw std::invalid_argument("timecode: no drop-frame at this rate");
    const int64_t drop = droppedPerMinute(rate);
    const int64_t perMinute = nominal * 60 - drop;
    const int64_t perTenMinutes = perMinute * 10 + drop;
    const int64_t tens = frame / perTenMinutes;
    const int64_t rest = frame % perTenMinutes;
    frame += 9 * drop * tens + (rest >= drop ? drop * ((rest - drop) / perMinute) : 0);
  }
  const int64_t seconds = frame / nominal;
  std::array<char, 64> text{};
  std::snprintf(text.data(), text.size(), "%02lld:%02lld:%02lld%c%02lld", static_cast<long long>(seconds / 3600),
                static_cast<long long>(seconds / 60 % 60), static_cast<long long>(seconds % 60), dropFrame ? ';' : ':',
                static_cast<long long>(frame % nominal));
  return text.data();
}

Result<int64_t> frameOfTimecode(std::string_view label, const FrameRate& rate) {
  int h = 0;
  int m = 0;
  int s = 0;
  int f = 0;
  char mark = 0;
  int used = 0;
  const std::string text(label);
  if (text.size() > 15 || std::sscanf(text.c_str(), "%d:%2d:%2d%c%d%n", &h, &m, &s, &mark, &f, &used) != 5 ||
      size_t(used) != text.size() || (mark != ':' && mark != ';') || h < 0 || m < 0 || s < 0 || f < 0)
    return notATime(label, say("not timecode"));
  if (h > kMostHours) return notATime(label, say("hours go to %1", kMostHours));
  const bool slow = rate.value() < Rational(1);
  const int64_t nominal = slow ? 1 : rate.nominal();
  if (m > 59 || s > 59 || f >= nominal)
    return notATime(label, say("minutes and seconds go to 59, frames to %1", nominal - 1));
  const int64_t minutes = int64_t(h) * 60 + m;
  int64_t frame = (minutes * 60 + s) * nominal + f;
  if (mark == ';') {
    if (!hasDropFrame(rate)) return notATime(label, say("there is no drop-frame timecode at %1", rate.name()));
    const int64_t drop = droppedPerMinute(rate);
    if (m % 10 != 0 && s == 0 && f < drop) return notATime(label, say("drop-frame timecode leaves this label out"));
    frame -= drop * (minutes - minutes / 10);
  }
  return slow ? (Rational(frame) * rate.value()).ceil() : frame;
}

Result<Rational> parseTime(std::string_view text, const FrameRate& rate) {
  const auto colons = std::count(text.begin(), text.end(), ':');
  if (text.find(';') != std::string_view::npos || colons == 3) {
    const auto frame = frameOfTimecode(text, rate);
    if (!frame) return tl::unexpected(frame.error());
    return rate.timeOf(*frame);
  }
  Rational total(0);
  for (int64_t part = 0; part <= colons; ++part) {
    const size_t end = text.find(':');
    const auto value = Rational::parseDecimal(text.substr(0, end));
    if (!value || *value < Rational(0) || colons > 2 || (part < colons && value->den() != 1) ||
        (part > 0 && *value >= Rational(60)))
      return notATime(text, say("not hours, minutes and seconds"));
    total = total * Rational(60) + *value;
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
  }
  return total;
}

namespace {

int64_t aDay(const FrameRate& rate, bool dropFrame) {
  return *frameOfTimecode(dropFrame ? "24:00:00;00" : "24:00:00:00", rate);
}

} // namespace

std::optional<SourceTimecode> SourceTimecode::parse(std::string_view label, const FrameRate& rate) {
  std::string text(label);
  const size_t mark = text.find_last_of(":;.");
  if (mark == std::string::npos || rate.value() < Rational(1)) return {};
  const bool drop = text[mark] != ':' && hasDropFrame(rate);
  text[mark] = drop ? ';' : ':';
  const auto frame = frameOfTimecode(text, rate);
  if (!frame || *frame >= aDay(rate, drop)) return {};
  return SourceTimecode{*frame, drop};
}

std::string SourceTimecode::labelOf(int64_t frame, const FrameRate& rate) const {
  return timecode((first + frame) % aDay(rate, dropFrame), rate, dropFrame);
}

Result<int64_t> SourceTimecode::frameOf(std::string_view label, const FrameRate& rate, int64_t frames) const {
  std::string text(label);
  if (const size_t mark = text.find_last_of(":;"); mark != std::string::npos) text[mark] = dropFrame ? ';' : ':';
  const auto counted = frameOfTimecode(text, rate);
  if (!counted) return counted;
  const int64_t frame = *counted >= first ? *counted - first : *counted - first + aDay(rate, dropFrame);
  if (frame < frames) return frame;
  return notATime(
      label, say("the source goes from %1 to %2", labelOf(0, rate), labelOf(std::max<int64_t>(1, frames) - 1, rate)));
}

std::string positionText(const Rational& seconds, const FrameRate& rate, PositionStyle style) {
  const int64_t frame = std::max<int64_t>(0, rate.frameAt(seconds));
  if (style == PositionStyle::Timecode) return timecode(frame, rate, hasDropFrame(rate));
  if (style == PositionStyle::Frames) return std::to_string(frame);
  const int digits = rate.value() > Rational(50) ? 3 : 2;
  const int64_t unit = digits == 3 ? 1000 : 100;
  const int64_t rounded = Rational::nearestProduct(rate.timeOf(frame), Rational(unit));
  std::array<char, 48> text{};
  std::snprintf(text.data(), text.size(), "%lld.%0*lld", static_cast<long long>(rounded / unit), digits,
                static_cast<long long>(rounded % unit));
  return text.data();
}

namespace {

/// Hours, minutes, seconds and frames from the right, or seconds alone.
Result<Rational> typedLength(std::string_view text, const FrameRate& rate) {
  if (text.find(':') == std::string_view::npos) return Rational::parseDecimal(text);
  constexpr std::array<int64_t, 4> kParts{1, 1, 60, 3600}; // frames, then seconds
  int64_t frames = 0;
  int64_t seconds = 0;
  for (size_t part = 0; !text.empty(); ++part) {
    const size_t colon = text.rfind(':');
    const std::string_view digits = colon == std::string_view::npos ? text : text.substr(colon + 1);
    const auto value = Rational::parse(digits);
    constexpr int64_t kMost = 1'000'000;
    if (part >= kParts.size() || !value || value->den() != 1 || *value < Rational(0) || *value > Rational(kMost))
      return notATime(text, say("not seconds and frames"));
    (part == 0 ? frames : seconds) += value->num() * kParts[part];
    text = colon == std::string_view::npos ? std::string_view() : text.substr(0, colon);
  }
  return Rational(seconds) + rate.timeOf(frames);
}

/// The label, or of one that drop-frame leaves out the next.
std::string nextThatExists(std::string_view label, const FrameRate& rate) {
  if (!hasDropFrame(rate) || label.size() < 2 || label.find(';') == std::string_view::npos) return std::string(label);
  for (int64_t f = droppedPerMinute(rate); f > 0; --f) {
    const std::string next = std::string(label.substr(0, label.find(';') + 1)) + std::to_string(f);
    if (frameOfTimecode(next, rate)) return next;
  }
  return std::string(label);
}

} // namespace

Result<TypedTime> typedTime(std::string_view text, const Rational& now, const FrameRate& rate, PositionStyle style) {
  const auto on = [&](const Result<Rational>& time) -> Result<TypedTime> {
    if (!time) return notATime(text, say("no number can be read"));
    if (*time < Rational(0)) return notATime(text, say("it lies before the start"));
    if (*time > kLongest) return notATime(text, say("hours go to %1", kMostHours));
    return TypedTime{rate.timeOf(rate.frameAt(*time)), false};
  };
  const auto frames = [&](std::string_view digits) -> Result<Rational> {
    const auto count = Rational::parse(digits);
    if (!count || count->den() != 1 || *count < Rational(0) || *count > kLongest)
      return notATime(text, say("not a number of frames"));
    return rate.timeOf(count->num());
  };
  const char sign = text.empty() ? ' ' : text.front();
  if (sign == '+' || sign == '-') {
    const bool twice = text.size() > 1 && text[1] == sign;
    const auto by = twice ? typedLength(text.substr(2), rate) : frames(text.substr(1));
    if (!by) return on(by);
    return on(sign == '+' ? now + *by : now - *by);
  }
  if (!text.empty() && (text.back() == 'f' || text.back() == 'F')) return on(frames(text.substr(0, text.size() - 1)));
  const bool bare = !text.empty() && text.find_first_not_of("0123456789") == std::string_view::npos;
  if (bare && style == PositionStyle::Frames) return on(frames(text));
  const auto time = parseTime(text, rate);
  if (time) return on(time);
  if (const std::string next = nextThatExists(text, rate); next != text)
    if (const auto there = parseTime(next, rate)) return TypedTime{*there, true};
  return tl::unexpected(time.error());
}

std::string clockText(const Rational& seconds) {
  const int64_t whole = seconds.floor();
  std::array<char, 48> text{};
  if (whole >= 3600)
    std::snprintf(text.data(), text.size(), "%lld:%02lld:%02lld", static_cast<long long>(whole / 3600),
                  static_cast<long long>(whole / 60 % 60), static_cast<long long>(whole % 60));
  else
    std::snprintf(text.data(), text.size(), "%lld:%02lld", static_cast<long long>(whole / 60),
                  static_cast<long long>(whole % 60));
  return text.data();
}

} // namespace tromb
