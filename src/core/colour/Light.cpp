// SPDX-License-Identifier: GPL-3.0-or-later
#include "colour/Light.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

// SMPTE ST 2084.
constexpr double kM1 = 2610.0 / 16384;
constexpr double kM2 = 2523.0 / 4096 * 128;
constexpr double kC1 = 3424.0 / 4096;
constexpr double kC2 = 2413.0 / 4096 * 32;
constexpr double kC3 = 2392.0 / 4096 * 32;
// BT.2100, table 5.
constexpr double kA = 0.17883277;
constexpr double kB = 1 - 4 * kA;
constexpr double kC = 0.55991073;
constexpr double kSystemGamma = 1.2;
/// BT.1886, for a display whose black emits no light.
constexpr double kDisplayGamma = 2.4;

using Matrix = std::array<Rgb, 3>;
// Rec. ITU-R BT.2087, 2.1.
constexpr Matrix k709To2020{Rgb{0.6274, 0.3293, 0.0433}, Rgb{0.0691, 0.9195, 0.0114}, Rgb{0.0164, 0.0880, 0.8956}};
constexpr Rgb kLuma709{0.2126, 0.7152, 0.0722};
constexpr Rgb kLuma2020{0.2627, 0.6780, 0.0593};

double dot(const Rgb& a, const Rgb& b) {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

Rgb times(const Matrix& m, const Rgb& v) {
  return {dot(m[0], v), dot(m[1], v), dot(m[2], v)};
}

constexpr Matrix inverse(const Matrix& m) {
  const auto minor = [&](size_t r, size_t c) {
    const size_t r1 = (r + 1) % 3;
    const size_t r2 = (r + 2) % 3;
    const size_t c1 = (c + 1) % 3;
    const size_t c2 = (c + 2) % 3;
    return m[r1][c1] * m[r2][c2] - m[r1][c2] * m[r2][c1];
  };
  const double determinant = m[0][0] * minor(0, 0) + m[0][1] * minor(0, 1) + m[0][2] * minor(0, 2);
  Matrix out{};
  for (size_t r = 0; r < 3; ++r)
    for (size_t c = 0; c < 3; ++c) out[c][r] = minor(r, c) / determinant;
  return out;
}

constexpr Matrix k2020To709 = inverse(k709To2020);

template <typename Function> Rgb each(const Rgb& v, Function function) {
  return {function(v[0]), function(v[1]), function(v[2])};
}

double peakOf(const ColourTags& tags) {
  return tags.transfer == kTransferPq ? kPqPeak : tags.transfer == kTransferHlg ? kHlgPeak : kReferenceWhite;
}

} // namespace

double pqLight(double signal) {
  const double p = std::pow(std::clamp(signal, 0.0, 1.0), 1 / kM2);
  return kPqPeak * std::pow(std::max(p - kC1, 0.0) / (kC2 - kC3 * p), 1 / kM1);
}

double pqSignal(double light) {
  const double p = std::pow(std::clamp(light / kPqPeak, 0.0, 1.0), kM1);
  return std::pow((kC1 + kC2 * p) / (1 + kC3 * p), kM2);
}

double hlgScene(double signal) {
  const double s = std::max(signal, 0.0);
  return s <= 0.5 ? s * s / 3 : (std::exp((s - kC) / kA) + kB) / 12;
}

double hlgSignal(double scene) {
  const double e = std::max(scene, 0.0);
  return e <= 1.0 / 12 ? std::sqrt(3 * e) : kA * std::log(12 * e - kB) + kC;
}

Rgb to2020(const Rgb& light709) {
  return times(k709To2020, light709);
}

Rgb to709(const Rgb& light2020) {
  return times(k2020To709, light2020);
}

const Rgb& lumaWeights(const ColourTags& tags) {
  return tags.matrix == kMatrix2020 ? kLuma2020 : kLuma709;
}

double luminance2020(const Rgb& light) {
  return dot(kLuma2020, light);
}

