// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "copy/CopyFile.h"
#include "encoding/Encoding.h"
#include "time/Timecode.h"

#include <chrono>
#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class CutCommand final : public Command {
public:
  explicit CutCommand(CLI::App& app) {
    app.add_option("file", m_file, "The film")->required()->type_name("FILE");
    app.add_option("--keep", m_keep, "Parts to keep, each from A up to B, in this order")
        ->required()
        ->delimiter(',')
        ->type_name("A-B[,C-D…]");
    app.add_option("--out", m_out, "The new file; its ending chooses the container")->required()->type_name("F");
    app.add_flag("--overwrite", m_overwrite, "Replace a file of this name");
    app.add_flag("--plan", m_planOnly, "Only say which cuts are free, and what the others cost");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    const auto media = probe(m_file, probing(context));
    if (!media) return failed(context, media.error(), m_json);
    const FrameRate rate = media->video ? media->video->clock.rate() : FrameRate();
    std::vector<std::pair<Rational, Rational>> keep;
    for (const std::string& text : m_keep) {
      const size_t dash = text.find('-');
      if (dash == std::string::npos) return failed(context, wrongPart(text), m_json);
      const auto from = parseTime(text.substr(0, dash), rate);
      const auto to = parseTime(text.substr(dash + 1), rate);
      if (!from || !to) return failed(context, wrongPart(text), m_json);
      keep.emplace_back(*from, *to);
    }
    const auto plan = planCopy(*media, keep, context.stop);
    if (!plan) return failed(context, plan.error(), m_json);
    if (!m_json) tell(context, *plan);
    if (m_planOnly) {
      if (m_json) context.out << toJson(*plan).dump() << "\n";
      return kDone;
    }
    auto told = std::chrono::steady_clock::now();
    const auto made = copyParts({*plan, m_out, m_overwrite,
                                 [&](double fraction) {
                                   const auto now = std::chrono::steady_clock::now();
                                   if (m_json || now - told < std::chrono::seconds(2)) return;
                                   told = now;
                                   context.err << int(100 * fraction) << " %\n";
                                 }},
                                context.stop);
    if (!made) return failed(context, made.error(), m_json);
    if (m_json) {
      auto object = toJson(*plan);
      object["path"] = made->path;
      object["sizeBytes"] = made->bytes;
      context.out << object.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
    } else {
      context.err << made->path << ": " << made->frames << " frames, " << bytesText(made->bytes) << "\n";
    }
    return kDone;
  }

private:
  static Error wrongPart(const std::string& text) {
    return {ErrorCode::InvalidArgument,
            say("'%1' is no part from one time to another", text),
            {},
            {},
            say("Write A-B, such as 12.5-1:40 or 00:00:12:10-00:01:40:00")};
  }

  static nlohmann::ordered_json toJson(const CopyPlan& plan) {
    auto parts = nlohmann::ordered_json::array();
    for (const CopyPart& part : plan.parts)
      parts.push_back({{"firstFrame", part.first},
                       {"endFrame", part.end},
                       {"encodedBefore", part.encodedBefore()},
                       {"encodedBehind", part.encodedBehind()}});
    return {{"frames", plan.frames()},
            {"encoded", plan.encoded()},
            {"possible", plan.encoded() == 0 || plan.noEdges.empty()},
            {"parts", parts}};
  }

  static void tell(Context& context, const CopyPlan& plan) {
    const auto cost = [](int64_t frames) {
      return frames == 0 ? std::string("is free")
                         : "needs " + std::to_string(frames) + (frames == 1 ? " picture" : " pictures") + " encoded";
    };
    for (const CopyPart& part : plan.parts) {
      context.err << "frames " << part.first << " to " << part.end - 1 << ": ";
      if (part.copied >= part.copiedEnd)
        context.err << "no whole group of pictures lies in it that can be entered, " << part.frames()
                    << " pictures have to be encoded\n";
      else
        context.err << "the cut before " << cost(part.encodedBefore()) << ", the cut behind "
                    << cost(part.encodedBehind()) << "\n";
    }
  }

  std::string m_file;
  std::vector<std::string> m_keep;
  std::string m_out;
  bool m_overwrite = false;
  bool m_planOnly = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeCut(CLI::App& app) {
  return std::make_unique<CutCommand>(app);
}

} // namespace tromb::cli
