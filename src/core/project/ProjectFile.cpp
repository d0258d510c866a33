// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/ProjectFile.h"

#include "geometry/LegalSize.h"
#include "io/AtomicFile.h"
#include "io/JsonReader.h"
#include "project/ElementJson.h"
#include "project/EncodingJson.h"
#include "project/FileName.h"
#include "project/FramingJson.h"
#include "project/Sharing.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <filesystem>
#include <map>
#include <set>

namespace tromb {
namespace {

constexpr const char* kAsMixed = "as-mixed"; ///< of the loudness of a deliverable

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

/// Version 3 has shots that are reversed, held, or of changing speed; an earlier program would show them as they are
/// not.
void toVersion3(Json& /*root*/) {}

/// Version 4 has elements over the shots; an earlier program would deliver files without them.
void toVersion4(Json& /*root*/) {}

/// Step i brings a file of version i + 1 to version i + 2.
using Migration = void (*)(Json& root);
constexpr std::array<Migration, size_t(kProjectVersion - 1)> kMigrations{toVersion2, toVersion3, toVersion4};

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

Json toJson(const Source& source, const std::string& folder) {
  const std::string path = relativeTo(source.path, folder);
  Json object{{"id", source.id}, {"path", path}};
  if (!isUtf8(path)) object["pathBytes"] = hexOf(path); // a name that text cannot hold
  if (!source.name.empty()) object["name"] = source.name;
  if (!source.group.empty()) object["group"] = source.group;
  if (!source.fingerprint.empty()) object["fingerprint"] = source.fingerprint;
  if (source.slowMotion) object["slowMotion"] = true;
  if (source.repeats) {
    Json fresh = Json::array();
    for (int i = 0; i < source.repeats->cycle; ++i)
      if (source.repeats->fresh & (1U << i)) fresh.push_back(i);
    object["repeats"] = {{"cycle", source.repeats->cycle}, {"fresh", std::move(fresh)}};
  }
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
              {"speed", shot.pace.speed.toString()}};
  if (shot.pace.reversed) object["reversed"] = true;
  if (shot.pace.held > Rational(0)) object["held"] = onTick(shot.pace.held).toString();
  for (const SpeedKey& key : shot.pace.keys)
    object["speedKeys"].push_back({{"time", onTick(key.time).toString()},
                                   {"speed", key.speed.toString()},
                                   {"ease", kSpeedEaseWords[size_t(key.ease)]}});
  if (shot.pitchFollows) object["pitchFollows"] = true;
  if (shot.treatment) object["treatment"] = kTreatmentWords[size_t(*shot.treatment)];
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

Json toJson(const Checks& checks) {
  Json object = Json::object();
  for (const auto& [code, severity] : checks.severities) object["severities"][code] = severityWord(severity);
  for (const Acceptance& each : checks.accepted) {
    Json accepted{{"code", each.code}};
    if (!each.deliverable.empty()) accepted["deliverable"] = each.deliverable;
    if (!each.shot.empty()) accepted["shot"] = each.shot;
    if (!each.source.empty()) accepted["source"] = each.source;
    accepted["basis"] = each.basis;
    accepted["word"] = each.word;
    object["accepted"].push_back(withUnknown(each.unknown, std::move(accepted)));
  }
  return withUnknown(checks.unknown, std::move(object));
}

Json toJson(const Deliverable& d) {
  Json framings = Json::object(); // those that are shared are its normal version's
  for (const auto& [shot, framing] : framesItself(d) ? d.framings : std::map<std::string, Framing>())
    appendMember(framings, shot, toJson(framing));
  Json object{{"id", d.id},
              {"name", d.name},
              {"canvas", {{"width", d.canvas.width}, {"height", d.canvas.height}}},
              {"rate", d.rate.value().toString()}};
  if (d.pixelAspect != Rational(1)) object["pixelAspect"] = d.pixelAspect.toString();
  if (d.format != CanvasFormat()) object["format"] = toJson(d.format);
  if (!d.destination.empty()) object["destination"] = d.destination;
  if (!d.preset.empty()) object["preset"] = d.preset;
  if (!d.sharesWith.empty()) object["sharesWith"] = d.sharesWith;
  object["encoding"] = toJson(d.encoding);
  if (d.treatment != Treatment::KeepTime) object["treatment"] = kTreatmentWords[size_t(d.treatment)];
  if (d.sharpOnly) object["sharpOnly"] = true;
  if (d.loudness) object["loudness"] = d.loudness->lufs ? Json(*d.loudness->lufs) : Json(kAsMixed);
  object["framings"] = std::move(framings);
  return withUnknown(d.unknown, std::move(object));
}

// ---- reading

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

/// What high versions share is taken from their normal version, which must be there and be none itself: so none shares
/// with itself by way of others either.
void readSharing(const JsonNode& root, Project& project) {
  size_t place = 0;
  root.get("deliverables").elements([&](const JsonNode& node) {
    if (place >= project.deliverables.size()) return; // one before was refused
    Deliverable& d = project.deliverables[place++];
    if (framesItself(d)) return;
    const Deliverable* normal = project.deliverable(d.sharesWith);
    if (!normal || !framesItself(*normal))
      return node.get("sharesWith").refuse(say("'%1' is no deliverable with framings of its own", d.sharesWith));
    takeShared(d, *normal);
  });
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

void readElements(const JsonNode& root, const std::set<std::string>& sources, const std::set<std::string>& shots,
                  Project& project) {
  if (!root.has("elements")) return;
  std::set<std::string> ids;
  std::set<std::string> deliverables;
  for (const Deliverable& d : project.deliverables) deliverables.insert(d.id);
  root.get("elements").elements([&](const JsonNode& node) {
    const std::string id = readId(node, ids);
    if (project.elements.size() == kMostElements)
      return node.refuse(say("there are more than %1 elements", kMostElements));
    Element element = readElement(node);
    element.id = id;
    readStretch(node, element);
    if (!element.shot.empty() && !shots.contains(element.shot))
      node.get("shot").refuse(say("there is no shot '%1'", element.shot));
    if (element.kind == ElementKind::Picture && !sources.contains(element.source))
      node.get("source").refuse(say("there is no source '%1'", element.source));
    // Places in a deliverable that does not exist are dropped, because nothing could ever use them.
    std::erase_if(element.own, [&](const auto& own) { return !deliverables.contains(own.first); });
    project.elements.push_back(std::move(element));
  });
}

OwnLoudness readLoudness(const JsonNode& node) {
  if (!node.isText()) return {node.number(kLeastTargetLufs, kMostTargetLufs)};
  if (node.text() != kAsMixed) node.refuse(say("a number of LUFS or '%1' is expected here", kAsMixed));
  return {};
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

Rational readSpeed(const JsonNode& node) {
  const Rational speed = node.fraction(kMostSpeed, false);
  if (speed < kLeastSpeed) node.refuse(say("the speed is below 1/100"));
  return std::max(speed, kLeastSpeed);
}

void readPace(const JsonNode& node, Shot& shot) {
  if (node.has("speed")) shot.pace.speed = readSpeed(node.get("speed"));
  if (node.has("reversed")) shot.pace.reversed = node.get("reversed").truth();
  if (node.has("held")) shot.pace.held = node.get("held").fraction(kLongest, false);
  if (node.has("pitchFollows")) shot.pitchFollows = node.get("pitchFollows").truth();
  if (node.has("treatment")) shot.treatment = Treatment(node.get("treatment").word(kTreatmentWords));
  if (!node.has("speedKeys")) return;
  node.get("speedKeys").elements([&](const JsonNode& each) {
    SpeedKey key;
    key.time = onTick(each.get("time").fraction(kLongest, true));
    key.speed = readSpeed(each.get("speed"));
    key.ease = SpeedEase(each.get("ease").word(kSpeedEaseWords));
    if (!shot.pace.keys.empty() && key.time <= shot.pace.keys.back().time)
      return each.get("time").refuse(say("the keys of a speed are not in order of time"));
    shot.pace.keys.push_back(key);
  });
  if (shot.pace.keys.size() > kMostSpeedKeys)
    node.get("speedKeys").refuse(say("a shot has at most %1 keys of speed", kMostSpeedKeys));
}

/// An acceptance of something that is no longer there is dropped, because nothing could ever use it.
Checks readChecks(const JsonNode& node, const Project& project) {
  Checks checks;
  if (node.has("severities"))
    node.get("severities").members([&checks](const std::string& code, const JsonNode& each) {
      checks.severities[code] = Severity(each.word(kSeverityWords));
    });
  if (node.has("accepted"))
    node.get("accepted").elements([&](const JsonNode& each) {
      Acceptance accepted;
      accepted.code = each.get("code").text(64);
      if (each.has("deliverable")) accepted.deliverable = each.get("deliverable").text(64);
      if (each.has("shot")) accepted.shot = each.get("shot").text(64);
      if (each.has("source")) accepted.source = each.get("source").text(64);
      accepted.basis = each.get("basis").text(64);
      accepted.word = each.get("word").text(kMostNameBytes);
      accepted.unknown = each.others({"code", "deliverable", "shot", "source", "basis", "word"});
      const bool there = (accepted.deliverable.empty() || project.deliverable(accepted.deliverable)) &&
                         (accepted.shot.empty() || project.shot(accepted.shot)) &&
                         (accepted.source.empty() || project.source(accepted.source));
      if (there) checks.accepted.push_back(std::move(accepted));
    });
  checks.unknown = node.others({"severities", "accepted"});
  return checks;
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
    if (node.has("repeats")) {
      const JsonNode repeats = node.get("repeats");
      Repeats read{int(repeats.get("cycle").integer(2, Repeats::kMostCycle)), 0};
      repeats.get("fresh").elements([&](const JsonNode& each) { read.fresh |= 1U << each.integer(0, read.cycle - 1); });
      if (!read.valid())
        repeats.refuse(say("some frames of the cycle are fresh, and not all of them"));
      else
        source.repeats = read;
    }
    source.unknown =
        node.others({"id", "path", "pathBytes", "name", "group", "fingerprint", "slowMotion", "repeats", "bars",
                     "colour", "barsBy", "scan", "scanBy", "sound", "soundBy", "turn", "mirrored", "straighten"});
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
    readPace(node, shot);
    bringOnTicks(shot); // the speeds are known now
    if (node.has("levelDb")) shot.levelDb = node.get("levelDb").number(kLeastLevelDb, kMostLevelDb);
    if (node.has("muted")) shot.muted = node.get("muted").truth();
    if (node.has("subjects"))
      node.get("subjects").elements([&](const JsonNode& each) { shot.subjects.push_back(readSubject(each)); });
    if (shot.subjects.size() > kMostSubjects) node.get("subjects").refuse(say("a shot has at most 3 subjects"));
    shot.unknown = node.others({"id", "source", "name", "in", "out", "speed", "reversed", "held", "speedKeys",
                                "pitchFollows", "treatment", "levelDb", "muted", "subjects"});
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
    if (node.has("pixelAspect")) {
      d.pixelAspect = node.get("pixelAspect").fraction(kMostPixelAspect, false);
      if (d.pixelAspect < kLeastPixelAspect) node.get("pixelAspect").refuse(say("1/4 to 4/1 is expected here"));
    }
    if (node.has("format")) d.format = readFormat(node.get("format"));
    if (node.has("destination")) d.destination = node.get("destination").text();
    if (node.has("preset")) d.preset = node.get("preset").text(kMostNameBytes);
    if (node.has("sharesWith")) d.sharesWith = node.get("sharesWith").text(64);
    if (node.has("encoding")) d.encoding = readEncoding(node.get("encoding"));
    if (node.has("loudness")) d.loudness = readLoudness(node.get("loudness"));
    if (node.has("treatment")) d.treatment = Treatment(node.get("treatment").word(kTreatmentWords));
    if (node.has("sharpOnly")) d.sharpOnly = node.get("sharpOnly").truth();
    if (node.has("framings"))
      node.get("framings").members([&](const std::string& shot, const JsonNode& framing) {
        // A framing whose shot does not exist is dropped, because nothing could ever use it.
        const Framing read = readFraming(framing);
        if (!read.still.empty() && !sources.contains(read.still))
          framing.get("still").refuse(say("there is no source '%1'", read.still));
        if (shots.contains(shot)) d.framings[shot] = read;
      });
    d.unknown = node.others({"id", "name", "canvas", "pixelAspect", "format", "rate", "destination", "preset",
                             "sharesWith", "encoding", "loudness", "treatment", "sharpOnly", "framings"});
    project.deliverables.push_back(std::move(d));
  });
  readSharing(root, project);
  readRegions(root, project);
  readSoundBeds(root, sources, project);
  readElements(root, sources, shots, project);
  if (root.has("captionStyle")) project.captionStyle = readCaptionStyle(root.get("captionStyle"));
  if (root.has("output")) project.output = readOutput(root.get("output"));
  if (root.has("checks")) project.checks = readChecks(root.get("checks"), project);
  project.unknown = root.others({"format", "version", "name", "groups", "sources", "shots", "deliverables", "regions",
                                 "beds", "elements", "captionStyle", "output", "checks"});
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
  for (const Element& element : project.elements) root["elements"].push_back(toJson(element));
  if (project.captionStyle != CaptionStyle()) root["captionStyle"] = toJson(project.captionStyle);
  if (project.output != Output()) root["output"] = toJson(project.output);
  if (project.checks != Checks()) root["checks"] = toJson(project.checks);
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