Rgb displayLight(const Rgb& signal, const ColourTags& tags) {
  if (tags.transfer == kTransferPq) return each(signal, pqLight);
  if (tags.transfer == kTransferHlg) {
    const Rgb scene = each(signal, hlgScene);
    const double y = luminance2020(scene);
    const double factor = y > 0 ? kHlgPeak * std::pow(y, kSystemGamma - 1) : 0;
    return each(scene, [factor](double v) { return v * factor; });
  }
  return each(signal, [](double s) { return kReferenceWhite * std::pow(std::clamp(s, 0.0, 1.0), kDisplayGamma); });
}

Rgb displaySignal(const Rgb& light, const ColourTags& tags) {
  if (tags.transfer == kTransferPq) return each(light, pqSignal);
  if (tags.transfer == kTransferHlg) {
    const double y = luminance2020(light) / kHlgPeak;
    const double factor = y > 0 ? std::pow(y, 1 / kSystemGamma - 1) / kHlgPeak : 0;
    return each(light, [factor](double v) { return std::clamp(hlgSignal(v * factor), 0.0, 1.0); });
  }
  return each(light, [](double l) { return std::pow(std::clamp(l / kReferenceWhite, 0.0, 1.0), 1 / kDisplayGamma); });
}

double toneMapped(double light, double sourcePeak, double targetPeak) {
  if (sourcePeak <= targetPeak) return std::min(light, targetPeak);
  // All in PQ, relative to the source's peak.
  const double whole = pqSignal(sourcePeak);
  const double e1 = std::min(pqSignal(light) / whole, 1.0);
  const double most = pqSignal(targetPeak) / whole;
  const double knee = 1.5 * most - 0.5;
  if (e1 < knee) return light;
  const double t = (e1 - knee) / (1 - knee);
  const double t2 = t * t;
  const double t3 = t2 * t;
  const double e2 = (2 * t3 - 3 * t2 + 1) * knee + (t3 - 2 * t2 + t) * (1 - knee) + (-2 * t3 + 3 * t2) * most;
  return pqLight(e2 * whole);
}

Rgb convertedSignal(const Rgb& signal, const ColourTags& from, const ColourTags& to, double sourcePeak) {
  Rgb light = displayLight(signal, from);
  const double most = peakOf(to);
  // The brightest component decides, so that the ratios of the three, and with them the hue, are kept.
  const double brightest = std::max({light[0], light[1], light[2]});
  if (brightest > 0) {
    const double factor = toneMapped(brightest, std::min(sourcePeak, peakOf(from)), most) / brightest;
    light = each(light, [factor](double v) { return v * factor; });
  }
  const bool wide = from.primaries == kPrimaries2020;
  if (wide && to.primaries != kPrimaries2020) {
    const double y = luminance2020(light);
    light = to709(light);
    // Towards grey of the same luminance until no component is outside.
    double keep = 1;
    for (const double v : light) {
      if (v < 0) keep = std::min(keep, y / (y - v));
      if (v > most && y < most) keep = std::min(keep, (most - y) / (v - y));
    }
    light = each(light, [keep, y](double v) { return y + (v - y) * keep; });
  } else if (!wide && to.primaries == kPrimaries2020) {
    light = to2020(light);
  }
  return displaySignal(light, to);
}

Codes codesOf(const Rgb& signal709, const CanvasFormat& format) {
  const Rgb signal =
      isHdr(format.colour) ? convertedSignal(signal709, kRec709, format.colour, kReferenceWhite) : signal709;
  const Rgb& weights = lumaWeights(format.colour);
  const double y = weights[0] * signal[0] + weights[1] * signal[1] + weights[2] * signal[2];
  return {format.lumaBlack() + format.lumaSpan() * y,
          format.chromaNone() + format.chromaSpan() * (signal[2] - y) / (2 * (1 - weights[2])),
          format.chromaNone() + format.chromaSpan() * (signal[0] - y) / (2 * (1 - weights[0]))};
}

} // namespace tromb
