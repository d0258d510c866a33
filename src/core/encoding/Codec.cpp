// SPDX-License-Identifier: GPL-3.0-or-later
#include "encoding/Codec.h"

#include "Printed.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr Samples k420at8{8, Chroma::C420};
constexpr Samples k420at10{10, Chroma::C420};
constexpr Samples k444at8{8, Chroma::C444};
constexpr Samples k422at8{8, Chroma::C422};
constexpr Samples k422at10{10, Chroma::C422};

template <typename List, typename Value> bool holds(const List& list, const Value& value) {
  return std::find(list.begin(), list.end(), value) != list.end();
}

std::vector<std::string> numbered(int fastest, int slowest) {
  std::vector<std::string> words;
  const int step = fastest < slowest ? 1 : -1;
  for (int n = fastest; n != slowest + step; n += step) words.push_back(std::to_string(n));
  return words;
}

// RFC 6381, 3.3; ISO/IEC 14496-15, annex E.3; AV1 Codec ISO Media File Format Binding, 5.
std::string avcLevel(const Level& level, bool /*high*/, int /*depth*/) {
  return printed("%02X", level.idc);
}
std::string hevcLevel(const Level& level, bool high, int /*depth*/) {
  return printed("%c%d", high ? 'H' : 'L', level.idc);
}
std::string av1Level(const Level& level, bool high, int depth) {
  return printed("%02d%c.%02d", level.idc, high ? 'H' : 'M', depth);
}

} // namespace

