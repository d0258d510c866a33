// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/Rational.h"

#include <vector>

namespace tromb {

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
  [[nodiscard]] int64_t frameAt(const Rational& seconds) const { return (seconds * m_value).nearest(); }

  /// The trade's name: "29.97", "25", "23.976"; other rates as a fraction.
  [[nodiscard]] std::string name() const;
  /// Reads "30000/1001", "25", or the trade's short names ("23.976", "23.98", "29.97", "47.952", "59.94",
  /// "119.88", which mean the exact n·1000/1001). Other decimals are refused, since they would be guesses.
  [[nodiscard]] static Result<FrameRate> parse(std::string_view text);
  /// The rates that are offered by name, slowest first.
  [[nodiscard]] static const std::vector<FrameRate>& offered();

  friend bool operator==(const FrameRate&, const FrameRate&) = default;

private:
  Rational m_value{25, 1};
};

} // namespace tromb
