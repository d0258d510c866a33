// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Measured.h"
#include "preflight/Finding.h"
#include "project/Footage.h"

#include <memory>
#include <set>

namespace tromb {

/// Where the files are to go.
struct OutputPlace {
  std::string folder;  ///< need not be there yet
  std::string project; ///< its name for people, which files may be called by
  std::string region;  ///< the part that is exported; empty for all
  bool overwrite = false;
  friend bool operator==(const OutputPlace&, const OutputPlace&) = default;
};

/// What was seen of how cells are framed when it was last looked. Where nothing of that has changed it is not looked at
/// again: what takes long is to follow moves frame by frame. One thread at a time.
struct CellMemory;
[[nodiscard]] std::shared_ptr<CellMemory> newCellMemory();

/// What preflight rests on beside the project and the facts of its footage. What is not there is not looked at.
struct PreflightGrounds {
  std::map<std::string, Measured> measured;    ///< what was measured of sources, by Source::id
  std::set<std::string> changed;               ///< sources, by id, whose file is another than it was
  std::map<std::string, int64_t> sampledBytes; ///< sizes of files by a sample encode, by Deliverable::id
  std::optional<OutputPlace> place;
  std::shared_ptr<CellMemory> memory; ///< may be empty
};

/// Everything that falls short in the chosen deliverables (ids; all when empty), heaviest first, weighed and accepted
/// as the project says. Never fails: what cannot be planned is itself a finding. Thread-safe.
[[nodiscard]] std::vector<Finding> preflight(const Project& project, const Footage& footage,
                                             const PreflightGrounds& grounds = {},
                                             const std::vector<std::string>& deliverableIds = {});

/// The project with those shots alone that lie in a region, wholly or in part: what an export of it is held against.
[[nodiscard]] Project partOf(Project project, const Region& region);

/// "0.56": detail as it is shown everywhere.
[[nodiscard]] std::string detailText(double detail);
/// "1.8": a number with so many places, with a point in every language.
[[nodiscard]] std::string decimals(double value, int places);
/// "1080×1920".
[[nodiscard]] std::string sizeText(Size size);

} // namespace tromb
