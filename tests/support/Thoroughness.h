// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QByteArray>
#include <QTest>
#include <cstdlib>

namespace tromb::test {

/// True under a sanitizer, which makes everything several times slower. Long tables of settings and lengths are thinned
/// then: no fault of memory or of threads hangs on the single number, and every row runs without a sanitizer.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
inline constexpr bool kSanitized = true;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
inline constexpr bool kSanitized = true;
#else
inline constexpr bool kSanitized = false;
#endif
#else
inline constexpr bool kSanitized = false;
#endif

/// With TROMB_LONG in the environment, as before a release, nothing is left out or shortened for the sake of time.
inline const bool kLong = std::getenv("TROMB_LONG") != nullptr;

/// Under a sanitizer three of four rows of a long table are left out: asked at the beginning of its test, once a row.
[[nodiscard]] inline bool leftOut() {
  static QByteArray function;
  static int row = 0;
  if (function != QTest::currentTestFunction()) row = 0;
  function = QTest::currentTestFunction();
  return row++ % 4 != 0 && kSanitized && !kLong;
}

/// How often what is found by chance is tried: a part of `often` unless it may take long.
[[nodiscard]] inline int times(int often) {
  return kLong ? often : often / (kSanitized ? 10 : 4);
}

} // namespace tromb::test
