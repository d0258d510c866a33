// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "destination/Destination.h"
#include "destination/PresetStore.h"
#include "media/MediaInfo.h"
#include "project/Footage.h"

#include <string>
#include <vector>

namespace tromb {

/// Rates that belong together, by where a piece is mostly shown (common practice, no published source).
enum class RateFamily {
  Fifty, ///< 25 and 50, where mains and television have 50 Hz
  Sixty, ///< 30000/1001 and 60000/1001, where they have 60 Hz
  Film,  ///< 24 and 24000/1001
  Web,   ///< 30 and 60, for screens alone
};
/// The rates that are offered by name: those of a family, its usual one first, then the others, slowest first.
[[nodiscard]] std::vector<FrameRate> offeredRates(RateFamily first);

/// What somebody's deliverables usually have where neither footage nor destination says it.
struct Habits {
  FrameRate rate;                   ///< before there is footage
  int sampleRate = 48'000;          ///< of the sound, Hz
  std::optional<Preset> encoding{}; ///< laid on those whose destination takes it
};

/// A new deliverable with everything that is not said filled in as the window does it: canvas and bit rates from
/// the destination, else the canvas of `first`; the rate of `first`, not above what the destination takes; a name
/// that no other has. `first` is the first source's facts, null when there are none.
[[nodiscard]] Deliverable newDeliverable(const Project& project, const std::string& destinationId,
                                         const MediaInfo* first, const Habits& habits = {});
/// A project that holds a template's deliverables, and no footage yet.
[[nodiscard]] Project projectOf(const ProjectTemplate& from, const Habits& habits = {});

/// Takes over what a destination recommends: its usual canvas, and of codec, container, colour, sound and bit rates
/// what it does not take as it is. Its band of bit rates is that of the codec; sound that loses nothing has no bit
/// rate. The frame rate, the loudness and the framings stay.
void recommend(Deliverable& deliverable, const Destination& to);

/// The rate that a deliverable has when it is matched to footage: the footage's own, or, where the deliverable's
/// destination does not take that, half of it, else the nearest that is taken, or the highest.
[[nodiscard]] FrameRate matchedRate(const std::string& destinationId, const FrameRate& shot);

/// One shape that a piece may be delivered in, at the sizes that make sense for the footage: the usual one of its
/// destination and, where the footage is too soft for that, the largest that stays sharp.
struct Offer {
  std::vector<Deliverable> sizes; ///< the usual one first; never empty
  std::vector<double> details;    ///< of the footage filling each; empty without footage
  double stacked = 0;             ///< Detail of two windows stacked in the usual size; 0 where that gives no more.
};

/// The offer of a destination to footage whose pictures have these shapes: what is said of its sizes holds for the
/// sharpest of them. `first` and `habits` are those of newDeliverable. No size has a side below 240 pixels but the
/// usual one.
[[nodiscard]] Offer offerOf(const Project& project, const std::string& destinationId, const MediaInfo* first,
                            const std::vector<PictureShape>& shapes, const Habits& habits = {});

/// What a piece made from this footage is usually delivered as: its own size and rate, and vertical, square and tall
/// companions. Their names are in the language of `translate`. The media must have a picture.
[[nodiscard]] std::vector<Offer> offersFor(const Project& project, const MediaInfo& media, const Bars& bars,
                                           const Habits& habits = {}, const Message::Translate& translate = {});

} // namespace tromb
