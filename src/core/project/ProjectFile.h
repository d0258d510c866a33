// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

namespace tromb {

/// Reading and writing the project file; the format is described in docs/format.md and
/// data/project.schema.json.

inline constexpr int kProjectVersion = 4;

/// The text of a project file that lies in `folder`: footage below it or beside it gets relative paths.
[[nodiscard]] std::string toText(const Project& project, const std::string& folder);
/// The project in `text`, paths made absolute from `folder`. Older versions are migrated; unknown keys are kept.
/// Errors: ProjectInvalid with the JSON pointer of the first fault, ProjectTooNew. `path` is for messages.
[[nodiscard]] Result<Project> fromText(std::string text, const std::string& folder, const std::string& path = {});

/// Errors: Missing, Unreadable, and those of fromText.
[[nodiscard]] Result<Project> loadProject(const std::string& path);
/// Writes beside the target, syncs and renames: the old file stays whole when it fails. Errors: CannotWrite.
[[nodiscard]] Status saveProject(const Project& project, const std::string& path);

} // namespace tromb
