// SPDX-License-Identifier: GPL-3.0-or-later
#include "EncodingKeys.h"

#include "Arguments.h"

#include <algorithm>

namespace tromb::cli {
namespace {

tl::unexpected<Error> refused(const std::string& key, const std::string& value, const std::string& instead) {
  return fail(ErrorCode::InvalidArgument, say("'%1' is no %2", value, key), {}, say("Use %1", instead));
}

template <typename Table> std::string wordsOf(const Table& table) {
  std::string words;
  for (const auto& row : table) words += (words.empty() ? "" : ", ") + std::string(row.word);
  return words;
}

/// A key whose value is the word of a row of a table.
template <typename Table, typename Take> EncodingKey rowKey(const char* key, const Table& table, Take take) {
  return [key, &table, take](Deliverable& d, const std::string& value) -> Status {
    const auto* row = byWord(table, value);
    if (!row) return refused(key, value, wordsOf(table));
    take(d, *row);
    return {};
  };
}

template <typename Take> EncodingKey bitsKey(Take take) {
  return [take](Deliverable& d, const std::string& value) -> Status {
    const auto rate = parseBitRate(value);
    if (!rate) return tl::unexpected(rate.error());
    take(d.encoding) = *rate;
    return {};
  };
}

template <typename Take> EncodingKey numberKey(const char* key, int64_t least, int64_t most, Take take) {
  return [=](Deliverable& d, const std::string& value) -> Status {
    const auto number = parseInteger(value, least, most);
    if (!number) return refused(key, value, std::to_string(least) + " to " + std::to_string(most));
    take(d.encoding, int(*number));
    return {};
  };
}

/// A key with two words.
template <typename Take> EncodingKey eitherKey(const char* key, const char* first, const char* second, Take take) {
  return [=](Deliverable& d, const std::string& value) -> Status {
    if (value != first && value != second) return refused(key, value, std::string(first) + " or " + second);
    take(d.encoding, value == first);
    return {};
  };
}

template <typename Take> EncodingKey textKey(const char* key, size_t most, Take take) {
  return [=](Deliverable& d, const std::string& value) -> Status {
    if (value.size() > most)
      return fail(ErrorCode::InvalidArgument, say("the %1 is longer than %2 bytes", key, most), {},
                  say("Use a shorter one"));
    take(d.encoding) = value;
    return {};
  };
}

/// What a codec cannot hold of the deliverable as it is becomes what it usually holds.
void takeCodec(Deliverable& d, const PictureCodec& codec) {
  if (d.encoding.codec != codec.codec) d.encoding.bitRate = 0; // the destination's bit rate is for its own codec
  d.encoding.codec = codec.codec;
  d.format = codec.fitting(d.format);
}

Status takeColour(Deliverable& d, const std::string& value) {
  if (!colourByWord(value, d.format.colour)) return refused("colour", value, "rec709, hlg or pq");
  if (isHdr(d.format.colour)) d.format.depth = 10;
  return {};
}

Status takeDepth(Deliverable& d, const std::string& value) {
  if (value != "8" && value != "10") return refused("depth", value, "8 or 10");
  d.format.depth = value == "8" ? 8 : 10;
  return {};
}

Status takeChroma(Deliverable& d, const std::string& value) {
  return chromaByWord(value, d.format.chroma) ? Status() : Status(refused("chroma", value, "420 or 422"));
}

Status takeCrf(Deliverable& d, const std::string& value) {
  const auto crf = Rational::parseDecimal(value);
  if (!crf || *crf < Rational(0) || *crf > Rational(100))
    return refused("crf", value, "a number on the scale of the codec, as 20 for h264");
  d.encoding.crf = crf->toDouble();
  d.encoding.rateControl = RateControl::ConstantQuality;
  return {};
}

Status takeRateControl(Deliverable& d, const std::string& value) {
  RateControl control{};
  if (!rateControlByWord(value, control))
    return fail(ErrorCode::InvalidArgument, say("'%1' is no rate control", value), {}, say("Use crf, vbr or cbr"));
  d.encoding.rateControl = control;
  return {};
}

Status takeKeyDistance(Deliverable& d, const std::string& value) {
  const auto seconds = Rational::parseDecimal(value);
  if (!seconds || *seconds <= Rational(0)) return refused("gop", value, "seconds between key frames, as 2");
  d.encoding.keySeconds = *seconds;
  return {};
}

Status takeLoudness(Deliverable& d, const std::string& value) {
  d.loudness = OwnLoudness{};
  if (value == "as-mixed") return {};
  const bool negative = value.starts_with('-');
  const auto size = Rational::parseDecimal(std::string_view(value).substr(negative ? 1 : 0));
  const double lufs = size ? (negative ? -1 : 1) * size->toDouble() : 0;
  if (!size || lufs < kLeastTargetLufs || lufs > kMostTargetLufs)
    return refused("loudness", value, "-40 to -8 LUFS, or as-mixed");
  d.loudness->lufs = lufs;
  return {};
}

Status takeLanguage(Deliverable& d, const std::string& value) {
  const bool letters = std::all_of(value.begin(), value.end(), [](unsigned char c) { return c >= 'a' && c <= 'z'; });
  if (value.size() != 3 || !letters) return refused("language", value, "three letters of ISO 639-2, as eng");
  d.encoding.language = value;
  return {};
}

std::map<std::string, EncodingKey> made() {
  std::map<std::string, EncodingKey> keys;
  keys["codec"] = rowKey("codec", pictureCodecs(), takeCodec);
  keys["container"] = rowKey("container", containers(),
                             [](Deliverable& d, const ContainerInfo& row) { d.encoding.container = row.container; });
  keys["audio-codec"] = rowKey("codec of sound", soundCodecs(), [](Deliverable& d, const SoundCodecInfo& row) {
    d.encoding.sound.codec = row.codec;
    if (row.lossless()) d.encoding.sound.bitRate = 0;
  });
  keys["rate-control"] = takeRateControl;
  keys["passes"] = numberKey("number of passes", 1, 2, [](Encoding& e, int n) { e.passes = n; });
  keys["crf"] = takeCrf;
  keys["bitrate"] = bitsKey([](Encoding& e) -> int64_t& { return e.bitRate; });
  keys["max-bitrate"] = bitsKey([](Encoding& e) -> int64_t& { return e.maxBitRate; });
  keys["buffer"] = bitsKey([](Encoding& e) -> int64_t& { return e.bufferBits; });
  keys["audio-bitrate"] = [](Deliverable& d, const std::string& value) -> Status {
    SoundEncoding& s = d.encoding.sound;
    s.bitRate = 0;
    return soundContentByWord(value, s.content)
               ? Status()
               : bitsKey([](Encoding& e) -> int64_t& { return e.sound.bitRate; })(d, value);
  };
  keys["profile"] = textKey("profile", 64, [](Encoding& e) -> std::string& { return e.profile; });
  keys["level"] = textKey("level", 64, [](Encoding& e) -> std::string& { return e.level; });
  keys["preset"] = textKey("preset", 64, [](Encoding& e) -> std::string& { return e.speed; });
  keys["tune"] = textKey("tune", 64, [](Encoding& e) -> std::string& { return e.tune; });
  keys["title"] = textKey("title", kMostTitleBytes, [](Encoding& e) -> std::string& { return e.title; });
  keys["comment"] = textKey("comment", kMostTitleBytes, [](Encoding& e) -> std::string& { return e.comment; });
  keys["language"] = takeLanguage;
  keys["tier"] = eitherKey("tier", "high", "main", [](Encoding& e, bool high) { e.highTier = high; });
  keys["groups"] = eitherKey("kind of groups", "open", "closed", [](Encoding& e, bool open) { e.openGroups = open; });
  keys["cut-keys"] = eitherKey("answer", "yes", "no", [](Encoding& e, bool yes) { e.keysAtCuts = yes; });
  keys["encoder"] =
      eitherKey("kind of encoder", "hardware", "software", [](Encoding& e, bool hardware) { e.hardware = hardware; });
  keys["copy"] = eitherKey("answer", "yes", "no", [](Encoding& e, bool yes) { e.copies = yes; });
  keys["entropy"] = eitherKey("entropy coding", "cabac", "cavlc",
                              [](Encoding& e, bool cabac) { e.entropy = cabac ? Entropy::Cabac : Entropy::Cavlc; });
  keys["sound"] = [](Deliverable& d, const std::string& value) -> Status {
    return soundPlaceByWord(value, d.encoding.sound.place)
               ? Status()
               : Status(refused("way with sound", value, "with, none, only or beside"));
  };
  keys["b-pictures"] =
      numberKey("number of B pictures", 0, kMostBPictures, [](Encoding& e, int n) { e.bPictures = n; });
  keys["references"] =
      numberKey("number of references", 1, kMostReferences, [](Encoding& e, int n) { e.references = n; });
  keys["channels"] = numberKey("number of channels", 1, 64, [](Encoding& e, int n) {
    if (n != e.sound.channels) e.sound.bitRate = 0; // the destination's bit rate is for its own channels
    e.sound.channels = n;
  });
  keys["sample-rate"] = numberKey("sample rate", 1, 1'000'000, [](Encoding& e, int n) { e.sound.sampleRate = n; });
  keys["chapters"] = [](Deliverable& d, const std::string& value) -> Status {
    return chaptersByWord(value, d.encoding.chapters) ? Status()
                                                      : Status(refused("chapters", value, "none, shots or regions"));
  };
  keys["captions"] = [](Deliverable& d, const std::string& value) -> Status {
    return captionPlaceByWord(value, d.encoding.captions)
               ? Status()
               : Status(refused("captions", value, "none, burned, srt or vtt"));
  };
  keys["gop"] = takeKeyDistance;
  keys["loudness"] = takeLoudness;
  keys["depth"] = takeDepth;
  keys["chroma"] = takeChroma;
  keys["colour"] = takeColour;
  return keys;
}

} // namespace

const std::map<std::string, EncodingKey>& encodingKeys() {
  static const std::map<std::string, EncodingKey> keys = made();
  return keys;
}

std::string encodingKeysHelp() {
  const auto either = [](const auto& table) {
    std::string words = wordsOf(table);
    for (size_t at; (at = words.find(", ")) != std::string::npos;) words.replace(at, 2, "|");
    return words;
  };
  return "codec=" + either(pictureCodecs()) + ";container=" + either(containers()) +
         ";depth=8|10;chroma=420|422;colour=rec709|hlg|pq;rate-control=crf|vbr|cbr;passes=1|2;crf=N;bitrate=B;"
         "max-bitrate=B;buffer=B;profile=P;level=L;tier=main|high;encoder=software|hardware;copy=yes|no;preset=SPEED;"
         "tune=T;gop="
         "SECONDS;groups=closed|open;"
         "cut-keys=yes|no;b-pictures=N;references=N;entropy=cabac|cavlc;sound=with|none|only|beside;audio-codec=" +
         either(soundCodecs()) +
         ";audio-bitrate=B|speech|mixed|music;channels=1|2|6;sample-rate=HZ;loudness=LUFS|as-mixed;chapters=none|shots|"
         "regions;title=T;"
         "comment=T;language=LLL";
}

} // namespace tromb::cli
