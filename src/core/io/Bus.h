// SPDX-License-Identifier: GPL-3.0-or-later
// Handles of the client of D-Bus. For .cpp files of this folder.
#pragma once

#include <cstdint>
#include <memory>
#include <systemd/sd-bus.h>

namespace tromb {

inline constexpr uint64_t kBusMicroseconds = 2'000'000; ///< that an answer is waited for

struct BusCloser {
  void operator()(sd_bus* bus) const { sd_bus_flush_close_unref(bus); }
  void operator()(sd_bus_message* message) const { sd_bus_message_unref(message); }
};
using BusHandle = std::unique_ptr<sd_bus, BusCloser>;
using BusMessage = std::unique_ptr<sd_bus_message, BusCloser>;

} // namespace tromb
