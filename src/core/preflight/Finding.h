// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"

#include <nlohmann/json_fwd.hpp>
#include <string_view>

namespace tromb {

/// A kind of finding. What it is called, and how much it weighs unless a project says otherwise.
struct FindingKind {
  const char* code; ///< stable word
  Severity severity;
  Message name; ///< "Enlarged picture"
  /// Nothing can be made while it stands, so that it always weighs the same and cannot be accepted.
  bool stops = false;
};

/// All kinds, in the order in which people care for them.
[[nodiscard]] const std::vector<FindingKind>& findingKinds();
/// The kind with this code; null when there is none.
[[nodiscard]] const FindingKind* findingKind(std::string_view code);

/// One thing that a check before an export found.
struct Finding {
  std::string code; ///< one of findingKinds
  Severity severity = Severity::Note;
  std::string deliverable; ///< name; empty when it concerns the whole project
  std::string shot;        ///< name, or those of several; empty when it concerns the whole deliverable
  Message message;
  Message fix;               ///< what to do; may be empty
  std::string deliverableId; ///< where it is; empty as the names are
  std::string shotId;        ///< of the first, where there are several
  std::string sourceId;      ///< of the shot's source, or of that which the finding is of; may be empty
  std::vector<Fix> fixes;    ///< what mends it; may be empty
  /// What it rests on, as text: what it says, and which file it says it of. When that becomes another it is another
  /// finding, and nobody has accepted it.
  std::string basis;
  bool accepted = false; ///< somebody lets it be; it weighs as a note
  std::string word;      ///< and why, in their words

  [[nodiscard]] bool errs() const { return severity == Severity::Error; }
};

/// The acceptance of a finding, as a project keeps it: what it rests on becomes a digest, since paths in it may be long
/// and need not be text.
[[nodiscard]] Acceptance acceptanceOf(const Finding& finding, const std::string& word);

[[nodiscard]] nlohmann::ordered_json toJson(const std::vector<Finding>& findings);

} // namespace tromb
