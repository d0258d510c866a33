// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/NewDeliverable.h"

#include "destination/Destination.h"
#include "geometry/LegalSize.h"
#include "geometry/WaysToFill.h"
#include "project/Choices.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace tromb {
namespace {

constexpr double kSameRate = 0.0004; ///< of the rate itself

/// The rate that footage is delivered at: its own; of a variable one, whose mean is no rate to deliver at, the usual
/// one nearest to it.
FrameRate deliveryRate(const FrameClock& clock) {
  const auto apart = [&](const FrameRate& each) {
    return std::abs(std::log(each.toDouble() / clock.rate().toDouble()));
  };
  // If the file's rate is nearly a named one, the named one is meant.
  for (const FrameRate& named : FrameRate::named())
    if (apart(named) < kSameRate) return named;
  if (!clock.variable()) return clock.rate();
  const auto& usual = FrameRate::offered();
  return *std::min_element(usual.begin(), usual.end(),
                           [&](const FrameRate& a, const FrameRate& b) { return apart(a) < apart(b); });
}

constexpr int kLeastOffered = 240; ///< pixels a side; nothing smaller is worth offering

} // namespace

FrameRate matchedRate(const std::string& destinationId, const FrameRate& shot) {
  const auto to = destination(destinationId);
  if (!to || to->takes(shot)) return shot;
  const FrameRate half(shot.value() / Rational(2)); // halved evenly
  if (to->takes(half)) return half;
  if (to->rates.empty()) return to->mostRate;
  const auto apart = [&shot](const FrameRate& each) { return std::abs(std::log(each.toDouble() / shot.toDouble())); };
  return *std::min_element(to->rates.begin(), to->rates.end(),
                           [&](const FrameRate& a, const FrameRate& b) { return apart(a) < apart(b); });
}

void recommend(Deliverable& deliverable, const Destination& to) {
  Encoding& e = deliverable.encoding;
  const auto among = [](const auto& list, const auto& value) {
    return std::find(list.begin(), list.end(), value) != list.end();
  };
  deliverable.destination = to.id;
  chooseCanvas(deliverable, to.canvas());
  if (!among(to.codecs, e.codec)) chooseCodec(deliverable, to.codecs.front());
  if (!to.containers.empty() && !among(to.containers, *resolvedEncoding(deliverable).container)) {
    for (const Container each : to.containers)
      if (e.info().takes(each)) {
        chooseContainer(deliverable, each);
        break;
      }
  }
  if (!to.colours.empty() && !among(to.colours, deliverable.format.colour))
    chooseColour(deliverable, to.colours.front());
  if (to.colours.empty() && isHdr(deliverable.format.colour)) chooseColour(deliverable, kRec709);
  chooseBitRate(deliverable, 0);
  if (const auto band = to.band(deliverable.canvas, deliverable.rate, e.codec);
      band && resolvedEncoding(deliverable).byBitRate())
    chooseBitRate(deliverable, band->usual);
  e.sound.bitRate = 0;
  if (!to.sound) return makeEncodable(deliverable);
  if (e.sound.codec && !among(to.sound->codecs, *e.sound.codec)) e.sound.codec.reset();
  if (!among(to.sound->channels, e.sound.channels)) chooseChannels(deliverable, to.sound->channels.front());
  if (!among(to.sound->sampleRates, e.sound.sampleRate)) e.sound.sampleRate = to.sound->sampleRates.front();
  if (!infoOf(*resolvedEncoding(deliverable).sound.codec).lossless()) e.sound.bitRate = to.sound->bitRate;
  makeEncodable(deliverable);
}

namespace {

/// Lays the encoding that somebody starts with, where it can be made and the destination, if there is one, takes it.
void layUsual(Deliverable& d, const Habits& habits, const Destination* to) {
  if (!habits.encoding || !fits(*habits.encoding, d)) return;
  Deliverable laid = d;
  lay(*habits.encoding, laid);
  if (!to) {
    d = std::move(laid);
    return;
  }
  // It is taken where the destination would recommend nothing else of it than other bit rates.
  Deliverable wanted = laid;
  recommend(wanted, *to);
  wanted.encoding.bitRate = laid.encoding.bitRate;
  wanted.encoding.maxBitRate = laid.encoding.maxBitRate;
  wanted.encoding.bufferBits = laid.encoding.bufferBits;
  wanted.encoding.sound.bitRate = laid.encoding.sound.bitRate;
  const Encoding e = resolvedEncoding(laid);
  const auto band = to->band(laid.canvas, laid.rate, e.codec);
  const bool inBand = !band || !e.byBitRate() || (e.bitRate >= band->least && e.bitRate <= band->most);
  if (inBand && wanted.encoding == laid.encoding && wanted.format == laid.format) d = std::move(laid);
}

} // namespace

