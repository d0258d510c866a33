// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <compare>
#include <cstdint>
#include <string>
#include <string_view>

namespace tromb {

/// An exact fraction, always in lowest terms with a positive denominator. Times are in seconds.
/// Arithmetic goes through 128 bits; a result that does not fit 64 bits throws std::overflow_error
/// (a bug: every value read from a file is range-checked first). Immutable value, thread-safe.
class Rational {
public:
  constexpr Rational() = default;
  /// Throws std::invalid_argument when `denominator` is 0.
  Rational(int64_t numerator, int64_t denominator = 1);

  [[nodiscard]] int64_t num() const { return m_num; }
  [[nodiscard]] int64_t den() const { return m_den; }
  [[nodiscard]] double toDouble() const { return double(m_num) / double(m_den); }

  [[nodiscard]] int64_t floor() const;
  [[nodiscard]] int64_t ceil() const;
  /// The nearest integer; halves go down: ⌈x − ½⌉. The tie rule of the whole program.
  [[nodiscard]] int64_t nearest() const;
  /// (a · b).nearest(), exact also where a · b is no fraction of 64 bits. Throws std::overflow_error where the result
  /// is none.
  [[nodiscard]] static int64_t nearestProduct(const Rational& a, const Rational& b);
  /// The nearest fraction whose parts are at most these, by continued fractions; itself where it is one already.
  [[nodiscard]] Rational plain(int64_t mostNumerator, int64_t mostDenominator) const;

  friend Rational operator+(const Rational& a, const Rational& b);
  friend Rational operator-(const Rational& a, const Rational& b);
  friend Rational operator*(const Rational& a, const Rational& b);
  /// Throws std::invalid_argument when b is 0.
  friend Rational operator/(const Rational& a, const Rational& b);
  friend bool operator==(const Rational&, const Rational&) = default;
  friend std::strong_ordering operator<=>(const Rational& a, const Rational& b);

  /// "30000/1001", "25/1".
  [[nodiscard]] std::string toString() const;
  /// Reads "n/d" or an integer; both parts at most 18 digits.
  [[nodiscard]] static Result<Rational> parse(std::string_view text);
  /// Reads a decimal ("12.5", "-3") exactly; at most 9 digits before and 6 after the point.
  [[nodiscard]] static Result<Rational> parseDecimal(std::string_view text);

private:
  int64_t m_num = 0;
  int64_t m_den = 1;
};

} // namespace tromb
