// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/CutFinder.h"

#include "media/Av.h"
#include "picture/PictureSource.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <deque>
#include <numeric>

namespace tromb {
namespace {

constexpr Size kLuma{64, 36};
constexpr Size kChroma{32, 18};
constexpr std::array<int, 5> kReaches{5, 8, 12, 18, 25}; ///< half lengths of dissolves that are looked for
constexpr int kMostReach = 25;
constexpr double kEvenMixture = 0.33;  ///< of the ends' difference that the middle may lie off
constexpr double kContrastDips = 0.8;  ///< of the ends' variance that a mixture of different pictures keeps at most
constexpr double kLeftOfMixture = 0.5; ///< of the ends' difference, when motion or light is to explain it
constexpr int kApart = 12;             ///< frames; what is nearer is one dissolve that was found twice
constexpr int kNeighbours = 8;
constexpr double kStandsOut = 2.2;
constexpr double kReturns = 0.4;
constexpr double kDissolveShare = 1.25; ///< a dissolve must change this much more than a cut to be worth a look

/// A small copy of a picture: its planes one after the other, 8 bit.
using Thumb = std::vector<uint8_t>;

/// Means of a plane's cells. Sums of columns first: in a row each is by itself, so that a processor adds many at once.
template <typename Sample>
void shrink(const uint8_t* data, ptrdiff_t stride, Size from, Size to, int shift, Thumb& thumb) {
  std::vector<uint32_t> columns(size_t(from.width));
  for (int ty = 0; ty < to.height; ++ty) {
    const int y0 = ty * from.height / to.height;
    const int y1 = std::max(y0 + 1, (ty + 1) * from.height / to.height);
    std::fill(columns.begin(), columns.end(), 0U);
    for (int y = y0; y < y1; ++y) {
      const auto* row = reinterpret_cast<const Sample*>(data + y * stride);
      uint32_t* const sums = columns.data();
      for (int x = 0; x < from.width; ++x) sums[x] += row[x];
    }
    for (int tx = 0; tx < to.width; ++tx) {
      const int x0 = tx * from.width / to.width;
      const int x1 = std::max(x0 + 1, (tx + 1) * from.width / to.width);
      const uint64_t sum = std::accumulate(columns.begin() + x0, columns.begin() + x1, uint64_t(0));
      thumb.push_back(uint8_t((sum / (uint64_t(y1 - y0) * uint64_t(x1 - x0))) >> shift));
    }
  }
}

Result<Thumb> thumbOf(const Frame& frame) {
  const auto planar = planarFrame(frame);
  if (!planar) return tl::unexpected(planar.error());
  const AVFrame& f = **planar;
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  Thumb thumb;
  thumb.reserve(size_t(kLuma.width * kLuma.height + 2 * kChroma.width * kChroma.height));
  for (int p = 0; p < 3; ++p) {
    const bool chroma = p > 0 && !(d.flags & AV_PIX_FMT_FLAG_RGB);
    const Size from{chroma ? AV_CEIL_RSHIFT(f.width, d.log2_chroma_w) : f.width,
                    chroma ? AV_CEIL_RSHIFT(f.height, d.log2_chroma_h) : f.height};
    const Size to = p == 0 ? kLuma : kChroma;
    const int depth = d.comp[0].depth;
    if (depth > 8)
      shrink<uint16_t>(f.data[p], f.linesize[p], from, to, depth - 8, thumb);
    else
      shrink<uint8_t>(f.data[p], f.linesize[p], from, to, 0, thumb);
  }
  return thumb;
}

float percent(int64_t sum, size_t count) {
  return float(double(sum) * 100 / (255.0 * double(count)));
}

float difference(const Thumb& a, const Thumb& b) {
  int64_t sum = 0;
  for (size_t i = 0; i < a.size(); ++i) sum += std::abs(int(a[i]) - int(b[i]));
  return percent(sum, a.size());
}

/// How far `middle` lies from the even mixture of `a` and `b`.
float offMixture(const Thumb& middle, const Thumb& a, const Thumb& b) {
  int64_t sum = 0;
  for (size_t i = 0; i < a.size(); ++i) sum += std::abs(2 * int(middle[i]) - int(a[i]) - int(b[i]));
  return percent(sum, a.size()) / 2;
}

/// Variance of the luma, in squares of 8-bit steps.
double contrast(const Thumb& thumb) {
  const auto count = size_t(kLuma.width * kLuma.height);
  double sum = 0;
  double squares = 0;
  for (size_t i = 0; i < count; ++i) {
    sum += thumb[i];
    squares += double(thumb[i]) * thumb[i];
  }
  return squares / double(count) - sum * sum / double(count) / double(count);
}

/// The share of two pictures' difference (luma) that remains when each part of one may lie elsewhere in the other: a
/// camera that pans or pushes leaves little.
double leftByMotion(const Thumb& a, const Thumb& b) {
  constexpr Size kPart{16, 12};
  constexpr int kFarthest = 6;
  const auto at = [](const Thumb& t, int x, int y) { return int(t[size_t(y * kLuma.width + x)]); };
  double left = 0;
  double all = 0;
  for (int top = 0; top < kLuma.height; top += kPart.height)
    for (int from = 0; from < kLuma.width; from += kPart.width) {
      const auto apart = [&](int dx, int dy) {
        int64_t sum = 0;
        for (int y = top; y < top + kPart.height; ++y)
          for (int x = from; x < from + kPart.width; ++x)
            sum += std::abs(at(a, x, y) -
                            at(b, std::clamp(x + dx, 0, kLuma.width - 1), std::clamp(y + dy, 0, kLuma.height - 1)));
        return double(sum);
      };
      const double still = apart(0, 0);
      double best = still;
      for (int dy = -kFarthest; dy <= kFarthest; ++dy)
        for (int dx = -kFarthest; dx <= kFarthest; ++dx) best = std::min(best, apart(dx, dy));
      left += best;
      all += still;
    }
  return all > 0 ? left / all : 0;
}

/// The share of two pictures' difference (luma) that remains when one may be lighter and of other contrast than the
/// other: a change of light leaves little.
double leftByLight(const Thumb& a, const Thumb& b) {
  const auto count = size_t(kLuma.width * kLuma.height);
  double sumA = 0;
  double sumB = 0;
  double sumAa = 0;
  double sumAb = 0;
  for (size_t i = 0; i < count; ++i) {
    sumA += a[i];
    sumB += b[i];
    sumAa += double(a[i]) * a[i];
    sumAb += double(a[i]) * b[i];
  }
  const double spread = sumAa - sumA * sumA / double(count);
  const double gain = spread > 0 ? (sumAb - sumA * sumB / double(count)) / spread : 1;
  const double offset = (sumB - gain * sumA) / double(count);
  double left = 0;
  double all = 0;
  for (size_t i = 0; i < count; ++i) {
    left += std::abs(gain * a[i] + offset - b[i]);
    all += std::abs(int(a[i]) - int(b[i]));
  }
  return all > 0 ? left / all : 0;
}

/// True when `now`, an even mixture of `a` and `b`, is one because the scenes were mixed.
bool mixed(const Thumb& now, const Thumb& a, const Thumb& b) {
  // A slow pan and a change of light are nearly the mixture of their ends too. Different scenes are flatter where they
  // are mixed; scenes of the same build are not, but neither motion nor light turns one into the other.
  return contrast(now) < kContrastDips * (contrast(a) + contrast(b)) / 2 ||
         (leftByMotion(a, b) > kLeftOfMixture && leftByLight(a, b) > kLeftOfMixture);
}

/// Pictures round the one that is measured; `at(0)` is that one.
struct Ring {
  std::deque<std::pair<int64_t, Thumb>> pictures;
  size_t centre = 0;
  [[nodiscard]] const Thumb* at(int offset) const {
    const int64_t place = int64_t(centre) + offset;
    return place < 0 || place >= int64_t(pictures.size()) ? nullptr : &pictures[size_t(place)].second;
  }
};

CutSample measured(const Ring& ring) {
  CutSample sample;
  sample.frame = ring.pictures[ring.centre].first;
  const Thumb& now = *ring.at(0);
  if (const Thumb* before = ring.at(-1)) {
    sample.change = difference(now, *before);
    sample.back = 100;
    for (int n = 1; n <= 3; ++n)
      if (const Thumb* later = ring.at(n)) sample.back = std::min(sample.back, difference(*later, *before));
  }
  for (const int reach : kReaches) {
    const Thumb* a = ring.at(-reach);
    const Thumb* b = ring.at(reach);
    if (!a || !b) continue;
    const float apart = difference(*a, *b);
    if (apart > sample.dissolve && offMixture(now, *a, *b) < kEvenMixture * apart && mixed(now, *a, *b)) {
      sample.dissolve = apart;
      sample.reach = reach;
    }
  }
  return sample;
}

double medianRound(const std::vector<CutSample>& samples, size_t at) {
  std::vector<double> round;
  const size_t first = at > size_t(kNeighbours) ? at - size_t(kNeighbours) : 1;
  for (size_t i = first; i < std::min(samples.size(), at + size_t(kNeighbours) + 1); ++i)
    if (i != at) round.push_back(double(samples[i].change));
  if (round.empty()) return 0;
  std::nth_element(round.begin(), round.begin() + ptrdiff_t(round.size() / 2), round.end());
  return round[round.size() / 2];
}

} // namespace

struct CutSampler::State {
  Ring ring;
  std::vector<CutSample> samples;
  void advance() {
    samples.push_back(measured(ring));
    if (ring.centre == size_t(kMostReach))
      ring.pictures.pop_front();
    else
      ++ring.centre;
  }
};

CutSampler::CutSampler() : m_state(std::make_unique<State>()) {}
CutSampler::~CutSampler() = default;

Status CutSampler::add(int64_t number, const Frame& picture) {
  auto thumb = thumbOf(picture);
  if (!thumb) return tl::unexpected(thumb.error());
  Ring& ring = m_state->ring;
  ring.pictures.emplace_back(number, std::move(*thumb));
  if (ring.pictures.size() > ring.centre + size_t(kMostReach)) m_state->advance();
  return {};
}

std::vector<CutSample> CutSampler::end() {
  while (m_state->ring.centre < m_state->ring.pictures.size()) m_state->advance();
  return std::move(m_state->samples);
}

Result<std::vector<CutSample>> readCutSamples(const Reading& reading, int64_t first, int64_t end, std::stop_token stop,
                                              const std::function<void(double)>& onFraction) {
  if (reading.file.kind != MediaKind::Video) return std::vector<CutSample>();
  auto reader = PictureSource::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  if (const Status there = reader->goTo(first); !there) return tl::unexpected(there.error());
  CutSampler sampler;
  for (;;) {
    if (stop.stop_requested())
      return fail(ErrorCode::Cancelled, say("looking for cuts was stopped"), reading.file.path);
    const auto got = reader->read();
    if (!got) return tl::unexpected(got.error());
    if (!got->frame || got->number >= end) break;
    if (const Status added = sampler.add(got->number, got->frame); !added) return tl::unexpected(added.error());
    if (onFraction) onFraction(double(got->number - first + 1) / double(std::max<int64_t>(1, end - first)));
  }
  return sampler.end();
}

std::vector<FoundCut> findCuts(const std::vector<CutSample>& samples, double threshold) {
  std::vector<FoundCut> cuts;
  for (size_t i = 1; i < samples.size(); ++i) {
    const CutSample& s = samples[i];
    if (double(s.change) < threshold || double(s.back) < kReturns * double(s.change)) continue;
    if (double(s.change) < kStandsOut * medianRound(samples, i)) continue;
    // The end of a flash is no cut either, because the picture after it resembles the one before it.
    const auto flash = [&](const CutSample& before) {
      return double(before.change) >= threshold && double(before.back) < kReturns * double(before.change);
    };
    const auto here = samples.begin() + ptrdiff_t(i);
    if (std::any_of(here - ptrdiff_t(std::min<size_t>(i, 3)), here, flash)) continue;
    cuts.push_back({s.frame, samples[i - 1].frame, s.frame, false, double(s.change)});
  }
  // A dissolve is the strongest mixture of a run of them, if no hard cut lies inside.
  std::vector<FoundCut> dissolves;
  for (const CutSample& s : samples) {
    if (double(s.dissolve) < kDissolveShare * threshold) continue;
    const FoundCut found{s.frame, s.frame - s.reach, s.frame + s.reach, true, double(s.dissolve)};
    const bool cutInside = std::any_of(
        cuts.begin(), cuts.end(), [&](const FoundCut& cut) { return cut.frame > found.from && cut.frame <= found.to; });
    if (cutInside) continue;
    if (dissolves.empty() || found.from > dissolves.back().to + kApart)
      dissolves.push_back(found);
    else if (found.strength > dissolves.back().strength)
      dissolves.back() = found;
  }
  cuts.insert(cuts.end(), dissolves.begin(), dissolves.end());
  std::sort(cuts.begin(), cuts.end(), [](const FoundCut& a, const FoundCut& b) { return a.frame < b.frame; });
  return cuts;
}

} // namespace tromb
