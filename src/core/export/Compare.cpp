// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Compare.h"

#include "colour/CanvasFormat.h"
#include "io/JsonReader.h"
#include "media/Av.h"
#include "media/Likeness.h"
#include "media/read/PacketFacts.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <optional>

namespace tromb {
namespace {

Comparison::Side sideOf(const ComparedPictures& pictures) {
  Comparison::Side side;
  side.path = pictures.path();
  side.canvas = pictures.size();
  side.rate = pictures.rate();
  side.frames = pictures.frameCount();
  if (side.path.empty()) return side;
  std::error_code none;
  side.bytes = int64_t(std::filesystem::file_size(side.path, none));
  const double seconds = pictures.duration().toDouble();
  side.bitRate = seconds > 0 ? 8.0 * double(side.bytes) / seconds : 0;
  if (const auto facts = readPackets(*pictures.media())) side.bitsBySecond = facts->bitsBySecond;
  return side;
}

} // namespace

Result<Comparison> comparePictures(ComparedPictures one, ComparedPictures other,
                                   const std::function<void(const Comparison& soFar)>& onFrame) {
  Comparison made;
  made.first = sideOf(one);
  made.second = sideOf(other);
  // A common ground for what differs in its samples.
  CanvasFormat ground;
  ground.depth = std::max(one.depth(), other.depth()) > 8 ? 10 : 8;
  if (isHdr(one.colour())) ground.colour = one.colour();
  std::optional<PictureBringer> bringOne;
  std::optional<PictureBringer> bringOther;
  std::optional<LikenessMeter> meter;
  double structure = 0;
  double error = 0;
  int bits = one.depth();
  const Rational end = other.duration();
  for (int64_t frame = 0; frame < one.frameCount(); ++frame) {
    const Rational time = one.timeOf(frame);
    if (time >= end) break;
    const auto a = one.at(frame);
    if (!a) return tl::unexpected(a.error());
    const auto b = other.at(other.frameAt(time));
    if (!b) return tl::unexpected(b.error());
    Frame seen = *a;
    Frame beside = *b;
    const bool same = seen->width == beside->width && seen->height == beside->height && seen->format == beside->format;
    if (!same || made.scaled) {
      if (!made.scaled) {
        made.scaled = true;
        bits = ground.depth;
        bringOne.emplace(Size{seen->width, seen->height}, ground);
        bringOther.emplace(Size{seen->width, seen->height}, ground);
        meter.reset();
      }
      auto broughtOne = bringOne->bring(seen);
      if (!broughtOne) return tl::unexpected(broughtOne.error());
      auto broughtOther = bringOther->bring(beside);
      if (!broughtOther) return tl::unexpected(broughtOther.error());
      seen = std::move(*broughtOne);
      beside = std::move(*broughtOther);
    }
    if (!meter) {
      auto created = LikenessMeter::create(seen);
      if (!created) return tl::unexpected(created.error());
      meter.emplace(std::move(*created));
    }
    const auto likeness = meter->compare(beside, seen);
    if (!likeness) return tl::unexpected(likeness.error());
    const double db = std::min<double>(Comparison::kMostDb, peakSignalToNoise(likeness->error, bits));
    if (made.ssim.empty() || likeness->ssim < made.structure.worst) {
      made.structure.worst = likeness->ssim;
      made.structure.worstFrame = frame;
      made.worstTime = time;
    }
    if (made.psnr.empty() || db < made.noise.worst) {
      made.noise.worst = db;
      made.noise.worstFrame = frame;
    }
    made.different += likeness->error > 0 ? 1 : 0;
    made.ssim.push_back(float(likeness->ssim));
    made.psnr.push_back(float(db));
    structure += likeness->ssim;
    error += likeness->error;
    if (onFrame) onFrame(made);
  }
  if (made.ssim.empty())
    return fail(ErrorCode::NotMedia, say("the files have no pictures at the same time"), other.path());
  const auto count = double(made.ssim.size());
  made.structure.mean = structure / count;
  made.noise.mean = std::min<double>(Comparison::kMostDb, peakSignalToNoise(error / count, bits));
  return made;
}

Result<Comparison> compareFiles(const std::string& first, const std::string& second, std::stop_token stop,
                                const std::function<void(const Comparison& soFar)>& onFrame) {
  auto one = ComparedPictures::ofFile(first, stop);
  if (!one) return tl::unexpected(one.error());
  auto other = ComparedPictures::ofFile(second, stop);
  if (!other) return tl::unexpected(other.error());
  return comparePictures(std::move(*one), std::move(*other), onFrame);
}

Json toJson(const Comparison& comparison, bool withFrames) {
  const auto side = [](const Comparison::Side& s) {
    return Json{{"path", s.path},
                {"sizeBytes", s.bytes},
                {"bitRate", std::llround(s.bitRate)},
                {"canvas", std::to_string(s.canvas.width) + "x" + std::to_string(s.canvas.height)},
                {"rate", s.rate.value().toString()},
                {"frames", s.frames}};
  };
  const auto sum = [](const Comparison::Sum& s) {
    return Json{{"mean", s.mean}, {"worst", s.worst}, {"worstFrame", s.worstFrame}};
  };
  Json object{{"a", side(comparison.first)},       {"b", side(comparison.second)},
              {"frames", comparison.ssim.size()},  {"scaled", comparison.scaled},
              {"different", comparison.different}, {"ssim", sum(comparison.structure)},
              {"psnr", sum(comparison.noise)},     {"worstAtSeconds", comparison.worstTime.toDouble()}};
  if (withFrames) {
    object["ssim"]["byFrame"] = comparison.ssim;
    object["psnr"]["byFrame"] = comparison.psnr;
  }
  return object;
}

} // namespace tromb
