// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Background.h"

#include <sys/resource.h>
#include <unistd.h>

namespace tromb {
namespace {

constexpr int kNiceness = 10;

} // namespace

void giveWay() {
  setpriority(PRIO_PROCESS, id_t(gettid()), kNiceness); // of the thread, on Linux; work goes on where it is refused
}

} // namespace tromb
