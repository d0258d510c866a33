// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Likeness.h"

#include "media/Av.h"

#include <cmath>
#include <cstdlib>
#include <limits>

namespace tromb {
namespace {

tl::unexpected<Error> notMeasured() {
  return fail(ErrorCode::Unsupported, say("these pictures cannot be measured"));
}

/// A number that a filter has written beside a picture.
double numberBeside(const AVFrame& picture, const char* key) {
  const AVDictionaryEntry* entry = av_dict_get(picture.metadata, key, nullptr, 0);
  return entry ? std::strtod(entry->value, nullptr) : std::numeric_limits<double>::quiet_NaN();
}

bool alike(const AVFrame& a, const AVFrame& b) {
  return a.width == b.width && a.height == b.height && a.format == b.format;
}

} // namespace

double peakSignalToNoise(double error, int bits) {
  const double peak = double((1 << bits) - 1);
  return error > 0 ? 10 * std::log10(peak * peak / error) : std::numeric_limits<double>::infinity();
}

struct LikenessMeter::State {
  av::FilterGraph graph;
  Frame like;
  int64_t next = 0;
};

LikenessMeter::LikenessMeter(std::unique_ptr<State> state) : m_state(std::move(state)) {}
LikenessMeter::LikenessMeter(LikenessMeter&&) noexcept = default;
LikenessMeter& LikenessMeter::operator=(LikenessMeter&&) noexcept = default;
LikenessMeter::~LikenessMeter() = default;

Result<LikenessMeter> LikenessMeter::create(const Frame& like) {
  auto built = av::FilterGraph::build(
      *like, "null[given];[beside]split[one][two];[given][one]ssim[compared];[compared][two]psnr", like.get());
  if (!built) return tl::unexpected(built.error());
  return LikenessMeter(std::make_unique<State>(State{std::move(*built), like, 0}));
}

Result<Likeness> LikenessMeter::compare(const Frame& picture, const Frame& wanted) {
  State& s = *m_state;
  if (!alike(*picture, *s.like) || !alike(*wanted, *s.like))
    return fail(ErrorCode::InvalidArgument, say("pictures of another size or format cannot be compared"));
  if (const Status done = s.graph.pushBeside(wanted.get(), s.next); !done) return tl::unexpected(done.error());
  if (const Status done = s.graph.push(picture.get(), s.next++); !done) return tl::unexpected(done.error());
  const av::FramePtr told = s.graph.pull();
  if (!told) return notMeasured();
  const Likeness found{numberBeside(*told, "lavfi.ssim.All"), numberBeside(*told, "lavfi.psnr.mse_avg")};
  if (std::isnan(found.ssim) || std::isnan(found.error)) return notMeasured();
  return found;
}

} // namespace tromb
