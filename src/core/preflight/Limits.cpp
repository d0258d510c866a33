// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Limits.h"

#include "Printed.h"
#include "copy/ShotCopy.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "preflight/Preflight.h"
#include "project/Choices.h"
#include "project/Timing.h"
#include "time/Timecode.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kNearBytes = 0.9; ///< share of the most that is near it
constexpr double kNearBand = 1.1;  ///< this near to the least or the most of a band
constexpr double kShape = 0.01;    ///< ratios nearer than this are the same shape

/// With one decimal at most.
std::string number(double value) {
  return printed("%g", std::round(value * 10) / 10);
}

/// "MP4, MOV": the names of some rows.
template <typename List> std::string names(const List& list) {
  std::string all;
  for (const auto each : list) all += (all.empty() ? "" : ", ") + std::string(infoOf(each).name);
  return all;
}

template <typename List, typename Value> bool among(const List& list, const Value& value) {
  return std::find(list.begin(), list.end(), value) != list.end();
}

/// Collects the lines of one deliverable's destination.
class LimitsOf {
public:
  LimitsOf(const Project& project, const Footage& footage, const Deliverable& d, const Destination& to,
           const SpecGrounds& grounds)
      : m_project(project), m_footage(footage), m_length(durationIn(project, footage, d)), m_d(d),
        m_e(resolvedEncoding(d)), m_to(to), m_grounds(grounds) {}

  std::vector<SpecLine> lines() {
    if (m_e.hasPicture()) {
      canvas();
      rate();
    }
    length();
    bytes();
    if (m_e.hasPicture()) {
      codec();
      colour();
      bitRate();
    }
    sound();
    loudness();
    return std::move(m_lines);
  }

private:
  void add(const char* code, const char* key, Standing standing, Message what, Message value,
           std::vector<Fix> fixes = {}, Message reason = {}) {
    const auto because = m_to.because.find(key);
    if (reason.empty() && because != m_to.because.end() && !because->second.why.empty())
      reason = verbatim(because->second.why);
    if (standing == Standing::Met) fixes.clear();
    // What is only guessed, and what is merely usual, weighs less than what is asked for.
    const Sureness sure = because != m_to.because.end() ? because->second.sure : Sureness::Practice;
    const Severity weight = sure == Sureness::Guess      ? Severity::Note
                            : sure == Sureness::Practice ? Severity::Warning
                                                         : Severity::Error;
    m_lines.push_back({code, SpecTopic::Destination, standing, std::move(what), std::move(value), std::move(reason),
                       std::move(fixes), weight});
  }

  void canvas() {
    const auto nearest = std::find_if(m_to.canvases.begin(), m_to.canvases.end(), [this](Size each) {
      return std::abs(each.ratio() / m_d.canvas.ratio() - 1) < kShape;
    });
    const Size usual = nearest == m_to.canvases.end() ? m_to.canvas() : *nearest;
    const bool takes = m_to.takes(m_d.canvas);
    add("limit-canvas", "canvases", takes ? Standing::Met : Standing::Broken, say("Canvas"),
        takes                            ? verbatim(sizeText(m_d.canvas))
        : nearest == m_to.canvases.end() ? say("another shape than %1", sizeText(usual))
                                         : say("%1 is not %2", sizeText(m_d.canvas), sizeText(usual)),
        {{say("Use %1", sizeText(usual)), [usual](Deliverable& each) { chooseCanvas(each, usual); }}});
  }

  void rate() {
    const bool takes = m_to.takes(m_d.rate);
    const FrameRate other = m_to.rates.empty() ? matchedRate(m_to.id, m_d.rate) : m_to.rates.front();
    Message limit = say("up to %1", m_to.mostRate.name());
    if (!m_to.rates.empty()) {
      std::string all;
      for (const FrameRate& each : m_to.rates) all += (all.empty() ? "" : ", ") + each.name();
      limit = verbatim(all);
    }
    add("limit-rate", "rates", takes ? Standing::Met : Standing::Broken, say("Rate"),
        say("%1 of %2", m_d.rate.name(), limit),
        {{say("Deliver at %1", other.name()), [other](Deliverable& each) { each.rate = other; }}});
  }

