// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/PresetStore.h"

#include "io/AtomicFile.h"
#include "io/JsonReader.h"
#include "project/ProjectFile.h"

#include <array>
#include <filesystem>
#include <unistd.h>

namespace tromb {
namespace {

constexpr const char* kDefaultFile = "/default";
constexpr const char* kDefaultEncodingFile = "/default-encoding";
constexpr std::array<const char*, 3> kKindWords{"encoding", "deliverable", "set"};
constexpr size_t kMostComment = 2000;
constexpr size_t kMostTag = 60;

/// What of a project a preset keeps.
Project kept(const Project& project) {
  Project only;
  only.deliverables = project.deliverables;
  only.output = project.output;
  for (Deliverable& deliverable : only.deliverables) {
    deliverable.framings.clear();
    deliverable.preset.clear();
    if (!only.deliverable(deliverable.sharesWith)) deliverable.sharesWith.clear();
  }
  return only;
}

/// Takes what is said of the preset out of the members that a project does not know. Errors: ProjectInvalid.
Status readAbout(Preset& preset) {
  if (preset.project.unknown.empty()) return {};
  const auto members = parseJson(preset.project.unknown);
  if (!members) return tl::unexpected(members.error());
  JsonFault fault;
  const JsonNode top(*members, fault);
  preset.project.unknown = top.others({"preset"});
  if (!top.has("preset")) return {};
  const JsonNode about = top.get("preset");
  preset.kind = PresetKind(about.get("kind").word(kKindWords));
  if (about.has("comment")) preset.comment = about.get("comment").text(kMostComment);
  if (about.has("starred")) preset.starred = about.get("starred").truth();
  if (about.has("tags"))
    about.get("tags").elements([&preset](const JsonNode& tag) { preset.tags.push_back(tag.text(kMostTag)); });
  if (preset.kind != PresetKind::Set && preset.project.deliverables.size() != 1)
    top.get("preset").refuse(say("it is of one deliverable, and there are %1", preset.project.deliverables.size()));
  return fault.error ? Status(tl::unexpected(*fault.error)) : Status();
}

Result<Preset> readPreset(const std::string& path) {
  auto project = loadProject(path);
  if (!project) return tl::unexpected(project.error());
  Preset preset{project->name, PresetKind::Set, {}, false, {}, kept(*project)};
  preset.project.unknown = project->unknown;
  if (Status about = readAbout(preset); !about) {
    about.error().path = path;
    return tl::unexpected(about.error());
  }
  return preset;
}

Status writePreset(const Preset& preset, const std::string& path) {
  Project file = kept(preset.project);
  file.name = preset.name;
  Json about{{"kind", presetKindWord(preset.kind)}};
  if (!preset.comment.empty()) about["comment"] = preset.comment;
  if (preset.starred) about["starred"] = true;
  if (!preset.tags.empty()) about["tags"] = preset.tags;
  file.unknown = withUnknown(preset.project.unknown, Json{{"preset", std::move(about)}}).dump();
  return saveProject(file, path);
}

} // namespace

const char* presetKindWord(PresetKind kind) {
  return kKindWords[size_t(kind)];
}

Preset presetOf(const Deliverable& deliverable, PresetKind kind, const std::string& name) {
  Preset preset{name, kind, {}, false, {}, {}};
  preset.project.deliverables = {deliverable};
  preset.project = kept(preset.project);
  return preset;
}

Preset presetOf(const Project& project, const std::string& name) {
  return {name, PresetKind::Set, {}, false, {}, kept(project)};
}

void lay(const Preset& preset, Deliverable& d) {
  if (preset.kind == PresetKind::Set || preset.project.deliverables.size() != 1) return;
  const Deliverable& from = preset.project.deliverables.front();
  d.encoding = from.encoding;
  d.format = from.format;
  d.preset = preset.name;
  if (preset.kind == PresetKind::Encoding) return;
  d.canvas = from.canvas;
  d.pixelAspect = from.pixelAspect;
  d.rate = from.rate;
  d.destination = from.destination;
  d.loudness = from.loudness;
  d.treatment = from.treatment;
  d.sharpOnly = from.sharpOnly;
}

std::vector<Message> changedSince(const Preset& preset, const Deliverable& d) {
  std::vector<Message> changed;
  if (preset.kind == PresetKind::Set || preset.project.deliverables.size() != 1) return changed;
  const Deliverable& from = preset.project.deliverables.front();
  const auto tell = [&changed](bool differs, Message what) {
    if (differs) changed.push_back(std::move(what));
  };
  if (preset.kind == PresetKind::Deliverable) {
    tell(d.canvas != from.canvas || d.pixelAspect != from.pixelAspect, say("canvas"));
    tell(d.rate != from.rate, say("frame rate"));
    tell(d.destination != from.destination, say("destination"));
    tell(d.loudness != from.loudness, say("loudness"));
    tell(d.treatment != from.treatment, say("treatment of frames"));
    tell(d.sharpOnly != from.sharpOnly, say("enlarging"));
  }
  const Encoding& is = d.encoding;
  const Encoding& was = from.encoding;
  tell(is.codec != was.codec, say("codec"));
  tell(is.container != was.container, say("container"));
  tell(d.format != from.format, say("samples"));
  tell(is.rateControl != was.rateControl || is.passes != was.passes, say("rate control"));
  tell(is.bitRate != was.bitRate || is.maxBitRate != was.maxBitRate || is.bufferBits != was.bufferBits,
       say("bit rate"));
  tell(is.crf != was.crf, say("quality"));
  tell(is.sound != was.sound, say("sound"));
  // Whatever else differs is told in one word, once.
  Encoding rest = is;
  rest.codec = was.codec;
  rest.container = was.container;
  rest.rateControl = was.rateControl;
  rest.passes = was.passes;
  rest.bitRate = was.bitRate;
  rest.maxBitRate = was.maxBitRate;
  rest.bufferBits = was.bufferBits;
  rest.crf = was.crf;
  rest.sound = was.sound;
  tell(rest != was, say("encoder"));
  return changed;
}

bool fits(const Preset& preset, const Deliverable& d) {
  if (preset.kind == PresetKind::Set) return true;
  Deliverable laid = d;
  lay(preset, laid);
  const Encoding e = resolvedEncoding(laid);
  return encodable(e, pictureOf(laid)).has_value() && levelCarries(e, pictureOf(laid)).has_value();
}

void PresetStore::takeOverTemplates(const std::string& folder) {
  const NamedFiles old(folder, ".tromb-template");
  std::error_code ignored;
  if (old.names().empty() || std::filesystem::exists(m_files.folder(), ignored)) return;
  for (const std::string& name : old.names())
    if (auto preset = readPreset(old.pathOf(name))) {
      preset->name = name;
      (void)save(*preset, false); // what cannot be taken over stays where it is
    }
  if (const auto standard = readWholeFile(folder + kDefaultFile, 4096); standard && m_files.has(*standard))
    (void)setDefault(*standard);
}

std::vector<Preset> PresetStore::all() const {
  std::vector<Preset> presets;
  for (const std::string& name : m_files.names())
    if (auto preset = read(name)) presets.push_back(std::move(*preset));
  return presets;
}

std::vector<Error> PresetStore::faults() const {
  std::vector<Error> faults;
  for (const std::string& name : m_files.names())
    if (const auto preset = read(name); !preset) faults.push_back(preset.error());
  return faults;
}

Result<Preset> PresetStore::read(const std::string& name) const {
  if (!m_files.has(name)) return m_files.missing(name);
  auto preset = readPreset(m_files.pathOf(name));
  if (preset) preset->name = name; // the file may have been renamed
  return preset;
}

Status PresetStore::save(const Preset& preset, bool overwrite) {
  if (const Status good = m_files.mayTake(preset.name, overwrite); !good) return good;
  const auto tooLong = [](const Message& what) {
    return fail(ErrorCode::InvalidArgument, what, {}, say("Shorten it"));
  };
  if (preset.comment.size() > kMostComment)
    return tooLong(say("a comment has at most %1 bytes; this one has %2", kMostComment, preset.comment.size()));
  for (const std::string& tag : preset.tags)
    if (tag.size() > kMostTag) return tooLong(say("a tag has at most %1 bytes: '%2'", kMostTag, tag));
  return writePreset(preset, m_files.pathOf(preset.name));
}

Status PresetStore::rename(const std::string& from, const std::string& to) {
  const bool wasDefault = defaultName() == from || defaultEncoding() == from;
  if (wasDefault)
    if (const Status done = setDefault(from, false); !done) return done;
  if (const Status done = m_files.rename(from, to); !done) {
    if (wasDefault) (void)setDefault(from);
    return done;
  }
  return wasDefault ? setDefault(to) : Status();
}

Status PresetStore::remove(const std::string& name) {
  if (const Status done = m_files.remove(name); !done) return done;
  return setDefault(name, false);
}

Result<std::string> PresetStore::importFile(const std::string& path) {
  auto preset = readPreset(path);
  if (!preset) return tl::unexpected(preset.error());
  for (const Deliverable& d : preset->project.deliverables)
    if (const Status holds = encodable(resolvedEncoding(d), pictureOf(d)); !holds)
      return fail(ErrorCode::ProjectInvalid, say("'%1' contradicts itself: %2", d.name, holds.error().message), path,
                  holds.error().hint);
  preset->name = m_files.freeName(preset->name.empty() ? std::filesystem::path(path).stem().string() : preset->name);
  if (const Status saved = save(*preset, false); !saved) return tl::unexpected(saved.error());
  return preset->name;
}

Status PresetStore::exportFile(const std::string& name, const std::string& path) const {
  const auto preset = read(name);
  if (!preset) return tl::unexpected(preset.error());
  return writePreset(*preset, path);
}

std::string PresetStore::nameIn(const char* file) const {
  const auto text = readWholeFile(m_files.folder() + file, 4096);
  return text && m_files.has(*text) ? *text : std::string();
}

std::string PresetStore::defaultName() const {
  return nameIn(kDefaultFile);
}

std::string PresetStore::defaultEncoding() const {
  return nameIn(kDefaultEncodingFile);
}

Status PresetStore::setDefault(const std::string& name, bool on) {
  if (!on) {
    for (const char* each : {kDefaultFile, kDefaultEncodingFile})
      if (readWholeFile(m_files.folder() + each, 4096).value_or("") == name)
        ::unlink((m_files.folder() + each).c_str());
    return {};
  }
  const auto preset = read(name);
  if (!preset) return tl::unexpected(preset.error());
  return writeFileAtomically(
      m_files.folder() + (preset->kind == PresetKind::Encoding ? kDefaultEncodingFile : kDefaultFile), name);
}

} // namespace tromb
