// SPDX-License-Identifier: GPL-3.0-or-later
#include "Printed.h"
#include "preflight/Checking.h"
#include "time/Timecode.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kSilentTenths = -700; ///< −70 dB of full scale: as the gate of ITU-R BS.1770, taken of peaks
constexpr int kSeldomClipped = 3; ///< tenths of a second in which so few peaks touch full scale are let be (house rule)
constexpr double kLoudStep = 0.1; ///< dB, to which a level is lowered

/// What a stretch of a source sounds like.
struct Stretch {
  int peak = SoundTenth::kSilentTenth; ///< tenths of a dB
  int clipped = 0;                     ///< tenths of a second
  int length = 0;                      ///< likewise
};

/// Nothing where it was not measured, or of other sound of its file than is heard.
Stretch stretchOf(const Checking& c, const Source& source, const Rational& in, const Rational& out) {
  Stretch found;
  const MediaInfo* media = c.media(source.id);
  const Measured* known = c.measured(source.id);
  if (!media || !known) return found;
  if (readingOf(source, *media).heard != (known->heard.empty() ? readAsStated(*media).heard : known->heard))
    return found;
  const auto first = size_t(std::max(0.0, std::ceil(in.toDouble() * kTenthsASecond - 0.01)));
  const auto last = size_t(std::max(0.0, std::floor(out.toDouble() * kTenthsASecond + 0.01)));
  for (size_t i = first; i < std::min(last, known->tenths.size()); ++i) {
    found.peak = std::max<int>(found.peak, known->tenths[i].peak);
    found.clipped += known->tenths[i].clipped;
    ++found.length;
  }
  return found;
}

/// In whole tenths of a second, "1.2".
std::string secondsText(int tenths) {
  return printed("%.1f", double(tenths) / kTenthsASecond);
}

/// `loud`: some file is made in which nothing turns the sound down.
/// Of a shot, or of a sound bed.
void checkStretch(Checking& c, const Shot* shot, const SoundBed* bed, const Source& source, const Stretch& is,
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
    find("clipped", say("its sound stands at full scale for %1 s: it was recorded too loud", secondsText(is.clipped)),
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
    if (shot.speed != Rational(1)) {
      c.find("silent-speed", nullptr, &shot, say("shots with a changed speed have no sound"));
      continue;
    }
    checkStretch(c, &shot, nullptr, source, stretchOf(c, source, shot.in, shot.out), shot.levelDb, loud);
  }
  for (const SoundBed& bed : c.project.beds) {
    const Source& source = *c.source(bed.source);
    checkStretch(c, nullptr, &bed, source, stretchOf(c, source, bed.in, bed.out), bed.levelDb, loud);
  }
}

} // namespace tromb
