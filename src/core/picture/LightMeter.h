// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/CanvasFormat.h"
#include "media/Frame.h"

#include <optional>
#include <vector>

namespace tromb {

/// Measures how bright pictures in PQ are, as CTA-861.3 annex P has it: a pixel is as bright as the brightest of its
/// red, green and blue. One thread at a time.
class LightMeter {
public:
  /// For canvases of this format, which is one of PQ with subsampled or whole chroma.
  explicit LightMeter(const CanvasFormat& format);
  void add(const Frame& canvas);
  /// Of all that was added; cd/m², rounded up. Nothing was added: zero.
  [[nodiscard]] ContentLight light() const;

private:
  CanvasFormat m_format;
  std::vector<float> m_lights; ///< cd/m² by code of the brightest component, over 1024 steps of the signal
  int m_brightest = 0;         ///< step
  double m_average = 0;        ///< cd/m², the most of any picture
};

} // namespace tromb
