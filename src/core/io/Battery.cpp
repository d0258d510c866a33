// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Battery.h"

#include "io/Bus.h"

namespace tromb {

bool runsOnBattery() {
  sd_bus* opened = nullptr;
  if (sd_bus_open_system(&opened) < 0) return false;
  const BusHandle bus(opened);
  sd_bus_set_method_call_timeout(bus.get(), kBusMicroseconds);
  int battery = 0;
  const int asked = sd_bus_get_property_trivial(bus.get(), "org.freedesktop.UPower", "/org/freedesktop/UPower",
                                                "org.freedesktop.UPower", "OnBattery", nullptr, 'b', &battery);
  return asked >= 0 && battery != 0;
}

} // namespace tromb
