// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "Preflighting.h"
#include "export/Exporter.h"
#include "export/Stills.h"
#include "project/ProjectFile.h"

#include <algorithm>
#include <chrono>
#include <mutex>
#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

using Json = nlohmann::ordered_json;
using Clock = std::chrono::steady_clock;

class ExportCommand final : public Command {
public:
  explicit ExportCommand(CLI::App& app) {
    app.add_option("project", m_path, "Project file")->required()->type_name("PROJECT");
    app.add_option("--deliverable", m_deliverables, "Name of a deliverable; all by default")->take_all();
    app.add_option("--region", m_region, "Name of a region: export that part of the running order alone");
    app.add_option("--out", m_folder, "Folder to write to")->required()->type_name("DIR");
    app.add_flag("--overwrite", m_overwrite, "Replace files that are there");
    app.add_option("--still", m_still, "Write pictures instead: at this time of the running order, or 'each' shot");
    app.add_option("--still-kind", m_stillKind, "png, jpeg or webp")->check(CLI::IsMember({"png", "jpeg", "webp"}));
    app.add_flag("--despite", m_despite, "Export although preflight finds errors");
    app.add_flag("--no-proof", m_noProof, "Leave out the reading-back");
    app.add_option("--progress", m_progress, "json: one JSON object a line on standard output")
        ->check(CLI::IsMember({"json"}));
  }

  int run(Context& context) override {
    m_context = &context;
    const bool json = !m_progress.empty();
    auto request = plans();
    if (!request) return failed(context, request.error(), json);
    if (!m_still.empty()) return stills(context, *request, json);
    if (!m_despite && !m_errors.empty()) return refused(context, json);
    request->onProgress = [&](const ExportProgress& p) { report(*request, p); };
    m_last.resize(request->plans.size());
    const auto files = exportPlans(*request, context.stop);
    if (!files) return failed(context, files.error(), json);
    int code = kDone;
    for (size_t i = 0; i < files->size(); ++i) {
      const int each = tell(context, request->plans[i].deliverable().name, (*files)[i], json);
      code = std::max(code, each);
    }
    return code;
  }

private:
  /// Says why nothing is exported.
  int refused(Context& context, bool json) const {
    if (!json) sayFindings(context.err, m_errors);
    const int code =
        failed(context,
               Error{ErrorCode::FallsShort,
                     sayCounted("preflight finds %n errors, and nothing was exported",
                                "preflight finds an error, and nothing was exported", int64_t(m_errors.size())),
                     {},
                     {},
                     say("Mend it, accept it in the window, or export with --despite")},
               json);
    if (json) context.out << toJson(m_errors).dump(-1, ' ', false, Json::error_handler_t::replace) << std::endl;
    return code;
  }

  /// Prints the outcome of one deliverable and returns the exit code for it alone.
  static int tell(Context& context, const std::string& name, const ExportedFile& file, bool json) {
    if (json) {
      Json line{{"deliverable", name}};
      if (file.error) {
        line["state"] = "failed";
        line["error"] = {
            {"code", codeWord(file.error->code)}, {"message", sentence(*file.error)}, {"path", file.error->path}};
      } else {
        line["state"] = "done";
        line["path"] = file.path;
        if (!file.soundPath.empty()) line["soundPath"] = file.soundPath;
        if (!file.captionPath.empty()) line["captionPath"] = file.captionPath;
        if (!file.encoder.empty()) line["encoder"] = file.encoder;
        if (!file.notCopied.empty()) line["notCopied"] = file.notCopied.text();
        if (file.copied > 0) line["copied"] = file.copied;
        if (!file.inSoftware.empty()) line["inSoftware"] = file.inSoftware.text();
        line["proof"] = file.proof ? toJson(*file.proof) : Json(nullptr);
      }
      for (const SourceLoss& loss : file.losses) line["losses"].push_back(lossText(loss).text());
      context.out << line.dump(-1, ' ', false, Json::error_handler_t::replace) << std::endl;
    } else if (file.error) {
      context.err << name << ": failed. " << sentence(*file.error) << "\n";
    } else {
      const char* verdict = !file.proof ? "" : file.proof->passed() ? ", proofed" : ", falls short:";
      context.err << name << ": " << file.path << (file.soundPath.empty() ? "" : " and " + file.soundPath) << verdict
                  << "\n";
      if (!file.notCopied.empty()) context.err << "  its pictures are encoded: " << file.notCopied << "\n";
      if (file.copied > 0) context.err << "  pictures copied as they are: " << file.copied << "\n";
      if (!file.inSoftware.empty())
        context.err << "  in software, since graphics hardware did not work: " << file.inSoftware << "\n";
    }
    if (!json && file.proof)
      for (const ProofCheck& check : file.proof->checks)
        if (!check.pass)
          context.err << "  " << check.code << ": expected " << check.expected << ", found " << check.found << "\n";
    if (!json && !file.proof)
      for (const SourceLoss& loss : file.losses) context.err << "  " << lossText(loss) << "\n";
    return file.error ? exitCode(file.error->code) : file.good() ? kDone : kFallsShort;
  }

