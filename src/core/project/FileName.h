// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <string>
#include <vector>

namespace tromb {

/// What a finished file is of.
struct FileSubject {
  std::string project;
  std::string region; ///< empty for the whole running order
  const Deliverable* deliverable = nullptr;
};

/// A pattern is text in which these words stand for what they say: {project} {region} {deliverable} {size} {rate}.
inline constexpr const char* kUsualNaming = "{project} {region} {deliverable}";
[[nodiscard]] const std::vector<std::string>& namingWords(); ///< with their braces

/// Why a pattern cannot be used: an unknown word, a brace left open, or no {deliverable}, without which files would
/// take each other's names. Empty when it is good; the empty pattern stands for the usual one.
[[nodiscard]] Message namingFault(const std::string& pattern);

/// The name without an ending, in folders where the pattern has slashes: "{project}/{deliverable}". A region that the
/// pattern does not name is added at the end; what files cannot have in their names, on this system or another, becomes
/// a hyphen, dots and blanks at an end go, and each part is at most 220 bytes. The pattern must be good.
[[nodiscard]] std::string fileName(const std::string& pattern, const FileSubject& of);

/// The same path with a number behind the file's name: "a (2).mp4".
[[nodiscard]] std::string numberedPath(const std::string& path, int number);

/// The path that a deliverable is exported to: its name after a pattern, and the ending of its container.
[[nodiscard]] std::string exportPath(const std::string& folder, const std::string& naming, const FileSubject& of);
/// The path of the file of the sound beside that of a picture.
[[nodiscard]] std::string soundPath(const std::string& path, const Encoding& resolved);
/// That of the captions beside it, where they are.
[[nodiscard]] std::string captionPath(const std::string& path, const Encoding& encoding);

} // namespace tromb
