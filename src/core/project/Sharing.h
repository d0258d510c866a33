// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

namespace tromb {

/// Deliverables that share canvas, pixel shape, frame rate, framings and whether pictures may be enlarged, and differ
/// in all the rest: a normal version, and high ones that name it as `sharesWith`. What is shared is stored in each of
/// them and kept alike, so that whoever reads one of them need not know of the others. Thread-safe.

/// The id of the deliverable that the framings are made for: its own, or that of its normal version.
[[nodiscard]] inline const std::string& framedAs(const Deliverable& d) {
  return d.sharesWith.empty() ? d.id : d.sharesWith;
}
/// True if it has framings of its own: every cell that is to be framed is in one of these.
[[nodiscard]] inline bool framesItself(const Deliverable& d) {
  return d.sharesWith.empty();
}
/// The places of all that share with a deliverable, itself among them, ascending.
[[nodiscard]] std::vector<int> sharersOf(const std::vector<Deliverable>& all, const Deliverable& d);
/// The place of its normal version; its own where it is none of another, or where that is not there.
[[nodiscard]] int placeOfNormal(const std::vector<Deliverable>& all, int place);

/// Takes over from `normal` what is shared. Bit rates that were said follow the size and rate of the picture.
void takeShared(Deliverable& into, const Deliverable& normal);
/// The changed deliverables, and those of `all` that share with one of them and change with it.
[[nodiscard]] std::vector<Deliverable> withSharers(const std::vector<Deliverable>& all,
                                                   std::vector<Deliverable> changed);
/// Where deliverables go away, the first that is left of those that shared with one of them becomes the normal version
/// of the others. Returns those that change.
[[nodiscard]] std::vector<Deliverable> heirs(const std::vector<Deliverable>& all, const std::vector<std::string>& gone);

/// A set of deliverables with ids and names that are free in a project; those that share go on doing so.
[[nodiscard]] std::vector<Deliverable> asNewIn(const Project& project, std::vector<Deliverable> set);

/// Why a deliverable can have no high version, in words; empty where it can.
[[nodiscard]] Message whyNoHighVersion(const Deliverable& normal);
/// A high version of a deliverable, with this name or one like it that is free: the same canvas, rate and framings, for
/// more bits. An average or constant bit rate becomes 5/3 of what it is and its peak 2.5 times that (1080 lines have 12
/// to 24 Mb/s in one and 20 to 50 Mb/s in the other), a constant quality becomes better by a twelfth of its scale, and
/// lossy sound has the bit rate of music (all common practice, no published source). Errors: InvalidArgument where
/// nothing is lost, or the codec settles its own rate.
[[nodiscard]] Result<Deliverable> highVersionOf(const Project& project, const Deliverable& normal,
                                                const std::string& name);

} // namespace tromb