const std::vector<PictureCodec>& pictureCodecs() {
  using enum RateControl;
  static const std::vector<std::string> kNamedSpeeds{"ultrafast", "superfast", "veryfast", "faster",  "fast",
                                                     "medium",    "slow",      "slower",   "veryslow"};
  static const std::vector<PictureCodec> table{
      {.codec = Codec::H264,
       .word = "h264",
       .name = "H.264",
       .encoder = "libx264",
       .found = "h264",
       .hardware = {{"h264_vaapi", HardwareInterface::Vaapi, {k420at8}},
                    {"h264_nvenc", HardwareInterface::Nvenc, {k420at8}},
                    {"h264_qsv", HardwareInterface::Qsv, {k420at8}}},
       .purpose = say("plays everywhere"),
       .containers = {Container::Mp4, Container::Mov, Container::Mkv},
       // Table A-2: factors of the bit rate, relative to Main.
       .profiles = {{"high", "high", {k420at8}, "avc1.6400", 1.25},
                    {"main", "main", {k420at8}, "avc1.4D40"},
                    {"baseline", "constrained baseline", {k420at8}, "avc1.42C0"},
                    {"high10", "high 10", {k420at10}, "avc1.6E00", 3}},
       .samples = {k420at8, k420at10},
       .levels = &h264Levels(),
       .codecsLevel = avcLevel,
       .rateControls = {Variable, ConstantQuality, Constant},
       .quality = {1, 51, 20}, // 0 would be lossless, which none of the profiles here can hold
       .twoPasses = true,
       .holdsPeak = true,
       .bPictures = true,
       .entropy = true,
       .joins = true,
       .speeds = kNamedSpeeds,
       .usualSpeed = "medium",
       .tunes = {{"film", "tune=film"}, {"drawn", "tune=animation"}, {"grain", "tune=grain"}},
       .tag = "avc1",
       .players = {{say("everything, old phones and players too"), 31, k420at8},
                   {say("phones, browsers, televisions and computers"), 42, k420at8},
                   {say("phones and televisions of the last years, computers"), 52, k420at8},
                   {say("computers"), 0, k420at8},
                   {say("computers; few phones, browsers and televisions")}}},
      {.codec = Codec::Hevc,
       .word = "hevc",
       .name = "HEVC",
       .encoder = "libx265",
       .found = "hevc",
       .hardware = {{"hevc_vaapi", HardwareInterface::Vaapi, {k420at8, k420at10}},
                    {"hevc_nvenc", HardwareInterface::Nvenc, {k420at8, k420at10}},
                    {"hevc_qsv", HardwareInterface::Qsv, {k420at8, k420at10}}},
       .purpose = say("smaller than H.264, for phones and high dynamic range"),
       .containers = {Container::Mp4, Container::Mov, Container::Mkv},
       .profiles = {{"main", "main", {k420at8}, "hvc1.1.6."}, {"main10", "main 10", {k420at10}, "hvc1.2.4."}},
       .samples = {k420at8, k420at10},
       .levels = &hevcLevels(),
       .codecsLevel = hevcLevel,
       .highTier = true,
       .rateControls = {Variable, ConstantQuality, Constant},
       .quality = {1, 51, 22},
       .twoPasses = true,
       .filler = "\x4C\x01", // Rec. ITU-T H.265, 7.3.1.2: FD_NUT
       .holdsPeak = true,
       .bPictures = true,
       .joins = true,
       .speeds = kNamedSpeeds,
       .usualSpeed = "medium",
       .tunes = {{"drawn", "tune=animation"}, {"grain", "tune=grain"}},
       .bitRateShare = 0.65,
       .tag = "hvc1",
       .hdr = true,
       .players = {{say("phones and televisions of the last years, computers, some browsers")}}},
      {.codec = Codec::Vp9,
       .word = "vp9",
       .name = "VP9",
       .encoder = "libvpx-vp9",
       .found = "vp9",
       .hardware = {{"vp9_vaapi", HardwareInterface::Vaapi, {k420at8}}, {"vp9_qsv", HardwareInterface::Qsv, {k420at8}}},
       .purpose = say("for the web"),
       .containers = {Container::Webm, Container::Mkv},
       .profiles = {{"0", "profile 0", {k420at8}}, {"2", "profile 2", {k420at10}}},
       .samples = {k420at8, k420at10},
       .levels = &vp9Levels(),
       .rateControls = {Variable, ConstantQuality},
       .quality = {1, 63, 31, true},
       .twoPasses = true,
       .joins = true,
       .speeds = numbered(5, 0),
       .usualSpeed = "2",
       .tunes = {{"film", "tune-content=film"}, {"screen", "tune-content=screen"}},
       .bitRateShare = 0.65,
       .hdr = true,
       .players = {{say("browsers, most phones and computers")}}},
      {.codec = Codec::Av1,
       .word = "av1",
       .name = "AV1",
       .encoder = "libsvtav1",
       .found = "av1",
       .purpose = say("small files for the web"),
       .containers = {Container::Mp4, Container::Webm, Container::Mkv},
       .profiles = {{"main", "main", {k420at8, k420at10}, "av01.0."}},
       .samples = {k420at8, k420at10},
       .levels = &av1Levels(),
       .codecsLevel = av1Level,
       .rateControls = {ConstantQuality, Variable},
       .quality = {1, 63, 30, true},
       .speeds = numbered(12, 2),
       .usualSpeed = "8",
       .tunes = {{"screen", "scm=1"}},
       .bitRateShare = 0.5,
       .least = {64, 64},
       .hdr = true,
       .players = {{say("browsers and phones of the last years, computers")}}},
      {.codec = Codec::Ffv1,
       .word = "ffv1",
       .name = "FFV1",
       .encoder = "ffv1",
       .found = "ffv1",
       .purpose = say("a master that loses nothing"),
       .containers = {Container::Mkv},
       .profiles = {},
       .samples = {k420at8, k420at10, k422at8, k422at10},
       .rateControls = {Settled},
       .intra = true,
       .speeds = {},
       .usualSpeed = {},
       .tunes = {},
       .players = {{say("programs for archives and for cutting")}}},
      {.codec = Codec::Vc3,
       .word = "vc3",
       .name = "VC-3",
       .encoder = "dnxhd",
       .found = "dnxhd",
       .purpose = say("for handing on to other programs"),
       .containers = {Container::Mov},
       .profiles = {{"hq", "dnxhr hq", {k422at8}, {}, 1, "dnxhr_hq"},
                    {"sq", "dnxhr sq", {k422at8}, {}, 1, "dnxhr_sq"},
                    {"lb", "dnxhr lb", {k422at8}, {}, 1, "dnxhr_lb"},
                    {"hqx", "dnxhr hqx", {k422at10}, {}, 1, "dnxhr_hqx"}},
       .samples = {k422at8, k422at10},
       .rateControls = {Settled},
       .intra = true,
       .speeds = {},
       .usualSpeed = {},
       .tunes = {},
       .least = {256, 120},
       .players = {{say("programs for cutting")}}},
      {.codec = Codec::Gif,
       .word = "gif",
       .name = "GIF",
       .encoder = "gif",
       .found = "gif",
       .purpose = say("a short silent loop, shown everywhere"),
       .containers = {Container::Gif},
       .profiles = {},
       .samples = {k444at8},
       .rateControls = {Settled},
       .speeds = {},
       .usualSpeed = {},
       .tunes = {},
       .loop = true,
       .palette = true,
       .mostRate = 50, // times are hundredths of a second, and what lasts one of them is shown ten times as long
       .players = {{say("everything that shows pictures")}}},
      {.codec = Codec::Webp,
       .word = "webp",
       .name = "WebP",
       .encoder = "libwebp_anim",
       .found = "webp",
       .purpose = say("a short silent loop for the web, in all colours"),
       .containers = {Container::Webp},
       .profiles = {},
       .samples = {k444at8},
       .rateControls = {ConstantQuality},
       .quality = {1, 100, 80, true, true},
       .speeds = numbered(0, 6),
       .usualSpeed = "4",
       .tunes = {},
       .loop = true,
       .players = {{say("browsers and phones")}}},
  };
  return table;
}

