// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Command.h"
#include "destination/PresetStore.h"
#include "media/MediaInfo.h"
#include "project/Project.h"

#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace tromb::cli {

/// Makes a project from words of the command line, as the window would: bars are measured and cut away, and what is not
/// said has the window's defaults.
class ProjectMaker {
public:
  using Pairs = std::vector<std::pair<std::string, std::string>>;

  explicit ProjectMaker(const Context& context) : m_context(context) {}
  [[nodiscard]] Project& project() { return m_project; }
  [[nodiscard]] const std::map<std::string, MediaInfo>& media() const { return m_media; } ///< by Source::id

  /// "FILE;key=value;…": one shot. Errors: InvalidArgument, those of the file.
  [[nodiscard]] Status addFootage(const std::string& text);
  /// The same in parts; keys without a name are passed over.
  [[nodiscard]] Status addFile(const std::string& file, const Pairs& pairs);
  /// The deliverables of a template; nothing for an empty name. Errors: InvalidArgument names the ones there are.
  [[nodiscard]] Status addTemplate(const std::string& id);
  /// Lays a preset on the deliverables that follow. Errors: those of the store, InvalidArgument for a set.
  [[nodiscard]] Status takePreset(const std::string& name);
  /// The deliverables of a set that was saved. Errors: those of the store, InvalidArgument for another preset.
  [[nodiscard]] Status addSet(const std::string& name);
  /// "key=value;…". Errors: InvalidArgument.
  [[nodiscard]] Status addDeliverable(const std::string& text);
  /// Words or a picture over the shots, see ElementKeys.h; once shots and deliverables are there. Errors:
  /// InvalidArgument, those of the picture's file.
  [[nodiscard]] Status addElement(ElementKind kind, const std::string& text);

  /// The captions of a file, see captionElements; what is broken in it is told. Errors: those of readCaptions.
  [[nodiscard]] Status addCaptions(const std::string& path);

private:
  [[nodiscard]] Source& sourceOf(const Shot& shot);
  [[nodiscard]] const MediaInfo* first() const;
  [[nodiscard]] Status set(Deliverable& d, const std::string& key, const std::string& value);

  const Context& m_context;
  std::optional<Preset> m_preset; ///< for the deliverables that follow
  Project m_project;
  std::map<std::string, MediaInfo> m_media;
};

} // namespace tromb::cli
