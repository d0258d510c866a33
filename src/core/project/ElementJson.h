// SPDX-License-Identifier: GPL-3.0-or-later
// How elements are written in project files. For .cpp files of the core.
#pragma once

#include "element/Element.h"
#include "io/JsonReader.h"

namespace tromb {

[[nodiscard]] Json toJson(const Element& element);
/// All but its id and its stretch. Faults go to the node's JsonFault.
[[nodiscard]] Element readElement(const JsonNode& node);

[[nodiscard]] Json toJson(const CaptionStyle& style);
[[nodiscard]] CaptionStyle readCaptionStyle(const JsonNode& node);

} // namespace tromb
