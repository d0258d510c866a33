// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "FoundSubjects.h"
#include "project/ProjectFile.h"

#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class FrameSubjectsCommand final : public Command {
public:
  explicit FrameSubjectsCommand(CLI::App& app) {
    app.add_option("project", m_path, "Project file; what is found is written into it")
        ->required()
        ->type_name("PROJECT");
    app.add_flag("--unsure-ok", m_unsureOk, "Shots whose subject is in doubt are no shortcoming");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    auto project = loadProject(m_path);
    if (!project) return failed(context, project.error(), m_json);
    const Footage footage = probeFootage(*project, probing(context));
    const auto found = frameSubjects(*project, footage, context, !m_json);
    if (!found) return failed(context, found.error(), m_json);
    if (const Status saved = saveProject(*project, m_path); !saved) return failed(context, saved.error(), m_json);
    if (m_json)
      context.out << nlohmann::ordered_json{{"shots", toJson(*found)}}.dump(2, ' ', false,
                                                                            nlohmann::json::error_handler_t::replace)
                  << "\n";
    return !m_unsureOk && anyUnsure(*found) ? kFallsShort : kDone;
  }

private:
  std::string m_path;
  bool m_unsureOk = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeFrameSubjects(CLI::App& app) {
  return std::make_unique<FrameSubjectsCommand>(app);
}

} // namespace tromb::cli
