// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Density.h"

#include "Printed.h"
#include "project/Choices.h"

namespace tromb {
namespace {

/// Shares of the usual bits of a codec and size (common practice, no published source).
constexpr double kBlocky = 0.4;
constexpr double kThin = 0.65;
constexpr double kMoreThanSeen = 2.5;
/// The same in steps of constant quality on a scale of 51, as that of H.264; 6 steps halve the bits (from memory).
constexpr double kBlockySteps = 9;
constexpr double kThinSteps = 5;
constexpr double kUnseenSteps = -9;
constexpr double kUsualScale = 51;

} // namespace

std::optional<Density> densityOf(const Deliverable& d, const Encoding& e) {
  if (!e.hasPicture() || *e.rateControl == RateControl::Settled) return {};
  const PictureCodec& codec = e.info();
  if (*e.rateControl == RateControl::ConstantQuality) {
    const double steps = (*e.crf - codec.quality.usual) * kUsualScale / (codec.quality.most - codec.quality.least);
    const double thin = codec.quality.rises ? -steps : steps; // above 0: fewer bits than usual
    return thin > kBlockySteps   ? Density::Blocky
           : thin > kThinSteps   ? Density::Thin
           : thin < kUnseenSteps ? Density::MoreThanSeen
                                 : Density::Good;
  }
  const double share = double(e.bitRate) / (codec.bitRateShare * double(usualBitRate(d.canvas, d.rate)));
  return share < kBlocky         ? Density::Blocky
         : share < kThin         ? Density::Thin
         : share > kMoreThanSeen ? Density::MoreThanSeen
                                 : Density::Good;
}

Message densityWords(Density density) {
  switch (density) {
  case Density::Blocky:
    return say("blocky");
  case Density::Thin:
    return say("blocky in fast motion");
  case Density::Good:
    return say("good");
  case Density::MoreThanSeen:
    return say("more than can be seen");
  }
  return {};
}

std::string bitsAPixelText(const Deliverable& d, const Encoding& e) {
  return printed("%.3f", bitsPerPixel(e.bitRate, d.canvas, d.rate));
}

Fix usualDensity(const Encoding& e) {
  if (*e.rateControl == RateControl::ConstantQuality)
    return {say("The usual quality"), [](Deliverable& each) { each.encoding.crf.reset(); }};
  return {say("The usual bit rate"), [](Deliverable& each) { chooseBitRate(each, 0); }};
}

} // namespace tromb
