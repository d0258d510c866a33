// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "export/Proof.h"
#include "project/ProjectFile.h"

#include <nlohmann/json.hpp>
#include <optional>
#include <ostream>

namespace tromb::cli {
namespace {

class ProofCommand final : public Command {
public:
  explicit ProofCommand(CLI::App& app) {
    app.add_option("file", m_file, "Finished file")->required()->type_name("FILE");
    auto* project = app.add_option("--project", m_project, "Project it was exported from");
    auto* deliverable = app.add_option("--deliverable", m_deliverable, "Deliverable it is");
    project->needs(deliverable);
    deliverable->needs(project);
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    std::optional<Plan> plan;
    if (!m_project.empty()) {
      auto built = planned();
      if (!built) return failed(context, built.error(), m_json);
      plan = std::move(*built);
    }
    const auto report = proofFile(m_file, plan ? &*plan : nullptr, context.stop);
    if (!report) return failed(context, report.error(), m_json);
    if (m_json)
      context.out << toJson(*report).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    else
      for (const ProofCheck& c : report->checks)
        context.err << (c.pass ? "  ok    " : "  SHORT ") << c.code << ": " << c.found
                    << (c.expected.empty() || c.expected == c.found ? "" : " (expected " + c.expected + ")") << "\n";
    return report->passed() ? kDone : kFallsShort;
  }

private:
  Result<Plan> planned() const {
    const auto project = loadProject(m_project);
    if (!project) return tl::unexpected(project.error());
    const auto ids = deliverableIds(*project, {m_deliverable});
    if (!ids) return tl::unexpected(ids.error());
    return Plan::build(*project, probeFootage(*project), ids->front());
  }

  std::string m_file;
  std::string m_project;
  std::string m_deliverable;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeProof(CLI::App& app) {
  return std::make_unique<ProofCommand>(app);
}

} // namespace tromb::cli
