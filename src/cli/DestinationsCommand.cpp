// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "destination/NewDeliverable.h"

#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class DestinationsCommand final : public Command {
public:
  explicit DestinationsCommand(CLI::App& app) { app.add_flag("--json", m_json, "Write JSON to standard output"); }

  int run(Context& context) override {
    const auto data = destinationData();
    if (data->destinations.empty() && !data->faults.empty()) return failed(context, data->faults.front(), m_json);
    auto list = nlohmann::ordered_json::array();
    for (const Destination& d : data->destinations) {
      const Encoding usual = resolvedEncoding(newDeliverable({}, d.id, nullptr));
      const int64_t bitRate = usual.byBitRate() ? usual.bitRate : 0; // others take what they need
      nlohmann::ordered_json all = nlohmann::ordered_json::parse(destinationText(d));
      all["own"] = d.own;
      // The usual of each in one number, for simple scripts.
      all["basis"] = d.because.at("canvases").why;
      all["width"] = d.canvas().width;
      all["height"] = d.canvas().height;
      all["mostRate"] = d.mostRate.value().toString();
      all["bitRate"] = bitRate;
      all["audioBitRate"] = d.sound ? d.sound->bitRate : 0;
      list.push_back(std::move(all));
      if (!m_json)
        context.err << d.id << ": " << d.name << ", " << d.canvas().width << "×" << d.canvas().height << ", up to "
                    << d.mostRate.name() << (bitRate > 0 ? ", " + bitRateText(bitRate) : "") << ". " << d.summary
                    << "\n";
    }
    for (const Error& fault : data->faults) context.err << "tromb-cli: left out: " << sentence(fault) << "\n";
    if (m_json) context.out << list.dump(2) << "\n";
    return kDone;
  }

private:
  bool m_json = false;
};

} // namespace

std::unique_ptr<Command> makeDestinations(CLI::App& app) {
  return std::make_unique<DestinationsCommand>(app);
}

} // namespace tromb::cli
