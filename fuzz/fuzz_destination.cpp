// SPDX-License-Identifier: GPL-3.0-or-later
// A file of a destination: what is taken can be followed, and is written as it was read.
#include "Input.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  const auto read = parseDestination(std::string(reinterpret_cast<const char*>(data), size));
  if (!read) return 0;
  Deliverable d;
  recommend(d, *read);
  const auto again = parseDestination(destinationText(*read));
  fuzz::hold(again.has_value() && again->id == read->id && again->canvases == read->canvases);
  return 0;
}
