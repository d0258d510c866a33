// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"

#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class CheckCommand final : public Command {
public:
  explicit CheckCommand(CLI::App& app) {
    app.add_option("project", m_path, "Project file")->required()->type_name("PROJECT");
    app.add_option("--deliverable", m_deliverables, "Name of a deliverable; all by default")->take_all();
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    const auto project = loadProject(m_path);
    if (!project) return failed(context, project.error(), m_json);
    const auto ids = deliverableIds(*project, m_deliverables);
    if (!ids) return failed(context, ids.error(), m_json);
    const auto findings = preflight(*project, probeFootage(*project, probing(context)), *ids);
    bool short_ = false;
    for (const Finding& f : findings) {
      short_ = short_ || f.severity != Severity::Note;
      if (m_json) continue;
      context.err << severityWord(f.severity) << " [" << f.code << "]";
      for (const std::string& part : {f.deliverable, f.shot})
        if (!part.empty()) context.err << " " << part << ":";
      context.err << " " << f.message << (f.fix.empty() ? "" : ". ") << f.fix << "\n";
    }
    if (m_json)
      context.out << toJson(findings).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    else if (findings.empty())
      context.err << "nothing falls short\n";
    return short_ ? kFallsShort : kDone;
  }

private:
  std::string m_path;
  std::vector<std::string> m_deliverables;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeCheck(CLI::App& app) {
  return std::make_unique<CheckCommand>(app);
}

} // namespace tromb::cli
