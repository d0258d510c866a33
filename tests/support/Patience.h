// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb::test {

/// How long a test waits for what must come, in milliseconds. Only a test that fails waits this long, so it is
/// far above what a busy machine under a sanitizer needs: no test is one of time.
inline constexpr int kPatience = 300'000;

} // namespace tromb::test
