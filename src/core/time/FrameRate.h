// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/Rational.h"

#include <optional>
#include <vector>

namespace tromb {

/// The largest parts of a rate that is a plain fraction: everything in use is far below, and exact arithmetic with
/// speeds and times stays within 64 bits.
inline constexpr int64_t kMostRateNumerator = 10'000'000;
inline constexpr int64_t kMostRateDenominator = 100'000;

/// Frames a second as an exact positive fraction, at most 1000. Value, thread-safe.
class FrameRate {
public:
  FrameRate() = default; ///< 25/1
  /// Frames a second; must be in (0, 1000], else std::invalid_argument.
  explicit FrameRate(Rational value);

  [[nodiscard]] const Rational& value() const { return m_value; }
  [[nodiscard]] double toDouble() const { return m_value.toDouble(); }
  [[nodiscard]] Rational frameDuration() const { return Rational(1) / m_value; } ///< seconds
  /// The label count of a second of timecode: 30 for 30000/1001 (SMPTE ST 12-1).
  [[nodiscard]] int64_t nominal() const { return (m_value - Rational(1, 2)).ceil(); }
  [[nodiscard]] Rational timeOf(int64_t frame) const { return Rational(frame) / m_value; }
  /// The frame nearest to `seconds`, ties to the earlier.
  [[nodiscard]] int64_t frameAt(const Rational& seconds) const { return Rational::nearestProduct(seconds, m_value); }

  /// The trade's name: "29.97", "25", "23.976"; other rates as a fraction.
  [[nodiscard]] std::string name() const;
  /// Reads "30000/1001", "25", or the trade's short names ("23.976", "23.98", "29.97", "47.952", "59.94",
  /// "119.88", which mean the exact n·1000/1001). Other decimals are refused, since they would be guesses.
  [[nodiscard]] static Result<FrameRate> parse(std::string_view text);
  /// The rate nearest to a measured one that is a plain fraction (kMostRateNumerator, kMostRateDenominator); empty
  /// where that is none in (0, 1000].
  [[nodiscard]] static std::optional<FrameRate> near(const Rational& measured);
  /// Returns true if the fraction's parts are within the limits of near: what projects keep.
  [[nodiscard]] bool plain() const;
  /// Every rate that has a name in the trade, slowest first.
  [[nodiscard]] static const std::vector<FrameRate>& named();
  /// The rates that are offered by name, slowest first.
  [[nodiscard]] static const std::vector<FrameRate>& offered();

  friend bool operator==(const FrameRate&, const FrameRate&) = default;

private:
  Rational m_value{25, 1};
};

} // namespace tromb
