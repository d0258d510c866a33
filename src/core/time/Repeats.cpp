// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/Repeats.h"

#include <algorithm>
#include <bit>

namespace tromb {

bool Repeats::valid() const {
  return cycle >= 2 && cycle <= kMostCycle && fresh != 0 && fresh < (1U << cycle) && kept() < cycle;
}

int Repeats::kept() const {
  return std::popcount(fresh);
}

int Repeats::lead() const {
  return 2 * std::countr_zero(fresh) * kept() >= cycle ? 1 : 0;
}

FrameClock Repeats::clockOf(const FrameClock& file) const {
  return {FrameRate(file.rate().value() * Rational(kept(), cycle)),
          file.frameCount() > 0 ? pictureAt(file.frameCount() - 1) + 1 : 0};
}

int64_t Repeats::frameOf(int64_t picture) const {
  int64_t left = picture - lead();
  if (left < 0) return 0;
  const int64_t cycles = left / kept();
  left %= kept();
  int at = 0;
  for (uint32_t bits = fresh;; bits &= bits - 1) {
    at = std::countr_zero(bits);
    if (left-- == 0) break;
  }
  return cycles * cycle + at;
}

int64_t Repeats::pictureAt(int64_t frame) const {
  const uint32_t upTo = fresh & uint32_t((2ULL << (frame % cycle)) - 1);
  return std::max<int64_t>(0, frame / cycle * kept() + std::popcount(upTo) + lead() - 1);
}

} // namespace tromb
