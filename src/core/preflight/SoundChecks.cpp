// SPDX-License-Identifier: GPL-3.0-or-later
#include "Printed.h"
#include "preflight/Checking.h"
#include "render/Ducking.h"
#include "time/Timecode.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kSilentTenths = -700; ///< −70 dB of full scale: as the gate of ITU-R BS.1770, taken of peaks
constexpr int kSeldomClipped = 3; ///< tenths of a second in which so few peaks touch full scale are let be (house rule)
constexpr double kLoudStep = 0.1; ///< dB, to which a level is lowered
constexpr double kLoudSum = 0.05; ///< dB over full scale that peaks of several sounds may reach together

/// What a stretch of a source sounds like.
struct HeardStretch {
  int peak = SoundTenth::kSilentTenth; ///< tenths of a dB
  int clipped = 0;                     ///< tenths of a second
  int length = 0;                      ///< likewise
};

/// What was measured of the sound that is heard of a source; null where it was not, or of other sound of its file.
const Measured* heardOf(const Checking& c, const Source& source) {
  const MediaInfo* media = c.media(source.id);
  const Measured* known = c.measured(source.id);
  if (!media || !known) return nullptr;
  return readingOf(source, *media).heard == (known->heard.empty() ? readAsStated(*media).heard : known->heard)
             ? known
             : nullptr;
}

HeardStretch stretchOf(const Checking& c, const Source& source, const Rational& in, const Rational& out) {
  HeardStretch found;
  const Measured* known = heardOf(c, source);
  if (!known) return found;
  const auto first = size_t(std::max(0.0, std::ceil(in.toDouble() * kTenthsASecond - 0.01)));
  const auto last = size_t(std::max(0.0, std::floor(out.toDouble() * kTenthsASecond + 0.01)));
  for (size_t i = first; i < std::min(last, known->tenths.size()); ++i) {
    found.peak = std::max<int>(found.peak, known->tenths[i].peak);
    found.clipped += known->tenths[i].clipped;
    ++found.length;
  }
  return found;
}

double linear(double db) {
  return std::pow(10, db / 20);
}

/// Highest samples in tenths of a second of the running order, 1 being full scale.
class Peaks {
public:
  explicit Peaks(const Rational& length) : m_peaks(size_t(length.toDouble() * kTenthsASecond) + 1) {}

  /// A stretch of a source that is heard from some moment on. Tenths that lie across two count for both.
  void add(const Measured& sound, const Rational& start, const Rational& in, const Rational& out, double levelDb) {
    const double gain = linear(levelDb);
    const double first = in.toDouble() * kTenthsASecond;
    const auto last = std::min(size_t(std::ceil(out.toDouble() * kTenthsASecond)), sound.tenths.size());
    for (auto i = size_t(first); i < last; ++i) {
      const double at = std::max(0.0, start.toDouble() * kTenthsASecond + double(i) - first);
      const double peak = gain * linear(sound.tenths[i].peak / 10.0);
      for (const double place : {std::floor(at), std::ceil(at)})
        if (place < double(m_peaks.size())) m_peaks[size_t(place)] = std::max(m_peaks[size_t(place)], peak);
    }
  }
  void add(const Peaks& others) {
    for (size_t i = 0; i < m_peaks.size(); ++i) m_peaks[i] += others.m_peaks[i];
  }
  [[nodiscard]] size_t length() const { return m_peaks.size(); }
  [[nodiscard]] double at(size_t tenth) const { return m_peaks[tenth]; }

private:
  std::vector<double> m_peaks;
};

/// Sounds of which none is too loud may be so together. Their peaks need not meet within a tenth of a second, so that
/// it may clip, and is not bound to.
void checkSum(Checking& c) {
  const Project& project = c.project;
  if (project.beds.empty()) return;
  const std::vector<Rational> starts = project.shotStarts();
  Peaks all(starts.back());
  for (size_t i = 0; i < project.shots.size(); ++i) {
    const Shot& shot = project.shots[i];
    const Measured* sound = shot.muted || !shot.pace.asShot() ? nullptr : heardOf(c, *c.source(shot.source));
    if (sound) all.add(*sound, starts[i], shot.in, shot.out, shot.levelDb);
  }
  std::vector<Peaks> beds(project.beds.size(), Peaks(starts.back()));
  for (size_t i = 0; i < beds.size(); ++i) {
    const SoundBed& bed = project.beds[i];
    const double down = bed.duck ? Ducking::kDownDb : 0;
    if (const Measured* sound = heardOf(c, *c.source(bed.source)))
      beds[i].add(*sound, bed.start, bed.in, bed.out, bed.levelDb - down);
    all.add(beds[i]);
  }
  for (size_t i = 0; i < beds.size(); ++i) {
    size_t worst = 0;
    double most = 0;
    double gain = 1; // at which nothing passes full scale
    for (size_t tenth = 0; tenth < all.length(); ++tenth) {
      const double own = beds[i].at(tenth);
      const double rest = all.at(tenth) - own;
      if (own <= 0 || own > 1 || rest <= 0 || rest > 1) continue; // one of them is too loud by itself
      gain = std::min(gain, (1 - rest) / own);
      if (all.at(tenth) > most) {
        most = all.at(tenth);
        worst = tenth;
      }
    }
    if (most <= linear(kLoudSum)) continue;
    const SoundBed& bed = project.beds[i];
    const auto after = std::upper_bound(starts.begin(), starts.end(), Rational(int64_t(worst), kTenthsASecond));
    const size_t shot = std::min(size_t(std::max<std::ptrdiff_t>(after - starts.begin(), 1)), project.shots.size()) - 1;
    Finding& f = c.find("too-loud", nullptr, &project.shots[shot],
                        say("together with %1, which lies under it, it passes full scale by up to %2 dB, and may clip",
                            sourceName(*c.source(bed.source)), printed("%.1f", 20 * std::log10(most))),
                        say("Lower one of them, or mix to a loudness"));
    f.sourceId = bed.source;
    const double lower = std::floor((bed.levelDb + 20 * std::log10(gain)) / kLoudStep) * kLoudStep;
    if (!(lower >= kLeastLevelDb)) continue;
    Fix fix{say("Lower %1 to %2 dB", sourceName(*c.source(bed.source)), printed("%+.1f", lower))};
    fix.changeBeds = [lower, id = bed.id](std::vector<SoundBed>& each) {
      if (const int at = placeOf(each, id); at >= 0) each[size_t(at)].levelDb = lower;
    };
    f.fixes = {std::move(fix)};
  }
}

