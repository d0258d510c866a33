// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/ComparedPictures.h"

#include "colour/CanvasFormat.h"
#include "media/Av.h"
#include "media/read/Probe.h"
#include "picture/Scaler.h"

#include <algorithm>
#include <cstdlib>

namespace tromb {

/// Turns and mirrors pictures as players do, sample by sample.
struct ComparedPictures::Turn {
  std::string filters;
  std::optional<av::FilterGraph> graph;
  Size size;
  int format = -1;
  int64_t count = 0;

  Result<Frame> run(const Frame& stored) {
    if (!graph || size != Size{stored->width, stored->height} || format != stored->format) {
      auto built = av::FilterGraph::build(*stored, filters);
      if (!built) return tl::unexpected(built.error());
      graph.emplace(std::move(*built));
      size = {stored->width, stored->height};
      format = stored->format;
    }
    if (const Status pushed = graph->push(stored.get(), count++); !pushed) return tl::unexpected(pushed.error());
    av::FramePtr turned = graph->pull();
    if (!turned) return fail(ErrorCode::Unsupported, say("its pictures cannot be turned"));
    return Frame(turned.release(), av::Closer());
  }
};

Result<ComparedPictures> ComparedPictures::ofFile(const std::string& path, std::stop_token stop) {
  const auto media = probe(path, {.stop = stop, .indexFolder = {}});
  if (!media) return tl::unexpected(media.error());
  if (media->kind != MediaKind::Video) return fail(ErrorCode::NotMedia, say("the file holds no moving picture"), path);
  auto source = PictureSource::open(readAsStated(*media), {.stop = std::move(stop)});
  if (!source) return tl::unexpected(source.error());
  ComparedPictures made;
  made.m_path = path;
  made.m_size = media->video->stored;
  made.m_pixelAspect = media->video->pixelAspect;
  made.m_depth = media->video->bitDepth;
  made.m_colour = media->video->colour;
  made.m_rate = media->video->clock.rate();
  made.m_frames = media->video->clock.frameCount();
  made.m_duration = media->video->clock.duration();
  made.m_source.emplace(std::move(*source));
  const VideoInfo& v = *media->video;
  std::string turn = v.rotation == 90 ? "transpose=clock" : v.rotation == 180 ? "hflip,vflip" : "";
  if (v.rotation == 270) turn = "transpose=cclock";
  if (v.mirrored) turn += turn.empty() ? "hflip" : ",hflip";
  if (v.rotation % 180 != 0) {
    made.m_size = {v.stored.height, v.stored.width};
    made.m_pixelAspect = Rational(1) / v.pixelAspect;
  }
  if (!turn.empty()) made.m_turn = std::make_shared<Turn>(Turn{turn, {}, {}, -1, 0});
  made.m_media = *media;
  return made;
}

ComparedPictures ComparedPictures::ofPlan(Plan plan, std::stop_token stop) {
  ComparedPictures made;
  made.m_plan = std::make_shared<const Plan>(std::move(plan));
  made.m_size = made.m_plan->canvas();
  made.m_pixelAspect = made.m_plan->deliverable().pixelAspect;
  made.m_depth = made.m_plan->format().depth;
  made.m_colour = made.m_plan->format().colour;
  made.m_rate = made.m_plan->rate();
  made.m_frames = made.m_plan->frameCount();
  made.m_duration = made.m_plan->duration();
  made.m_composition = std::make_unique<PlanPictures>(*made.m_plan, std::move(stop));
  return made;
}

Rational ComparedPictures::timeOf(int64_t frame) const {
  return m_media ? m_media->video->clock.timeOf(frame) : m_rate.timeOf(frame);
}

int64_t ComparedPictures::frameAt(const Rational& time) const {
  return std::clamp<int64_t>(m_media ? m_media->video->clock.nearest(time) : m_rate.frameAt(time), 0,
                             std::max<int64_t>(0, m_frames - 1));
}

Result<Frame> ComparedPictures::at(int64_t frame) {
  if (!m_source) return m_composition->at(frame);
  auto picture = m_source->frameAt(frame);
  return picture && m_turn ? m_turn->run(*picture) : std::move(picture);
}

Result<Frame> PictureBringer::bring(const Frame& picture) {
  if (!m_scaler || !m_scaler->fits(picture)) {
    auto built = Scaler::build(picture, {0, 0, double(picture->width), double(picture->height)}, m_size, m_format);
    if (!built) return tl::unexpected(built.error());
    m_scaler.emplace(std::move(*built));
  }
  return m_scaler->run(picture);
}

PairReader::PairReader(ComparedPictures first, ComparedPictures second)
    : m_first(std::move(first)), m_second(std::move(second)), m_bring(m_first.size(), CanvasFormat()) {}

Result<ComparedPair> PairReader::at(int64_t frame) {
  ComparedPair pair;
  pair.frame = frame;
  pair.otherFrame = m_second.frameAt(m_first.timeOf(frame));
  const auto one = m_first.at(frame);
  if (!one) return tl::unexpected(one.error());
  auto other = m_second.at(pair.otherFrame);
  if (!other) return tl::unexpected(other.error());
  if ((*other)->width != (*one)->width || (*other)->height != (*one)->height) other = m_bring.bring(*other);
  if (!other) return tl::unexpected(other.error());
  auto shown = m_firstScreen.convert(*one);
  if (!shown) return tl::unexpected(shown.error());
  pair.first = std::move(*shown);
  shown = m_secondScreen.convert(*other);
  if (!shown) return tl::unexpected(shown.error());
  pair.second = std::move(*shown);
  return pair;
}

ScreenPicture differenceOf(const ScreenPicture& first, const ScreenPicture& second, int gain) {
  if (first.size != second.size) return {};
  ScreenPicture made{first.size, std::vector<uint8_t>(first.bytes.size())};
  for (size_t i = 0; i < made.bytes.size(); ++i)
    made.bytes[i] = uint8_t(std::min(255, gain * std::abs(int(first.bytes[i]) - int(second.bytes[i]))));
  for (size_t i = 3; i < made.bytes.size(); i += 4) made.bytes[i] = 255;
  return made;
}

} // namespace tromb
