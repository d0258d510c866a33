// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "geometry/Rect.h"
#include "time/FrameRate.h"

#include <string>
#include <vector>

namespace tromb {

/// A part of the canvas that a destination's own buttons and captions lie over.
struct CoveredPart {
  RectF part;     ///< shares of the canvas
  std::string by; ///< what lies there
};

/// A published or house set of limits and recommendations for where a file goes.
struct Destination {
  std::string id;      ///< "vertical-story"
  std::string name;    ///< "Vertical story"
  std::string summary; ///< one sentence
  std::string basis;   ///< where the numbers come from
  Size canvas;         ///< recommended
  FrameRate mostRate;  ///< rates above it are not accepted
  int64_t bitRate = 0; ///< recommended video bits per second
  int64_t audioBitRate = 0;
  std::vector<CoveredPart> covered; ///< nothing important should lie there
};

/// A set of deliverables that a project can start from.
struct ProjectTemplate {
  std::string id;
  std::string name;
  std::vector<std::string> destinations; ///< ids, one deliverable each
};

struct DestinationData {
  std::vector<Destination> destinations;
  std::vector<ProjectTemplate> templates;
};

/// Reads a file of destinations and templates. Errors: Missing, Unreadable, ProjectInvalid.
[[nodiscard]] Result<DestinationData> readDestinations(const std::string& path);
/// All destinations and templates, from destinations.json in the data folder, read once. Errors: Missing,
/// ProjectInvalid. Thread-safe.
[[nodiscard]] const Result<DestinationData>& destinationData();
/// The destination with this id, null when there is none.
[[nodiscard]] const Destination* destination(const std::string& id);

} // namespace tromb
