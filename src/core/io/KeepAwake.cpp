// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/KeepAwake.h"

#include "io/Bus.h"

#include <fcntl.h>

namespace tromb {
std::optional<KeepAwake> KeepAwake::hold(const std::string& why) {
  sd_bus* opened = nullptr;
  if (sd_bus_open_system(&opened) < 0) return std::nullopt;
  const BusHandle bus(opened);
  sd_bus_set_method_call_timeout(bus.get(), kBusMicroseconds);
  sd_bus_message* answered = nullptr;
  const int called = sd_bus_call_method(bus.get(), "org.freedesktop.login1", "/org/freedesktop/login1",
                                        "org.freedesktop.login1.Manager", "Inhibit", nullptr, &answered, "ssss",
                                        "sleep:idle", "Tromb", why.c_str(), "block");
  const BusMessage answer(answered);
  int lock = -1;
  if (called < 0 || sd_bus_message_read(answer.get(), "h", &lock) < 0) return std::nullopt;
  // The message closes its own when it goes.
  Descriptor kept(::fcntl(lock, F_DUPFD_CLOEXEC, 3));
  if (!kept) return std::nullopt;
  return KeepAwake(std::move(kept));
}

} // namespace tromb
