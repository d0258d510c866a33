// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <map>
#include <string>
#include <vector>

namespace tromb {

/// How much a finding of preflight weighs before an export.
enum class Severity {
  Ignored, ///< it is not looked for
  Note,
  Warning,
  Error, ///< nothing is exported without asking
};
inline constexpr std::array<const char*, 4> kSeverityWords{"ignored", "note", "warning", "error"};
[[nodiscard]] inline const char* severityWord(Severity severity) {
  return kSeverityWords[size_t(severity)];
}

/// A finding that somebody has looked at and lets be. It holds as long as the finding rests on the same.
struct Acceptance {
  std::string code;        ///< of the finding
  std::string deliverable; ///< Deliverable::id; empty where it concerns none
  std::string shot;        ///< Shot::id; empty where it concerns none
  std::string source;      ///< Source::id; empty where it concerns none
  std::string basis;       ///< digest of Finding::basis
  std::string word;        ///< why it may be so, in the words of whoever accepted it
  std::string unknown;     ///< see Project.h
  friend bool operator==(const Acceptance&, const Acceptance&) = default;
};

/// True if both are of one finding that rests on the same.
[[nodiscard]] inline bool sameFinding(const Acceptance& a, const Acceptance& b) {
  return a.code == b.code && a.deliverable == b.deliverable && a.shot == b.shot && a.source == b.source &&
         a.basis == b.basis;
}

/// What is settled in a project about its own findings.
struct Checks {
  std::map<std::string, Severity>
      severities; ///< by Finding::code; a code that is not there weighs what it usually does
  std::vector<Acceptance> accepted;
  std::string unknown;
  friend bool operator==(const Checks&, const Checks&) = default;
};

} // namespace tromb