  int stills(Context& context, ExportRequest& of, bool json) const {
    StillRequest request{std::move(of.plans), of.projectName, m_folder, {}, PictureKind::Png, m_overwrite};
    (void)pictureByWord(m_stillKind, request.kind);
    if (m_still != "each") {
      const auto time = parseTime(m_still, request.plans.front().rate());
      if (!time) return failed(context, time.error(), json);
      request.at = *time;
    }
    const auto written = exportStills(request, context.stop, [&](const std::string& path) {
      if (json)
        context.out << Json{{"state", "done"}, {"path", path}}.dump(-1, ' ', false, Json::error_handler_t::replace)
                    << std::endl;
      else
        context.err << path << "\n";
    });
    return written ? int(kDone) : failed(context, written.error(), json);
  }

  Result<ExportRequest> plans() {
    const auto project = loadProject(m_path);
    if (!project) return tl::unexpected(project.error());
    const auto ids = deliverableIds(*project, m_deliverables);
    if (!ids) return tl::unexpected(ids.error());
    const auto region = m_region.empty() ? Result<Region>(Region{}) : regionNamed(*project, m_region);
    if (!region) return tl::unexpected(region.error());
    const Footage footage = probeFootage(*project, probing(*m_context));
    ExportRequest request;
    for (const std::string& id : *ids) {
      auto plan = m_region.empty() ? Plan::build(*project, footage, id) : Plan::build(*project, footage, id, *region);
      if (!plan) return tl::unexpected(plan.error());
      request.plans.push_back(std::move(*plan));
    }
    // What stops an export is told by itself, more exactly.
    if (!m_despite) {
      PreflightGrounds grounds = groundsFor(*m_context, *project, footage, false);
      grounds.place = OutputPlace{m_folder, project->name, m_region, true};
      const Project part = m_region.empty() ? *project : partOf(*project, *region);
      for (Finding& f : preflight(part, footage, grounds, *ids))
        if (f.errs() && !findingKind(f.code)->stops) m_errors.push_back(std::move(f));
    }
    request.projectName = project->name;
    request.folder = m_folder;
    request.overwrite = m_overwrite;
    request.proof = !m_noProof;
    request.trialFolder = cacheFolder("encoders");
    return request;
  }

  void report(const ExportRequest& request, const ExportProgress& p) {
    const std::scoped_lock lock(m_mutex);
    const auto now = Clock::now();
    const auto every = std::chrono::milliseconds(m_progress.empty() ? 2000 : 200);
    if (p.state == ExportState::Done || now - m_last[p.index] < every) return;
    m_last[p.index] = now;
    const std::string& name = request.plans[p.index].deliverable().name;
    if (m_progress.empty()) {
      m_context->err << name << ": " << exportStateWord(p.state) << " " << int(p.fraction * 100) << " %, "
                     << int(p.remainingSeconds + 0.5) << " s left\n";
      return;
    }
    const Json line{{"deliverable", name},
                    {"frame", p.frame},
                    {"frames", p.frames},
                    {"fraction", p.fraction},
                    {"elapsedSeconds", p.elapsedSeconds},
                    {"remainingSeconds", p.remainingSeconds},
                    {"state", exportStateWord(p.state)}};
    m_context->out << line.dump(-1, ' ', false, Json::error_handler_t::replace) << std::endl;
  }

  std::string m_path;
  std::vector<std::string> m_deliverables;
  std::string m_region;
  std::string m_folder;
  bool m_overwrite = false;
  bool m_despite = false;
  std::vector<Finding> m_errors; ///< that preflight finds
  bool m_noProof = false;
  std::string m_still;
  std::string m_stillKind = "png";
  std::string m_progress;
  Context* m_context = nullptr;
  std::mutex m_mutex;
  std::vector<Clock::time_point> m_last;
};

} // namespace

std::unique_ptr<Command> makeExport(CLI::App& app) {
  return std::make_unique<ExportCommand>(app);
}

} // namespace tromb::cli
