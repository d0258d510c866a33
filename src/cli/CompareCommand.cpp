// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "encoding/Encoding.h"
#include "export/Compare.h"
#include "time/Timecode.h"

#include <chrono>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class CompareCommand final : public Command {
public:
  explicit CompareCommand(CLI::App& app) {
    app.add_option("a", m_first, "A file, with which the other is compared")->required()->type_name("A");
    app.add_option("b", m_second, "The other file")->required()->type_name("B");
    app.add_flag("--frames", m_frames, "With --json: also the values of each frame");
    app.add_flag("--json", m_json, "Write JSON to standard output");
  }

  int run(Context& context) override {
    auto told = std::chrono::steady_clock::now();
    const auto found = compareFiles(m_first, m_second, context.stop, [&](const Comparison& soFar) {
      const auto now = std::chrono::steady_clock::now();
      if (m_json || now - told < std::chrono::seconds(2)) return;
      told = now;
      context.err << soFar.ssim.size() << " of " << soFar.first.frames << " frames\n";
    });
    if (!found) return failed(context, found.error(), m_json);
    if (m_json) {
      context.out << toJson(*found, m_frames).dump() << "\n";
      return kDone;
    }
    const auto side = [&](const char* name, const Comparison::Side& s) {
      context.err << name << "  " << s.path << ": " << s.canvas.width << "x" << s.canvas.height << ", " << s.rate.name()
                  << ", " << s.frames << " frames, " << bytesText(s.bytes) << ", " << bitRateText(int64_t(s.bitRate))
                  << "\n";
    };
    side("A", found->first);
    side("B", found->second);
    char text[160];
    std::snprintf(text, sizeof text, "SSIM %.4f on average, %.4f at worst (frame %lld)\n", found->structure.mean,
                  found->structure.worst, (long long)found->structure.worstFrame);
    context.err << text;
    std::snprintf(text, sizeof text, "PSNR %.2f dB on average, %.2f dB at worst (frame %lld)\n", found->noise.mean,
                  found->noise.worst, (long long)found->noise.worstFrame);
    context.err << text << found->different << " of " << found->ssim.size() << " pictures differ";
    if (found->different > 0) context.err << ", most at " << clockText(found->worstTime);
    context.err << (found->scaled ? "; B was brought to the size and samples of A\n" : "\n");
    return kDone;
  }

private:
  std::string m_first;
  std::string m_second;
  bool m_frames = false;
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeCompare(CLI::App& app) {
  return std::make_unique<CompareCommand>(app);
}

} // namespace tromb::cli
