// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/ProjectFile.h"

#include "geometry/LegalSize.h"
#include "io/AtomicFile.h"
#include "io/JsonReader.h"
#include "project/FileName.h"
#include "project/FramingJson.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <filesystem>
#include <map>
#include <set>

namespace tromb {
namespace {

namespace fs = std::filesystem;

constexpr const char* kFormat = "tromb-project";
constexpr std::array<const char*, 3> kFactByWords{"nobody", "measure", "hand"};

/// Version 2 keeps what concerns the sound of an encoding together.
void toVersion2(Json& root) {
  if (!root.contains("deliverables") || !root["deliverables"].is_array()) return;
  for (Json& deliverable : root["deliverables"]) {
    if (!deliverable.is_object() || !deliverable.contains("encoding") || !deliverable["encoding"].is_object()) continue;
    Json& encoding = deliverable["encoding"];
    if (!encoding.contains("audioBitRate")) continue;
    encoding["sound"] = {{"bitRate", encoding["audioBitRate"]}};
    encoding.erase("audioBitRate");
  }
}

/// Step i brings a file of version i + 1 to version i + 2.
using Migration = void (*)(Json& root);
constexpr std::array<Migration, size_t(kProjectVersion - 1)> kMigrations{toVersion2};

// ---- writing

std::string relativeTo(const std::string& path, const std::string& folder) {
  if (folder.empty()) return path;
  const fs::path relative = fs::path(path).lexically_relative(folder);
  // Paths that share no folder cannot move together, so the path stays absolute.
  const auto ups = std::count(relative.begin(), relative.end(), "..");
  const fs::path inside = fs::path(folder).relative_path();
  return relative.empty() || ups > 2 || ups >= std::distance(inside.begin(), inside.end()) ? path
                                                                                           : relative.generic_string();
}

bool isUtf8(const std::string& text) {
  try {
    (void)Json(text).dump();
    return true;
  } catch (const Json::type_error&) {
    return false;
  }
}

std::string hexOf(const std::string& bytes) {
  constexpr const char* kDigits = "0123456789abcdef";
  std::string text;
  for (const char c : bytes) {
    text += kDigits[static_cast<unsigned char>(c) >> 4];
    text += kDigits[static_cast<unsigned char>(c) & 15];
  }
  return text;
}

std::string bytesOf(const JsonNode& node) {
  const std::string text = node.text(2 * 4096);
  std::string bytes;
  for (size_t i = 0; i + 1 < text.size(); i += 2) {
    unsigned value = 0;
    if (std::from_chars(text.data() + i, text.data() + i + 2, value, 16).ptr != text.data() + i + 2) {
      node.refuse(say("pairs of hexadecimal digits are expected here"));
      return {};
    }
    bytes += char(value);
  }
  return bytes;
}

constexpr std::array<const char*, 3> kEntropyWords{"usual", "cabac", "cavlc"};

Json toJson(const SoundEncoding& s) {
  Json object = Json::object();
  if (s.codec) object["codec"] = infoOf(*s.codec).word;
  if (s.bitRate > 0) object["bitRate"] = s.bitRate;
  if (s.channels != SoundEncoding().channels) object["channels"] = s.channels;
  if (s.sampleRate != SoundEncoding().sampleRate) object["sampleRate"] = s.sampleRate;
  if (s.none) object["none"] = true;
  return withUnknown(s.unknown, std::move(object));
}

Json toJson(const Encoding& e) {
  const Encoding usual;
  Json object{{"codec", e.info().word}};
  if (e.container) object["container"] = infoOf(*e.container).word;
  if (e.rateControl) object["rateControl"] = rateControlWord(*e.rateControl);
  if (e.passes != usual.passes) object["passes"] = e.passes;
  if (e.crf) object["crf"] = *e.crf;
  if (e.bitRate > 0) object["bitRate"] = e.bitRate;
  if (e.maxBitRate > 0) object["maxBitRate"] = e.maxBitRate;
  if (e.bufferBits > 0) object["bufferBits"] = e.bufferBits;
  if (!e.profile.empty()) object["profile"] = e.profile;
  if (!e.level.empty()) object["level"] = e.level;
  if (e.highTier) object["highTier"] = true;
  if (!e.speed.empty()) object["speed"] = e.speed;
  if (!e.tune.empty()) object["tune"] = e.tune;
  if (e.keySeconds != usual.keySeconds) object["keySeconds"] = e.keySeconds.toString();
  if (e.openGroups) object["openGroups"] = true;
  if (!e.keysAtCuts) object["keysAtCuts"] = false;
  if (e.bPictures) object["bPictures"] = *e.bPictures;
  if (e.references > 0) object["references"] = e.references;
  if (e.entropy != Entropy::Usual) object["entropy"] = kEntropyWords[size_t(e.entropy)];
  if (e.sound != SoundEncoding()) object["sound"] = toJson(e.sound);
  if (e.chapters != Chapters::None) object["chapters"] = chaptersWord(e.chapters);
  if (!e.title.empty()) object["title"] = e.title;
  if (!e.comment.empty()) object["comment"] = e.comment;
  if (!e.language.empty()) object["language"] = e.language;
  return withUnknown(e.unknown, std::move(object));
}

Json toJson(const CanvasFormat& f) {
  return {{"depth", f.depth}, {"chroma", chromaWord(f.chroma)}, {"colour", colourWord(f.colour)}};
}

Json toJson(const Source& source, const std::string& folder) {
  const std::string path = relativeTo(source.path, folder);
  Json object{{"id", source.id}, {"path", path}};
  if (!isUtf8(path)) object["pathBytes"] = hexOf(path); // a name that text cannot hold
  if (!source.name.empty()) object["name"] = source.name;
  if (!source.group.empty()) object["group"] = source.group;
  if (!source.fingerprint.empty()) object["fingerprint"] = source.fingerprint;
  if (source.slowMotion) object["slowMotion"] = true;
  if (source.barsBy != FactBy::Nobody) object["barsBy"] = kFactByWords[size_t(source.barsBy)];
  if (source.scanBy != FactBy::Nobody) object["scanBy"] = kFactByWords[size_t(source.scanBy)];
  if (source.soundBy != FactBy::Nobody) object["soundBy"] = kFactByWords[size_t(source.soundBy)];
  for (const int place : source.sound) object["sound"].push_back(place);
  if (const auto& c = source.colour)
    object["colour"] = {
        {"primaries", c->primaries}, {"transfer", c->transfer}, {"matrix", c->matrix}, {"fullRange", c->fullRange}};
  const Orientation& shown = source.orientation;
  if (shown.turn != 0) object["turn"] = shown.turn;
  if (shown.mirrored) object["mirrored"] = true;
  if (shown.straighten != 0) object["straighten"] = shown.straighten;
  if (source.scan) object["scan"] = scanWord(*source.scan);
  const Bars& b = source.bars;
  if (!b.none()) object["bars"] = {{"left", b.left}, {"top", b.top}, {"right", b.right}, {"bottom", b.bottom}};
  return withUnknown(source.unknown, std::move(object));
}

Json toJson(const Shot& shot) {
  Json object{{"id", shot.id},
              {"source", shot.source},
              {"name", shot.name},
              {"in", onTick(shot.in).toString()},
              {"out", onTick(shot.out).toString()},
              {"speed", shot.speed.toString()}};
  if (shot.levelDb != 0) object["levelDb"] = shot.levelDb;
  if (shot.muted) object["muted"] = true;
  for (const Subject& subject : shot.subjects) object["subjects"].push_back(toJson(subject));
  return withUnknown(shot.unknown, std::move(object));
}

Json toJson(const Group& group) {
  Json object{{"id", group.id}, {"name", group.name}};
  if (!group.parent.empty()) object["parent"] = group.parent;
  return withUnknown(group.unknown, std::move(object));
}

Json toJson(const Region& region) {
  return withUnknown(region.unknown, {{"id", region.id},
                                      {"name", region.name},
                                      {"in", onTick(region.in).toString()},
                                      {"out", onTick(region.out).toString()}});
}

Json toJson(const SoundBed& bed) {
  return withUnknown(bed.unknown, {{"id", bed.id},
                                   {"source", bed.source},
                                   {"start", onTick(bed.start).toString()},
                                   {"in", onTick(bed.in).toString()},
                                   {"out", onTick(bed.out).toString()},
                                   {"levelDb", bed.levelDb},
                                   {"fadeIn", onTick(bed.fadeIn).toString()},
                                   {"fadeOut", onTick(bed.fadeOut).toString()},
                                   {"duck", bed.duck}});
}

Json toJson(const Output& output) {
  Json object = Json::object();
  if (!output.naming.empty()) object["naming"] = output.naming;
  if (output.loudnessLufs) object["loudnessLufs"] = *output.loudnessLufs;
  if (output.mostPeakDbtp != Output().mostPeakDbtp) object["mostPeakDbtp"] = output.mostPeakDbtp;
  return withUnknown(output.unknown, std::move(object));
}

Json toJson(const Deliverable& d) {
  Json framings = Json::object();
  for (const auto& [shot, framing] : d.framings) appendMember(framings, shot, toJson(framing));
  Json object{{"id", d.id},
              {"name", d.name},
              {"canvas", {{"width", d.canvas.width}, {"height", d.canvas.height}}},
              {"rate", d.rate.value().toString()}};
  if (d.format != CanvasFormat()) object["format"] = toJson(d.format);
  if (!d.destination.empty()) object["destination"] = d.destination;
  object["encoding"] = toJson(d.encoding);
  if (d.sharpOnly) object["sharpOnly"] = true;
  object["framings"] = std::move(framings);
  return withUnknown(d.unknown, std::move(object));
}

// ---- reading

/// The place in a table of the row with the word that is written here; 0 after a fault.
template <typename Table> size_t rowOf(const JsonNode& node, const Table& table) {
  std::vector<std::string> words;
  for (const auto& row : table) words.emplace_back(row.word);
  return node.word(words);
}

SoundEncoding readSound(const JsonNode& node) {
  SoundEncoding s;
  if (node.has("codec")) s.codec = soundCodecs()[rowOf(node.get("codec"), soundCodecs())].codec;
  constexpr int64_t kMost = 10'000'000;
  if (node.has("bitRate")) s.bitRate = node.get("bitRate").integer(0, kMost);
  if (node.has("channels")) s.channels = int(node.get("channels").integer(1, 64));
  if (node.has("sampleRate")) s.sampleRate = int(node.get("sampleRate").integer(1, 1'000'000));
  if (node.has("none")) s.none = node.get("none").truth();
  s.unknown = node.others({"codec", "bitRate", "channels", "sampleRate", "none"});
  return s;
}

/// Whether the values go together is asked where they are used: see encodable.
Encoding readEncoding(const JsonNode& node) {
  Encoding e;
  if (node.has("codec")) e.codec = pictureCodecs()[rowOf(node.get("codec"), pictureCodecs())].codec;
  if (node.has("container")) e.container = containers()[rowOf(node.get("container"), containers())].container;
  if (node.has("rateControl")) {
    RateControl control{};
    if (!rateControlByWord(node.get("rateControl").text(), control))
      node.get("rateControl").refuse(say("'crf', 'vbr', 'cbr' or 'settled' is expected here"));
    e.rateControl = control;
  }
  constexpr int64_t kMost = 1'000'000'000'000;
  if (node.has("passes")) e.passes = int(node.get("passes").integer(1, 2));
  if (node.has("crf")) e.crf = node.get("crf").number(0, 63);
  if (node.has("bitRate")) e.bitRate = node.get("bitRate").integer(0, kMost);
  if (node.has("maxBitRate")) e.maxBitRate = node.get("maxBitRate").integer(0, kMost);
  if (node.has("bufferBits")) e.bufferBits = node.get("bufferBits").integer(0, kMost);
  if (node.has("profile")) e.profile = node.get("profile").text(64);
  if (node.has("level")) {
    e.level = node.get("level").text(64);
    if (!e.info().levels || !e.info().levels->byName(e.level))
      node.get("level").refuse(say("'%1' is no level of %2", e.level, e.info().name));
  }
  if (node.has("highTier")) e.highTier = node.get("highTier").truth();
  if (node.has("speed")) e.speed = node.get("speed").text(64);
  if (node.has("tune")) e.tune = node.get("tune").text(64);
  if (node.has("keySeconds")) e.keySeconds = node.get("keySeconds").fraction(Rational(3600), false);
  if (node.has("openGroups")) e.openGroups = node.get("openGroups").truth();
  if (node.has("keysAtCuts")) e.keysAtCuts = node.get("keysAtCuts").truth();
  if (node.has("bPictures")) e.bPictures = int(node.get("bPictures").integer(0, kMostBPictures));
  if (node.has("references")) e.references = int(node.get("references").integer(0, kMostReferences));
  if (node.has("entropy")) e.entropy = Entropy(node.get("entropy").word(kEntropyWords));
  if (node.has("sound")) e.sound = readSound(node.get("sound"));
  if (node.has("chapters") && !chaptersByWord(node.get("chapters").text(), e.chapters))
    node.get("chapters").refuse(say("'none', 'shots' or 'regions' is expected here"));
  if (node.has("title")) e.title = node.get("title").text(kMostTitleBytes);
  if (node.has("comment")) e.comment = node.get("comment").text(kMostTitleBytes);
  if (node.has("language")) e.language = node.get("language").text(3);
  e.unknown = node.others({"codec",      "container",  "rateControl", "passes",     "crf",       "bitRate",
                           "maxBitRate", "bufferBits", "profile",     "level",      "highTier",  "speed",
                           "tune",       "keySeconds", "openGroups",  "keysAtCuts", "bPictures", "references",
                           "entropy",    "sound",      "title",       "comment",    "chapters",  "language"});
  return e;
}

CanvasFormat readFormat(const JsonNode& node) {
  CanvasFormat f;
  if (node.has("depth")) {
    f.depth = int(node.get("depth").integer(8, 10));
    if (f.depth == 9) node.get("depth").refuse(say("8 or 10 is expected here"));
  }
  if (node.has("chroma") && !chromaByWord(node.get("chroma").text(), f.chroma))
    node.get("chroma").refuse(say("'420', '422' or '444' is expected here"));
  if (node.has("colour") && !colourByWord(node.get("colour").text(), f.colour))
    node.get("colour").refuse(say("'rec709', 'hlg' or 'pq' is expected here"));
  return f;
}

/// Ids must be there, not repeat, and (where they refer) exist.
std::string readId(const JsonNode& node, std::set<std::string>& taken) {
  std::string id = node.get("id").text(64);
  if (id.empty() || !taken.insert(id).second) node.get("id").refuse(say("the id '%1' is empty or used twice", id));
  return id;
}

/// Groups in any order; a parent must be there, and no group may lie in itself. Their ids.
std::set<std::string> readGroups(const JsonNode& root, Project& project) {
  std::set<std::string> ids;
  if (!root.has("groups")) return ids;
  std::map<std::string, std::string> parents;
  root.get("groups").elements([&](const JsonNode& node) {
    Group group;
    group.id = readId(node, ids);
    group.name = node.get("name").text(kMostNameBytes);
    if (node.has("parent")) group.parent = node.get("parent").text(64);
    group.unknown = node.others({"id", "name", "parent"});
    parents[group.id] = group.parent;
    project.groups.push_back(std::move(group));
  });
  std::set<std::string> sound{""}; // that lie in nothing, or in groups that do
  for (const auto& [id, parent] : parents) {
    std::set<std::string> way;
    for (std::string at = id; !sound.contains(at); at = parents.at(at)) {
      if (parents.contains(at) && way.insert(at).second) continue;
      root.get("groups").refuse(say("the group '%1' lies in none, or in itself", id));
      return ids;
    }
    sound.merge(way);
  }
  return ids;
}

/// In and out of a stretch, exclusive.
template <typename Stretch> void readStretch(const JsonNode& node, Stretch& stretch) {
  stretch.in = node.get("in").fraction(kLongest, true);
  stretch.out = node.get("out").fraction(kLongest, false);
  bringOnTicks(stretch);
  if (stretch.out <= stretch.in) node.get("out").refuse(say("the out point does not lie after the in point"));
}

void readSoundBeds(const JsonNode& root, const std::set<std::string>& sources, Project& project) {
  if (!root.has("beds")) return;
  std::set<std::string> ids;
  root.get("beds").elements([&](const JsonNode& node) {
    SoundBed bed;
    bed.id = readId(node, ids);
    bed.source = node.get("source").text();
    if (!sources.contains(bed.source)) node.get("source").refuse(say("there is no source '%1'", bed.source));
    readStretch(node, bed);
    if (node.has("start")) bed.start = node.get("start").fraction(kLongest, true);
    if (node.has("levelDb")) bed.levelDb = node.get("levelDb").number(kLeastLevelDb, kMostLevelDb);
    if (node.has("fadeIn")) bed.fadeIn = node.get("fadeIn").fraction(kLongest, true);
    if (node.has("fadeOut")) bed.fadeOut = node.get("fadeOut").fraction(kLongest, true);
    if (node.has("duck")) bed.duck = node.get("duck").truth();
    bringOnTicks(bed);
    bed.unknown = node.others({"id", "source", "start", "in", "out", "levelDb", "fadeIn", "fadeOut", "duck"});
    project.beds.push_back(std::move(bed));
  });
}

void readRegions(const JsonNode& root, Project& project) {
  if (!root.has("regions")) return;
  std::set<std::string> ids;
  std::set<std::string> names;
  root.get("regions").elements([&](const JsonNode& node) {
    Region region;
    region.id = readId(node, ids);
    region.name = node.get("name").text(kMostNameBytes);
    if (region.name.empty() || !names.insert(region.name).second)
      node.get("name").refuse(say("the name '%1' is empty or used twice", region.name));
    readStretch(node, region);
    region.unknown = node.others({"id", "name", "in", "out"});
    project.regions.push_back(std::move(region));
  });
}

Output readOutput(const JsonNode& node) {
  Output output;
  if (node.has("naming")) output.naming = node.get("naming").text(kMostNameBytes);
  if (const Message fault = namingFault(output.naming); !fault.empty()) node.get("naming").refuse(fault);
  if (node.has("loudnessLufs"))
    output.loudnessLufs = node.get("loudnessLufs").number(kLeastTargetLufs, kMostTargetLufs);
  if (node.has("mostPeakDbtp")) output.mostPeakDbtp = node.get("mostPeakDbtp").number(kLeastPeakDbtp, 0);
  output.unknown = node.others({"naming", "loudnessLufs", "mostPeakDbtp"});
  return output;
}

Project readProject(const JsonNode& root, const std::string& folder) {
  Project project;
  project.name = root.has("name") ? root.get("name").text() : "";
  const std::set<std::string> groups = readGroups(root, project);
  std::set<std::string> sources;
  root.get("sources").elements([&](const JsonNode& node) {
    Source source;
    source.id = readId(node, sources);
    std::string path = node.get("path").text();
    if (node.has("pathBytes")) path = bytesOf(node.get("pathBytes"));
    if (path.empty() || path.find('\0') != std::string::npos) node.get("path").refuse(say("this is no path"));
    source.path = fs::path(path).is_absolute() ? path : (fs::path(folder) / path).lexically_normal().string();
    if (node.has("bars")) {
      const JsonNode b = node.get("bars");
      const auto side = [&](const char* key) { return int(b.get(key).integer(0, kLargestSide / 2)); };
      source.bars = {side("left"), side("top"), side("right"), side("bottom")};
    }
    const auto by = [&node](const char* key) {
      if (!node.has(key)) return FactBy::Nobody;
      return node.get(key).word(std::array{"measure", "hand"}) == 1 ? FactBy::Hand : FactBy::Measure;
    };
    source.barsBy = by("barsBy");
    if (node.has("colour")) {
      const JsonNode c = node.get("colour");
      constexpr int64_t kMostCode = 255; // a byte in H.273
      const auto code = [&](const char* key) { return int(c.get(key).integer(0, kMostCode)); };
      source.colour = {code("primaries"), code("transfer"), code("matrix"), c.get("fullRange").truth()};
    }
    if (node.has("turn")) {
      source.orientation.turn = int(node.get("turn").integer(0, 270));
      if (source.orientation.turn % 90 != 0)
        node.get("turn").refuse(say("a quarter turn is expected: 0, 90, 180 or 270"));
    }
    if (node.has("mirrored")) source.orientation.mirrored = node.get("mirrored").truth();
    if (node.has("straighten"))
      source.orientation.straighten = node.get("straighten").number(-kMostStraighten, kMostStraighten);
    source.scanBy = by("scanBy");
    source.soundBy = by("soundBy");
    if (node.has("sound"))
      node.get("sound").elements([&](const JsonNode& each) { source.sound.push_back(int(each.integer(0, 1000))); });
    if (source.sound.size() > 2) node.get("sound").refuse(say("one stream is expected here, or two"));
    if (node.has("scan")) source.scan = Scan(node.get("scan").word(std::array{"progressive", "tff", "bff"}));
    if (node.has("name")) source.name = node.get("name").text(kMostNameBytes);
    if (node.has("group")) source.group = node.get("group").text(64);
    if (!source.group.empty() && !groups.contains(source.group))
      node.get("group").refuse(say("there is no group '%1'", source.group));
    if (node.has("fingerprint")) source.fingerprint = node.get("fingerprint").text(kMostNameBytes);
    if (node.has("slowMotion")) source.slowMotion = node.get("slowMotion").truth();
    source.unknown =
        node.others({"id", "path", "pathBytes", "name", "group", "fingerprint", "slowMotion", "bars", "colour",
                     "barsBy", "scan", "scanBy", "sound", "soundBy", "turn", "mirrored", "straighten"});
    project.sources.push_back(std::move(source));
  });
  std::set<std::string> shots;
  root.get("shots").elements([&](const JsonNode& node) {
    Shot shot;
    shot.id = readId(node, shots);
    shot.source = node.get("source").text();
    if (!sources.contains(shot.source)) node.get("source").refuse(say("there is no source '%1'", shot.source));
    shot.name = node.has("name") ? node.get("name").text() : "";
    readStretch(node, shot);
    if (node.has("speed")) shot.speed = node.get("speed").fraction(kMostSpeed, false);
    if (shot.speed < kLeastSpeed) node.get("speed").refuse(say("the speed is below 1/100"));
    bringOnTicks(shot); // the speed is known now
    if (node.has("levelDb")) shot.levelDb = node.get("levelDb").number(kLeastLevelDb, kMostLevelDb);
    if (node.has("muted")) shot.muted = node.get("muted").truth();
    if (node.has("subjects"))
      node.get("subjects").elements([&](const JsonNode& each) { shot.subjects.push_back(readSubject(each)); });
    if (shot.subjects.size() > kMostSubjects) node.get("subjects").refuse(say("a shot has at most 3 subjects"));
    shot.unknown = node.others({"id", "source", "name", "in", "out", "speed", "levelDb", "muted", "subjects"});
    project.shots.push_back(std::move(shot));
  });
  std::set<std::string> deliverables;
  std::set<std::string> names;
  root.get("deliverables").elements([&](const JsonNode& node) {
    Deliverable d;
    d.id = readId(node, deliverables);
    d.name = node.get("name").text(kMostNameBytes);
    if (d.name.empty() || !names.insert(d.name).second)
      node.get("name").refuse(say("the name '%1' is empty or used twice", d.name));
    const JsonNode canvas = node.get("canvas");
    d.canvas = {int(canvas.get("width").integer(kSmallestSide, kLargestSide)),
                int(canvas.get("height").integer(kSmallestSide, kLargestSide))};
    const Rational rate = node.get("rate").fraction(Rational(1000), false);
    d.rate = FrameRate(rate);
    if (!d.rate.plain()) node.get("rate").refuse(say("the rate is no plain fraction"));
    if (node.has("format")) d.format = readFormat(node.get("format"));
    if (node.has("destination")) d.destination = node.get("destination").text();
    if (node.has("encoding")) d.encoding = readEncoding(node.get("encoding"));
    if (node.has("sharpOnly")) d.sharpOnly = node.get("sharpOnly").truth();
    if (node.has("framings"))
      node.get("framings").members([&](const std::string& shot, const JsonNode& framing) {
        // A framing whose shot does not exist is dropped, because nothing could ever use it.
        const Framing read = readFraming(framing);
        if (!read.still.empty() && !sources.contains(read.still))
          framing.get("still").refuse(say("there is no source '%1'", read.still));
        if (shots.contains(shot)) d.framings[shot] = read;
      });
    d.unknown =
        node.others({"id", "name", "canvas", "format", "rate", "destination", "encoding", "sharpOnly", "framings"});
    project.deliverables.push_back(std::move(d));
  });
  readRegions(root, project);
  readSoundBeds(root, sources, project);
  if (root.has("output")) project.output = readOutput(root.get("output"));
  project.unknown = root.others(
      {"format", "version", "name", "groups", "sources", "shots", "deliverables", "regions", "beds", "output"});
  return project;
}

} // namespace

std::string toText(const Project& project, const std::string& folder) {
  Json root{{"format", kFormat}, {"version", kProjectVersion}, {"name", project.name}};
  for (const char* list : {"sources", "shots", "deliverables"}) root[list] = Json::array();
  for (const Group& group : project.groups) root["groups"].push_back(toJson(group));
  for (const Source& source : project.sources) root["sources"].push_back(toJson(source, folder));
  for (const Shot& shot : project.shots) root["shots"].push_back(toJson(shot));
  for (const Deliverable& d : project.deliverables) root["deliverables"].push_back(toJson(d));
  for (const Region& region : project.regions) root["regions"].push_back(toJson(region));
  for (const SoundBed& bed : project.beds) root["beds"].push_back(toJson(bed));
  if (project.output != Output()) root["output"] = toJson(project.output);
  return withUnknown(project.unknown, std::move(root)).dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Project> fromText(std::string text, const std::string& folder, const std::string& path) {
  const Message hint = say("Open an older copy, or mend the file in a text editor");
  auto parsed = parseJson(text);
  text = {}; // which may be large
  if (!parsed) {
    parsed.error().path = path;
    parsed.error().hint = hint;
    return tl::unexpected(parsed.error());
  }
  Json& root = *parsed;
  JsonFault fault;
  const JsonNode node(root, fault);
  if (node.get("format").text() != kFormat) node.refuse(say("this is not a Tromb project file"));
  const int64_t version = node.get("version").integer(1, 1'000'000);
  if (!fault.error && version > kProjectVersion)
    return fail(ErrorCode::ProjectTooNew,
                say("the project was saved by a later version of Tromb (format %1; this one reads up to %2)", version,
                    kProjectVersion),
                path, say("Open it with that version"), say("/version"));
  if (!fault.error)
    for (auto step = kMigrations.begin() + (version - 1); step != kMigrations.end(); ++step) (*step)(root);
  Project project = fault.error ? Project{} : readProject(node, folder);
  if (fault.error) {
    fault.error->path = path;
    fault.error->hint = hint;
    return tl::unexpected(*fault.error);
  }
  return project;
}

Result<Project> loadProject(const std::string& path) {
  auto text = readWholeFile(path);
  if (!text) return tl::unexpected(text.error());
  return fromText(std::move(*text), fs::absolute(path).parent_path().string(), path);
}

Status saveProject(const Project& project, const std::string& path) {
  return writeFileAtomically(path, toText(project, fs::absolute(path).parent_path().string()));
}

} // namespace tromb
