// SPDX-License-Identifier: GPL-3.0-or-later
// Encodings and canvas formats as project files have them. For .cpp files of this folder.
#pragma once

#include "encoding/Encoding.h"
#include "io/JsonReader.h"

namespace tromb {

[[nodiscard]] Json toJson(const Encoding& encoding);
[[nodiscard]] Json toJson(const CanvasFormat& format);

/// Faults are noted in the node. Whether the values go together is asked where they are used: see encodable.
[[nodiscard]] Encoding readEncoding(const JsonNode& node);
[[nodiscard]] CanvasFormat readFormat(const JsonNode& node);

} // namespace tromb
