// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <string>
#include <vector>

namespace tromb {

/// Things that are kept under names of their own, one file each in one folder. One thread at a time.
class NamedFiles {
public:
  /// `ending` with its dot.
  NamedFiles(std::string folder, std::string ending) : m_folder(std::move(folder)), m_ending(std::move(ending)) {}

  [[nodiscard]] const std::string& folder() const { return m_folder; }
  [[nodiscard]] std::vector<std::string> names() const; ///< in order
  [[nodiscard]] std::string pathOf(const std::string& name) const { return m_folder + "/" + name + m_ending; }
  [[nodiscard]] bool has(const std::string& name) const;
  /// `wanted`, or with a number behind it where that is taken.
  [[nodiscard]] std::string freeName(const std::string& wanted) const;

  /// Makes the folder; what is saved under the name may then be written. Errors: InvalidArgument (no name, or one that
  /// files cannot have), Exists (unless it is to be overwritten), CannotWrite.
  [[nodiscard]] Status mayTake(const std::string& name, bool overwrite) const;
  /// Errors: Missing, and those of mayTake.
  [[nodiscard]] Status rename(const std::string& from, const std::string& to);
  [[nodiscard]] Status remove(const std::string& name); ///< Missing
  [[nodiscard]] tl::unexpected<Error> missing(const std::string& name) const;

private:
  std::string m_folder;
  std::string m_ending;
};

} // namespace tromb
