// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "project/Project.h"

#include <map>
#include <string>

namespace tromb {

/// What is known of each source's file, by Source::id: its facts, or why it cannot be used.
using Footage = std::map<std::string, Result<MediaInfo>>;

/// Looks at every source's file.
[[nodiscard]] Footage probeFootage(const Project& project);

/// A new source and the shot that shows all of it, as they are made when a file is brought in: named after the
/// file, stills with their usual length, burned-in bars as measured.
struct BroughtIn {
  Source source;
  Shot shot;
};
[[nodiscard]] BroughtIn bringIn(const Project& project, const MediaInfo& media, const Bars& bars);

/// A new deliverable with everything that is not said filled in as the window does it: canvas and bit rates from
/// the destination, else the canvas of `first`; the rate of `first`, not above what the destination takes; a name
/// that no other has. `first` is the first source's facts, null when there are none.
[[nodiscard]] Deliverable newDeliverable(const Project& project, const std::string& destinationId,
                                         const MediaInfo* first);

/// `wanted`, or with a number behind it where a deliverable has that name already.
[[nodiscard]] std::string freeDeliverableName(const Project& project, const std::string& wanted);

} // namespace tromb
