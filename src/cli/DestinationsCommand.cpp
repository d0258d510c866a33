// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "destination/Destination.h"
#include "encoding/Encoding.h"

#include <nlohmann/json.hpp>
#include <ostream>

namespace tromb::cli {
namespace {

class DestinationsCommand final : public Command {
public:
  explicit DestinationsCommand(CLI::App& app) { app.add_flag("--json", m_json, "Write JSON to standard output"); }

  int run(Context& context) override {
    if (!destinationData()) return failed(context, destinationData().error(), m_json);
    auto list = nlohmann::ordered_json::array();
    for (const Destination& d : destinationData()->destinations) {
      list.push_back({{"id", d.id},
                      {"name", d.name},
                      {"summary", d.summary},
                      {"basis", d.basis},
                      {"width", d.canvas.width},
                      {"height", d.canvas.height},
                      {"mostRate", d.mostRate.value().toString()},
                      {"bitRate", d.bitRate},
                      {"audioBitRate", d.audioBitRate}});
      if (!m_json)
        context.err << d.id << ": " << d.name << ", " << d.canvas.width << "×" << d.canvas.height << ", up to "
                    << d.mostRate.name() << ", " << bitRateText(d.bitRate) << ". " << d.summary << "\n";
    }
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
