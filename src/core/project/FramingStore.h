// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Framing.h"
#include "io/NamedFiles.h"

namespace tromb {

struct SavedFraming {
  std::string name;
  Framing framing;
};

/// Framings under names of their own, one JSON file each (see docs/format.md). A still that a framing lies on belongs
/// to its project: what is kept, and what is brought in, lies on a copy instead. One thread at a time.
class FramingStore {
public:
  explicit FramingStore(std::string folder) : m_files(std::move(folder), ".tromb-framing") {}

  /// By name. Files that cannot be read are left out.
  [[nodiscard]] std::vector<SavedFraming> all() const;
  /// Errors: those of NamedFiles::mayTake.
  [[nodiscard]] Status save(const std::string& name, const Framing& framing, bool overwrite);
  [[nodiscard]] Status rename(const std::string& from, const std::string& to) { return m_files.rename(from, to); }
  [[nodiscard]] Status remove(const std::string& name) { return m_files.remove(name); }
  /// Takes one from a file, named as the file, with a number where that is taken. Returns the name. Errors: Missing,
  /// Unreadable, ProjectInvalid, ProjectTooNew, CannotWrite.
  [[nodiscard]] Result<std::string> importFile(const std::string& path);
  /// Errors: Missing, CannotWrite.
  [[nodiscard]] Status exportFile(const std::string& name, const std::string& path) const;

private:
  NamedFiles m_files;
};

} // namespace tromb
