// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Filling.h"

#include "destination/Destination.h"
#include "preflight/Preflight.h"
#include "project/Sharing.h"

#include <algorithm>
#include <cmath>

namespace tromb {

FillGrounds fillGrounds(const Deliverable& deliverable, const Shot& shot, std::vector<SeenBox> matters) {
  FillGrounds grounds{std::move(matters), {}, shot.time().speeds().most.toDouble()};
  if (const auto to = destination(deliverable.destination))
    for (const CoveredPart& each : to->covered) grounds.covered.push_back(each.part);
  return grounds;
}

std::vector<FillProposal> fillProposals(const Project& project, const Shot& shot, const MediaInfo& media,
                                        const std::vector<SeenBox>& matters) {
  std::vector<FillProposal> all;
  const double in = shot.in.toDouble();
  const double out = shot.out.toDouble();
  for (const Deliverable& d : project.deliverables) {
    if (!framesItself(d) || !d.encoding.hasPicture()) continue;
    const PictureShape shape = shapeIn(d, *project.source(shot.source), *media.video);
    const Framing now = framingIn(d, shot, shape);
    const Shortfall least = worst(shape, d.canvas, now, shot.subjects, in, out);
    if (least.detail >= kSharpDetail && least.uncoveredPercent <= 0) continue;
    auto ways = waysToFill(shape, d.canvas, now, shot.subjects, in, out, fillGrounds(d, shot, matters));
    if (!ways.empty() && !ways.front().isNow) all.push_back({d.name, std::move(ways)});
  }
  return all;
}

Message wayName(const WayToFill& way) {
  using Kind = WayToFill::Kind;
  switch (way.kind) {
  case Kind::Now:
    return say("as it is");
  case Kind::Fill:
    return say("fill");
  case Kind::Wider:
    return say("less zoom");
  case Kind::Stack2:
    return say("two stacked");
  case Kind::Stack3:
    return say("three stacked");
  case Kind::Side2:
    return say("two beside");
  case Kind::Side3:
    return say("three beside");
  case Kind::Backdrop:
    return say("backdrop");
  case Kind::Canvas:
    break;
  }
  return verbatim(sizeText(way.canvas));
}

std::vector<Message> lossWords(const FillLoss& loss) {
  constexpr double kHardly = 0.03; // of a doubling of size
  using Of = FillLoss::Of;
  const auto percent = [](double share) { return std::to_string(std::lround(100 * share)); };
  const auto words = [&](Of of) {
    switch (of) {
    case Of::Enlarged:
      return say("enlarged %1×", decimals(loss.enlarged, loss.enlarged < 1.1 ? 2 : 1));
    case Of::Shrunk:
      return say("%1 % of the pixels", percent(1 / (loss.shrunk * loss.shrunk)));
    case Of::Cut:
      return say("subject cut by %1 %", percent(loss.cut));
    case Of::Hidden:
      return say("%1 % under buttons", percent(loss.hidden));
    case Of::Fast:
      return say("%1 s a width", decimals(kSecondsAWidth / loss.fast, 1));
    case Of::Unseen:
      return say("%1 % unseen", percent(loss.unseen));
    case Of::Twice:
      return say("%1 % shown twice", percent(loss.twice));
    case Of::Bars:
      return say("%1 % bars", percent(loss.bars));
    case Of::Ground:
      return say("%1 % backdrop", percent(loss.ground));
    case Of::Parts:
      break;
    }
    return say("in %1 parts", loss.parts);
  };
  auto weights = loss.weights();
  std::stable_sort(weights.begin(), weights.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
  std::vector<Message> all;
  for (const auto& [of, weight] : weights)
    if (weight > kHardly) all.push_back(words(of));
  if (all.empty()) all.push_back(say("nothing"));
  return all;
}

} // namespace tromb
