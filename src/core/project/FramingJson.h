// SPDX-License-Identifier: GPL-3.0-or-later
// How framings and subjects are written in project and preset files. For .cpp files of the core.
#pragma once

#include "geometry/Framing.h"
#include "io/JsonReader.h"

namespace tromb {

[[nodiscard]] Json toJson(const Framing& framing);
[[nodiscard]] Json toJson(const Subject& subject);
/// Faults go to the node's JsonFault.
[[nodiscard]] Framing readFraming(const JsonNode& node);
[[nodiscard]] Subject readSubject(const JsonNode& node);

[[nodiscard]] std::string toText(const Colour& colour); ///< "#20303f"
[[nodiscard]] Colour readColour(const JsonNode& node);
/// The same of a word alone; nothing where it is no colour.
[[nodiscard]] std::optional<Colour> colourFromText(const std::string& text);

} // namespace tromb
