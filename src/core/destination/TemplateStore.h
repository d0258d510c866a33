// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/NamedFiles.h"
#include "project/Project.h"

namespace tromb {

/// A project to start from: its deliverables and what is said of its files, without footage and framings.
struct SavedTemplate {
  std::string name;
  Project project;
};

/// What of a project a template keeps.
[[nodiscard]] Project templateOf(const Project& project);

/// Named templates as files in a folder of their own, one JSON file each in the project file's format; and which of
/// them, if any, new projects start from. One thread at a time.
class TemplateStore {
public:
  explicit TemplateStore(std::string folder) : m_files(std::move(folder), ".tromb-template") {}

  /// By name. Files that cannot be read are left out.
  [[nodiscard]] std::vector<SavedTemplate> all() const;
  /// Saves under a name, or updates what is there with `overwrite`. Errors: InvalidArgument (no name, or one that
  /// files cannot have), Exists, CannotWrite.
  [[nodiscard]] Status save(const std::string& name, const Project& project, bool overwrite);
  /// Errors: Missing, Exists, InvalidArgument, CannotWrite.
  [[nodiscard]] Status rename(const std::string& from, const std::string& to);
  [[nodiscard]] Status remove(const std::string& name);
  /// Takes a template from a file, under its own name, with a number where that is taken. Returns the name. Errors:
  /// those of loadProject, CannotWrite.
  [[nodiscard]] Result<std::string> importFile(const std::string& path);
  /// Writes one to a file of its own. Errors: Missing, CannotWrite.
  [[nodiscard]] Status exportFile(const std::string& name, const std::string& path) const;

  /// Returns the name of the template that new projects start from. Returns an empty text for none.
  [[nodiscard]] std::string defaultName() const;
  [[nodiscard]] Status setDefault(const std::string& name); ///< empty: none

private:
  NamedFiles m_files;
};

} // namespace tromb
