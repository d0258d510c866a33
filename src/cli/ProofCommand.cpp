// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "export/Proof.h"
#include "export/ProofPage.h"
#include "io/AtomicFile.h"
#include "project/ProjectFile.h"

#include <filesystem>
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
    app.add_option("--region", m_region, "Region it is of; the whole by default")->needs(project);
    app.add_option("--page", m_page, "Also write it as a page of HTML, with pictures of what was found")
        ->type_name("FILE");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    std::optional<Plan> plan;
    if (!m_project.empty()) {
      auto built = planned(context);
      if (!built) return failed(context, built.error(), m_json);
      plan = std::move(*built);
    }
    ProofSubject subject{m_file, plan ? &*plan : nullptr, nullptr, {}};
    std::optional<TraceFile> traces;
    if (plan) { // compose and mix the deliverable again, to compare the file with
      std::error_code ignored;
      auto made =
          composeTraces(*plan, std::filesystem::temp_directory_path(ignored).string(), subject.losses, context.stop);
      if (!made) return failed(context, made.error(), m_json);
      traces.emplace(std::move(*made));
      subject.traces = &*traces;
    }
    const auto report = proofFile(subject, context.stop);
    if (!report) return failed(context, report.error(), m_json);
    if (m_json)
      context.out << toJson(*report).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    else
      for (const ProofCheck& c : report->checks)
        context.err << (!c.made  ? "  -     "
                        : c.pass ? "  ok    "
                                 : "  SHORT ")
                    << c.code << ": " << c.found
                    << (c.expected.empty() || c.expected == c.found ? "" : " (expected " + c.expected.text() + ")")
                    << "\n";
    if (!m_page.empty()) {
      const auto page = proofPage({m_file, &*report, subject.plan}, {}, context.stop);
      if (!page) return failed(context, page.error(), m_json);
      if (const Status written = writeFileAtomically(m_page, *page); !written)
        return failed(context, written.error(), m_json);
    }
    return report->passed() ? kDone : kFallsShort;
  }

private:
  Result<Plan> planned(const Context& context) const {
    const auto project = loadProject(m_project);
    if (!project) return tl::unexpected(project.error());
    const auto ids = deliverableIds(*project, {m_deliverable});
    if (!ids) return tl::unexpected(ids.error());
    const Footage footage = probeFootage(*project, probing(context));
    if (m_region.empty()) return Plan::build(*project, footage, ids->front());
    const auto region = regionNamed(*project, m_region);
    if (!region) return tl::unexpected(region.error());
    return Plan::build(*project, footage, ids->front(), *region);
  }

  std::string m_file;
  std::string m_project;
  std::string m_deliverable;
  std::string m_region;
  std::string m_page;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeProof(CLI::App& app) {
  return std::make_unique<ProofCommand>(app);
}

} // namespace tromb::cli