  void length() {
    const Rational& is = m_length;
    if (m_project.shots.empty() || (m_to.leastSeconds <= Rational(0) && m_to.mostSeconds <= Rational(0))) return;
    const bool tooLong = m_to.mostSeconds > Rational(0) && is > m_to.mostSeconds;
    const bool tooShort = is < m_to.leastSeconds;
    add("limit-length", "length", tooLong || tooShort ? Standing::Broken : Standing::Met, say("Length"),
        tooLong                          ? say("%1 is longer than %2", clockText(is), clockText(m_to.mostSeconds))
        : tooShort                       ? say("%1 is shorter than %2", clockText(is), clockText(m_to.leastSeconds))
        : m_to.mostSeconds > Rational(0) ? say("%1 of %2", clockText(is), clockText(m_to.mostSeconds))
                                         : say("%1, at least %2", clockText(is), clockText(m_to.leastSeconds)));
  }

  void bytes() {
    if (m_to.mostBytes <= 0) return;
    const auto measured = m_grounds.measured(m_d);
    const auto ahead = m_project.shots.empty() ? std::nullopt
                       : measured              ? measured
                                               : expectedBytes(m_project, m_footage, m_d, m_length);
    if (!ahead) {
      add("limit-bytes", "bytes", Standing::Told, say("File"), say("at most %1", bytesText(m_to.mostBytes)));
      return;
    }
    const Standing standing = *ahead > m_to.mostBytes                                ? Standing::Broken
                              : double(*ahead) > kNearBytes * double(m_to.mostBytes) ? Standing::Near
                                                                                     : Standing::Met;
    std::vector<Fix> fixes;
    const auto fit = [most = m_to.mostBytes, length = m_length](Deliverable& each) {
      (void)chooseFileBytes(each, most, length, true); // as it is where that cannot be
    };
    Deliverable fitting = m_d;
    if (chooseFileBytes(fitting, m_to.mostBytes, m_length, true))
      fixes.push_back({say("Use %1", bitRateText(fitting.encoding.bitRate)), fit});
    add("limit-bytes", "bytes", standing, say("File"), say("%1 of %2", bytesText(*ahead), bytesText(m_to.mostBytes)),
        standing == Standing::Broken ? std::move(fixes) : std::vector<Fix>());
  }

  void codec() {
    const bool takes = among(m_to.codecs, m_e.codec);
    const Codec other = m_to.codecs.front();
    add("limit-codec", "codecs", takes ? Standing::Met : Standing::Broken, say("Codec"),
        takes ? verbatim(std::string(m_e.info().name)) : say("%1 is not %2", m_e.info().name, names(m_to.codecs)),
        {{say("Use %1", infoOf(other).name), [other](Deliverable& each) { chooseCodec(each, other); }}});
    if (m_to.containers.empty()) return;
    const bool held = among(m_to.containers, *m_e.container);
    const auto fits = std::find_if(m_to.containers.begin(), m_to.containers.end(),
                                   [this](Container c) { return m_e.info().takes(c); });
    std::vector<Fix> fixes;
    if (fits != m_to.containers.end())
      fixes.push_back(
          {say("Use %1", infoOf(*fits).name), [c = *fits](Deliverable& each) { chooseContainer(each, c); }});
    add("limit-container", "containers", held ? Standing::Met : Standing::Broken, say("Container"),
        held ? verbatim(std::string(infoOf(*m_e.container).name))
             : say("%1 is not %2", infoOf(*m_e.container).name, names(m_to.containers)),
        std::move(fixes));
  }

  void colour() {
    const std::vector<ColourTags> colours = m_to.colours.empty() ? std::vector<ColourTags>{kRec709} : m_to.colours;
    // A codec of full-range RGB shows what Rec. 709 does.
    const bool takes = among(colours, m_d.format.colour) || (m_to.colours.empty() && !isHdr(m_d.format.colour));
    const ColourTags other = colours.front();
    const auto name = [](const ColourTags& tags) {
      const char* word = colourWord(tags);
      const std::string_view said = word ? word : "";
      return said == "hlg" ? say("HLG") : said == "pq" ? say("PQ") : say("Rec. 709");
    };
    Fix fix{say("Use %1", name(other)), [other](Deliverable& each) { chooseColour(each, other); }};
    const bool deep = m_d.format.depth >= m_to.depth;
    if (!m_to.colours.empty() || !takes)
      add("limit-colour", "colours", takes && deep ? Standing::Met : Standing::Broken, say("Colour"),
          !takes  ? say("%1 is not %2", name(m_d.format.colour), name(other))
          : !deep ? say("%1 bits of %2", m_d.format.depth, m_to.depth)
                  : name(m_d.format.colour),
          {std::move(fix)}, m_to.colours.empty() ? say("Screens there show Rec. 709") : Message());
  }

