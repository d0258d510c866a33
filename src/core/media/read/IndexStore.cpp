// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/AtomicFile.h"
#include "io/Digest.h"
#include "io/JsonReader.h"
#include "media/read/FileIndex.h"

#include <filesystem>
#include <nlohmann/json.hpp>

namespace tromb {
namespace {

using Json = nlohmann::ordered_json;

constexpr int kStoreVersion = 2; ///< raised when an index is made otherwise, so that old ones are made again
constexpr size_t kMostStoreBytes = 200'000'000;
constexpr int64_t kMostStep = INT64_MAX / 1'000'000'000; ///< between stamps that are kept; sums stay in 64 bits
/// Each number less the one before it: small ones, which take little room.
Json differences(const std::vector<int64_t>& numbers) {
  Json list = Json::array();
  for (size_t i = 0; i < numbers.size(); ++i) list.push_back(i == 0 ? numbers[0] : numbers[i] - numbers[i - 1]);
  return list;
}

std::vector<int64_t> sums(const JsonNode& node) {
  std::vector<int64_t> numbers;
  node.elements([&](const JsonNode& each) {
    const int64_t step = each.integer(-kMostStep, kMostStep);
    numbers.push_back(numbers.empty() ? step : numbers.back() + step);
  });
  return numbers;
}

} // namespace

std::string IndexStore::pathOf(const std::string& fingerprint, int pictureStream) const {
  return m_folder + "/" + cacheName(fingerprint + " " + std::to_string(pictureStream)) + ".index";
}

void IndexStore::keep(const std::string& fingerprint, const FileIndex& index) const {
  if (m_folder.empty() || fingerprint.empty()) return;
  std::error_code ignored;
  std::filesystem::create_directories(m_folder, ignored);
  const FrameClock& clock = index.clock;
  Json root{{"version", kStoreVersion},       {"backward", index.backward},
            {"fingerprint", fingerprint},     {"pictureStream", index.pictureStream},
            {"firstStamp", index.firstStamp}, {"rate", clock.rate().value().toString()},
            {"frames", clock.frameCount()}};
  if (clock.variable()) {
    root["tick"] = clock.tick().toString();
    root["stamps"] = differences(*clock.stamps());
  }
  for (const char* list : {"keys", "jumps", "sounds"}) root[list] = Json::array();
  for (const FileIndex::Key& k : index.keys)
    root["keys"].push_back({k.number, k.packet, k.stamp, k.decodes, k.position});
  for (const FileIndex::Jump& j : index.jumps) root["jumps"].push_back({j.position, j.shift});
  for (const FileIndex::Sound& s : index.sounds) {
    Json marks = Json::array();
    for (const FileIndex::Mark& m : s.marks) marks.push_back({m.stamp, m.position});
    root["sounds"].push_back({{"stream", s.stream}, {"first", s.first}, {"end", s.end}, {"marks", marks}});
  }
  if (index.untimed()) {
    root["pictureOfPacket"] = index.pictureOfPacket;
    root["stampOfPicture"] = differences(index.stampOfPicture);
  }
  const std::vector<uint8_t> bytes = Json::to_cbor(root);
  (void)writeFileAtomically(pathOf(fingerprint, index.pictureStream), {bytes.begin(), bytes.end()});
}

std::optional<FileIndex> IndexStore::find(const std::string& fingerprint, int pictureStream) const {
  if (m_folder.empty() || fingerprint.empty()) return {};
  const auto bytes = readWholeFile(pathOf(fingerprint, pictureStream), kMostStoreBytes);
  if (!bytes) return {};
  const Json root = Json::from_cbor(*bytes, true, false);
  JsonFault fault;
  const JsonNode node(root, fault);
  if (node.get("version").integer(0, INT32_MAX) != kStoreVersion || node.get("fingerprint").text() != fingerprint ||
      node.get("pictureStream").integer(-1, INT32_MAX) != pictureStream)
    return {};
  FileIndex index;
  index.pictureStream = pictureStream;
  index.backward = node.get("backward").integer(0, INT64_MAX);
  index.firstStamp = node.get("firstStamp").integer(INT64_MIN, INT64_MAX);
  const auto rate = FrameRate::near(node.get("rate").fraction(Rational(1000), false));
  const int64_t frames = node.get("frames").integer(0, INT32_MAX);
  const auto numbers = [](const JsonNode& list, size_t count) {
    std::vector<int64_t> row;
    list.elements([&](const JsonNode& each) { row.push_back(each.integer(INT64_MIN, INT64_MAX)); });
    if (row.size() != count) list.refuse(say("a row of numbers is expected here"));
    row.resize(count);
    return row;
  };
  node.get("keys").elements([&](const JsonNode& each) {
    const auto n = numbers(each, 5);
    if (n[0] < 0 || n[0] >= frames || n[1] < 0 || (!index.keys.empty() && n[0] < index.keys.back().number))
      each.refuse(say("no key"));
    index.keys.push_back({n[0], n[1], n[2], n[3], n[4]});
  });
  node.get("jumps").elements([&](const JsonNode& each) {
    const auto n = numbers(each, 2);
    index.jumps.push_back({n[0], n[1]});
  });
  node.get("sounds").elements([&](const JsonNode& each) {
    FileIndex::Sound sound;
    sound.stream = int(each.get("stream").integer(0, INT32_MAX));
    sound.first = each.get("first").integer(INT64_MIN, INT64_MAX);
    sound.end = each.get("end").integer(INT64_MIN, INT64_MAX);
    each.get("marks").elements([&](const JsonNode& mark) {
      const auto n = numbers(mark, 2);
      sound.marks.push_back({n[0], n[1]});
    });
    index.sounds.push_back(std::move(sound));
  });
  if (node.has("pictureOfPacket")) {
    node.get("pictureOfPacket").elements([&](const JsonNode& each) {
      index.pictureOfPacket.push_back(int32_t(each.integer(-1, frames - 1)));
    });
    index.stampOfPicture = sums(node.get("stampOfPicture"));
    if (int64_t(index.stampOfPicture.size()) != frames) node.refuse(say("stamps are missing"));
  }
  if (!rate) node.refuse(say("the rate is none"));
  if (fault.error) return {};
  index.clock = FrameClock(*rate, frames);
  if (node.has("stamps")) {
    auto stamps = sums(node.get("stamps"));
    const Rational tick = node.get("tick").fraction(Rational(1000), false);
    if (fault.error || int64_t(stamps.size()) != frames || frames == 0 || stamps.front() != 0 ||
        !std::is_sorted(stamps.begin(), stamps.end()))
      return {};
    index.clock = FrameClock(std::move(stamps), tick, *rate);
  }
  return index;
}

} // namespace tromb
