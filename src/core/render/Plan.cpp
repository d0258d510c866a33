// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/Plan.h"

#include "destination/Destination.h"
#include "geometry/LegalSize.h"
#include "project/Sharing.h"
#include "time/Timecode.h"

#include <algorithm>

namespace tromb {

std::vector<Placement> PlanPiece::placements(int64_t n, const FrameRate& rate) const {
  return place(shape, canvas, framing, shot.subjects, frames.time().sourceTime(rate.timeOf(n + skipped)).toDouble());
}

namespace {

/// A shot's picture under its picture, with its facts.
Result<PlanStill> stillOf(const Project& project, const Footage& footage, const Deliverable& deliverable,
                          const Framing& framing, const Shot& shot) {
  const Source* source = project.source(framing.still);
  const auto facts = footage.find(framing.still);
  if (!source || facts == footage.end())
    return fail(ErrorCode::Missing, say("the picture under shot '%1' is not in the project", shot.name), {},
                say("Choose another one, or another ground"));
  if (!facts->second) return tl::unexpected(facts->second.error());
  const MediaInfo& media = *facts->second;
  if (!media.video)
    return fail(ErrorCode::NotMedia, say("what lies under shot '%1' has no picture", shot.name), media.path,
                say("Choose another one, or another ground"));
  return PlanStill{readingOf(*source, media), shapeIn(deliverable, *source, *media.video)};
}

/// The picture of an element.
Result<Reading> pictureOf(const Project& project, const Footage& footage, const Element& element) {
  const Source* source = project.source(element.source);
  const auto facts = footage.find(element.source);
  const Message hint = say("Choose another picture, or remove it");
  if (!source || facts == footage.end())
    return fail(ErrorCode::Missing, say("a picture that lies over the shots is not in the project"), {}, hint);
  if (!facts->second) return tl::unexpected(facts->second.error());
  if (!facts->second->video || facts->second->kind != MediaKind::Still)
    return fail(ErrorCode::NotMedia, say("what lies over the shots is no still picture"), facts->second->path, hint);
  return readingOf(*source, *facts->second);
}

} // namespace

ElementCanvas elementCanvasOf(const Deliverable& deliverable) {
  ElementCanvas canvas;
  canvas.shown = deliverable.shownSize();
  const auto to = destination(deliverable.destination);
  if (!to) return canvas;
  const double left = std::max(kGraphicsMargin, to->safe.left);
  const double top = std::max(kGraphicsMargin, to->safe.top);
  canvas.within = {left, top, 1 - left - std::max(kGraphicsMargin, to->safe.right),
                   1 - top - std::max(kGraphicsMargin, to->safe.bottom)};
  for (const CoveredPart& each : to->covered) canvas.covered.push_back(each.part);
  return canvas;
}

double PlanElement::opacity(int64_t n, const FrameRate& rate) const {
  if (n < firstFrame || n >= firstFrame + frameCount) return 0;
  const Rational middle = (rate.timeOf(2 * (n - firstFrame) + 1)) / Rational(2);
  return opacityAt(element, middle, rate.timeOf(frameCount));
}

Result<Plan> Plan::build(const Project& project, const Footage& footage, const std::string& deliverableId) {
  const Deliverable* deliverable = project.deliverable(deliverableId);
  if (!deliverable) return fail(ErrorCode::InvalidArgument, say("there is no deliverable '%1'", deliverableId));
  if (!isLegalSize(deliverable->canvas))
    return fail(ErrorCode::InvalidArgument,
                say("the canvas of '%1' is %2×%3, which 4:2:0 video cannot have", deliverable->name,
                    deliverable->canvas.width, deliverable->canvas.height),
                {}, say("Make both sides even"));
  if (project.shots.empty())
    return fail(ErrorCode::InvalidArgument, say("the project has no shots"), {}, say("Bring in footage first"));

  Plan plan(Timing(project, footage, *deliverable));
  plan.m_deliverable = *deliverable;
  plan.m_output = project.output;
  if (deliverable->loudness) plan.m_output.loudnessLufs = deliverable->loudness->lufs;
  const EncodedPicture encoded = pictureOf(*deliverable);
  plan.m_encoding = resolved(deliverable->encoding, encoded);
  for (Status holds : {encodable(plan.m_encoding, encoded), levelCarries(plan.m_encoding, encoded)})
    if (!holds) {
      holds.error().message = say("'%1': %2", deliverable->name, holds.error().message);
      return tl::unexpected(holds.error());
    }
  const FrameRate& rate = deliverable->rate;
  const Timing& timing = plan.timing();
  const std::vector<Rational>& starts = timing.starts();
  plan.m_regions = project.regions;
  for (Region& region : plan.m_regions) {
    region.in = timing.fromProject(region.in);
    region.out = timing.fromProject(region.out);
  }
  for (size_t place = 0; place < project.shots.size(); ++place) {
    const Shot& shot = project.shots[place];
    const auto facts = footage.find(shot.source);
    if (facts == footage.end())
      return fail(ErrorCode::Missing, say("the source of shot '%1' was not looked at", shot.name));
    if (!facts->second) return tl::unexpected(facts->second.error());
    const MediaInfo& media = *facts->second;
    if (!media.video)
      return fail(ErrorCode::NotMedia, say("shot '%1' has no picture", shot.name), media.path, say("Remove the shot"));
    PlanPiece piece;
    piece.shot = shot;
    const Source& source = *project.source(shot.source);
    piece.reading = readingOf(source, media);
    if (media.kind == MediaKind::Video && !media.video->clock.variable()) piece.reading.repeats = source.repeats;
    piece.reading.byFields = readsFields(*deliverable, shot, source, media);
    piece.shape = shapeIn(*deliverable, source, *media.video);
    const SizeF picture = piece.shape.picture();
    if (picture.width < 2 || picture.height < 2)
      return fail(ErrorCode::InvalidArgument, say("the burned-in bars of shot '%1' leave no picture", shot.name),
                  media.path, say("Make them smaller"));
    piece.canvas = deliverable->canvas;
    piece.format = deliverable->format;
    piece.framing = framingIn(*deliverable, shot, piece.shape);
    if (piece.framing.liesOn(piece.framing.still)) {
      auto still = stillOf(project, footage, *deliverable, piece.framing, shot);
      if (!still) return tl::unexpected(still.error());
      piece.still = std::move(*still);
    }
    piece.moving = moves(piece.framing, shot.subjects);
    const Shortfall least =
        worst(piece.shape, piece.canvas, piece.framing, shot.subjects, shot.in.toDouble(), shot.out.toDouble());
    piece.detail = least.detail;
    piece.uncoveredPercent = least.uncoveredPercent;
    piece.start = starts[place];
    if (const auto beyond = secondsBeyondSource(shot, media))
      return fail(ErrorCode::InvalidArgument,
                  say("shot '%1' ends %2 after its source does", shot.name, clockText(*beyond)), media.path,
                  say("Set its out point anew, or find the whole file again"));
    piece.frames =
        FrameMap(timeIn(*deliverable, shot, source, media),
                 media.kind == MediaKind::Still ? FrameClock(rate, 1) : clockIn(*deliverable, shot, source, media),
                 rate, treatmentIn(*deliverable, shot));
    piece.firstFrame = rate.frameAt(starts[place]);
    piece.frameCount = rate.frameAt(starts[place + 1]) - piece.firstFrame;
    plan.m_pieces.push_back(std::move(piece));
  }
  plan.m_frameCount = rate.frameAt(starts.back());
  if (plan.m_frameCount <= 0) return fail(ErrorCode::InvalidArgument, say("the shots are shorter than one frame"));
  for (const SoundBed& bed : project.beds) {
    const auto facts = footage.find(bed.source);
    if (facts == footage.end()) return fail(ErrorCode::Missing, say("the file of a sound bed was not looked at"));
    if (!facts->second) return tl::unexpected(facts->second.error());
    if (facts->second->audio.empty())
      return fail(ErrorCode::NotMedia, say("a sound bed's file has no sound"), facts->second->path,
                  say("Remove the bed"));
    plan.m_beds.push_back({bed, readingOf(*project.source(bed.source), *facts->second)});
    plan.m_beds.back().bed.start = timing.fromProject(bed.start);
  }
  plan.m_elementCanvas = elementCanvasOf(*deliverable);
  const auto stretches = stretchesOf(project);
  for (size_t i = 0; i < stretches.size(); ++i) {
    const Element& each = project.elements[i];
    const auto& [begin, end] = stretches[i];
    const bool caption = each.kind == ElementKind::Caption;
    if (caption && plan.m_encoding.captionsBeside()) {
      const Rational in = timing.fromProject(begin);
      const Rational out = std::min(timing.fromProject(end), timing.duration());
      if (in < out) plan.m_captions.push_back({in, out, each.text});
    }
    if (caption && plan.m_encoding.captions != CaptionPlace::Burned) continue;
    const Element element = each.styled(project.captionStyle);
    if (element.placeIn(plan.framedAs()).hidden) continue;
    PlanElement laid{element, rate.frameAt(timing.fromProject(begin)), 0, {}};
    laid.frameCount = rate.frameAt(timing.fromProject(end)) - laid.firstFrame;
    if (laid.frameCount <= 0) continue;
    if (element.kind == ElementKind::Picture) {
      auto picture = pictureOf(project, footage, element);
      if (!picture) return tl::unexpected(picture.error());
      laid.picture = std::move(*picture);
    }
    plan.m_elements.push_back(std::move(laid));
  }
  std::ranges::stable_sort(plan.m_captions, {}, &Caption::in);
  return plan;
}

Result<Plan> Plan::build(const Project& project, const Footage& footage, const std::string& deliverableId,
                         const Region& region) {
  auto built = build(project, footage, deliverableId);
  if (!built) return built;
  Plan& plan = *built;
  const auto frameAt = [&plan](const Rational& moment) {
    return plan.rate().frameAt(plan.timing().fromProject(moment));
  };
  const int64_t first = std::clamp<int64_t>(frameAt(region.in), 0, plan.m_frameCount);
  const int64_t end = std::clamp<int64_t>(frameAt(region.out), first, plan.m_frameCount);
  if (first == end)
    return fail(ErrorCode::InvalidArgument, say("the region '%1' holds no frame of the running order", region.name), {},
                say("Move its ends"));
  for (PlanPiece& piece : plan.m_pieces) {
    const int64_t from = std::clamp(piece.firstFrame, first, end);
    const int64_t to = std::clamp(piece.firstFrame + piece.frameCount, first, end);
    piece.skipped = from - std::min(piece.firstFrame, from);
    piece.firstFrame = from - first;
    piece.frameCount = to - from;
  }
  for (PlanElement& element : plan.m_elements) element.firstFrame -= first;
  const Rational from = plan.rate().timeOf(first);
  const Rational whole = plan.rate().timeOf(end - first);
  for (Caption& caption : plan.m_captions) {
    caption.in = std::max(Rational(0), caption.in - from);
    caption.out = std::min(whole, caption.out - from);
  }
  std::erase_if(plan.m_captions, [](const Caption& caption) { return caption.out <= caption.in; });
  plan.m_regionName = region.name;
  plan.m_firstFrame = first;
  plan.m_frameCount = end - first;
  return built;
}

std::vector<Chapter> Plan::chapters() const {
  std::vector<std::pair<int64_t, std::string>> begins;
  if (m_encoding.chapters == Chapters::Shots)
    for (const PlanPiece& piece : m_pieces)
      if (piece.frameCount > 0) begins.emplace_back(piece.firstFrame, piece.shot.name);
  if (m_encoding.chapters == Chapters::Regions)
    for (const Region& region : m_regions) {
      const int64_t end = rate().frameAt(region.out) - m_firstFrame;
      const int64_t begin = std::max<int64_t>(0, rate().frameAt(region.in) - m_firstFrame);
      if (begin < std::min(end, m_frameCount)) begins.emplace_back(begin, region.name);
    }
  std::stable_sort(begins.begin(), begins.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<Chapter> chapters;
  for (size_t i = 0; i < begins.size(); ++i) {
    const int64_t end = i + 1 < begins.size() ? begins[i + 1].first : m_frameCount;
    if (end > begins[i].first)
      chapters.push_back({rate().timeOf(begins[i].first), rate().timeOf(end), begins[i].second});
  }
  return chapters;
}

bool Plan::hasElements(int64_t first, int64_t count) const {
  return std::ranges::any_of(m_elements, [&](const PlanElement& e) {
    return e.firstFrame < first + count && e.firstFrame + e.frameCount > first;
  });
}

bool Plan::sameElements(int64_t first, int64_t count) const {
  return count < 2 || std::ranges::all_of(m_elements, [&](const PlanElement& e) {
           const double opacity = e.opacity(first, rate());
           for (int64_t n = first + 1; n < first + count; ++n)
             if (e.opacity(n, rate()) != opacity) return false;
           return true;
         });
}

const std::string& Plan::framedAs() const {
  return tromb::framedAs(m_deliverable);
}

bool Plan::hasSound() const {
  if (m_encoding.sound.place == SoundPlace::None) return false;
  return !m_beds.empty() || std::any_of(m_pieces.begin(), m_pieces.end(),
                                        [](const PlanPiece& p) { return !p.reading.file.audio.empty(); });
}

Plan::At Plan::at(int64_t n) const {
  const auto after = std::upper_bound(m_pieces.begin(), m_pieces.end(), n,
                                      [](int64_t frame, const PlanPiece& p) { return frame < p.firstFrame; });
  // The last piece that starts at or before n: pieces without frames start where the next one does.
  const PlanPiece& piece = *(after - 1);
  return {&piece, n - piece.firstFrame, piece.shown(n - piece.firstFrame)};
}

} // namespace tromb
