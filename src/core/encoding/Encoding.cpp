// SPDX-License-Identifier: GPL-3.0-or-later
#include "encoding/Encoding.h"

#include "Printed.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstdio>

namespace tromb {
namespace {

std::string withUnit(double value, const char* unit) {
  std::array<char, 48> text{};
  std::snprintf(text.data(), text.size(),
                value < 10 && std::abs(value - std::round(value)) > 0.05 ? "%.1f %s" : "%.0f %s", value, unit);
  return text.data();
}

/// The words of a list, for people: "a, b or c".
Message listed(const std::vector<Message>& words) {
  Message list;
  for (size_t i = 0; i < words.size(); ++i)
    list = i == 0 ? words[i] : i + 1 == words.size() ? say("%1 or %2", list, words[i]) : say("%1, %2", list, words[i]);
  return list;
}

template <typename List, typename Word> Message wordsOf(const List& list, Word word) {
  std::vector<Message> words;
  for (const auto& item : list) words.push_back(argument(word(item)));
  return listed(words);
}

tl::unexpected<Error> refused(const Message& what, const Message& instead) {
  return fail(ErrorCode::InvalidArgument, what, {}, say("Use %1", instead));
}

Samples samplesOf(const CanvasFormat& format) {
  return {format.depth, format.chroma};
}

Message textOf(const Samples& s) {
  return samplesText({s.depth, s.chroma, {}});
}

template <typename Value> bool contains(const std::vector<Value>& list, const Value& value) {
  return std::find(list.begin(), list.end(), value) != list.end();
}

/// Finds the value that has a word.
template <typename Value>
bool valueByWord(std::string_view word, std::initializer_list<Value> values, const char* (*wordOf)(Value),
                 Value& found) {
  for (const Value value : values)
    if (word == wordOf(value)) {
      found = value;
      return true;
    }
  return false;
}

/// Fills in the sound of an encoding whose picture is resolved.
void resolveSound(Encoding& e) {
  SoundEncoding& s = e.sound;
  if (s.place == SoundPlace::Within && !infoOf(*e.container).sound) s.place = SoundPlace::None; // a loop is silent
  const bool alone = s.place == SoundPlace::Alone;
  if (!s.codec) {
    for (const SoundCodecInfo& info : soundCodecs())
      if (!s.codec && (info.alone == *e.container || contains(info.containers, *e.container))) s.codec = info.codec;
    // What loses nothing of the picture loses nothing of the sound.
    if (*e.rateControl == RateControl::Settled && !alone && !e.info().loop)
      s.codec = *e.container == Container::Mov ? SoundCodec::Pcm24 : SoundCodec::Flac;
    if (!s.codec) s.codec = SoundCodec::Aac;
    if (infoOf(*s.codec).lossless()) s.bitRate = 0; // was meant for a codec that has one
  }
  const SoundCodecInfo& sound = infoOf(*s.codec);
  if (alone && infoOf(*e.container).picture) e.container = sound.alone;
  if (s.bitRate > 0 || sound.lossless()) return;
  const int64_t usual = sound.usualBitRates[size_t(s.content)];
  s.bitRate = s.channels == 1 ? usual / 2 : s.channels == 2 ? usual : std::min(sound.mostBitRate, usual * 2);
}

Status pictureEncodable(const Encoding& e, const CanvasFormat& format) {
  const PictureCodec& c = e.info();
  if (!c.takes(*e.container))
    return refused(say("%1 is not put into %2", c.name, infoOf(*e.container).name),
                   wordsOf(c.containers, [](Container k) { return infoOf(k).word; }));
  if (!c.takes(samplesOf(format)))
    return refused(say("%1 has no pictures of %2", c.name, textOf(samplesOf(format))),
                   wordsOf(c.samples, [](const Samples& s) { return textOf(s); }));
  if (isHdr(format.colour) && (!c.hdr || format.depth < 10))
    return fail(ErrorCode::InvalidArgument,
                !c.hdr ? say("%1 is not delivered in high dynamic range", c.name)
                       : say("high dynamic range needs 10 bits"),
                {}, c.hdr ? say("Use a depth of 10") : say("Use HEVC, VP9 or AV1, or the colour rec709"));
  if (!c.takes(*e.rateControl))
    return refused(say("%1 has no rate control '%2'", c.name, rateControlWord(*e.rateControl)),
                   wordsOf(c.rateControls, [](RateControl r) { return rateControlWord(r); }));
  if (*e.rateControl == RateControl::ConstantQuality && (*e.crf < c.quality.least || *e.crf > c.quality.most)) {
    const auto plain = [](double v) { return std::to_string(int(v)); };
    return refused(say("constant quality %1 is not on the scale of %2", plain(*e.crf), c.name),
                   say("%1 to %2", plain(c.quality.least), plain(c.quality.most)));
  }
  if (*e.rateControl == RateControl::ConstantQuality && c.quality.whole && *e.crf != std::round(*e.crf))
    return refused(say("%1 has whole numbers of constant quality", c.name),
                   verbatim(std::to_string(std::lround(*e.crf))));
  if (e.passes == 2 && (!c.twoPasses || *e.rateControl != RateControl::Variable))
    return refused(c.twoPasses ? say("two passes are for an average bit rate")
                               : say("%1 is encoded in one pass here", c.name),
                   c.twoPasses ? say("rate control vbr, or one pass") : say("one pass"));
  if (!c.profiles.empty()) {
    const Profile* profile = c.profile(e.profile);
    if (!profile)
      return refused(say("%1 has no profile '%2'", c.name, e.profile),
                     wordsOf(c.profiles, [](const Profile& p) { return p.word; }));
    if (std::find(profile->samples.begin(), profile->samples.end(), samplesOf(format)) == profile->samples.end())
      return refused(say("profile %1 of %2 has no pictures of %3", e.profile, c.name, textOf(samplesOf(format))),
                     say("profile %1", c.profileFor(samplesOf(format))->word));
  } else if (!e.profile.empty()) {
    return refused(say("%1 has no profiles", c.name), say("none"));
  }
  if (e.level.empty() != (c.levels == nullptr) || (c.levels && !c.levels->byName(e.level)))
    return c.levels ? refused(say("'%1' is no level of %2", e.level, c.name),
                              wordsOf(c.levels->levels(), [](const Level& l) { return l.name; }))
                    : refused(say("%1 has no levels", c.name), say("none"));
  if (e.highTier && (!c.highTier || c.levels->byName(e.level)->highBitRate == 0))
    return refused(c.highTier ? say("%1 has no high tier at level %2", c.name, e.level)
                              : say("%1 is not encoded in a high tier", c.name),
                   say("the main tier"));
  if (!contains(c.speeds, e.speed) && !(c.speeds.empty() && e.speed.empty()))
    return c.speeds.empty() ? refused(say("%1 has one speed", c.name), say("none"))
                            : refused(say("'%1' is no speed of %2", e.speed, c.name),
                                      wordsOf(c.speeds, [](const std::string& speed) { return speed; }));
  if (!e.tune.empty() && !byWord(c.tunes, e.tune))
    return refused(say("%1 cannot be tuned for '%2'", c.name, e.tune),
                   c.tunes.empty() ? say("none") : wordsOf(c.tunes, [](const Tune& t) { return t.word; }));
  if (e.keySeconds < kLeastKeyDistance || e.keySeconds > kMostKeyDistance)
    return refused(say("key frames cannot be %1 s apart", e.keySeconds.toString()),
                   say("%1 to %2 s", kLeastKeyDistance.toString(), kMostKeyDistance.toString()));
  if (!e.keysAtCuts && !c.bPictures)
    return refused(say("%1 cannot be told to leave out key frames at cuts", c.name), say("them"));
  if ((e.bPictures || e.references > 0 || e.openGroups) && !c.bPictures)
    return refused(say("%1 settles by itself on what its pictures lean", c.name), say("none"));
  if (e.bPictures.value_or(0) > 0 && e.profile == "baseline")
    return refused(say("profile baseline has no pictures that lean on later ones"), say("profile main or high"));
  if (e.entropy != Entropy::Usual && !c.entropy) return refused(say("%1 has one entropy coding", c.name), say("none"));
  if (e.entropy == Entropy::Cabac && e.profile == "baseline")
    return refused(say("profile baseline has no CABAC"), say("CAVLC, or profile main or high"));
  return {};
}

/// Graphics hardware is told what all its encoders can be told, so that another machine's gives the same.
Status hardwareEncodable(const Encoding& e, const CanvasFormat& format) {
  if (!e.hardware) return {};
  const PictureCodec& c = e.info();
  if (c.hardware.empty())
    return refused(say("graphics hardware does not encode %1 here", c.name), say("the encoder software"));
  const Samples samples = samplesOf(format);
  if (std::none_of(c.hardware.begin(), c.hardware.end(),
                   [&](const HardwareEncoder& h) { return contains(h.samples, samples); }))
    return refused(say("graphics hardware has no %1 with pictures of %2", c.name, textOf(samples)),
                   wordsOf(c.hardware.front().samples, [](const Samples& s) { return textOf(s); }));
  if (isHdr(format.colour))
    return refused(say("high dynamic range is encoded in software"), say("the encoder software, or the colour rec709"));
  if (*e.rateControl == RateControl::Constant)
    return refused(say("a constant rate is encoded in software"), say("the encoder software, or rate control vbr"));
  if (e.passes == 2) return refused(say("graphics hardware encodes in one pass"), say("one pass"));
  if (e.speed != c.usualSpeed)
    return refused(say("encoders in graphics hardware have a speed of their own"), say("none"));
  if (!e.tune.empty()) return refused(say("encoders in graphics hardware are not tuned"), say("none"));
  if (e.highTier) return refused(say("graphics hardware keeps to the main tier"), say("the main tier"));
  if (e.bPictures || e.references > 0 || e.openGroups || !e.keysAtCuts || e.entropy != Entropy::Usual)
    return refused(say("encoders in graphics hardware settle by themselves on groups, references and entropy coding"),
                   say("none of these, or the encoder software"));
  return {};
}

/// What is copied keeps to nothing that it did not keep to before.
Status copyPossible(const Encoding& e) {
  if (!e.copies) return {};
  if (!e.info().joins) {
    std::vector<Message> others;
    for (const PictureCodec& other : pictureCodecs())
      if (other.joins) others.push_back(argument(other.word));
    return refused(say("pictures of %1 are not copied", e.info().name), listed(others));
  }
  if (*e.rateControl != RateControl::ConstantQuality || e.maxBitRate > 0)
    return refused(say("copied pictures keep to no bit rate"), say("a constant quality without a peak"));
  if (e.hardware)
    return refused(say("what lies between copied pictures is encoded in software"), say("the encoder software"));
  return {};
}

Status ratesPossible(const Encoding& e) {
  const PictureCodec& c = e.info();
  if (*e.rateControl == RateControl::Settled) return {};
  const auto possible = [](int64_t rate) { return rate >= kLeastBitRate && rate <= kMostBitRate; };
  const bool average = *e.rateControl != RateControl::ConstantQuality;
  for (const int64_t rate : {average ? e.bitRate : kLeastBitRate, e.maxBitRate > 0 ? e.maxBitRate : kLeastBitRate})
    if (!possible(rate))
      return refused(say("a bit rate of %1 cannot be encoded", bitRateText(rate)),
                     say("%1 to %2", bitRateText(kLeastBitRate), bitRateText(kMostBitRate)));
  if (e.maxBitRate > 0 && !c.holdsPeak)
    return refused(say("the encoder of %1 does not hold a peak bit rate", c.name), say("none"));
  if (average && e.maxBitRate > 0 && e.maxBitRate < e.bitRate)
    return refused(
        say("the peak of %1 lies below the average of %2", bitRateText(e.maxBitRate), bitRateText(e.bitRate)),
        say("a peak of %1 or more", bitRateText(e.bitRate)));
  if (e.bufferBits > 0 && e.maxBitRate <= 0)
    return refused(say("a decoder's buffer needs a peak bit rate"), say("one"));
  return {};
}

Status soundEncodable(const Encoding& e) {
  const SoundEncoding& s = e.sound;
  if (s.place == SoundPlace::None) return {};
  const SoundCodecInfo& c = infoOf(*s.codec);
  if (s.place == SoundPlace::Alone && *e.container != c.alone)
    return refused(say("sound of %1 alone is not put into %2", c.name, infoOf(*e.container).name),
                   argument(infoOf(c.alone).word));
  if (s.place == SoundPlace::Within && !contains(c.containers, *e.container)) {
    std::vector<Message> others;
    for (const SoundCodecInfo& other : soundCodecs())
      if (contains(other.containers, *e.container)) others.push_back(argument(other.word));
    return refused(say("sound of %1 is not put into %2", c.name, infoOf(*e.container).name), listed(others));
  }
  if (!contains(c.channels, s.channels))
    return refused(say("%1 has no %2 channels", c.name, s.channels),
                   wordsOf(c.channels, [](int n) { return std::to_string(n); }));
  if (!contains(c.sampleRates, s.sampleRate))
    return refused(say("%1 has no sample rate of %2 Hz", c.name, s.sampleRate),
                   wordsOf(c.sampleRates, [](int n) { return std::to_string(n); }));
  if (c.lossless() && s.bitRate > 0)
    return refused(say("%1 loses nothing and takes what it needs", c.name), say("no bit rate"));
  if (!c.lossless() && (s.bitRate < c.leastBitRate || s.bitRate > c.mostBitRate))
    return refused(say("%1 has no bit rate of %2", c.name, bitRateText(s.bitRate)),
                   say("%1 to %2", bitRateText(c.leastBitRate), bitRateText(c.mostBitRate)));
  return {};
}

} // namespace

const char* soundPlaceWord(SoundPlace place) {
  constexpr std::array<const char*, 4> kWords{"with", "none", "only", "beside"};
  return kWords[size_t(place)];
}

bool soundPlaceByWord(std::string_view word, SoundPlace& place) {
  return valueByWord(word, {SoundPlace::Within, SoundPlace::None, SoundPlace::Alone, SoundPlace::Beside},
                     soundPlaceWord, place);
}

const char* soundContentWord(SoundContent content) {
  constexpr std::array<const char*, 3> kWords{"speech", "mixed", "music"};
  return kWords[size_t(content)];
}

bool soundContentByWord(std::string_view word, SoundContent& content) {
  return valueByWord(word, {SoundContent::Speech, SoundContent::Mixed, SoundContent::Music}, soundContentWord, content);
}

const char* chaptersWord(Chapters chapters) {
  return chapters == Chapters::None ? "none" : chapters == Chapters::Shots ? "shots" : "regions";
}

bool chaptersByWord(std::string_view word, Chapters& chapters) {
  return valueByWord(word, {Chapters::None, Chapters::Shots, Chapters::Regions}, chaptersWord, chapters);
}

const char* captionPlaceWord(CaptionPlace place) {
  switch (place) {
  case CaptionPlace::None:
    return "none";
  case CaptionPlace::SubRip:
    return "srt";
  case CaptionPlace::WebVtt:
    return "vtt";
  default:
    return "burned";
  }
}

bool captionPlaceByWord(std::string_view word, CaptionPlace& place) {
  return valueByWord(word, {CaptionPlace::None, CaptionPlace::Burned, CaptionPlace::SubRip, CaptionPlace::WebVtt},
                     captionPlaceWord, place);
}

int64_t usualBitRate(Size canvas, const FrameRate& rate) {
  constexpr int64_t kStep = 100'000;
  const double fast = rate.value() > Rational(30) ? 1.5 : 1.0;
  const double bits = 8e6 * fast * canvas.width * canvas.height / (1920.0 * 1080.0);
  return std::max<int64_t>(kStep, std::llround(bits / kStep) * kStep);
}

LevelTable::Demand demandOf(const Encoding& e, const EncodedPicture& picture) {
  LevelTable::Demand demand{picture.size, picture.rate};
  if (const Profile* profile = e.info().profile(e.profile)) demand.factor = profile->factor;
  demand.bitRate = e.info().holdsPeak ? e.maxBitRate : *e.rateControl == RateControl::Variable ? e.bitRate : 0;
  demand.references = e.references;
  demand.highTier = e.highTier;
  // A buffer of one second is what every project had before it could be chosen; levels hold at least that of their
  // rate.
  demand.buffer = e.bufferBits > e.maxBitRate ? e.bufferBits : 0;
  return demand;
}

Encoding resolved(const Encoding& encoding, const EncodedPicture& picture) {
  Encoding e = encoding;
  const PictureCodec& c = e.info();
  if (!e.container) e.container = c.containers.front();
  if (!e.rateControl)
    e.rateControl = (e.crf || e.copies) && c.takes(RateControl::ConstantQuality) ? RateControl::ConstantQuality
                                                                                 : c.rateControls.front();
  if (!e.crf) e.crf = c.quality.usual;
  if (*e.rateControl == RateControl::Settled) {
    e.bitRate = e.maxBitRate = e.bufferBits = 0;
  } else if (e.bitRate <= 0) {
    constexpr int64_t kStep = 100'000;
    const double share = c.bitRateShare * double(usualBitRate(picture.size, picture.rate));
    e.bitRate = std::max<int64_t>(kStep, std::llround(share / kStep) * kStep);
  }
  if (*e.rateControl == RateControl::Constant)
    e.maxBitRate = e.bitRate;
  else if (*e.rateControl == RateControl::Variable && e.maxBitRate <= 0 && c.holdsPeak)
    e.maxBitRate = e.bitRate * 3 / 2;
  if (e.bufferBits <= 0) e.bufferBits = e.maxBitRate;
  if (e.profile.empty())
    if (const Profile* usual = c.profileFor(samplesOf(picture.format))) e.profile = usual->word;
  if (e.speed.empty()) e.speed = c.usualSpeed;
  if (e.level.empty() && c.levels) {
    const Level* lowest = c.levels->lowest(demandOf(e, picture));
    // The high tier is asked for where no level of the main tier carries the bit rate at all.
    if (!lowest && !e.highTier && c.highTier) {
      LevelTable::Demand high = demandOf(e, picture);
      high.highTier = true;
      lowest = c.levels->lowest(high);
      e.highTier = lowest != nullptr;
    }
    e.level = lowest ? lowest->name : c.levels->levels().back().name;
  } else if (const Level* named = c.levels ? c.levels->byName(e.level) : nullptr) {
    e.level = named->name;
  }
  resolveSound(e);
  return e;
}

Status encodable(const Encoding& e, const EncodedPicture& picture) {
  if (e.chapters != Chapters::None && !infoOf(*e.container).chapters)
    return refused(say("%1 has no place for chapter marks", infoOf(*e.container).name), say("none"));
  if (!e.hasPicture()) return soundEncodable(e);
  for (const Status& holds : {pictureEncodable(e, picture.format), hardwareEncodable(e, picture.format),
                              copyPossible(e), ratesPossible(e), soundEncodable(e)})
    if (!holds) return holds;
  if (const int most = e.info().mostRate; most > 0 && picture.rate.value() > Rational(most))
    return refused(say("%1 shows no more than %2 pictures a second", e.info().name, most), say("%1 or fewer", most));
  if (e.info().loop && picture.pixelAspect != Rational(1))
    return refused(say("%1 has square pixels", e.info().name), say("a pixel aspect of 1/1"));
  const Size least = e.info().least;
  if (picture.size.width < least.width || picture.size.height < least.height)
    return refused(say("%1 has no pictures as small as %2×%3", e.info().name, picture.size.width, picture.size.height),
                   say("a canvas of %1×%2 or more", least.width, least.height));
  return {};
}

namespace {

/// Exact enough for two that lie close together to differ: "31.25 Mb".
std::string bitsText(double bits) {
  return bits >= 1e6 ? printed("%.7g Mb", bits / 1e6) : printed("%.7g kb", bits / 1e3);
}

/// What a demand asks that is more than a level has.
Message whatIsAbove(const PictureCodec& c, const Level& level, const LevelTable::Demand& d) {
  switch (c.levels->exceeded(level, d)) {
  case LevelTable::Bound::Picture:
    return say("%1 level %2 has no pictures of %3×%4", c.name, level.name, d.canvas.width, d.canvas.height);
  case LevelTable::Bound::BitRate:
    return say("%1 level %2 carries %3/s at most, and %4/s are asked for", c.name, level.name,
               bitsText(double(d.highTier ? level.highBitRate : level.maxBitRate) * d.factor),
               bitsText(double(d.bitRate)));
  case LevelTable::Bound::Buffer:
    return say("%1 level %2 has a decoder's buffer of %3 at most, and %4 are asked for", c.name, level.name,
               bitsText(double(d.highTier ? level.highBuffer : level.maxBuffer) * d.factor),
               bitsText(double(d.buffer)));
  case LevelTable::Bound::References:
    return say("%1 level %2 keeps %3 pictures of this size at most, and %4 are asked for", c.name, level.name,
               c.levels->maxReferences(level, d.canvas), d.references);
  default:
    return say("%1 level %2 cannot carry %3×%4 at %5", c.name, level.name, d.canvas.width, d.canvas.height,
               d.rate.name());
  }
}

} // namespace

Status levelCarries(const Encoding& e, const EncodedPicture& picture) {
  const PictureCodec& c = e.info();
  if (!c.levels || !e.hasPicture()) return {};
  const LevelTable::Demand demand = demandOf(e, picture);
  const Level* level = c.levels->byName(e.level);
  LevelTable::Demand inMain = demand;
  inMain.highTier = false;
  if (level && e.highTier && c.levels->carries(*level, inMain))
    return refused(say("%1 level %2 carries this in the main tier, which is written then", c.name, e.level),
                   say("the main tier"));
  if (level && c.levels->carries(*level, demand)) return {};
  const Level* fitting = c.levels->lowest(demand);
  return fail(ErrorCode::InvalidArgument,
              level ? whatIsAbove(c, *level, demand) : say("'%1' is no level of %2", e.level, c.name), {},
              fitting ? say("Use level %1 or leave the level to Tromb", fitting->name)
                      : say("Make the canvas, the rate or the bit rate smaller"));
}

std::vector<Hindrance> hindrances(const Encoding& e, const EncodedPicture& picture) {
  std::vector<Hindrance> all;
  if (const Status made = encodable(e, picture); !made) {
    const PictureCodec& c = e.info();
    Encoding other = e; // with the profile that its samples ask for
    const Profile* usual = c.profiles.empty() ? nullptr : c.profileFor(samplesOf(picture.format));
    if (usual) other.profile = usual->word;
    const bool profile = usual && other.profile != e.profile && encodable(other, picture);
    all.push_back({profile ? Hindrance::By::Profile : Hindrance::By::Settings, made.error()});
  }
  if (const Status carried = levelCarries(e, picture); !carried) {
    Encoding other = e;
    other.bufferBits = 0;
    all.push_back({levelCarries(other, picture) ? Hindrance::By::Buffer : Hindrance::By::Level, carried.error()});
  }
  return all;
}

int64_t bitRateOf(const SoundEncoding& s) {
  if (s.place == SoundPlace::None || !s.codec) return 0;
  const int64_t samples = int64_t(s.sampleRate) * s.channels;
  return *s.codec == SoundCodec::Pcm16   ? samples * 16
         : *s.codec == SoundCodec::Pcm24 ? samples * 24
         : *s.codec == SoundCodec::Flac  ? samples * 16
                                         : s.bitRate;
}

Container soundContainer(const Encoding& e) {
  return e.sound.place == SoundPlace::Beside ? infoOf(*e.sound.codec).alone : *e.container;
}

std::optional<int64_t> expectedBytes(const Encoding& e, const Rational& seconds) {
  if (!e.hasPicture()) return estimatedBytes(0, bitRateOf(e.sound), seconds);
  if (*e.rateControl == RateControl::ConstantQuality || *e.rateControl == RateControl::Settled) return {};
  return estimatedBytes(e.bitRate, bitRateOf(e.sound), seconds);
}

int64_t containerBytes(int64_t pictures, const Rational& secondsOfSound) {
  constexpr int64_t kBytesAPicture = 13;
  constexpr int64_t kBytesASecondOfSound = 560;
  return kBytesAPicture * pictures + Rational::nearestProduct(secondsOfSound, Rational(kBytesASecondOfSound));
}

Message codecText(const Encoding& e) {
  if (!e.hasPicture()) return say("%1, sound alone", infoOf(*e.sound.codec).name);
  std::string codec(e.info().name);
  if (!e.profile.empty()) {
    std::string profile = e.profile;
    profile.front() = char(std::toupper(static_cast<unsigned char>(profile.front())));
    codec += " " + profile;
  }
  if (e.level.empty()) return verbatim(codec);
  return e.highTier ? say("%1, level %2, high tier", codec, e.level) : say("%1, level %2", codec, e.level);
}

std::string codecsBegin(const Encoding& e, int depth) {
  const PictureCodec& c = e.info();
  const Profile* profile = c.profile(e.profile);
  if (!profile || !c.codecsLevel) return {};
  return std::string(profile->codecs) + c.codecsLevel(*c.levels->byName(e.level), e.highTier, depth);
}

int64_t estimatedBytes(int64_t videoBitRate, int64_t audioBitRate, const Rational& seconds) {
  return (Rational(videoBitRate + audioBitRate) * seconds / Rational(8)).nearest();
}

double bitsPerPixel(int64_t bitRate, Size canvas, const FrameRate& rate) {
  return double(bitRate) / (double(canvas.width) * canvas.height * rate.toDouble());
}

Result<int64_t> parseBitRate(std::string_view text) {
  std::string_view digits = text;
  int64_t unit = 1;
  if (digits.ends_with('k')) unit = 1000;
  if (digits.ends_with('M')) unit = 1'000'000;
  if (unit > 1) digits.remove_suffix(1);
  const auto value = Rational::parseDecimal(digits);
  const Rational bits = value ? *value * Rational(unit) : Rational(0);
  if (bits < Rational(1) || bits > Rational(1'000'000'000'000))
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a bit rate", std::string(text)), {},
                say("Write bits per second, with k or M if you like: 8M, 192k, 2500000"));
  return bits.nearest();
}

