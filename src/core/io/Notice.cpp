// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Notice.h"

#include "io/Bus.h"

namespace tromb {

void showNotice(const std::string& summary, const std::string& words) {
  sd_bus* opened = nullptr;
  if (sd_bus_open_user(&opened) < 0) return;
  const BusHandle bus(opened);
  sd_bus_set_method_call_timeout(bus.get(), kBusMicroseconds);
  // Nothing that it replaces, no actions, as long as the desktop shows such notices.
  (void)sd_bus_call_method(bus.get(), "org.freedesktop.Notifications", "/org/freedesktop/Notifications",
                           "org.freedesktop.Notifications", "Notify", nullptr, nullptr, "susssasa{sv}i", "Tromb", 0U,
                           "tromb", summary.c_str(), words.c_str(), 0, 1, "sound-name", "s", "complete", -1);
}

} // namespace tromb
