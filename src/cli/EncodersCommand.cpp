// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "media/write/Available.h"
#include "media/write/Hardware.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <ostream>
#include <set>

namespace tromb::cli {
namespace {

std::set<int> depthsOf(const std::vector<Samples>& samples) {
  std::set<int> depths;
  for (const Samples& s : samples) depths.insert(s.depth);
  return depths;
}

class EncodersCommand final : public Command {
public:
  explicit EncodersCommand(CLI::App& app) { app.add_flag("--json", m_json, "Write JSON to standard output"); }

  int run(Context& context) override {
    auto list = nlohmann::ordered_json::array();
    const auto add = [&](const auto& row, std::string_view encoder, bool hardware, const Message& reason,
                         nlohmann::ordered_json more) {
      nlohmann::ordered_json object{{"codec", row.word},
                                    {"encoder", encoder},
                                    {"hardware", hardware},
                                    {"available", reason.empty()},
                                    {"reason", reason.text()}};
      for (const Container container : row.containers) object["containers"].push_back(infoOf(container).word);
      object.update(more);
      list.push_back(std::move(object));
      if (m_json) return;
      context.err << row.word << ": " << row.name << " with " << encoder << (hardware ? ", in graphics hardware" : "")
                  << (reason.empty() ? std::string() : ", not available: " + reason.text()) << "\n";
    };
    for (const PictureCodec& row : pictureCodecs()) {
      auto controls = nlohmann::ordered_json::array();
      for (const RateControl control : row.rateControls) controls.push_back(rateControlWord(control));
      add(row, row.encoder, false, whyUnavailable(row.codec),
          {{"kind", "video"}, {"depths", depthsOf(row.samples)}, {"rateControls", controls}});
    }
    for (const PictureCodec& row : pictureCodecs())
      for (const HardwareEncoder& encoder : row.hardware) {
        // As the most modest pictures are; of other depths an encoder may be found wanting when they are asked for.
        const auto trials = hardwareTrials(row.codec, encoder.samples.front(), cacheFolder("encoders"));
        const auto trial = std::find_if(trials.begin(), trials.end(),
                                        [&](const HardwareTrial& each) { return each.encoder == &encoder; });
        add(row, encoder.encoder, true, trial->reason,
            {{"kind", "video"}, {"depths", depthsOf(encoder.samples)}, {"rateControls", {"vbr", "crf"}}});
      }
    for (const SoundCodecInfo& row : soundCodecs())
      add(row, row.encoder, false, whyUnavailable(row.codec),
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
