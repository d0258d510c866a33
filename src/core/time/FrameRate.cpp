// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/FrameRate.h"

#include <array>
#include <stdexcept>
#include <utility>

namespace tromb {
namespace {

/// Short names of the n·1000/1001 family, exact after SMPTE ST 12-1.
constexpr std::array<std::pair<const char*, int64_t>, 7> kShortNames{{
    {"23.976", 24000},
    {"29.97", 30000},
    {"47.952", 48000},
    {"59.94", 60000},
    {"119.88", 120000},
    {"239.76", 240000},
    {"23.98", 24000},
}};

} // namespace

FrameRate::FrameRate(Rational value) : m_value(value) {
  if (value <= Rational(0) || value > Rational(1000)) throw std::invalid_argument("FrameRate: outside (0, 1000]");
}

std::string FrameRate::name() const {
  if (m_value.den() == 1) return std::to_string(m_value.num());
  for (const auto& [name, num] : kShortNames)
    if (m_value == Rational(num, 1001)) return name;
  return m_value.toString();
}

Result<FrameRate> FrameRate::parse(std::string_view text) {
  for (const auto& [name, num] : kShortNames)
    if (text == name) return FrameRate(Rational(num, 1001));
  const auto value = Rational::parse(text);
  if (!value || *value <= Rational(0) || *value > Rational(1000) || !FrameRate(*value).plain())
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a frame rate", std::string(text)), {},
                say("Use a whole number up to 1000, a plain fraction such as 30000/1001, or one of 23.976, 29.97, "
                    "47.952, 59.94, 119.88, 239.76"));
  return FrameRate(*value);
}

std::optional<FrameRate> FrameRate::near(const Rational& measured) {
  const Rational value = measured.plain(kMostRateNumerator, kMostRateDenominator);
  if (value <= Rational(0) || value > Rational(1000)) return {};
  return FrameRate(value);
}

bool FrameRate::plain() const {
  return m_value.num() <= kMostRateNumerator && m_value.den() <= kMostRateDenominator;
}

const std::vector<FrameRate>& FrameRate::named() {
  static const std::vector<FrameRate> rates = [] {
    std::vector<FrameRate> list;
    for (const Rational& value :
         {Rational(10),          Rational(12),           Rational(25, 2), Rational(15000, 1001),  Rational(15),
          Rational(24000, 1001), Rational(24),           Rational(25),    Rational(30000, 1001),  Rational(30),
          Rational(48000, 1001), Rational(48),           Rational(50),    Rational(60000, 1001),  Rational(60),
          Rational(90),          Rational(96),           Rational(100),   Rational(120000, 1001), Rational(120),
          Rational(200),         Rational(240000, 1001), Rational(240)})
      list.emplace_back(value);
    return list;
  }();
  return rates;
}

const std::vector<FrameRate>& FrameRate::offered() {
  static const std::vector<FrameRate> rates = [] {
    std::vector<FrameRate> list;
    for (const Rational& value : {Rational(24000, 1001), Rational(24), Rational(25), Rational(30000, 1001),
                                  Rational(30), Rational(50), Rational(60000, 1001), Rational(60)})
      list.emplace_back(value);
    return list;
  }();
  return rates;
}

} // namespace tromb
