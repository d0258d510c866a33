// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/Rational.h"

#include <algorithm>
#include <charconv>
#include <limits>
#include <numeric>
#include <stdexcept>
#include <utility>

namespace tromb {
namespace {

__extension__ using Wide = __int128;

Wide greatestCommonDivisor(Wide a, Wide b) {
  if (a < 0) a = -a;
  // Nearly always both fit 64 bits, where it is many times quicker.
  constexpr Wide kNarrow = std::numeric_limits<int64_t>::max();
  while (b != 0) {
    if (a <= kNarrow && b <= kNarrow) return std::gcd(int64_t(a), int64_t(b));
    const Wide rest = a % b;
    a = b;
    b = rest;
  }
  return a;
}

Rational reduced(Wide num, Wide den) {
  if (den < 0) {
    num = -num;
    den = -den;
  }
  const Wide divisor = greatestCommonDivisor(num, den);
  if (divisor > 1) {
    num /= divisor;
    den /= divisor;
  }
  constexpr Wide limit = std::numeric_limits<int64_t>::max();
  if (num > limit || num < -limit || den > limit) throw std::overflow_error("Rational: result beyond 64 bits");
  return {int64_t(num), int64_t(den)};
}

/// ⌈num/den − ½⌉ = ⌈(2·num − den) / (2·den)⌉; den > 0.
int64_t nearestOf(Wide num, Wide den) {
  const Wide whole = num / den;
  const Wide rest = num % den; // of the sign of num
  const Wide nearest = 2 * rest > den ? whole + 1 : 2 * rest <= -den ? whole - 1 : whole;
  if (nearest > std::numeric_limits<int64_t>::max() || nearest < -std::numeric_limits<int64_t>::max())
    throw std::overflow_error("Rational: result beyond 64 bits");
  return int64_t(nearest);
}

bool readInteger(std::string_view text, size_t mostDigits, int64_t& value) {
  if (text.empty() || text.size() > mostDigits + (text[0] == '-' ? 1 : 0)) return false;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  return error == std::errc{} && end == text.data() + text.size();
}

} // namespace

Rational::Rational(int64_t numerator, int64_t denominator) : m_num(numerator), m_den(denominator) {
  if (denominator == 0) throw std::invalid_argument("Rational: denominator is 0");
  const Wide positive = denominator < 0 ? -Wide(denominator) : Wide(denominator);
  const auto divisor = int64_t(greatestCommonDivisor(numerator, positive)) * (denominator < 0 ? -1 : 1);
  m_num /= divisor;
  m_den /= divisor;
}

int64_t Rational::floor() const {
  return m_num / m_den - (m_num % m_den < 0 ? 1 : 0);
}

int64_t Rational::ceil() const {
  return m_num / m_den + (m_num % m_den > 0 ? 1 : 0);
}

int64_t Rational::nearest() const {
  return nearestOf(m_num, m_den);
}

int64_t Rational::nearestProduct(const Rational& a, const Rational& b) {
  return nearestOf(Wide(a.m_num) * b.m_num, Wide(a.m_den) * b.m_den);
}

Rational Rational::plain(int64_t mostNumerator, int64_t mostDenominator) const {
  const bool negative = m_num < 0;
  int64_t num = negative ? -m_num : m_num;
  int64_t den = m_den;
  if (num <= mostNumerator && den <= mostDenominator) return *this;
  // Convergents h/k of the continued fraction, up to the last that fits; then the best semiconvergent that does.
  int64_t h0 = 0;
  int64_t h1 = 1;
  int64_t k0 = 1;
  int64_t k1 = 0;
  while (den != 0) {
    const int64_t part = num / den;
    Wide most = part;
    if (h1 > 0) most = std::min<Wide>(most, (Wide(mostNumerator) - h0) / h1);
    if (k1 > 0) most = std::min<Wide>(most, (Wide(mostDenominator) - k0) / k1);
    if (most < part) {
      if (2 * most >= part && k0 + most * k1 > 0) { // nearer than the last convergent, or as near
        h1 = int64_t(h0 + most * h1);
        k1 = int64_t(k0 + most * k1);
      }
      break;
    }
    h0 = std::exchange(h1, h0 + part * h1);
    k0 = std::exchange(k1, k0 + part * k1);
    num = std::exchange(den, num % den);
  }
  if (k1 == 0) return {negative ? -mostNumerator : mostNumerator, 1}; // beyond the largest
  return {negative ? -h1 : h1, k1};
}

Rational operator+(const Rational& a, const Rational& b) {
  return reduced(Wide(a.m_num) * b.m_den + Wide(b.m_num) * a.m_den, Wide(a.m_den) * b.m_den);
}

Rational operator-(const Rational& a, const Rational& b) {
  return reduced(Wide(a.m_num) * b.m_den - Wide(b.m_num) * a.m_den, Wide(a.m_den) * b.m_den);
}

Rational operator*(const Rational& a, const Rational& b) {
  return reduced(Wide(a.m_num) * b.m_num, Wide(a.m_den) * b.m_den);
}

Rational operator/(const Rational& a, const Rational& b) {
  if (b.m_num == 0) throw std::invalid_argument("Rational: division by 0");
  return reduced(Wide(a.m_num) * b.m_den, Wide(a.m_den) * b.m_num);
}

std::strong_ordering operator<=>(const Rational& a, const Rational& b) {
  const Wide left = Wide(a.m_num) * b.m_den;
  const Wide right = Wide(b.m_num) * a.m_den;
  if (left < right) return std::strong_ordering::less;
  return left > right ? std::strong_ordering::greater : std::strong_ordering::equal;
}

std::string Rational::toString() const {
  return std::to_string(m_num) + "/" + std::to_string(m_den);
}

Result<Rational> Rational::parse(std::string_view text) {
  const size_t slash = text.find('/');
  int64_t num = 0;
  int64_t den = 1;
  const bool good = readInteger(text.substr(0, slash), 18, num) &&
                    (slash == std::string_view::npos || readInteger(text.substr(slash + 1), 18, den)) && den != 0;
  if (!good)
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a fraction", std::string(text)), {},
                say("Write it as numerator/denominator, for example 30000/1001"));
  return Rational(num, den);
}

Result<Rational> Rational::parseDecimal(std::string_view text) {
  const bool negative = text.starts_with('-');
  const std::string_view body = text.substr(negative ? 1 : 0);
  const size_t point = body.find('.');
  const std::string_view fraction = point == std::string_view::npos ? std::string_view{} : body.substr(point + 1);
  int64_t whole = 0;
  int64_t part = 0;
  int64_t scale = 1;
  for (size_t i = 0; i < fraction.size() && i < 6; ++i) scale *= 10;
  const bool good = !body.starts_with('-') && !fraction.starts_with('-') &&
                    readInteger(body.substr(0, point), 9, whole) &&
                    (point == std::string_view::npos || readInteger(fraction, 6, part));
  if (!good)
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a number", std::string(text)), {},
                say("Write it with at most six decimals, for example 12.5"));
  const Rational value = Rational(whole) + Rational(part, scale);
  return negative ? Rational(0) - value : value;
}

} // namespace tromb
