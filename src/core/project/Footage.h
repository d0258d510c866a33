// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/read/Probe.h"
#include "project/Project.h"

#include <map>
#include <optional>
#include <string>

namespace tromb {

/// What is known of each source's file, by Source::id: its facts, or why it cannot be used.
using Footage = std::map<std::string, Result<MediaInfo>>;

/// Looks at every source's file, as the project takes it.
/// True if something is heard in the running order: a shot of a source with sound, or a sound bed.
[[nodiscard]] bool hasSound(const Project& project, const Footage& footage);

[[nodiscard]] Footage probeFootage(const Project& project, const ProbeOptions& options = {});

/// A new source, as it is made when a file is brought in.
[[nodiscard]] Source newSource(const Project& project, const MediaInfo& media);
/// A new shot that shows all of a source, named after it; stills get their usual length. Slow motion material is
/// slowed so that each of its frames is shown once at the first deliverable's rate. The source must have a picture.
[[nodiscard]] Shot newShot(const Project& project, const Source& source, const MediaInfo& media);
/// Returns how far a shot reaches beyond the end of its source, in seconds. Returns nothing if it does not, or by less
/// than a frame.
[[nodiscard]] std::optional<Rational> secondsBeyondSource(const Shot& shot, const MediaInfo& media);
/// The speed at which each frame of a source is shown once at `rate`.
[[nodiscard]] Rational frameByFrameSpeed(const MediaInfo& media, const FrameRate& rate);

/// `wanted`, or with a number behind it where a deliverable has that name already.
[[nodiscard]] std::string freeDeliverableName(const Project& project, const std::string& wanted);

} // namespace tromb
