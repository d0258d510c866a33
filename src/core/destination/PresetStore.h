// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/NamedFiles.h"
#include "project/Project.h"

namespace tromb {

/// What a preset is of: an encoding; a whole deliverable; or a set of deliverables, with what is said of all files of a
/// project.
enum class PresetKind { Encoding, Deliverable, Set };
[[nodiscard]] const char* presetKindWord(PresetKind kind); ///< "encoding", "deliverable", "set"

/// Settings that are kept under a name.
struct Preset {
  std::string name;
  PresetKind kind = PresetKind::Set;
  std::string comment;
  bool starred = false;
  std::vector<std::string> tags;
  Project project; ///< its deliverables without framings: one, or all of a set; of a set its output too
  friend bool operator==(const Preset&, const Preset&) = default;
};

[[nodiscard]] Preset presetOf(const Deliverable& deliverable, PresetKind kind, const std::string& name);
[[nodiscard]] Preset presetOf(const Project& project, const std::string& name);

/// Gives a deliverable what a preset keeps: its encoding and format, and of a whole deliverable also canvas, rate,
/// destination, loudness and whether pictures may be enlarged. Name and framings stay. It is noted which preset was
/// laid. Sets are not laid on one deliverable: nothing is changed.
void lay(const Preset& preset, Deliverable& deliverable);
/// What of a deliverable is not as the preset has it, in words: "bit rate". Empty where all is, and for sets.
[[nodiscard]] std::vector<Message> changedSince(const Preset& preset, const Deliverable& deliverable);
/// True if the preset can be laid on a deliverable of this canvas and rate so that the file can be made.
[[nodiscard]] bool fits(const Preset& preset, const Deliverable& deliverable);

/// Presets as files in a folder of their own, one JSON file each in the project file's format with a member "preset";
/// and which of them new projects and new deliverables start from. One thread at a time.
class PresetStore {
public:
  explicit PresetStore(std::string folder) : m_files(std::move(folder), ".tromb-preset") {}

  /// Takes over the templates of earlier versions, once: they are sets. Those that are there stay as they are.
  void takeOverTemplates(const std::string& folder);

  /// By name. Files that cannot be read are left out.
  [[nodiscard]] std::vector<Preset> all() const;
  /// Why files could not be read.
  [[nodiscard]] std::vector<Error> faults() const;
  /// Errors: Missing, and those of loadProject.
  [[nodiscard]] Result<Preset> read(const std::string& name) const;
  /// Saves under its name, or updates what is there with `overwrite`. Errors: InvalidArgument (no name, one that files
  /// cannot have, a comment of more than 2000 bytes in UTF-8 or a tag of more than 60), Exists, CannotWrite.
  [[nodiscard]] Status save(const Preset& preset, bool overwrite);
  /// Errors: Missing, Exists, InvalidArgument, CannotWrite.
  [[nodiscard]] Status rename(const std::string& from, const std::string& to);
  [[nodiscard]] Status remove(const std::string& name);
  /// Takes a preset from a file (a project or a template is a set), under its own name, with a number where that is
  /// taken. Returns the name. Errors: those of loadProject, ProjectInvalid where an encoding in it contradicts itself,
  /// CannotWrite.
  [[nodiscard]] Result<std::string> importFile(const std::string& path);
  /// Writes one to a file of its own. Errors: Missing, CannotWrite.
  [[nodiscard]] Status exportFile(const std::string& name, const std::string& path) const;

  /// Returns the name of the set, or the deliverable, that new projects start from. Returns an empty text for none.
  [[nodiscard]] std::string defaultName() const;
  /// Returns the name of the encoding that new deliverables start with. Returns an empty text for none.
  [[nodiscard]] std::string defaultEncoding() const;
  /// Whether new projects or, of an encoding, new deliverables start with this one. At most one of each is started
  /// with. Errors: Missing, those of loadProject, CannotWrite.
  [[nodiscard]] Status setDefault(const std::string& name, bool on = true);

private:
  [[nodiscard]] std::string nameIn(const char* file) const;
  NamedFiles m_files;
};

} // namespace tromb
