// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "media/write/Hardware.h"
#include "project/ProjectFile.h"
#include "sample/SampleEncode.h"

#include <cmath>
#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

using Json = nlohmann::ordered_json;

/// What a rung is set to: a number of constant quality, or bits a second.
Json settingOf(const Encoding& e) {
  if (*e.rateControl == RateControl::ConstantQuality) return *e.crf;
  return *e.rateControl == RateControl::Settled ? Json() : Json(e.bitRate);
}

std::string settingText(const Encoding& e) {
  if (*e.rateControl == RateControl::ConstantQuality) return "crf " + settingOf(e).dump();
  return *e.rateControl == RateControl::Settled ? std::string(e.info().name) : bitRateText(e.bitRate);
}

class SampleCommand final : public Command {
public:
  explicit SampleCommand(CLI::App& app) {
    app.add_option("project", m_path, "Project file")->required()->type_name("PROJECT");
    app.add_option("--deliverable", m_deliverable, "Name of the deliverable")->required();
    app.add_flag("--alone", m_alone, "Encode at its own setting alone, not at some round it");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    const auto report = sampled(context);
    if (!report) return failed(context, report.error(), m_json);
    const auto knee = kneeOf(report->rungs);
    if (m_json)
      context.out << toJson(*report, knee).dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
    else
      tell(context.err, *report, knee);
    return kDone;
  }

private:
  Result<SampleReport> sampled(const Context& context) {
    const auto project = loadProject(m_path);
    if (!project) return tl::unexpected(project.error());
    const auto ids = deliverableIds(*project, {m_deliverable});
    if (!ids) return tl::unexpected(ids.error());
    auto plan = Plan::build(*project, probeFootage(*project, probing(context)), ids->front());
    if (!plan) return tl::unexpected(plan.error());
    m_setting = settingOf(plan->encoding());
    const HardwareEncoder* hardware = hardwareFor(plan->encoding(), plan->format(), cacheFolder("encoders"));
    std::vector<Encoding> rungs;
    if (!m_alone) rungs = rungsRound(plan->encoding(), pictureOf(plan->deliverable()));
    return encodeSample({std::move(*plan), std::move(rungs), hardware}, context.stop);
  }

  [[nodiscard]] Json toJson(const SampleReport& report, const std::optional<Knee>& knee) const {
    const Encoding& e = report.rungs.front().encoding;
    Json json{{"deliverable", m_deliverable},
              {"rateControl", rateControlWord(*e.rateControl)},
              {"setting", m_setting},
              {"stretches", Json::array()},
              {"rungs", Json::array()}};
    for (const SampleStretch& each : report.stretches)
      json["stretches"].push_back({{"firstFrame", each.first}, {"frames", each.count}, {"hardest", each.hardest}});
    for (const SampleRung& rung : report.rungs)
      json["rungs"].push_back({{"setting", settingOf(rung.encoding)},
                               {"fileBytes", rung.fileBytes},
                               {"ssim", rung.ssim},
                               {"psnr", std::isfinite(rung.psnr) ? Json(rung.psnr) : Json()}});
    if (knee)
      json["knee"] = {
          {"setting", knee->setting}, {"fileBytes", knee->fileBytes}, {"ssim", knee->ssim}, {"within", knee->within}};
    return json;
  }

  void tell(std::ostream& err, const SampleReport& report, const std::optional<Knee>& knee) const {
    for (const SampleRung& rung : report.rungs)
      err << (settingOf(rung.encoding) == m_setting ? "  > " : "    ") << settingText(rung.encoding) << ": about "
          << bytesText(rung.fileBytes) << ", SSIM " << std::to_string(rung.ssim).substr(0, 6) << " where it is hardest"
          << "\n";
    if (!knee) return;
    err << (knee->within ? "From about " : "Beyond these lies where more bits hardly help; the nearest is about ")
        << bytesText(knee->fileBytes) << (knee->within ? " on, more bits hardly help.\n" : ".\n");
  }

  std::string m_path;
  std::string m_deliverable;
  Json m_setting;
  bool m_alone = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeSample(CLI::App& app) {
  return std::make_unique<SampleCommand>(app);
}

} // namespace tromb::cli
