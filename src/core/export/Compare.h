// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/ComparedPictures.h"

#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <stop_token>
#include <vector>

namespace tromb {

/// How much the pictures of one file are like those of another.
struct Comparison {
  /// Of one quantity over all pictures.
  struct Sum {
    double mean = 0;
    double worst = 0;
    int64_t worstFrame = 0; ///< of the first file
  };
  struct Side {
    std::string path; ///< empty for what a plan composes, which has no bytes
    int64_t bytes = 0;
    double bitRate = 0; ///< of all that is in the file, bits a second
    Size canvas;
    FrameRate rate;
    int64_t frames = 0;
    std::vector<float> bitsBySecond; ///< see PacketFacts
  };
  Side first;
  Side second;
  bool scaled = false;     ///< the second was brought to the size or the samples of the first
  std::vector<float> ssim; ///< by frame of the first file: structural similarity of all planes, 1 where they are equal
  std::vector<float> psnr; ///< dB, of all planes together; kMostDb where they are equal
  static constexpr float kMostDb = 100;
  Sum structure; ///< of ssim
  /// Of psnr; its mean is that of the mean error, as FFmpeg's filter has it, and kMostDb where all are equal.
  Sum noise;
  Rational worstTime;    ///< seconds, of the least ssim
  int64_t different = 0; ///< frames that are not equal to the bit
};

/// Holds two sides against each other in step, each picture of the first beside the one that the second shows at its
/// time, as long as both go on. Pictures of another size or with other samples are brought to those of the first.
/// `onFrame` is told what there is so far: the values by frame, and the worst of them. Errors: those of
/// ComparedPictures, NotMedia (no pictures at the same time).
[[nodiscard]] Result<Comparison> comparePictures(ComparedPictures first, ComparedPictures second,
                                                 const std::function<void(const Comparison& soFar)>& onFrame = {});

/// Those of two files. Errors: also Cancelled. Thread-safe.
[[nodiscard]] Result<Comparison> compareFiles(const std::string& first, const std::string& second,
                                              std::stop_token stop = {},
                                              const std::function<void(const Comparison& soFar)>& onFrame = {});

/// `withFrames`: also the values of each frame.
[[nodiscard]] nlohmann::ordered_json toJson(const Comparison& comparison, bool withFrames = false);

} // namespace tromb
