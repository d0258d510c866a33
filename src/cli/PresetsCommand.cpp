// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "Presets.h"
#include "encoding/Encoding.h"
#include "io/AtomicFile.h"
#include "io/DataFolder.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"

#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

nlohmann::ordered_json toJson(const Preset& preset) {
  nlohmann::ordered_json object{{"name", preset.name},       {"kind", presetKindWord(preset.kind)},
                                {"comment", preset.comment}, {"starred", preset.starred},
                                {"tags", preset.tags},       {"deliverables", nlohmann::ordered_json::array()}};
  for (const Deliverable& d : preset.project.deliverables)
    object["deliverables"].push_back({{"name", d.name},
                                      {"width", d.canvas.width},
                                      {"height", d.canvas.height},
                                      {"rate", d.rate.value().toString()},
                                      {"codec", d.encoding.info().word}});
  return object;
}

class PresetsCommand final : public Command {
public:
  explicit PresetsCommand(CLI::App& app) {
    app.require_subcommand(1);
    const auto verb = [&app](const char* name, const char* about) { return app.add_subcommand(name, about); };
    m_list = verb("list", "List the presets");
    m_list->add_flag("--json", m_json, "Write JSON to standard output");
    m_show = verb("show", "Write a preset to standard output");
    m_show->add_option("name", m_name, "Its name")->required();
    m_save = verb("save", "Save a preset of a project or of one of its deliverables");
    m_save->add_option("name", m_name, "Its name")->required();
    m_save->add_option("--project", m_path, "The project")->required()->type_name("PROJECT");
    m_save->add_option("--deliverable", m_deliverable, "The deliverable; without one, a set of all is saved");
    m_save->add_flag("--encoding", m_encoding, "Its encoding alone");
    m_save->add_option("--comment", m_comment, "What it is for");
    m_save->add_flag("--overwrite", m_overwrite, "Replace the preset when it is there");
    m_import = verb("import", "Take a preset from a file");
    m_import->add_option("file", m_path, "The file")->required()->type_name("FILE");
    m_export = verb("export", "Write a preset to a file");
    m_export->add_option("name", m_name, "Its name")->required();
    m_export->add_option("file", m_path, "The file")->required()->type_name("FILE");
    m_remove = verb("remove", "Remove a preset");
    m_remove->add_option("name", m_name, "Its name")->required();
  }

  int run(Context& context) override {
    PresetStore store = presets();
    if (m_list->parsed()) return list(store, context);
    Status done;
    if (m_show->parsed()) {
      const auto preset = store.read(m_name);
      if (!preset) return failed(context, preset.error(), false);
      context.out << toJson(*preset).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    } else if (m_save->parsed()) {
      done = save(store);
    } else if (m_import->parsed()) {
      const auto name = store.importFile(m_path);
      if (!name) return failed(context, name.error(), false);
      context.err << "tromb-cli: taken in as '" << *name << "'\n";
    } else if (m_export->parsed()) {
      done = store.exportFile(m_name, m_path);
    } else {
      done = store.remove(m_name);
    }
    return done ? kDone : failed(context, done.error(), false);
  }

private:
  int list(const PresetStore& store, Context& context) const {
    auto all = nlohmann::ordered_json::array();
    for (const Preset& each : store.all()) {
      all.push_back(toJson(each));
      if (!m_json)
        context.err << each.name << ": " << presetKindWord(each.kind)
                    << (each.comment.empty() ? "" : ", " + each.comment) << "\n";
    }
    if (m_json) context.out << all.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    for (const Error& fault : store.faults()) context.err << "tromb-cli: left out: " << sentence(fault) << "\n";
    return kDone;
  }

  Status save(PresetStore& store) const {
    const auto project = loadProject(m_path);
    if (!project) return tl::unexpected(project.error());
    if (m_deliverable.empty() && m_encoding)
      return fail(ErrorCode::InvalidArgument, say("an encoding is that of one deliverable"), {},
                  say("Give --deliverable"));
    const Deliverable* one = m_deliverable.empty() ? nullptr : project->deliverableNamed(m_deliverable);
    if (!m_deliverable.empty() && !one)
      return fail(ErrorCode::InvalidArgument, say("there is no deliverable '%1'", m_deliverable), m_path);
    Preset preset = one ? presetOf(*one, m_encoding ? PresetKind::Encoding : PresetKind::Deliverable, m_name)
                        : presetOf(*project, m_name);
    preset.comment = m_comment;
    return store.save(preset, m_overwrite);
  }

  CLI::App* m_list;
  CLI::App* m_show;
  CLI::App* m_save;
  CLI::App* m_import;
  CLI::App* m_export;
  CLI::App* m_remove;
  std::string m_name;
  std::string m_path;
  std::string m_deliverable;
  std::string m_comment;
  bool m_encoding = false;
  bool m_overwrite = false;
  bool m_json = false;
};

} // namespace

PresetStore presets() {
  const std::string folder = ownDataFolder();
  PresetStore store(folder + "/presets");
  store.takeOverTemplates(folder + "/templates");
  return store;
}

std::unique_ptr<Command> makePresets(CLI::App& app) {
  return std::make_unique<PresetsCommand>(app);
}

} // namespace tromb::cli
