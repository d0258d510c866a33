// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Proof.h"

namespace tromb {

/// What a page tells of.
struct ProofPageSubject {
  std::string path; ///< the finished file
  const ProofReport* report = nullptr;
  const Plan* plan = nullptr; ///< null: there is nothing to show its pictures beside
};

/// A proof as one page of HTML that needs nothing beside it and asks for nothing: the verdict, the file along its time,
/// pictures of what was found and of where it is least like what was composed, beside the pictures that were composed,
/// and every check. For each kind of finding up to three places are shown: the first, one in the middle and the last.
/// In the language of `translate`. Errors: those of probe, PictureSource and PlanPictures, Cancelled.
[[nodiscard]] Result<std::string> proofPage(const ProofPageSubject& subject, const Message::Translate& translate = {},
                                            std::stop_token stop = {});

} // namespace tromb
