// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "encoding/Encoding.h"
#include "export/Compare.h"
#include "handover/HandOverLog.h"
#include "handover/Publish.h"
#include "handover/StandInService.h"

#include <chrono>
#include <cstdio>
#include <ctime>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>
#include <thread>

namespace tromb::cli {
namespace {

using Json = nlohmann::ordered_json;

class HandOverCommand final : public Command {
public:
  explicit HandOverCommand(CLI::App& app) {
    app.add_option("file", m_files, "Finished files")->required()->type_name("FILE");
    app.add_option("--to", m_to, "A folder (of a stick, a card, a phone), or a service's address")
        ->required()
        ->type_name("FOLDER|ADDRESS");
    app.add_option("--token", m_token, "By which a service lets us in")->envname("TROMB_TOKEN");
    app.add_option("--renditions", m_folder, "Fetch what a service makes of it into this folder, and measure its loss")
        ->type_name("FOLDER");
    app.add_option("--project", m_project, "Keep what was handed over with this project");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    Json all = Json::array();
    for (const std::string& file : m_files) {
      Published made;
      if (m_to.starts_with("http://")) {
        auto published = toService(context, file);
        if (!published) return failed(context, published.error(), m_json);
        made = std::move(*published);
      } else {
        auto handed =
            handToFolder({file, m_to, [&](double fraction) { tell(context, "copying", fraction); }}, context.stop);
        if (!handed) return failed(context, handed.error(), m_json);
        made.file = std::move(*handed);
      }
      if (!m_project.empty()) {
        std::error_code none;
        const HandOver kept{int64_t(std::time(nullptr)),
                            std::filesystem::absolute(file, none).string(),
                            m_to,
                            made.file.path,
                            made.file.bytes,
                            made.file.digest};
        if (const Status added = addHandOver(m_project, kept); !added) return failed(context, added.error(), m_json);
      }
      Json object{{"file", file},
                  {"to", made.file.path},
                  {"sizeBytes", made.file.bytes},
                  {"sha256", made.file.digest},
                  {"wasThere", made.file.wasThere}};
      if (made.file.freeBytes) object["freeBytes"] = *made.file.freeBytes;
      if (!m_json) {
        context.err << made.file.path << ": " << (made.file.wasThere ? "was there already" : "arrived as it was sent")
                    << ", SHA-256 " << made.file.digest << "\n";
        if (made.file.freeBytes) context.err << bytesText(*made.file.freeBytes) << " are left there\n";
      }
      auto renditions = measured(context, made);
      if (!renditions) return failed(context, renditions.error(), m_json);
      if (!renditions->empty()) object["renditions"] = std::move(*renditions);
      all.push_back(std::move(object));
    }
    if (m_json) context.out << jsonLine(all) << "\n";
    return kDone;
  }

private:
  void tell(Context& context, const char* what, double fraction) {
    const auto now = std::chrono::steady_clock::now();
    if (m_json || now - m_told < std::chrono::seconds(2)) return;
    m_told = now;
    context.err << what << " " << int(100 * fraction) << " %\n";
  }

  Result<Published> toService(Context& context, const std::string& file) {
    PublishRequest request;
    request.path = file;
    request.address = m_to;
    request.token = m_token;
    request.folder = m_folder;
    request.onProgress = [&](PublishRequest::Stage stage, double fraction) {
      tell(context,
           stage == PublishRequest::Stage::Sending       ? "sending"
           : stage == PublishRequest::Stage::Compressing ? "the service compresses"
                                                         : "fetching",
           fraction);
    };
    return publish(request, context.stop);
  }

  /// What viewers see, against the first file: of several encodings of a piece each is held against the same.
  Result<Json> measured(Context& context, const Published& made) const {
    Json list = Json::array();
    for (const Rendition& each : made.renditions) {
      const std::string canvas = std::to_string(each.canvas.width) + "x" + std::to_string(each.canvas.height);
      Json object{{"name", each.name}, {"canvas", canvas}, {"sizeBytes", each.bytes}, {"bitRate", each.bitRate}};
      std::string words = "  viewers see " + canvas + ", " + bytesText(each.bytes) + ", " + bitRateText(each.bitRate);
      if (!each.path.empty()) {
        const auto loss = compareFiles(m_files.front(), each.path, context.stop);
        if (!loss) return tl::unexpected(loss.error());
        object["path"] = each.path;
        object["ssim"] = loss->structure.mean;
        object["psnr"] = loss->noise.mean;
        char text[64];
        std::snprintf(text, sizeof text, ", SSIM %.4f, PSNR %.1f dB", loss->structure.mean, loss->noise.mean);
        words += text;
      }
      if (!m_json) context.err << words << "\n";
      list.push_back(std::move(object));
    }
    return list;
  }

  std::vector<std::string> m_files;
  std::string m_to;
  std::string m_token;
  std::string m_folder;
  std::string m_project;
  std::chrono::steady_clock::time_point m_told = std::chrono::steady_clock::now();
  bool m_json = false;
};

class ServiceCommand final : public Command {
public:
  explicit ServiceCommand(CLI::App& app) {
    app.add_option("--folder", m_settings.folder, "Where uploads are kept")->required()->type_name("FOLDER");
    app.add_option("--token", m_settings.token, "By which whoever sends signs in")->required()->envname("TROMB_TOKEN");
    app.add_option("--token-until", m_settings.tokenUntil, "From when on it is outdated, in seconds since 1970");
    app.add_option("--room", m_settings.roomBytes, "Bytes that it has for all uploads");
    app.add_option("--destination", m_settings.destination, "Whose limits it keeps to");
    app.add_option("--answer-after", m_settings.answerMilliseconds, "Milliseconds that every answer takes longer");
    app.add_option("--port", m_settings.port, "0: any that is free")->check(CLI::Range(0, 65535));
  }

  int run(Context& context) override {
    const auto service = StandInService::start(m_settings);
    if (!service) return failed(context, service.error(), false);
    context.out << (*service)->address() << std::endl; // for whoever has started it
    while (!context.stop.stop_requested()) std::this_thread::sleep_for(std::chrono::milliseconds(50));
    return kDone;
  }

private:
  ServiceSettings m_settings;
};

} // namespace

std::unique_ptr<Command> makeHandOver(CLI::App& app) {
  return std::make_unique<HandOverCommand>(app);
}
std::unique_ptr<Command> makeService(CLI::App& app) {
  return std::make_unique<ServiceCommand>(app);
}

} // namespace tromb::cli