Deliverable newDeliverable(const Project& project, const std::string& destinationId, const MediaInfo* first,
                           const Habits& habits) {
  Deliverable d;
  d.id = freshId(project.deliverables, "d");
  d.rate = habits.rate;
  d.encoding.sound.sampleRate = habits.sampleRate;
  if (first && first->video) {
    const SizeF picture = first->video->shape().uprightWithBars();
    d.canvas = {legalNeighbours(int(picture.width)).first, legalNeighbours(int(picture.height)).first};
    d.rate = deliveryRate(first->video->clock);
  }
  d.name = std::to_string(d.canvas.width) + "×" + std::to_string(d.canvas.height);
  if (const auto to = destination(destinationId)) {
    d.name = to->name;
    d.rate = matchedRate(destinationId, d.rate); // its bit rate depends on it
    recommend(d, *to);
    layUsual(d, habits, to.get());
  } else {
    layUsual(d, habits, nullptr);
  }
  d.name = freeDeliverableName(project, d.name);
  return d;
}

std::vector<FrameRate> offeredRates(RateFamily first) {
  static const std::array<std::array<FrameRate, 2>, 4> kFamilies{
      {{FrameRate(Rational(25)), FrameRate(Rational(50))},
       {FrameRate(Rational(30000, 1001)), FrameRate(Rational(60000, 1001))},
       {FrameRate(Rational(24)), FrameRate(Rational(24000, 1001))},
       {FrameRate(Rational(30)), FrameRate(Rational(60))}}};
  const auto& family = kFamilies[size_t(first)];
  std::vector<FrameRate> rates(family.begin(), family.end());
  for (const FrameRate& each : FrameRate::offered())
    if (std::find(family.begin(), family.end(), each) == family.end()) rates.push_back(each);
  return rates;
}

Project projectOf(const ProjectTemplate& from, const Habits& habits) {
  Project project;
  for (const std::string& id : from.destinations)
    project.deliverables.push_back(newDeliverable(project, id, nullptr, habits));
  return project;
}

Offer offerOf(const Project& project, const std::string& destinationId, const MediaInfo* first,
              const std::vector<PictureShape>& shapes, const Habits& habits) {
  Offer made{{newDeliverable(project, destinationId, first, habits)}, {}, 0};
  if (shapes.empty()) return made;
  const Deliverable usual = made.sizes.front();
  const auto filling = [](const PictureShape& shape, Size canvas) {
    return detail(shape, place(shape, canvas, Framing{}));
  };
  const PictureShape& sharpest =
      *std::max_element(shapes.begin(), shapes.end(), [&](const PictureShape& a, const PictureShape& b) {
        return filling(a, usual.canvas) < filling(b, usual.canvas);
      });
  const double soft = filling(sharpest, usual.canvas);
  made.details.push_back(soft);
  if (soft >= kSharpDetail) return made;
  for (const WayToFill& way : waysToFill(sharpest, usual.canvas, {}, {}, 0, 0))
    if (way.kind == WayToFill::Kind::Stack2 && way.detail > soft) made.stacked = way.detail;
  Deliverable sharp = usual;
  chooseCanvas(sharp, largestSharpCanvas(sharpest, usual.canvas.ratio()));
  if (std::min(sharp.canvas.width, sharp.canvas.height) < kLeastOffered) return made;
  made.details.push_back(filling(sharpest, sharp.canvas));
  made.sizes.push_back(std::move(sharp));
  return made;
}

std::vector<Offer> offersFor(const Project& project, const MediaInfo& media, const Bars& bars, const Habits& habits,
                             const Message::Translate& translate) {
  Project ahead = project; // so that ids and names differ
  const std::vector<PictureShape> shapes{media.video->shape(bars)};
  std::vector<Offer> offers;
  const auto take = [&](Offer offer, const Message& called) {
    const std::string name = freeDeliverableName(ahead, called.text(translate));
    for (Deliverable& d : offer.sizes) d.name = name;
    ahead.deliverables.push_back(offer.sizes.front());
    offers.push_back(std::move(offer));
  };
  Offer own = offerOf(ahead, {}, &media, shapes, habits);
  const Size canvas = own.sizes.front().canvas;
  take(std::move(own), canvas.width >= canvas.height ? say("Wide") : say("As shot"));
  const std::pair<const char*, Message> companions[] = {
      {"vertical-story", say("Vertical")}, {"tall-feed-post", say("Tall")}, {"square-feed-post", say("Square")}};
  for (const auto& [destinationId, name] : companions) {
    Offer offer = offerOf(ahead, destinationId, &media, shapes, habits);
    if (offer.details.back() >= kSharpDetail) take(std::move(offer), name); // else the footage is too small for it
  }
  return offers;
}

} // namespace tromb
