// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/Destination.h"

#include "geometry/LegalSize.h"
#include "io/AtomicFile.h"
#include "io/DataFolder.h"
#include "io/JsonReader.h"

namespace tromb {

Result<DestinationData> readDestinations(const std::string& path) {
  const auto text = readWholeFile(path);
  if (!text) return tl::unexpected(text.error());
  const Json root = parseJson(*text).value_or(Json());
  JsonFault fault;
  DestinationData data;
  const JsonNode top(root, fault);
  top.get("destinations").elements([&](const JsonNode& node) {
    Destination d;
    d.id = node.get("id").text();
    d.name = node.get("name").text();
    d.summary = node.get("summary").text();
    d.basis = node.get("basis").text();
    d.canvas = {int(node.get("width").integer(kSmallestSide, kLargestSide)),
                int(node.get("height").integer(kSmallestSide, kLargestSide))};
    d.mostRate = FrameRate(node.get("mostRate").fraction(Rational(1000), false));
    if (node.has("covered"))
      node.get("covered").elements([&d](const JsonNode& each) {
        const auto share = [&each](const char* key) { return each.get(key).number(0, 1); };
        d.covered.push_back({{share("x"), share("y"), share("width"), share("height")}, each.get("by").text(80)});
      });
    d.bitRate = node.get("bitRate").integer(1, 1'000'000'000);
    d.audioBitRate = node.get("audioBitRate").integer(1, 1'000'000);
    data.destinations.push_back(std::move(d));
  });
  top.get("templates").elements([&](const JsonNode& node) {
    ProjectTemplate t{node.get("id").text(), node.get("name").text(), {}};
    node.get("destinations").elements([&](const JsonNode& id) { t.destinations.push_back(id.text()); });
    data.templates.push_back(std::move(t));
  });
  if (fault.error) {
    fault.error->path = path;
    return tl::unexpected(*fault.error);
  }
  return data;
}

const Result<DestinationData>& destinationData() {
  static const Result<DestinationData> data = readDestinations(dataFolder() + "/destinations/destinations.json");
  return data;
}

const Destination* destination(const std::string& id) {
  if (!destinationData()) return nullptr;
  for (const Destination& d : destinationData()->destinations)
    if (d.id == id) return &d;
  return nullptr;
}

} // namespace tromb
