// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/Fields.h"

#include "media/Av.h"

#include <algorithm>
#include <cstdlib>

namespace tromb {
namespace {

constexpr int kColumns = 2; ///< every so many are looked at
// Measured on generated and drawn footage, with grain and without, still, panning, jumping and rolling.
constexpr double kMoves = 1.03;     ///< teeth of the worse pairing against a picture's own; below, nothing moves
constexpr double kOwnBest = 1.10;   ///< of the better pairing, where a picture's own fields belong together
constexpr double kAlike = 1.20;     ///< of the worse against the better: both are wrong, or one is of neighbours
constexpr double kLeastFits = 0.85; ///< of the better pairing, where it fits as well as a picture's own
constexpr double kMostFits = 1.80;
constexpr double kLeastTeeth = 0.1; ///< of a picture's own, a sample: interlaced pictures that move have many

bool hasLuma(const AVFrame& f, const AVPixFmtDescriptor& d) {
  return (d.flags & AV_PIX_FMT_FLAG_PLANAR || d.nb_components == 1) && !(d.flags & AV_PIX_FMT_FLAG_RGB) &&
         !(d.flags & (AV_PIX_FMT_FLAG_BE | AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_HWACCEL)) && f.height >= 16;
}

/// How much lines stick out of those above and below, where even ones come from one picture and odd ones from another.
template <typename Sample> int64_t teeth(const AVFrame& even, const AVFrame& odd) {
  int64_t sum = 0;
  const auto line = [&](int y) {
    const AVFrame& from = y % 2 == 0 ? even : odd;
    return reinterpret_cast<const Sample*>(from.data[0] + ptrdiff_t(y) * from.linesize[0]);
  };
  for (int y = 2; y + 2 < even.height; ++y) {
    const Sample* above = line(y - 1);
    const Sample* here = line(y);
    const Sample* below = line(y + 1);
    int64_t row = 0;
    // Only what sticks out to the same side of both neighbours is a tooth: a slope is none.
    for (int x = 0; x < even.width; x += kColumns) {
      const int up = int(here[x]) - int(above[x]);
      const int down = int(here[x]) - int(below[x]);
      row += (up ^ down) < 0 ? 0 : std::min(std::abs(up), std::abs(down));
    }
    sum += row;
  }
  return sum;
}

template <typename Sample> FieldEvidence evidence(const AVFrame& now, const AVFrame& next) {
  const auto own = double(teeth<Sample>(now, now)) + 1;
  const auto laterTop = double(teeth<Sample>(next, now)) + 1;    // upper field of the next with the lower of this one
  const auto laterBottom = double(teeth<Sample>(now, next)) + 1; // and the other way round
  const double less = std::min(laterTop, laterBottom);
  const double more = std::max(laterTop, laterBottom);
  if (more < kMoves * own) return FieldEvidence::None;
  if (more < kAlike * less) return less > kOwnBest * own ? FieldEvidence::Progressive : FieldEvidence::None;
  const double samples = double(now.width) * now.height / kColumns;
  if (own < kLeastTeeth * samples || less < kLeastFits * own || less > kMostFits * own) return FieldEvidence::None;
  return laterTop < laterBottom ? FieldEvidence::TopFirst : FieldEvidence::BottomFirst;
}

} // namespace

FieldEvidence fieldEvidence(const Frame& picture, const Frame& next) {
  const AVFrame& a = *picture;
  const AVFrame& b = *next;
  const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(AVPixelFormat(a.format));
  if (!d || a.format != b.format || a.width != b.width || a.height != b.height || !hasLuma(a, *d))
    return FieldEvidence::None;
  return d->comp[0].depth > 8 ? evidence<uint16_t>(a, b) : evidence<uint8_t>(a, b);
}

} // namespace tromb
