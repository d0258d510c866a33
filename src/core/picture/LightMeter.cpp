// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/LightMeter.h"

#include "colour/Light.h"
#include "media/Av.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kSteps = 1024;

template <typename Sample> const Sample* lightRow(const AVFrame& f, int plane, int y) {
  return reinterpret_cast<const Sample*>(f.data[plane] + ptrdiff_t(y) * f.linesize[plane]);
}

} // namespace

LightMeter::LightMeter(const CanvasFormat& format) : m_format(format) {
  m_lights.reserve(kSteps);
  for (int step = 0; step < kSteps; ++step) m_lights.push_back(float(pqLight(double(step) / (kSteps - 1))));
}

void LightMeter::add(const Frame& canvas) {
  const AVFrame& f = *canvas;
  // Y′C′bC′r of BT.2100 to steps of R′G′B′ (table 6).
  const auto luma = float((kSteps - 1) / m_format.lumaSpan());
  const auto chroma = float((kSteps - 1) / m_format.chromaSpan());
  const auto black = float(m_format.lumaBlack());
  const auto none = float(m_format.chromaNone());
  const Rgb& weights = lumaWeights(m_format.colour);
  const auto toRed = float(2 * (1 - weights[0]));
  const auto toBlue = float(2 * (1 - weights[2]));
  const auto redToGreen = float(-2 * weights[0] * (1 - weights[0]) / weights[1]);
  const auto blueToGreen = float(-2 * weights[2] * (1 - weights[2]) / weights[1]);
  double sum = 0;
  for (int y = 0; y < f.height; ++y) {
    const auto* row = lightRow<uint16_t>(f, 0, y);
    const auto* blue = lightRow<uint16_t>(f, 1, y >> m_format.shiftY());
    const auto* red = lightRow<uint16_t>(f, 2, y >> m_format.shiftY());
    float line = 0;
    for (int x = 0; x < f.width; ++x) {
      const float level = (float(row[x]) - black) * luma;
      const float b = (float(blue[x >> m_format.shiftX()]) - none) * chroma;
      const float r = (float(red[x >> m_format.shiftX()]) - none) * chroma;
      const float most = level + std::max({toRed * r, toBlue * b, blueToGreen * b + redToGreen * r});
      const int step = std::clamp(int(most + 0.5F), 0, kSteps - 1);
      m_brightest = std::max(m_brightest, step);
      line += m_lights[size_t(step)];
    }
    sum += line;
  }
  m_average = std::max(m_average, sum / (double(f.width) * f.height));
}

ContentLight LightMeter::light() const {
  return {int(std::ceil(m_lights[size_t(m_brightest)])), int(std::ceil(m_average))};
}

} // namespace tromb
