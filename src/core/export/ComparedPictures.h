// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "picture/PictureSource.h"
#include "render/Pictures.h"

#include <memory>
#include <optional>
#include <stop_token>
#include <string>

namespace tromb {

/// The pictures of one side of a comparison: those of a file, or those that a plan composes before the encoder. One
/// thread at a time; movable.
class ComparedPictures {
public:
  /// Of a film. `stop` ends every call, also later ones, with Cancelled. Errors: those of probe and PictureSource,
  /// NotMedia (no moving picture).
  [[nodiscard]] static Result<ComparedPictures> ofFile(const std::string& path, std::stop_token stop = {});
  [[nodiscard]] static ComparedPictures ofPlan(Plan plan, std::stop_token stop = {});

  [[nodiscard]] const std::string& path() const { return m_path; }                ///< empty for a plan's
  [[nodiscard]] const std::optional<MediaInfo>& media() const { return m_media; } ///< of a file
  [[nodiscard]] Size size() const { return m_size; } ///< of a picture; of a film, as players turn it
  [[nodiscard]] Rational pixelAspect() const { return m_pixelAspect; }
  [[nodiscard]] int depth() const { return m_depth; } ///< bits of a sample
  [[nodiscard]] const ColourTags& colour() const { return m_colour; }
  [[nodiscard]] const FrameRate& rate() const { return m_rate; }
  [[nodiscard]] int64_t frameCount() const { return m_frames; }
  [[nodiscard]] Rational duration() const { return m_duration; } ///< of the pictures, in seconds
  [[nodiscard]] Rational timeOf(int64_t frame) const;            ///< seconds since the first picture
  /// The picture that is shown at a time, or the one nearest to it; in [0, frameCount).
  [[nodiscard]] int64_t frameAt(const Rational& time) const;
  /// A picture, quick where they ascend. Errors: those of PictureSource and PlanPictures.
  [[nodiscard]] Result<Frame> at(int64_t frame);

private:
  ComparedPictures() = default;
  std::string m_path;
  Size m_size;
  Rational m_pixelAspect = 1;
  int m_depth = 8;
  ColourTags m_colour;
  FrameRate m_rate;
  int64_t m_frames = 0;
  Rational m_duration;
  std::optional<MediaInfo> m_media;      ///< a file's
  std::optional<PictureSource> m_source; ///< a file's
  struct Turn;
  std::shared_ptr<Turn> m_turn;                ///< of a file that players turn
  std::shared_ptr<const Plan> m_plan;          ///< a plan's
  std::unique_ptr<PlanPictures> m_composition; ///< a plan's
};

/// Brings pictures of any kind to one size and format. One thread at a time.
class PictureBringer {
public:
  PictureBringer(Size size, const CanvasFormat& format) : m_size(size), m_format(format) {}
  /// Errors: those of Scaler.
  [[nodiscard]] Result<Frame> bring(const Frame& picture);

private:
  Size m_size;
  CanvasFormat m_format;
  std::optional<Scaler> m_scaler;
};

/// Two pictures of the same moment, made so that they can be laid over each other.
struct ComparedPair {
  int64_t frame = 0;      ///< of the first side
  int64_t otherFrame = 0; ///< of the second
  ScreenPicture first;
  ScreenPicture second; ///< brought to the size of the first
};

/// Shows two sides in step: the pictures of any moment beside each other, pixel for pixel. One thread at a time.
class PairReader {
public:
  PairReader(ComparedPictures first, ComparedPictures second);
  [[nodiscard]] const ComparedPictures& first() const { return m_first; }
  [[nodiscard]] const ComparedPictures& second() const { return m_second; }
  /// The pair at a frame of the first side, in [0, first().frameCount()). Errors: those of ComparedPictures and Scaler.
  [[nodiscard]] Result<ComparedPair> at(int64_t frame);

private:
  ComparedPictures m_first;
  ComparedPictures m_second;
  PictureBringer m_bring;
  ScreenConverter m_firstScreen;
  ScreenConverter m_secondScreen;
};

/// How two pictures for screens differ: the difference of each part of a pixel, times `gain`, on black. Both have the
/// same size; else it is empty.
[[nodiscard]] ScreenPicture differenceOf(const ScreenPicture& first, const ScreenPicture& second, int gain);

} // namespace tromb
