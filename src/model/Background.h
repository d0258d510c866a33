// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb {

/// For the beginning of work that goes on beside the window: this thread, and those that it starts, give way to the
/// window's thread when there are too few processors for all.
void giveWay();

} // namespace tromb