const std::vector<SoundCodecInfo>& soundCodecs() {
  using enum Container;
  static const std::vector<int> kRates{48'000, 44'100};
  static const std::vector<int> kAll{2, 1, 6};
  static const std::vector<SoundCodecInfo> table{
      // Bit rates by content: common practice, no published source; of Opus at or above those of RFC 6716, 2.1.1.
      {.codec = SoundCodec::Aac,
       .word = "aac",
       .name = "AAC",
       .encoder = "aac",
       .found = "aac",
       .containers = {Mp4, Mov, Mkv},
       .alone = M4a,
       .channels = kAll,
       .sampleRates = kRates,
       .leastBitRate = 8'000,
       .mostBitRate = 512'000,
       .usualBitRates = {128'000, 192'000, 256'000},
       // FFmpeg's usual search spoils half seconds of quiet, nearly mono sound (noise 16 dB above it at 192 kb/s). Of
       // eight kinds of sound at 128 and 192 kb/s this one was nearer to the original in all but one of sixteen, by 0.3
       // to 26 dB.
       .option = "aac_coder",
       .optionValue = "fast"},
      {.codec = SoundCodec::Opus,
       .word = "opus",
       .name = "Opus",
       .encoder = "libopus",
       .found = "opus",
       .containers = {Webm, Mkv, Mp4},
       .alone = Ogg,
       .channels = kAll,
       .sampleRates = {48'000},
       .leastBitRate = 8'000,
       .mostBitRate = 510'000,
       .usualBitRates = {64'000, 128'000, 160'000}},
      {.codec = SoundCodec::Mp3, // ISO/IEC 11172-3: layer III has one or two channels, at 32 to 320 kb/s
       .word = "mp3",
       .name = "MP3",
       .encoder = "libmp3lame",
       .found = "mp3",
       .containers = {Mp4, Mov, Mkv},
       .alone = Mp3,
       .channels = {2, 1},
       .sampleRates = kRates,
       .leastBitRate = 32'000,
       .mostBitRate = 320'000,
       .usualBitRates = {128'000, 192'000, 256'000}},
      {SoundCodec::Flac, "flac", "FLAC", "flac", "flac", {Mkv, Mp4}, Flac, kAll, kRates},
      {SoundCodec::Pcm16, "pcm16", "PCM, 16 bit", "pcm_s16le", "pcm_s16le", {Mov, Mkv}, Wav, kAll, kRates},
      {SoundCodec::Pcm24, "pcm24", "PCM, 24 bit", "pcm_s24le", "pcm_s24le", {Mov, Mkv}, Wav, kAll, kRates},
  };
  return table;
}

const std::vector<ContainerInfo>& containers() {
  static const std::vector<ContainerInfo> table{
      {Container::Mp4, "mp4", "MP4", "mp4", true},
      {Container::Mov, "mov", "MOV", "mov", true},
      {Container::Mkv, "mkv", "Matroska", "matroska"},
      {Container::Webm, "webm", "WebM", "webm"},
      {.container = Container::Gif,
       .word = "gif",
       .name = "GIF",
       .muxer = "gif",
       .sound = false,
       .chapters = false,
       .ticks = 100},
      {.container = Container::Webp,
       .word = "webp",
       .name = "WebP",
       .muxer = "webp",
       .sound = false,
       .chapters = false,
       .ticks = 1000},
      {.container = Container::M4a, .word = "m4a", .name = "M4A", .muxer = "mp4", .boxes = true, .picture = false},
      {.container = Container::Mp3, .word = "mp3", .name = "MP3", .muxer = "mp3", .picture = false},
      {.container = Container::Wav, .word = "wav", .name = "WAV", .muxer = "wav", .picture = false, .chapters = false},
      {.container = Container::Flac,
       .word = "flac",
       .name = "FLAC",
       .muxer = "flac",
       .picture = false,
       .chapters = false},
      {.container = Container::Ogg, .word = "opus", .name = "Ogg", .muxer = "opus", .picture = false},
  };
  return table;
}

const Profile* PictureCodec::profile(std::string_view wanted) const {
  return byWord(profiles, wanted);
}

const Profile* PictureCodec::profileFor(const Samples& s) const {
  const auto at = std::find_if(profiles.begin(), profiles.end(), [&](const Profile& p) { return holds(p.samples, s); });
  return at == profiles.end() ? nullptr : &*at;
}

bool PictureCodec::takes(const Samples& s) const {
  return holds(samples, s);
}

bool PictureCodec::takes(RateControl control) const {
  return holds(rateControls, control);
}

bool PictureCodec::takes(Container container) const {
  return holds(containers, container);
}

const Message& PictureCodec::playedBy(const Samples& s, int level) const {
  return std::find_if(players.begin(), players.end() - 1,
                      [&](const Players& p) {
                        return (!p.samples || *p.samples == s) && (p.mostLevel == 0 || level <= p.mostLevel);
                      })
      ->who;
}

CanvasFormat PictureCodec::fitting(CanvasFormat format) const {
  if (!takes(Samples{format.depth, format.chroma})) {
    format.depth = samples.front().depth;
    format.chroma = samples.front().chroma;
  }
  if (isHdr(format.colour) && !hdr) format.colour = kRec709;
  return format;
}

const char* rateControlWord(RateControl control) {
  constexpr const char* kWords[] = {"crf", "vbr", "cbr", "settled"};
  return kWords[size_t(control)];
}

bool rateControlByWord(std::string_view word, RateControl& control) {
  for (const RateControl c :
       {RateControl::ConstantQuality, RateControl::Variable, RateControl::Constant, RateControl::Settled})
    if (word == rateControlWord(c)) {
      control = c;
      return true;
    }
  return false;
}

} // namespace tromb
