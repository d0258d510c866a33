// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/Destination.h"

#include "geometry/LegalSize.h"
#include "io/AtomicFile.h"
#include "io/DataFolder.h"
#include "io/JsonReader.h"
#include "media/SoundFormat.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <mutex>
#include <set>

namespace tromb {
namespace {

constexpr int kDestinationVersion = 1;
constexpr const char* kDestinationFormat = "tromb-destination";
constexpr double kSameShape = 0.01; ///< of a ratio: what rounding to even pixels does to small canvases
constexpr std::array<const char*, 4> kSurenessWords{"standard", "practice", "house", "guess"};
constexpr size_t kMostWords = 400; ///< bytes of a summary or a reason
constexpr int64_t kMostFileBytes = 1'000'000'000'000'000;

void refuseNone(const JsonNode& list, bool none) {
  if (none) list.refuse(say("at least one is expected here"));
}

template <typename Key, typename Table>
std::vector<Key> wordsOf(const JsonNode& list, const Table& table, Key Table::value_type::*key) {
  std::vector<std::string> words;
  for (const auto& row : table) words.emplace_back(row.word);
  std::vector<Key> chosen;
  list.elements([&](const JsonNode& node) { chosen.push_back(table[node.word(words)].*key); });
  refuseNone(list, chosen.empty());
  return chosen;
}

std::vector<int> numbersOf(const JsonNode& list, int least, int most) {
  std::vector<int> numbers;
  list.elements([&](const JsonNode& node) { numbers.push_back(int(node.integer(least, most))); });
  refuseNone(list, numbers.empty());
  return numbers;
}

FrameRate rateOf(const JsonNode& node) {
  return FrameRate(node.fraction(Rational(1000), false));
}

void readCanvases(const JsonNode& list, Destination& d) {
  list.elements([&](const JsonNode& node) {
    const Size size{int(node.get("width").integer(kSmallestSide, kLargestSide)),
                    int(node.get("height").integer(kSmallestSide, kLargestSide))};
    if (!isLegalSize(size)) node.refuse(say("4:2:0 video cannot have odd sides"));
    d.canvases.push_back(size);
  });
  refuseNone(list, d.canvases.empty());
}

void readRates(const JsonNode& node, Destination& d) {
  if (!node.has("only")) {
    d.mostRate = rateOf(node.get("most"));
    return;
  }
  node.get("only").elements([&](const JsonNode& each) {
    d.rates.push_back(rateOf(each));
    if (d.rates.size() == 1 || d.rates.back().value() > d.mostRate.value()) d.mostRate = d.rates.back();
  });
  refuseNone(node.get("only"), d.rates.empty());
  if (node.has("most")) node.get("most").refuse(say("'most' says nothing beside 'only'"));
}

void readLength(const JsonNode& node, Destination& d) {
  const Rational day(24 * 3600);
  if (node.has("least")) d.leastSeconds = node.get("least").fraction(day, true);
  if (node.has("most")) d.mostSeconds = node.get("most").fraction(day, false);
  if (d.leastSeconds == Rational(0) && d.mostSeconds == Rational(0))
    node.refuse(say("a length has a 'least' above 0, a 'most', or both"));
  if (node.has("most") && d.mostSeconds < d.leastSeconds) node.refuse(say("the most is less than the least"));
}

void readColours(const JsonNode& list, Destination& d) {
  list.elements([&d](const JsonNode& node) {
    ColourTags tags;
    if (!colourByWord(node.text(), tags)) node.refuse(say("'rec709', 'hlg' or 'pq' is expected here"));
    d.colours.push_back(tags);
  });
  refuseNone(list, d.colours.empty());
}

void readBands(const JsonNode& list, Destination& d) {
  list.elements([&](const JsonNode& node) {
    BitRateBand band;
    band.pixels = node.get("pixels").integer(1, int64_t(kLargestSide) * kLargestSide);
    band.rate = rateOf(node.get("rate"));
    band.least = node.get("least").integer(0, kMostBitRate);
    band.usual = node.get("usual").integer(kLeastBitRate, kMostBitRate);
    band.most = node.get("most").integer(kLeastBitRate, kMostBitRate);
    if (band.least > band.usual || band.usual > band.most)
      node.refuse(say("'least', 'usual' and 'most' are to rise in this order"));
    d.bitRates.push_back(band);
  });
  refuseNone(list, d.bitRates.empty());
  std::stable_sort(d.bitRates.begin(), d.bitRates.end(), [](const BitRateBand& a, const BitRateBand& b) {
    return a.pixels != b.pixels ? a.pixels < b.pixels : a.rate.value() < b.rate.value();
  });
}

TakenSound readTakenSound(const JsonNode& node) {
  TakenSound s;
  s.codecs = wordsOf(node.get("codecs"), soundCodecs(), &SoundCodecInfo::codec);
  s.channels = numbersOf(node.get("channels"), 1, 6);
  s.sampleRates = numbersOf(node.get("sampleRates"), 8000, 192'000);
  if (node.has("bitRate")) s.bitRate = node.get("bitRate").integer(1, 10'000'000);
  if (node.has("needed")) s.needed = node.get("needed").truth();
  return s;
}

LoudnessLimit readLoudness(const JsonNode& node) {
  return {node.get("lufs").number(-60, 0), node.get("within").number(0, 20), node.get("peakDbtp").number(-20, 0)};
}

std::vector<CoveredPart> readCovered(const JsonNode& list) {
  std::vector<CoveredPart> covered;
  list.elements([&covered](const JsonNode& each) {
    const auto share = [&each](const char* key) { return each.get(key).number(0, 1); };
    covered.push_back({{share("x"), share("y"), share("width"), share("height")}, each.get("by").text(80)});
  });
  refuseNone(list, covered.empty());
  return covered;
}

/// Everything that must be said, and that no other part contradicts.
void refuseContradictions(const JsonNode& top, const Destination& d) {
  const auto anyFits = [&d](Codec codec) {
    const PictureCodec& info = infoOf(codec);
    return std::any_of(d.containers.begin(), d.containers.end(), [&](Container c) { return info.takes(c); });
  };
  for (const Codec codec : d.codecs)
    if (!d.containers.empty() && !anyFits(codec))
      return top.get("codecs").refuse(say("%1 goes into none of the containers that are named", infoOf(codec).name));
  if (std::any_of(d.colours.begin(), d.colours.end(), [](const ColourTags& c) { return isHdr(c); }) &&
      std::none_of(d.codecs.begin(), d.codecs.end(), [](Codec c) { return infoOf(c).hdr; }))
    return top.get("colours").refuse(say("none of the codecs that are named carries HDR"));
  constexpr const char* kKeys[] = {"canvases", "rates",    "length", "bytes",    "codecs", "containers", "colours",
                                   "depth",    "bitRates", "sound",  "loudness", "safe",   "covered"};
  for (const char* key : kKeys)
    if (top.has(key) && !d.because.contains(key))
      return top.get("because").refuse(say("it is not said how sure '%1' is, and why", key));
  for (const auto& [key, because] : d.because)
    if (std::find(std::begin(kKeys), std::end(kKeys), key) == std::end(kKeys) || !top.has(key.c_str()))
      return top.get("because").refuse(say("'%1' is not among the values", key));
}

Destination readFields(const JsonNode& top) {
  Destination d;
  d.id = top.get("id").text(64);
  d.name = top.get("name").text(kMostWords);
  if (d.id.empty()) top.get("id").refuse(say("text is expected here"));
  if (d.name.empty()) top.get("name").refuse(say("text is expected here"));
  if (top.has("summary")) d.summary = top.get("summary").text(kMostWords);
  if (top.has("starred")) d.starred = top.get("starred").truth();
  readCanvases(top.get("canvases"), d);
  if (top.has("otherCanvases")) d.otherCanvases = top.get("otherCanvases").truth();
  readRates(top.get("rates"), d);
  if (top.has("length")) readLength(top.get("length"), d);
  if (top.has("bytes")) d.mostBytes = top.get("bytes").integer(1, kMostFileBytes);
  d.codecs = wordsOf(top.get("codecs"), pictureCodecs(), &PictureCodec::codec);
  if (top.has("containers")) d.containers = wordsOf(top.get("containers"), containers(), &ContainerInfo::container);
  if (top.has("colours")) readColours(top.get("colours"), d);
  if (top.has("depth")) d.depth = int(top.get("depth").integer(8, 16));
  if (top.has("bitRates")) readBands(top.get("bitRates"), d);
  if (top.has("sound")) d.sound = readTakenSound(top.get("sound"));
  if (top.has("loudness")) d.loudness = readLoudness(top.get("loudness"));
  if (top.has("safe")) {
    const auto inset = [&](const char* key) { return top.get("safe").get(key).number(0, 0.5); };
    d.safe = {inset("left"), inset("top"), inset("right"), inset("bottom")};
  }
  if (top.has("covered")) d.covered = readCovered(top.get("covered"));
  top.get("because").members([&d](const std::string& key, const JsonNode& node) {
    d.because[key] = {Sureness(node.get("sure").word(kSurenessWords)), node.get("why").text(kMostWords)};
  });
  refuseContradictions(top, d);
  d.unknown = top.others({"format",        "version",  "id",     "name",     "summary", "starred",    "canvases",
                          "otherCanvases", "rates",    "length", "bytes",    "codecs",  "containers", "colours",
                          "depth",         "bitRates", "sound",  "loudness", "safe",    "covered",    "because"});
  return d;
}

/// Files of a folder that end so, by name.
std::vector<std::string> filesOf(const std::string& folder) {
  std::vector<std::string> paths;
  std::error_code failed;
  for (std::filesystem::directory_iterator at(folder, failed), end; !failed && at != end; at.increment(failed))
    if (at->path().extension() == ".json") paths.push_back(at->path().string());
  std::sort(paths.begin(), paths.end());
  return paths;
}

/// Templates, and the order of what comes with the program. Errors: Missing, Unreadable, ProjectInvalid.
Status readTemplates(const std::string& path, DestinationData& data, std::vector<std::string>& order) {
  const auto text = readWholeFile(path);
  if (!text) return tl::unexpected(text.error());
  const auto root = parseJson(*text);
  JsonFault fault;
  const Json nothing;
  const JsonNode top(root ? *root : nothing, fault);
  top.get("templates").elements([&](const JsonNode& node) {
    ProjectTemplate t{node.get("id").text(), node.get("name").text(), {}};
    node.get("destinations").elements([&](const JsonNode& id) { t.destinations.push_back(id.text()); });
    data.templates.push_back(std::move(t));
  });
  top.get("order").elements([&](const JsonNode& id) { order.push_back(id.text()); });
  if (!fault.error) return {};
  data.templates.clear();
  fault.error->path = path;
  return tl::unexpected(*fault.error);
}

struct Shared {
  std::mutex mutex;
  std::string ownFolder;
  std::shared_ptr<const DestinationData> data;
};

Shared& shared() {
  static Shared all;
  return all;
}

} // namespace

const char* surenessWord(Sureness sure) {
  return kSurenessWords[size_t(sure)];
}

std::optional<BitRateBand> Destination::band(Size canvas, const FrameRate& rate, Codec codec) const {
  const double needed = infoOf(codec).bitRateShare;
  const int64_t pixels = int64_t(canvas.width) * canvas.height;
  for (const BitRateBand& each : bitRates) {
    if (pixels > each.pixels || rate.value() > each.rate.value()) continue;
    constexpr int64_t kStep = 100'000;
    const auto share = [&](int64_t bits) {
      if (pixels < each.pixels)
        bits =
            std::max<int64_t>(kStep, std::llround(double(bits) * double(pixels) / double(each.pixels) / kStep) * kStep);
      return std::llround(double(bits) * needed);
    };
    return BitRateBand{pixels, each.rate, share(each.least), share(each.usual), share(each.most)};
  }
  return {};
}

bool Destination::takes(Size canvas) const {
  return std::any_of(canvases.begin(), canvases.end(), [&](Size each) {
    const bool sameShape = std::abs(canvas.ratio() / each.ratio() - 1) < kSameShape;
    const bool fits = canvas.width <= each.width && canvas.height <= each.height;
    return canvas == each || (otherCanvases && sameShape && fits);
  });
}

bool Destination::takes(const FrameRate& rate) const {
  if (rates.empty()) return rate.value() <= mostRate.value();
  return std::find(rates.begin(), rates.end(), rate) != rates.end();
}

const Destination* DestinationData::find(std::string_view id) const {
  for (const Destination& d : destinations)
    if (d.id == id) return &d;
  return nullptr;
}

Result<Destination> parseDestination(const std::string& text) {
  const auto root = parseJson(text);
  if (!root) return tl::unexpected(root.error());
  JsonFault fault;
  const JsonNode top(*root, fault);
  if (top.get("format").text() != kDestinationFormat)
    top.get("format").refuse(say("this is not a destination: '%1' is expected here", kDestinationFormat));
  const int64_t version = top.get("version").integer(1, 1'000'000);
  if (!fault.error && version > kDestinationVersion)
    return fail(ErrorCode::ProjectTooNew, say("it was written by a later version of Tromb"), {},
                say("Take a newer Tromb"));
  Destination d = readFields(top);
  if (fault.error) return tl::unexpected(*fault.error);
  return d;
}

Result<Destination> readDestination(const std::string& path) {
  constexpr size_t kMostText = 1'000'000;
  const auto text = readWholeFile(path, kMostText);
  if (!text) return tl::unexpected(text.error());
  auto read = parseDestination(*text);
  if (!read) {
    read.error().path = path;
    return read;
  }
  return read;
}

std::string destinationText(const Destination& d) {
  const auto words = [](const auto& list) {
    Json all = Json::array();
    for (const auto each : list) all.push_back(infoOf(each).word);
    return all;
  };
  Json object{{"format", kDestinationFormat}, {"version", kDestinationVersion}, {"id", d.id}, {"name", d.name}};
  if (!d.summary.empty()) object["summary"] = d.summary;
  if (d.starred) object["starred"] = true;
  for (const Size each : d.canvases) object["canvases"].push_back({{"width", each.width}, {"height", each.height}});
  object["otherCanvases"] = d.otherCanvases;
  if (d.rates.empty()) object["rates"]["most"] = d.mostRate.value().toString();
  for (const FrameRate& each : d.rates) object["rates"]["only"].push_back(each.value().toString());
  if (d.leastSeconds > Rational(0)) object["length"]["least"] = d.leastSeconds.toString();
  if (d.mostSeconds > Rational(0)) object["length"]["most"] = d.mostSeconds.toString();
  if (d.mostBytes > 0) object["bytes"] = d.mostBytes;
  object["codecs"] = words(d.codecs);
  if (!d.containers.empty()) object["containers"] = words(d.containers);
  for (const ColourTags& each : d.colours) object["colours"].push_back(colourWord(each));
  if (d.depth > 0) object["depth"] = d.depth;
  for (const BitRateBand& b : d.bitRates)
    object["bitRates"].push_back({{"pixels", b.pixels},
                                  {"rate", b.rate.value().toString()},
                                  {"least", b.least},
                                  {"usual", b.usual},
                                  {"most", b.most}});
  if (d.sound) {
    Json& sound = object["sound"];
    sound = {
        {"codecs", words(d.sound->codecs)}, {"channels", d.sound->channels}, {"sampleRates", d.sound->sampleRates}};
    if (d.sound->bitRate > 0) sound["bitRate"] = d.sound->bitRate;
    if (d.sound->needed) sound["needed"] = true;
  }
  if (d.loudness)
    object["loudness"] = {
        {"lufs", d.loudness->lufs}, {"within", d.loudness->within}, {"peakDbtp", d.loudness->peakDbtp}};
  if (d.safe != SafeInsets() || d.because.contains("safe")) // that all of it is safe can be said as well
    object["safe"] = {{"left", d.safe.left}, {"top", d.safe.top}, {"right", d.safe.right}, {"bottom", d.safe.bottom}};
  for (const CoveredPart& c : d.covered)
    object["covered"].push_back(
        {{"x", c.part.x}, {"y", c.part.y}, {"width", c.part.width}, {"height", c.part.height}, {"by", c.by}});
  object["because"] = Json::object();
  for (const auto& [key, because] : d.because)
    object["because"][key] = {{"sure", surenessWord(because.sure)}, {"why", because.why}};
  return withUnknown(d.unknown, std::move(object)).dump(2) + "\n";
}

DestinationData readDestinations(const std::string& dataFolder, const std::string& ownFolder) {
  DestinationData data;
  std::vector<std::string> order;
  if (const Status read = readTemplates(dataFolder + "/templates.json", data, order); !read)
    data.faults.push_back(read.error());
  const auto take = [&data](const std::string& path, bool own) {
    auto read = readDestination(path);
    if (read && data.find(read->id))
      read = fail(ErrorCode::ProjectInvalid, say("another destination has the id '%1'", read->id), path,
                  say("Give one of them another id"));
    if (!read) return data.faults.push_back(read.error());
    read->own = own;
    data.destinations.push_back(std::move(*read));
  };
  for (const std::string& path : filesOf(dataFolder + "/destinations")) take(path, false);
  const auto place = [&order](const Destination& d) {
    return std::find(order.begin(), order.end(), d.id) - order.begin();
  };
  std::stable_sort(data.destinations.begin(), data.destinations.end(),
                   [&place](const Destination& a, const Destination& b) { return place(a) < place(b); });
  if (!ownFolder.empty())
    for (const std::string& path : filesOf(ownFolder)) take(path, true);
  return data;
}

std::shared_ptr<const DestinationData> destinationData() {
  Shared& all = shared();
  const std::lock_guard lock(all.mutex);
  if (!all.data) all.data = std::make_shared<DestinationData>(readDestinations(dataFolder(), all.ownFolder));
  return all.data;
}

void useOwnDestinations(const std::string& folder) {
  Shared& all = shared();
  const std::lock_guard lock(all.mutex);
  all.ownFolder = folder;
  all.data.reset();
}

std::shared_ptr<const Destination> destination(const std::string& id) {
  auto data = destinationData();
  const Destination* found = data->find(id);
  if (!found) return nullptr;
  return {std::move(data), found};
}

} // namespace tromb
