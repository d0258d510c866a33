// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/TemplateStore.h"

#include "io/AtomicFile.h"
#include "project/ProjectFile.h"

#include <filesystem>
#include <unistd.h>

namespace tromb {
namespace {

constexpr const char* kDefaultFile = "/default";

} // namespace

Project templateOf(const Project& project) {
  Project kept;
  kept.deliverables = project.deliverables;
  kept.output = project.output;
  for (Deliverable& deliverable : kept.deliverables) deliverable.framings.clear();
  return kept;
}

std::vector<SavedTemplate> TemplateStore::all() const {
  std::vector<SavedTemplate> templates;
  for (const std::string& name : m_files.names())
    if (auto project = loadProject(m_files.pathOf(name))) templates.push_back({name, templateOf(*project)});
  return templates;
}

Status TemplateStore::save(const std::string& name, const Project& project, bool overwrite) {
  if (const Status good = m_files.mayTake(name, overwrite); !good) return good;
  Project kept = templateOf(project);
  kept.name = name;
  return saveProject(kept, m_files.pathOf(name));
}

Status TemplateStore::rename(const std::string& from, const std::string& to) {
  const bool wasDefault = defaultName() == from;
  if (const Status done = m_files.rename(from, to); !done) return done;
  return wasDefault ? setDefault(to) : Status();
}

Status TemplateStore::remove(const std::string& name) {
  const bool wasDefault = defaultName() == name;
  if (const Status done = m_files.remove(name); !done) return done;
  return wasDefault ? setDefault({}) : Status();
}

Result<std::string> TemplateStore::importFile(const std::string& path) {
  const auto project = loadProject(path);
  if (!project) return tl::unexpected(project.error());
  const std::string name =
      m_files.freeName(project->name.empty() ? std::filesystem::path(path).stem().string() : project->name);
  if (const Status saved = save(name, *project, false); !saved) return tl::unexpected(saved.error());
  return name;
}

Status TemplateStore::exportFile(const std::string& name, const std::string& path) const {
  auto project = loadProject(m_files.pathOf(name));
  if (!project) return m_files.missing(name);
  project->name = name; // it may have been renamed
  return saveProject(*project, path);
}

std::string TemplateStore::defaultName() const {
  const auto text = readWholeFile(m_files.folder() + kDefaultFile, 4096);
  return text && m_files.has(*text) ? *text : std::string();
}

Status TemplateStore::setDefault(const std::string& name) {
  if (name.empty()) {
    ::unlink((m_files.folder() + kDefaultFile).c_str());
    return {};
  }
  if (!m_files.has(name)) return m_files.missing(name);
  return writeFileAtomically(m_files.folder() + kDefaultFile, name);
}

} // namespace tromb