/// In whole tenths of a second, "1.2".
std::string lengthText(int tenths) {
  return printed("%.1f", double(tenths) / kTenthsASecond);
}

/// `loud`: some file is made in which nothing turns the sound down.
/// Of a shot, or of a sound bed.
void checkStretch(Checking& c, const Shot* shot, const SoundBed* bed, const Source& source, const HeardStretch& is,
                  double levelDb, bool loud) {
  if (is.length == 0) return;
  const auto find = [&](const char* code, Message message, Message fix) -> Finding& {
    if (!shot) message = say("%1, which lies under the running order: %2", sourceName(source), message);
    Finding& f = c.find(code, nullptr, shot, std::move(message), std::move(fix));
    f.sourceId = source.id;
    return f;
  };
  if (is.peak <= kSilentTenths) {
    find("silent", say("its sound is silent"), say("Hear the other sound of its file, if it has any, or mute it"));
    return;
  }
  if (is.clipped > kSeldomClipped)
    find("clipped", say("its sound stands at full scale for %1 s: it was recorded too loud", lengthText(is.clipped)),
         say("Use another recording; what was cut off cannot be brought back"));
  const double over = is.peak / 10.0 + levelDb;
  if (!loud || over <= 0 || levelDb <= 0) return; // what is too loud by itself is clipped, or was made so
  const double lower = std::floor((levelDb - over) / kLoudStep) * kLoudStep;
  Finding& f = find("too-loud",
                    say("with its level of %1 dB it passes full scale by %2 dB, and clips", printed("%+.1f", levelDb),
                        printed("%.1f", over)),
                    say("Lower it, or mix to a loudness"));
  Fix fix{say("Lower it to %1 dB", printed("%+.1f", lower))};
  if (shot)
    fix.changeShot = [lower](Shot& each) { each.levelDb = lower; };
  else
    fix.changeBeds = [lower, id = bed->id](std::vector<SoundBed>& beds) {
      if (const int at = placeOf(beds, id); at >= 0) beds[size_t(at)].levelDb = lower;
    };
  f.fixes = {std::move(fix)};
}

} // namespace

void checkSound(Checking& c) {
  const auto any = [&c](auto&& holds) {
    return std::any_of(c.project.deliverables.begin(), c.project.deliverables.end(),
                       [&](const Deliverable& d) { return d.encoding.sound.place != SoundPlace::None && holds(d); });
  };
  const bool heard = any([](const Deliverable&) { return true; });
  const bool loud = any([&c](const Deliverable& d) {
    return !(d.loudness ? d.loudness->lufs : c.project.output.loudnessLufs).has_value();
  });
  const bool stereo = any([](const Deliverable& d) { return d.encoding.sound.channels == kStereo; });
  const bool mono = any([](const Deliverable& d) { return d.encoding.sound.channels == kMono; });
  if (!heard) return;
  for (const Shot& shot : c.project.shots) {
    const MediaInfo* media = c.media(shot.source);
    if (!media || media->audio.empty() || shot.muted) continue;
    const Source& source = *c.source(shot.source);
    for (const int place : readingOf(source, *media).heard) {
      const AudioInfo& sound = media->audio[size_t(place)];
      if (sound.downMixDb <= 0 || (!stereo && !mono)) continue;
      c.find("down-mixed", nullptr, &shot,
             stereo ? say("%1 channels are mixed down to stereo, %2 dB lower so that nothing clips", sound.channels,
                          printed("%.1f", sound.downMixDb))
                    : say("%1 channels are mixed down to mono, lowered so that nothing clips", sound.channels));
    }
    if (shot.time().held()) continue;
    checkStretch(c, &shot, nullptr, source, stretchOf(c, source, shot.in, shot.out), shot.levelDb, loud);
  }
  for (const SoundBed& bed : c.project.beds) {
    const Source& source = *c.source(bed.source);
    checkStretch(c, nullptr, &bed, source, stretchOf(c, source, bed.in, bed.out), bed.levelDb, loud);
  }
  if (loud && !c.project.shots.empty()) checkSum(c);
}

} // namespace tromb
