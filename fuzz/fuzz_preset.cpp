// SPDX-License-Identifier: GPL-3.0-or-later
// A file of a saved preset: what is taken can be saved under another name and read again as the same.
#include "Input.h"
#include "destination/PresetStore.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  (void)fuzz::file(data, size, "a.tromb-preset");
  PresetStore store(fuzz::folder());
  for (Preset each : store.all()) {
    if (each.name == "b") continue;
    each.name = "b";
    if (!store.save(each, true)) continue;
    const auto again = store.read("b");
    fuzz::hold(again.has_value() && again->kind == each.kind &&
               again->project.deliverables == each.project.deliverables);
  }
  return 0;
}
