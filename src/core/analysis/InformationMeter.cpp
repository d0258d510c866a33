// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/InformationMeter.h"

#include "media/Av.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

/// Full-range values of luma by its own steps (Rec. ITU-R BT.709, 3.4: 16 to 235 of 8 bits).
std::vector<uint16_t> fullRange(int depth, bool already) {
  const int step = 1 << (depth - 8);
  const int most = (256 * step) - 1;
  std::vector<uint16_t> values(size_t(most) + 1);
  for (int y = 0; y <= most; ++y)
    values[size_t(y)] = uint16_t(already ? y : most * std::clamp(y - 16 * step, 0, 219 * step) / (219 * step));
  return values;
}

template <typename Sample>
void take(const AVFrame& f, const std::vector<uint16_t>& values, std::vector<uint16_t>& luma) {
  luma.resize(size_t(f.width) * size_t(f.height));
  uint16_t* to = luma.data();
  for (int y = 0; y < f.height; ++y) {
    const auto* from = reinterpret_cast<const Sample*>(f.data[0] + ptrdiff_t(y) * f.linesize[0]);
    for (int x = 0; x < f.width; ++x) *to++ = values[std::min<size_t>(from[x], values.size() - 1)];
  }
}

/// Sums of values and of their squares, which give a standard deviation.
struct Sums {
  double count = 0;
  double sum = 0;
  double squares = 0;
  void add(double many, double linear, double squared) {
    count += many;
    sum += linear;
    squares += squared;
  }
  [[nodiscard]] double deviation() const {
    if (count == 0) return 0;
    const double mean = sum / count;
    return std::sqrt(std::max(0.0, squares / count - mean * mean));
  }
};

double edgeDeviation(const std::vector<uint16_t>& luma, int width, int height) {
  Sums all;
  for (int y = 1; y + 1 < height; ++y) {
    const uint16_t* above = luma.data() + size_t(y - 1) * size_t(width);
    const uint16_t* here = above + width;
    const uint16_t* below = here + width;
    double linear = 0;
    double squared = 0;
    for (int x = 1; x + 1 < width; ++x) {
      const int across =
          (above[x + 1] + 2 * here[x + 1] + below[x + 1]) - (above[x - 1] + 2 * here[x - 1] + below[x - 1]);
      const int down = (below[x - 1] + 2 * below[x] + below[x + 1]) - (above[x - 1] + 2 * above[x] + above[x + 1]);
      const float square = float(across) * float(across) + float(down) * float(down);
      linear += double(std::sqrt(square));
      squared += double(square);
    }
    all.add(width - 2, linear, squared);
  }
  return all.deviation();
}

double changeDeviation(const std::vector<uint16_t>& now, const std::vector<uint16_t>& before) {
  double linear = 0;
  double squared = 0;
  for (size_t i = 0; i < now.size(); ++i) {
    const double change = double(int(now[i]) - int(before[i]));
    linear += change;
    squared += change * change;
  }
  Sums all;
  all.add(double(now.size()), linear, squared);
  return all.deviation();
}

} // namespace

PictureInformation InformationMeter::add(const Frame& picture, Of of) {
  const AVFrame& f = *picture;
  const int depth = av_pix_fmt_desc_get(AVPixelFormat(f.format))->comp[0].depth;
  if (f.format != m_format || f.color_range != m_range) {
    m_fullRange = fullRange(depth, f.color_range == AVCOL_RANGE_JPEG);
    m_format = f.format;
    m_range = f.color_range;
    m_now.clear();
  }
  m_before.swap(m_now);
  if (depth > 8)
    take<uint16_t>(f, m_fullRange, m_now);
  else
    take<uint8_t>(f, m_fullRange, m_now);
  const double step = double(1 << (depth - 8));
  PictureInformation found;
  if (of == Of::Both) found.spatial = edgeDeviation(m_now, f.width, f.height) / step;
  if (m_before.size() == m_now.size()) found.temporal = changeDeviation(m_now, m_before) / step;
  return found;
}

} // namespace tromb
