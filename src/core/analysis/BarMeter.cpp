// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/BarMeter.h"

#include "media/Av.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace tromb {
namespace {

// In 8-bit terms of limited range; where black is 0, 16 less. The darkest level is the one below which FFmpeg's own bar
// detection takes a line for black.
constexpr double kDarkest = 24;
constexpr double kBlack = 16;
constexpr double kFlat = 1.5;     ///< mean deviation within a line, at most
constexpr double kOneLevel = 0.9; ///< of a line's mean from the outermost one's
constexpr double kStep = 5;       ///< from the bar to the picture behind its smeared edge, at least
constexpr int kSmeared = 3;       ///< lines
constexpr int kBeyondEdge = 2;    ///< pixels cut beyond a bar, where its edge is smeared

struct Line {
  double mean = 0;
  double deviation = 0;
};

/// A line (step 1) or column (step = stride) of samples, in 8-bit terms.
template <typename Sample> Line measured(const uint8_t* data, ptrdiff_t stepBytes, int count, int depth) {
  const auto at = [&](int i) { return double(*reinterpret_cast<const Sample*>(data + i * stepBytes)); };
  const double scale = 1.0 / (1 << (depth - 8));
  double sum = 0;
  for (int i = 0; i < count; ++i) sum += at(i);
  const double mean = sum / count;
  double off = 0;
  for (int i = 0; i < count; ++i) off += std::abs(at(i) - mean);
  return {mean * scale, off / count * scale};
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
  const double darkest = full ? kDarkest - kBlack : kDarkest;
  if (m_width != f.width || m_height != f.height) {
    m_width = f.width;
    m_height = f.height;
    m_sides = {{{m_width / 2, false}, {m_height / 2, false}, {m_width / 2, false}, {m_height / 2, false}}};
  }
  for (size_t side = 0; side < m_sides.size(); ++side) {
    Side& s = m_sides[side];
    if (s.lines == 0) continue;
    const bool across = side % 2 == 1; // lines at the top and bottom
    const bool far = side >= 2;
    const int depthThere = across ? f.height : f.width;
    const auto line = [&](int i) {
      const int place = far ? depthThere - 1 - i : i;
      const uint8_t* at = f.data[0] + (across ? place * stride : place * sample);
      const ptrdiff_t step = across ? sample : stride;
      const int count = across ? f.width : f.height;
      return depth > 8 ? measured<uint16_t>(at, step, count, depth) : measured<uint8_t>(at, step, count, depth);
    };
    const Line outermost = line(0);
    int lines = 0;
    if (outermost.mean <= darkest && outermost.deviation <= kFlat) {
      lines = 1;
      while (lines < s.lines) {
        const Line next = line(lines);
        if (next.deviation > kFlat || std::abs(next.mean - outermost.mean) > kOneLevel) break;
        ++lines;
      }
    }
    if (lines < s.lines) s = {lines, false};
    const int behind = s.lines + kSmeared;
    if (s.lines > 0 && !s.step && behind < depthThere) {
      const Line picture = line(behind);
      s.step = picture.mean - outermost.mean >= kStep || picture.deviation >= kStep;
    }
  }
}

void BarMeter::add(const BarMeter& others) {
  if (others.m_width == 0) return;
  if (m_width == 0) *this = others;
  for (size_t side = 0; side < m_sides.size(); ++side) {
    Side& s = m_sides[side];
    const Side& o = others.m_sides[side];
    if (o.lines < s.lines)
      s = o;
    else if (o.lines == s.lines)
      s.step = s.step || o.step;
  }
}

Bars BarMeter::bars() const {
  const auto bar = [this](size_t side) { return m_sides[side].step ? m_sides[side].lines : 0; };
  const bool dark =
      m_sides[1].lines + m_sides[3].lines > m_height * 9 / 10 || m_sides[0].lines + m_sides[2].lines > m_width * 9 / 10;
  return dark || m_width == 0 ? Bars{} : Bars{bar(0), bar(1), bar(2), bar(3)};
}

Bars withMargin(Bars bars) {
  for (int* side : {&bars.left, &bars.top, &bars.right, &bars.bottom})
    if (*side > 0) *side += kBeyondEdge;
  return bars;
}

} // namespace tromb