std::string bitRateText(int64_t bitRate) {
  return bitRate >= 1'000'000 ? withUnit(double(bitRate) / 1e6, "Mb/s") : withUnit(double(bitRate) / 1e3, "kb/s");
}

Result<int64_t> parseBytes(std::string_view text) {
  std::string_view digits = text;
  const auto without = [&digits](std::string_view end) {
    if (!digits.ends_with(end)) return false;
    digits.remove_suffix(end.size());
    return true;
  };
  (void)without("B");
  const int64_t unit = without("k") ? 1000 : without("M") ? 1'000'000 : without("G") ? 1'000'000'000 : 1;
  while (without(" ")) {
  }
  const auto value = Rational::parseDecimal(digits);
  constexpr int64_t kMost = 1'000'000'000'000'000;
  if (!value || *value <= Rational(0) || value->toDouble() * double(unit) > double(kMost) ||
      value->toDouble() * double(unit) < 1)
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a size", std::string(text)), {},
                say("Write bytes, with kB, MB or GB: 100 MB, 700 kB"));
  return Rational::nearestProduct(*value, Rational(unit));
}

std::string bytesText(int64_t bytes) {
  if (bytes >= 1'000'000'000) return withUnit(double(bytes) / 1e9, "GB");
  return bytes >= 1'000'000 ? withUnit(double(bytes) / 1e6, "MB") : withUnit(double(bytes) / 1e3, "kB");
}

} // namespace tromb
