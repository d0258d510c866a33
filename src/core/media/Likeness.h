// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/Frame.h"

#include <memory>

namespace tromb {

/// How much a picture is like another one.
struct Likeness {
  double ssim = 1;  ///< structural similarity of all planes, by their samples; 1 where they are equal
  double error = 0; ///< mean squared error of all samples, by planes, in squares of the format's own steps
};

/// The peak signal-to-noise ratio of a mean squared error in samples of so many bits: 10 · log₁₀((2^bits − 1)² /
/// error). Infinite where there is no error.
[[nodiscard]] double peakSignalToNoise(double error, int bits);

/// Compares pictures with those that they are to be like: structural similarity (Wang, Bovik, Sheikh, Simoncelli: Image
/// quality assessment, IEEE Transactions on Image Processing 13, 2004) and mean squared error, as FFmpeg's filters have
/// them. One thread at a time; movable.
class LikenessMeter {
public:
  /// For pictures of the size and format of `like`. Errors: Unsupported.
  [[nodiscard]] static Result<LikenessMeter> create(const Frame& like);
  LikenessMeter(LikenessMeter&&) noexcept;
  LikenessMeter& operator=(LikenessMeter&&) noexcept;
  ~LikenessMeter();

  /// Errors: InvalidArgument where a picture is of another size or format; Unsupported.
  [[nodiscard]] Result<Likeness> compare(const Frame& picture, const Frame& wanted);

private:
  struct State;
  explicit LikenessMeter(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
