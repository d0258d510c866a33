// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Hindrances.h"

#include "project/Choices.h"

namespace tromb {

std::optional<Fix> mending(Hindrance::By by, const Deliverable& d) {
  switch (by) {
  case Hindrance::By::Settings:
    return Fix{say("Make it possible"), [](Deliverable& each) { makeEncodable(each); }};
  case Hindrance::By::Profile:
    return Fix{say("The usual profile"), [](Deliverable& each) { each.encoding.profile.clear(); }};
  case Hindrance::By::Buffer:
    return Fix{say("The usual buffer"), [](Deliverable& each) { each.encoding.bufferBits = 0; }};
  case Hindrance::By::Level:
    break;
  }
  if (d.encoding.level.empty()) return {};
  return Fix{say("The lowest that carries it"), [](Deliverable& each) {
               each.encoding.level.clear();
               each.encoding.highTier = false;
             }};
}

} // namespace tromb
