// SPDX-License-Identifier: GPL-3.0-or-later
// A file of destinations.
#include "Input.h"
#include "destination/Destination.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  (void)tromb::readDestinations(tromb::fuzz::file(data, size, "destinations.json"));
  return 0;
}
