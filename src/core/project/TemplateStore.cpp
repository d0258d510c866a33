// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/TemplateStore.h"

#include "project/AtomicFile.h"
#include "project/ProjectFile.h"

#include <algorithm>
#include <cerrno>
#include <filesystem>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;
constexpr const char* kEnding = ".tromb-template";
constexpr const char* kDefaultFile = "/default";

tl::unexpected<Error> noTemplate(const std::string& name) {
  return fail(ErrorCode::Missing, "there is no template '" + name + "'");
}

} // namespace

Project templateOf(const Project& project) {
  Project kept;
  kept.deliverables = project.deliverables;
  kept.output = project.output;
  for (Deliverable& deliverable : kept.deliverables) deliverable.framings.clear();
  return kept;
}

std::string TemplateStore::pathOf(const std::string& name) const {
  return m_folder + "/" + name + kEnding;
}

Status TemplateStore::checkName(const std::string& name) const {
  const bool bad =
      name.empty() || name.size() > 200 || name.front() == '.' ||
      std::any_of(name.begin(), name.end(), [](char c) { return c == '/' || static_cast<unsigned char>(c) < 32; });
  if (bad)
    return fail(ErrorCode::InvalidArgument, "'" + name + "' cannot be a template's name", {},
                "Use up to 200 letters, no slash, no dot in front");
  std::error_code made;
  fs::create_directories(m_folder, made);
  if (made) return fail(ErrorCode::CannotWrite, "the folder cannot be made (" + made.message() + ")", m_folder);
  return {};
}

std::vector<SavedTemplate> TemplateStore::all() const {
  std::vector<SavedTemplate> templates;
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(m_folder, status)) {
    if (entry.path().extension() != kEnding) continue;
    if (auto project = loadProject(entry.path().string()))
      templates.push_back({entry.path().stem().string(), templateOf(*project)});
  }
  std::sort(templates.begin(), templates.end(),
            [](const SavedTemplate& a, const SavedTemplate& b) { return a.name < b.name; });
  return templates;
}

Status TemplateStore::save(const std::string& name, const Project& project, bool overwrite) {
  if (const Status good = checkName(name); !good) return good;
  std::error_code ignored;
  if (!overwrite && fs::exists(pathOf(name), ignored))
    return fail(ErrorCode::Exists, "there is a template '" + name + "' already", {},
                "Choose another name, or update it");
  Project kept = templateOf(project);
  kept.name = name;
  return saveProject(kept, pathOf(name));
}

Status TemplateStore::rename(const std::string& from, const std::string& to) {
  if (const Status good = checkName(to); !good) return good;
  std::error_code status;
  auto project = loadProject(pathOf(from));
  if (!project) return noTemplate(from);
  if (from == to) return {};
  const bool wasDefault = defaultName() == from;
  if (const Status saved = save(to, *project, false); !saved) return saved;
  fs::remove(pathOf(from), status);
  return wasDefault ? setDefault(to) : Status();
}

Status TemplateStore::remove(const std::string& name) {
  std::error_code status;
  if (!fs::remove(pathOf(name), status)) return noTemplate(name);
  return defaultName() == name ? setDefault({}) : Status();
}

Result<std::string> TemplateStore::importFile(const std::string& path) {
  const auto project = loadProject(path);
  if (!project) return tl::unexpected(project.error());
  const std::string wanted = project->name.empty() ? fs::path(path).stem().string() : project->name;
  std::string name = wanted;
  std::error_code ignored;
  for (int n = 2; fs::exists(pathOf(name), ignored); ++n) name = wanted + " " + std::to_string(n);
  if (const Status saved = save(name, *project, false); !saved) return tl::unexpected(saved.error());
  return name;
}

Status TemplateStore::exportFile(const std::string& name, const std::string& path) const {
  const auto project = loadProject(pathOf(name));
  if (!project) return noTemplate(name);
  return saveProject(*project, path);
}

std::string TemplateStore::defaultName() const {
  const auto text = readWholeFile(m_folder + kDefaultFile, 4096);
  std::error_code ignored;
  return text && fs::exists(pathOf(*text), ignored) ? *text : std::string();
}

Status TemplateStore::setDefault(const std::string& name) {
  if (name.empty()) {
    ::unlink((m_folder + kDefaultFile).c_str());
    return {};
  }
  std::error_code ignored;
  if (!fs::exists(pathOf(name), ignored)) return noTemplate(name);
  return writeFileAtomically(m_folder + kDefaultFile, name);
}

} // namespace tromb
