// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "analysis/Measured.h"
#include "media/MediaInfo.h"
#include "media/read/Probe.h"

#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

using Json = nlohmann::ordered_json;

class ProbeCommand final : public Command {
public:
  explicit ProbeCommand(CLI::App& app) {
    app.add_option("files", m_files, "Media files")->required()->type_name("FILE");
    app.add_flag("--measure", m_measure, "Also measure bars and loudness; reads pictures and sound");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    Json list = Json::array();
    int code = kDone;
    for (const std::string& file : m_files) {
      const auto object = look(file, context);
      if (!object) {
        if (!m_json || m_files.size() == 1)
          code = failed(context, object.error(), m_json);
        else {
          list.push_back(
              {{"path", file},
               {"error",
                {{"code", codeWord(object.error().code)}, {"message", sentence(object.error())}, {"path", file}}}});
          code = exitCode(object.error().code);
        }
        if (object.error().code == ErrorCode::Cancelled) return code;
        continue;
      }
      if (!m_json) sayInWords(context, *object);
      list.push_back(*object);
    }
    if (m_json && !list.empty()) context.out << list.dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
    return code;
  }

private:
  Result<Json> look(const std::string& file, const Context& context) const {
    const auto info = probe(file, probing(context));
    if (!info) return tl::unexpected(info.error());
    Json object = toJson(*info);
    if (!m_measure) return object;
    const auto found = measure(*info, context.stop);
    if (!found) return tl::unexpected(found.error());
    Json measured = Json::object();
    if (info->video) {
      const Bars& b = found->bars;
      measured["bars"] = {{"left", b.left}, {"top", b.top}, {"right", b.right}, {"bottom", b.bottom}};
      measured["scan"] = found->scan ? scanWord(*found->scan) : "undetermined";
      // Pictures that are repeated in a cycle: the rate that they were made at.
      if (found->repeats) measured["madeAt"] = found->repeats->clockOf(info->video->clock).rate().value().toString();
    }
    if (const auto& loudness = found->loudness)
      measured["loudness"] = {{"integratedLufs", loudness->integratedLufs}, {"truePeakDbtp", loudness->truePeakDbtp}};
    object["measured"] = measured;
    return object;
  }

  static void sayInWords(Context& context, const Json& object) {
    context.err << object["path"].get<std::string>() << ": ";
    if (object.contains("video")) {
      const Json& v = object["video"];
      context.err << v["displayWidth"] << "×" << v["displayHeight"] << ", " << v["frameRate"].get<std::string>()
                  << " frames a second" << (v["variableFrameRate"] ? " (variable)" : "") << ", "
                  << v["scan"].get<std::string>() << ", " << v["bitDepth"] << " bit, " << v["codec"].get<std::string>()
                  << ", ";
    }
    context.err << object["durationSeconds"] << " s, " << object["audio"].size() << " sound streams\n";
    if (object.contains("measured")) context.err << "  measured: " << object["measured"].dump() << "\n";
  }

  std::vector<std::string> m_files;
  bool m_measure = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeProbe(CLI::App& app) {
  return std::make_unique<ProbeCommand>(app);
}

} // namespace tromb::cli
