// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "Preflighting.h"
#include "project/ProjectFile.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class CheckCommand final : public Command {
public:
  explicit CheckCommand(CLI::App& app) {
    app.add_option("project", m_path, "Project file")->required()->type_name("PROJECT");
    app.add_option("--deliverable", m_deliverables, "Name of a deliverable; all by default")->take_all();
    app.add_flag("--measure", m_measure,
                 "Measure the sources too: silent, clipped and too loud sound, fast motion, combs");
    app.add_option("--out", m_folder, "Folder that is to be written to: is there room, are the names free?")
        ->type_name("DIR");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    const auto project = loadProject(m_path);
    if (!project) return failed(context, project.error(), m_json);
    const auto ids = deliverableIds(*project, m_deliverables);
    if (!ids) return failed(context, ids.error(), m_json);
    const Footage footage = probeFootage(*project, probing(context));
    PreflightGrounds grounds = groundsFor(context, *project, footage, m_measure);
    if (context.stop.stop_requested())
      return failed(context, Error{ErrorCode::Cancelled, say("measuring was stopped"), {}, {}, {}}, m_json);
    if (!m_folder.empty()) grounds.place = OutputPlace{m_folder, project->name, {}, false};
    const auto findings = preflight(*project, footage, grounds, *ids);
    const bool short_ =
        std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.severity != Severity::Note; });
    if (!m_json) sayFindings(context.err, findings);
    if (m_json)
      context.out << toJson(findings).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    else if (findings.empty())
      context.err << "nothing falls short\n";
    return short_ ? kFallsShort : kDone;
  }

private:
  std::string m_path;
  std::vector<std::string> m_deliverables;
  std::string m_folder;
  bool m_measure = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeCheck(CLI::App& app) {
  return std::make_unique<CheckCommand>(app);
}

} // namespace tromb::cli
