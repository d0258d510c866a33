// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "EncodingKeys.h"
#include "FoundSubjects.h"
#include "Preflighting.h"
#include "ProjectMaker.h"
#include "analysis/CutFinder.h"
#include "project/ProjectFile.h"

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>
#include <sstream>

namespace tromb::cli {
namespace {

using Json = nlohmann::ordered_json;

class DeliverCommand final : public Command {
public:
  explicit DeliverCommand(CLI::App& app) {
    app.add_option("files", m_files, "Footage: each file is one shot, or several where there are cuts in it")
        ->required()
        ->type_name("FILE");
    app.add_option("--template", m_template, "Deliverables: those of this template");
    app.add_option("--preset", m_sets, "Deliverables: those of this set")->take_all();
    app.add_option("--deliverable", m_deliverables,
                   "name=N;canvas=WxH;rate=R;destination=ID;" + encodingKeysHelp() + "; once for each")
        ->take_all();
    app.add_option("--out", m_folder, "Folder to write to")->required()->type_name("DIR");
    app.add_option("--project", m_path, "Project file to leave; else one in the folder, called after the first file")
        ->type_name("FILE");
    app.add_flag("--overwrite", m_overwrite, "Replace files that are there");
    app.add_flag("--despite", m_despite, "Export although preflight finds errors");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    namespace fs = std::filesystem;
    if (m_path.empty()) m_path = (fs::path(m_folder) / fs::path(m_files.front()).stem()).string() + ".tromb";
    std::error_code ignored;
    if (!m_overwrite && fs::exists(m_path, ignored))
      return failed(
          context,
          {ErrorCode::Exists, say("the file is there already"), m_path, {}, say("Give --overwrite to replace it")},
          m_json);
    ProjectMaker maker(context);
    if (const Status made = make(maker); !made) return failed(context, made.error(), m_json);
    Project& project = maker.project();
    if (const Status split = splitAtCuts(project, maker.media(), context); !split)
      return failed(context, split.error(), m_json);
    const Footage footage = probeFootage(project, probing(context));
    const auto found = frameSubjects(project, footage, context, !m_json);
    if (!found) return failed(context, found.error(), m_json);
    fs::create_directories(m_folder, ignored);
    if (const Status saved = saveProject(project, m_path); !saved) return failed(context, saved.error(), m_json);
    if (!m_json) context.err << m_path << ": the project, for correcting\n";

    const auto findings = preflight(project, footage, groundsFor(context, project, footage, false), {});
    if (!m_json) sayFindings(context.err, findings);
    std::vector<std::string> words{"export", m_path, "--out", m_folder};
    if (m_overwrite) words.emplace_back("--overwrite");
    if (m_despite) words.emplace_back("--despite");
    if (!m_json) return runCli(words, context.out, context.err, context.stop);
    words.insert(words.end(), {"--progress", "json"});
    std::ostringstream lines;
    const int code = runCli(words, lines, context.err, context.stop);
    Json files = Json::array();
    Json error;
    std::istringstream read(lines.str());
    for (std::string line; std::getline(read, line);) {
      Json each = Json::parse(line, nullptr, false);
      if (each.is_object() && each.contains("error") && !each.contains("deliverable")) error = each["error"];
      if (each.is_object() && (each.value("state", "") == "done" || each.value("state", "") == "failed"))
        files.push_back(std::move(each));
    }
    Json all{{"project", m_path},
             {"shots", toJson(*found)},
             {"findings", tromb::toJson(findings)["findings"]},
             {"files", files}};
    if (!error.is_null()) all["error"] = error;
    context.out << all.dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
    return code;
  }

private:
  Status make(ProjectMaker& maker) const {
    for (const std::string& file : m_files)
      if (const Status added = maker.addFile(file, {}); !added) return added;
    if (const Status added = maker.addTemplate(m_template); !added) return added;
    for (const std::string& set : m_sets)
      if (const Status added = maker.addSet(set); !added) return added;
    for (const std::string& text : m_deliverables)
      if (const Status added = maker.addDeliverable(text); !added) return added;
    if (maker.project().deliverables.empty())
      return fail(ErrorCode::InvalidArgument, say("there is nothing to deliver"), {},
                  say("Give --template, --preset or --deliverable"));
    maker.project().name = std::filesystem::path(m_path).stem().string();
    return {};
  }

  /// A finished piece that was brought in whole becomes its shots; dissolves are doubtful, and stay.
  static Status splitAtCuts(Project& project, const std::map<std::string, MediaInfo>& media, const Context& context) {
    std::vector<Shot> shots;
    for (const Shot& shot : project.shots) {
      const MediaInfo& file = media.at(shot.source);
      std::vector<Rational> times;
      if (file.kind == MediaKind::Video) {
        const FrameClock& clock = file.video->clock;
        const auto [first, end] = framesOf(shot, file);
        const auto samples = readCutSamples(readingOf(*project.source(shot.source), file), first, end, context.stop);
        if (!samples) return tl::unexpected(samples.error());
        for (const FoundCut& cut : findCuts(*samples))
          if (!cut.dissolve) times.push_back(clock.timeOf(cut.frame));
      }
      for (Shot& part : partsOf(shot, times)) {
        part.id = freshId(shots, "h");
        shots.push_back(std::move(part));
      }
    }
    project.shots = std::move(shots);
    return {};
  }

  std::vector<std::string> m_files;
  std::string m_template;
  std::vector<std::string> m_sets;
  std::vector<std::string> m_deliverables;
  std::string m_folder;
  std::string m_path;
  bool m_overwrite = false;
  bool m_despite = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeDeliver(CLI::App& app) {
  return std::make_unique<DeliverCommand>(app);
}

} // namespace tromb::cli
