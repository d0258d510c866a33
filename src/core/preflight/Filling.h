// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "geometry/WaysToFill.h"
#include "project/Project.h"

namespace tromb {

/// What ways to fill a deliverable's canvas with a shot are judged by. `matters` is what was found in it. Thread-safe.
[[nodiscard]] FillGrounds fillGrounds(const Deliverable& deliverable, const Shot& shot, std::vector<SeenBox> matters);
/// A cell that falls short of its canvas, and what would lose less.
struct FillProposal {
  std::string deliverable;     ///< name
  std::vector<WayToFill> ways; ///< the one that loses least first; one of them is as it is now
};
/// Of the cells of a shot that are soft or have bars, those for which there is a better way. `media` is its source's
/// and has a picture. Thread-safe.
[[nodiscard]] std::vector<FillProposal> fillProposals(const Project& project, const Shot& shot, const MediaInfo& media,
                                                      const std::vector<SeenBox>& matters);
/// "two stacked"; of a canvas its size.
[[nodiscard]] Message wayName(const WayToFill& way);
/// What a way to fill gives up, what is minded most first: "enlarged 1.8×", "68 % backdrop". What is hardly minded is
/// left out; "nothing" where that is all.
[[nodiscard]] std::vector<Message> lossWords(const FillLoss& loss);

} // namespace tromb
