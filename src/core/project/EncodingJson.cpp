// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/EncodingJson.h"

#include <array>
#include <string>
#include <vector>

namespace tromb {
namespace {

constexpr std::array<const char*, 3> kEntropyWords{"usual", "cabac", "cavlc"};

Json toJson(const SoundEncoding& s) {
  Json object = Json::object();
  if (s.codec) object["codec"] = infoOf(*s.codec).word;
  if (s.bitRate > 0) object["bitRate"] = s.bitRate;
  if (s.channels != SoundEncoding().channels) object["channels"] = s.channels;
  if (s.sampleRate != SoundEncoding().sampleRate) object["sampleRate"] = s.sampleRate;
  if (s.content != SoundContent::Mixed) object["content"] = soundContentWord(s.content);
  if (s.place != SoundPlace::Within) object["place"] = soundPlaceWord(s.place);
  return withUnknown(s.unknown, std::move(object));
}

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
  if (node.has("content") && !soundContentByWord(node.get("content").text(), s.content))
    node.get("content").refuse(say("'speech', 'mixed' or 'music' is expected here"));
  if (node.has("none") && node.get("none").truth()) s.place = SoundPlace::None; // so it was written at first
  if (node.has("place") && !soundPlaceByWord(node.get("place").text(), s.place))
    node.get("place").refuse(say("'with', 'none', 'only' or 'beside' is expected here"));
  s.unknown = node.others({"codec", "bitRate", "content", "channels", "sampleRate", "none", "place"});
  return s;
}

} // namespace

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
  if (e.hardware) object["hardware"] = true;
  if (e.copies) object["copies"] = true;
  if (!e.tune.empty()) object["tune"] = e.tune;
  if (e.keySeconds != usual.keySeconds) object["keySeconds"] = e.keySeconds.toString();
  if (e.openGroups) object["openGroups"] = true;
  if (!e.keysAtCuts) object["keysAtCuts"] = false;
  if (e.bPictures) object["bPictures"] = *e.bPictures;
  if (e.references > 0) object["references"] = e.references;
  if (e.entropy != Entropy::Usual) object["entropy"] = kEntropyWords[size_t(e.entropy)];
  if (e.sound != SoundEncoding()) object["sound"] = toJson(e.sound);
  if (e.chapters != Chapters::None) object["chapters"] = chaptersWord(e.chapters);
  if (e.captions != usual.captions) object["captions"] = captionPlaceWord(e.captions);
  if (!e.title.empty()) object["title"] = e.title;
  if (!e.comment.empty()) object["comment"] = e.comment;
  if (!e.language.empty()) object["language"] = e.language;
  return withUnknown(e.unknown, std::move(object));
}

Json toJson(const CanvasFormat& f) {
  return {{"depth", f.depth}, {"chroma", chromaWord(f.chroma)}, {"colour", colourWord(f.colour)}};
}

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
  if (node.has("crf")) e.crf = node.get("crf").number(0, 100);
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
  if (node.has("hardware")) e.hardware = node.get("hardware").truth();
  if (node.has("copies")) e.copies = node.get("copies").truth();
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
  if (node.has("captions") && !captionPlaceByWord(node.get("captions").text(), e.captions))
    node.get("captions").refuse(say("'none', 'burned', 'srt' or 'vtt' is expected here"));
  if (node.has("title")) e.title = node.get("title").text(kMostTitleBytes);
  if (node.has("comment")) e.comment = node.get("comment").text(kMostTitleBytes);
  if (node.has("language")) e.language = node.get("language").text(3);
  e.unknown = node.others({"codec",      "container",  "rateControl", "passes",     "crf",      "bitRate", "maxBitRate",
                           "bufferBits", "profile",    "level",       "highTier",   "speed",    "tune",    "keySeconds",
                           "openGroups", "keysAtCuts", "bPictures",   "references", "entropy",  "sound",   "title",
                           "comment",    "chapters",   "captions",    "language",   "hardware", "copies"});
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

} // namespace tromb
