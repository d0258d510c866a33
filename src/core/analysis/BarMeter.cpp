// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/BarMeter.h"

#include "media/Av.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <cstdint>

namespace tromb {
namespace {

constexpr int kBlackLimit = 24;     ///< mean luma of 255 that still counts as black in limited range
constexpr int kBlackLimitFull = 10; ///< the same where black is 0
constexpr int kMargin = 2;

/// Mean of a line (step 1) or column (step = stride) of samples, in 8-bit terms.
template <typename Sample> double mean(const uint8_t* data, ptrdiff_t stepBytes, int count, int depth) {
  int64_t sum = 0;
  for (int i = 0; i < count; ++i) sum += *reinterpret_cast<const Sample*>(data + i * stepBytes);
  return double(sum) / count / (1 << (depth - 8));
}

} // namespace

void BarMeter::add(const Frame& frame) {
  const auto planar = planarFrame(frame);
  if (!planar) return;
  const AVFrame& f = **planar;
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  const int depth = d.comp[0].depth;
  const ptrdiff_t sample = depth > 8 ? 2 : 1;
  const ptrdiff_t stride = f.linesize[0];
  const bool full = f.color_range == AVCOL_RANGE_JPEG || (d.flags & AV_PIX_FMT_FLAG_RGB);
  const int limit = full ? kBlackLimitFull : kBlackLimit;
  if (m_width != f.width || m_height != f.height) {
    m_width = f.width;
    m_height = f.height;
    m_bars = {m_width / 2, m_height / 2, m_width / 2, m_height / 2};
  }
  const auto black = [&](int x, int y, ptrdiff_t step, int count) {
    const uint8_t* at = f.data[0] + y * stride + x * sample;
    return (depth > 8 ? mean<uint16_t>(at, step, count, depth) : mean<uint8_t>(at, step, count, depth)) <= limit;
  };
  // Only up to what all earlier pictures had: once a side is 0 it costs nothing.
  const auto scan = [](int& bar, auto&& isBlack) {
    int i = 0;
    while (i < bar && isBlack(i)) ++i;
    bar = i;
  };
  scan(m_bars.top, [&](int i) { return black(0, i, sample, f.width); });
  scan(m_bars.bottom, [&](int i) { return black(0, f.height - 1 - i, sample, f.width); });
  scan(m_bars.left, [&](int i) { return black(i, 0, stride, f.height); });
  scan(m_bars.right, [&](int i) { return black(f.width - 1 - i, 0, stride, f.height); });
}

Bars BarMeter::bars() const {
  const bool dark = m_bars.top + m_bars.bottom > m_height * 9 / 10 || m_bars.left + m_bars.right > m_width * 9 / 10;
  return dark ? Bars{} : m_bars;
}

Bars withMargin(Bars bars) {
  for (int* side : {&bars.left, &bars.top, &bars.right, &bars.bottom})
    if (*side > 0) *side += kMargin;
  return bars;
}

} // namespace tromb
