// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "media/write/Available.h"

#include <nlohmann/json.hpp>
#include <ostream>
#include <set>

namespace tromb::cli {
namespace {

class EncodersCommand final : public Command {
public:
  explicit EncodersCommand(CLI::App& app) { app.add_flag("--json", m_json, "Write JSON to standard output"); }

  int run(Context& context) override {
    auto list = nlohmann::ordered_json::array();
    const auto add = [&](const auto& row, const Message& reason, nlohmann::ordered_json more) {
      nlohmann::ordered_json object{{"codec", row.word},
                                    {"encoder", row.encoder},
                                    {"hardware", false},
                                    {"available", reason.empty()},
                                    {"reason", reason.text()}};
      for (const Container container : row.containers) object["containers"].push_back(infoOf(container).word);
      object.update(more);
      list.push_back(std::move(object));
      if (m_json) return;
      context.err << row.word << ": " << row.name << " with " << row.encoder
                  << (reason.empty() ? std::string() : ", not available: " + reason.text()) << "\n";
    };
    for (const PictureCodec& row : pictureCodecs()) {
      std::set<int> depths;
      for (const Samples& s : row.samples) depths.insert(s.depth);
      auto controls = nlohmann::ordered_json::array();
      for (const RateControl control : row.rateControls) controls.push_back(rateControlWord(control));
      add(row, whyUnavailable(row.codec), {{"kind", "video"}, {"depths", depths}, {"rateControls", controls}});
    }
    for (const SoundCodecInfo& row : soundCodecs())
      add(row, whyUnavailable(row.codec),
          {{"kind", "audio"}, {"channels", row.channels}, {"alone", infoOf(row.alone).word}});
    if (m_json) context.out << nlohmann::ordered_json{{"encoders", list}}.dump(2) << "\n";
    return kDone;
  }

private:
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeEncoders(CLI::App& app) {
  return std::make_unique<EncodersCommand>(app);
}

} // namespace tromb::cli
