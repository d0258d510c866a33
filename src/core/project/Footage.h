// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "project/Project.h"

#include <map>
#include <optional>
#include <string>

namespace tromb {

/// What is known of each source's file, by Source::id: its facts, or why it cannot be used.
using Footage = std::map<std::string, Result<MediaInfo>>;

/// Looks at every source's file, as the project takes it.
[[nodiscard]] Footage probeFootage(const Project& project, const ProbeOptions& options = {});

/// A new source, as it is made when a file is brought in.
[[nodiscard]] Source newSource(const Project& project, const MediaInfo& media);
/// A new shot that shows all of a source, named after it; stills get their usual length. Slow motion material is
/// slowed so that each of its frames is shown once at the first deliverable's rate. The source must have a picture.
[[nodiscard]] Shot newShot(const Project& project, const Source& source, const MediaInfo& media);
/// How far a shot reaches beyond the end of its source, in seconds; empty where it does not, or by less than a frame.
[[nodiscard]] std::optional<Rational> secondsBeyondSource(const Shot& shot, const MediaInfo& media);
/// The speed at which each frame of a source is shown once at `rate`.
[[nodiscard]] Rational frameByFrameSpeed(const MediaInfo& media, const FrameRate& rate);

/// A new deliverable with everything that is not said filled in as the window does it: canvas and bit rates from
/// the destination, else the canvas of `first`; the rate of `first`, not above what the destination takes; a name
/// that no other has. `first` is the first source's facts, null when there are none.
[[nodiscard]] Deliverable newDeliverable(const Project& project, const std::string& destinationId,
                                         const MediaInfo* first);

/// The rate that a deliverable has when it is matched to footage: the footage's own, or, where the deliverable's
/// destination does not take that, half of it, else the highest that is taken.
[[nodiscard]] FrameRate matchedRate(const std::string& destinationId, const FrameRate& shot);

/// What a piece made from this footage is usually delivered as: its own size and rate, and vertical, square and tall
/// companions whose canvases stay sharp (detail ≥ 1), the usual ones where these do. The media must have a picture.
[[nodiscard]] std::vector<Deliverable> suggestedDeliverables(const Project& project, const MediaInfo& media,
                                                             const Bars& bars);

/// `wanted`, or with a number behind it where a deliverable has that name already.
[[nodiscard]] std::string freeDeliverableName(const Project& project, const std::string& wanted);

} // namespace tromb