  void bitRate() {
    const auto band = m_to.band(m_d.canvas, m_d.rate, m_e.codec);
    if (!band || !m_e.byBitRate()) return;
    const auto is = double(m_e.bitRate);
    const auto least = double(band->least);
    const auto most = double(band->most);
    const int64_t usual = band->usual;
    const Standing standing = is < least || is > most                           ? Standing::Broken
                              : is < least * kNearBand || is > most / kNearBand ? Standing::Near
                                                                                : Standing::Met;
    add("limit-bit-rate", "bitRates", standing, say("Bit rate"),
        say("%1 of %2 to %3", bitRateText(m_e.bitRate), bitRateText(band->least), bitRateText(band->most)),
        {{say("Use %1", bitRateText(usual)), [usual](Deliverable& each) { chooseBitRate(each, usual); }}});
  }

  void sound() {
    const SoundEncoding& s = m_e.sound;
    if (s.place == SoundPlace::None || !m_to.sound) {
      if (m_to.sound && m_to.sound->needed)
        add("limit-sound", "sound", Standing::Broken, say("Sound"), say("none, and there must be some"),
            {{say("With the picture"), [](Deliverable& each) { chooseSoundPlace(each, SoundPlace::Within); }}});
      return;
    }
    const TakenSound& limits = *m_to.sound;
    const bool codec = among(limits.codecs, *s.codec);
    const bool channels = among(limits.channels, s.channels);
    const bool sampleRate = among(limits.sampleRates, s.sampleRate);
    // By value: the destination may be another by the time the button is pressed.
    const auto usual = [limits, container = *m_e.container](Deliverable& each) {
      SoundEncoding& mended = each.encoding.sound;
      const auto goes = [&](SoundCodec c) { return among(infoOf(c).containers, container); };
      const auto fits = std::find_if(limits.codecs.begin(), limits.codecs.end(), goes);
      if (fits != limits.codecs.end() && !among(limits.codecs, *resolvedEncoding(each).sound.codec))
        chooseSoundCodec(each, *fits);
      if (!among(limits.channels, mended.channels)) chooseChannels(each, limits.channels.front());
      if (!among(limits.sampleRates, mended.sampleRate)) mended.sampleRate = limits.sampleRates.front();
      makeEncodable(each);
    };
    const Message is = say("%1, %2 channels, %3 kHz", infoOf(*s.codec).name, s.channels, number(s.sampleRate / 1000.0));
    add("limit-sound", "sound", codec && channels && sampleRate ? Standing::Met : Standing::Broken, say("Sound"),
        !codec        ? say("%1 is not %2", infoOf(*s.codec).name, names(limits.codecs))
        : !channels   ? say("%1 channels are not taken", s.channels)
        : !sampleRate ? say("%1 kHz is not taken", number(s.sampleRate / 1000.0))
                      : is,
        {{say("Use what it takes"), usual}});
  }

  void loudness() {
    if (!m_to.loudness || m_e.sound.place == SoundPlace::None) return;
    const auto target = m_d.loudness ? m_d.loudness->lufs : m_project.output.loudnessLufs;
    const double wanted = m_to.loudness->lufs;
    const bool met = target && std::abs(*target - wanted) <= m_to.loudness->within;
    const Message value = !target ? say("as it is mixed; %1 LUFS are wanted", number(wanted))
                          : met   ? say("%1 LUFS", number(*target))
                                  : say("%1 LUFS; %2 are wanted", number(*target), number(wanted));
    add("limit-loudness", "loudness",
        met      ? Standing::Met
        : target ? Standing::Broken
                 : Standing::Near,
        say("Loudness"), value, {{say("Mix to %1 LUFS", number(wanted)), [wanted](Deliverable& each) {
                                    each.loudness = OwnLoudness{wanted};
                                  }}});
  }

  const Project& m_project;
  const Footage& m_footage;
  Rational m_length; ///< seconds
  const Deliverable& m_d;
  const Encoding m_e;
  const Destination& m_to;
  const SpecGrounds& m_grounds;
  std::vector<SpecLine> m_lines;
};

} // namespace

std::vector<SpecLine> limitLines(const Project& project, const Footage& footage, const Deliverable& d,
                                 const SpecGrounds& grounds) {
  const auto to = destination(d.destination);
  if (!to) return {};
  return LimitsOf(project, footage, d, *to, grounds).lines();
}

} // namespace tromb
