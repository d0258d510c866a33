// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "destination/Destination.h"
#include "io/NamedFiles.h"
#include "project/Project.h"

namespace tromb {

/// A destination that takes what a deliverable is, and nothing else; for people to widen.
[[nodiscard]] Destination destinationFrom(const Deliverable& deliverable, const std::string& name);

/// The user's own destinations as files in a folder of their own, one JSON file each under its name. What is changed
/// here is known everywhere at once. One thread at a time.
class DestinationStore {
public:
  explicit DestinationStore(std::string folder) : m_files(std::move(folder), ".json") {}

  [[nodiscard]] std::vector<std::string> names() const { return m_files.names(); }
  void readAgain() const { useOwnDestinations(m_files.folder()); } ///< when files were changed outside
  /// Errors: Missing, Unreadable, ProjectInvalid, ProjectTooNew.
  [[nodiscard]] Result<Destination> read(const std::string& name) const {
    return readDestination(m_files.pathOf(name));
  }
  /// Saves under its name, or updates what is there with `overwrite`. It gets an id of its own where another
  /// destination has its. Errors: InvalidArgument (no name, or one that files cannot have), Exists, CannotWrite.
  [[nodiscard]] Status save(Destination destination, bool overwrite);
  /// The id stays. Errors: Missing, Exists, InvalidArgument, CannotWrite, and those of read.
  [[nodiscard]] Status rename(const std::string& from, const std::string& to);
  [[nodiscard]] Status remove(const std::string& name); ///< Missing
  /// Takes a destination from a file, under its own name, with a number where that is taken. Returns the name. Errors:
  /// those of readDestination and save.
  [[nodiscard]] Result<std::string> importFile(const std::string& path);
  /// Writes one to a file of its own. Errors: Missing, CannotWrite.
  [[nodiscard]] Status exportFile(const std::string& name, const std::string& path) const;

private:
  NamedFiles m_files;
};

} // namespace tromb
