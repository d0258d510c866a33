// SPDX-License-Identifier: GPL-3.0-or-later
// A file of a saved framing: what is taken can be saved under another name and read again as the same.
#include "Input.h"
#include "project/FramingStore.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  (void)fuzz::file(data, size, "a.tromb-framing");
  FramingStore store(fuzz::folder());
  for (const auto& each : store.all()) {
    if (each.name == "b") continue;
    if (!store.save("b", each.framing, true)) continue;
    for (const auto& again : store.all())
      if (again.name == "b")
        fuzz::hold(again.framing.layout == each.framing.layout && again.framing.windows == each.framing.windows);
  }
  return 0;
}
