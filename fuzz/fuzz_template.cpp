// SPDX-License-Identifier: GPL-3.0-or-later
// A file of a saved template: what is taken can be saved under another name and read again as the same.
#include "Input.h"
#include "destination/TemplateStore.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  (void)fuzz::file(data, size, "a.tromb-template");
  TemplateStore store(fuzz::folder());
  for (const auto& each : store.all()) {
    if (each.name == "b") continue;
    if (!store.save("b", each.project, true)) continue;
    for (const auto& again : store.all())
      if (again.name == "b") fuzz::hold(templateOf(again.project) == templateOf(each.project));
  }
  return 0;
}
