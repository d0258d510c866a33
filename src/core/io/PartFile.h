// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "io/Descriptor.h"

#include <stop_token>
#include <string>

namespace tromb {

/// Gives a file another name where nothing has it yet; both lie in the open folder `folder`, or are paths where that is
/// AT_FDCWD. Returns 0, or the errno value of what kept it from it. Thread-safe.
[[nodiscard]] int nameFreshly(int folder, const std::string& from, const std::string& to);

/// A file that is written beside its target and takes its name once it is whole. It is locked while this object lives,
/// so that another run can tell a live one from the remains of one that was killed; its folder is held open, so that
/// it is found even when the folder is renamed meanwhile. A link that lies in its place is never followed. Movable;
/// removed on destruction unless it took its final name. One thread at a time.
class PartFile {
public:
  enum class Busy {
    Refuse, ///< where somebody else is writing the same file
    Wait,   ///< until they are done, or until it is stopped
  };
  /// Makes ".NAME.tromb-part" beside `target`, empty. Errors: CannotWrite, Cancelled.
  [[nodiscard]] static Result<PartFile> create(const std::string& target, Busy busy = Busy::Refuse,
                                               const std::stop_token& stop = {});
  PartFile(PartFile&& other) noexcept;
  PartFile& operator=(PartFile&&) = delete;
  ~PartFile();

  /// Where the part file of a target lies.
  [[nodiscard]] static std::string pathFor(const std::string& target);
  /// By which it can be opened, in this process alone.
  [[nodiscard]] std::string path() const;
  [[nodiscard]] const Descriptor& file() const { return m_file; }
  /// See Descriptor::setWhenFull.
  void setWhenFull(WhenFull whenFull) { m_file.setWhenFull(std::move(whenFull)); }
  /// Syncs it, and gives it its target's name, or `otherName` in the same folder. Errors: CannotWrite, Exists
  /// (something has that name; not with `overwrite`).
  [[nodiscard]] Status takeFinalName(bool overwrite, const std::string& otherName = {});

  /// Where the file lies under its final name: where it was to, or where its folder was moved to meanwhile. Empty where
  /// nobody would find it, since its folder was removed or its disk taken away.
  [[nodiscard]] std::string foundAt() const;

  /// Syncs it, so that its identity does not change any more. Errors: CannotWrite.
  [[nodiscard]] Status sync();
  /// Removes the remains of killed runs from a folder; live ones are left alone.
  static void sweep(const std::string& folder);

private:
  PartFile() = default;
  std::string m_target; ///< The target as it was named, for messages.
  std::string m_name;   ///< The temporary file's name in its folder; empty once it has its final name.
  std::string m_final;  ///< the name that it took
  Descriptor m_folder;
  Descriptor m_file;
};

} // namespace tromb
