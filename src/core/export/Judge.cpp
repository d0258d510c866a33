// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Judge.h"

#include "Printed.h"
#include "media/SoundFormat.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace tromb {
namespace {

// ---- pictures

constexpr double kUnknownQuantiser = 36;
constexpr double kCoarsest = 47.5; ///< beyond, the encoder leaves so little that nothing can be judged
constexpr int kFarthest = 12;      ///< pictures to both sides among which one out of order is looked for
constexpr double kPart = 0.6;      ///< of the way to a neighbour's picture, from which on that is what is shown
constexpr double kMostLike = 0.4;  ///< of the difference from the wanted picture, that may be left from another one
constexpr double kShiftPixels = 1.6;

/// What encoding does to the mean of a cell at a quantiser: doubles every 7.2 steps.
double noiseAt(double quantiser) {
  return 0.1 * std::exp2((quantiser - 10) / 7.2);
}

/// How far a picture may differ from the composed one, in 8-bit steps.
struct PictureLimits {
  double mean;  ///< of the absolute difference of cells
  double cell;  ///< of any one
  double level; ///< of the whole picture
};

PictureLimits limitsFor(double noise) {
  return {0.8 + 3.2 * noise, 9 + 28 * noise, 1.8 + 1.7 * noise};
}

struct Difference {
  double mean = 0;     ///< of luma, signed
  double absolute = 0; ///< mean, of luma
  double most = 0;     ///< of any cell of luma
  double chroma = 0;   ///< mean absolute
};

Difference between(const PictureTrace& seen, const PictureTrace& wanted, size_t lumaCells) {
  Difference d;
  int64_t sum = 0;
  int64_t absolute = 0;
  int most = 0;
  int64_t chroma = 0;
  for (size_t i = 0; i < wanted.cells.size(); ++i) {
    const int off = int(seen.cells[i]) - int(wanted.cells[i]);
    if (i >= lumaCells) {
      chroma += std::abs(off);
      continue;
    }
    sum += off;
    absolute += std::abs(off);
    most = std::max(most, std::abs(off));
  }
  d.mean = double(sum) / double(lumaCells);
  d.absolute = double(absolute) / double(lumaCells);
  d.most = most;
  d.chroma = double(chroma) / double(std::max<size_t>(1, wanted.cells.size() - lumaCells));
  return d;
}

/// How far `seen` has gone from `from` towards `to` (0 none, 1 all of the way), and how far these are apart: the mean
/// square, and the most of any cell.
struct Way {
  double part = 0;
  double apart = 0;
  int most = 0;
};

Way wayBetween(const PictureTrace& seen, const PictureTrace& from, const PictureTrace& to, size_t lumaCells) {
  int64_t along = 0;
  int64_t square = 0;
  int most = 0;
  for (size_t i = 0; i < lumaCells; ++i) {
    const int step = int(to.cells[i]) - int(from.cells[i]);
    most = std::max(most, std::abs(step));
    along += int64_t(int(seen.cells[i]) - int(from.cells[i])) * step;
    square += int64_t(step) * step;
  }
  if (square == 0) return {};
  return {double(along) / double(square), double(square) / double(lumaCells), most};
}

/// Estimates by how many canvas pixels the picture is displaced, by least squares over the slopes of the small copy; 0
/// if it has too few slopes to tell.
double shiftOf(const PictureTrace& seen, const PictureTrace& wanted, const PictureTrace::Shape& shape, Size canvas) {
  const int w = shape.luma.width;
  const int h = shape.luma.height;
  double xx = 0;
  double xy = 0;
  double yy = 0;
  double xd = 0;
  double yd = 0;
  for (int y = 1; y + 1 < h; ++y)
    for (int x = 1; x + 1 < w; ++x) {
      const auto at = [&](int cx, int cy) { return double(wanted.cells[size_t(cy * w + cx)]); };
      const double gx = (at(x + 1, y) - at(x - 1, y)) / 2;
      const double gy = (at(x, y + 1) - at(x, y - 1)) / 2;
      const double off = double(seen.cells[size_t(y * w + x)]) - at(x, y);
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
      xd -= gx * off;
      yd -= gy * off;
    }
  const double det = xx * yy - xy * xy;
  const double cells = double(w) * h;
  if (det <= 0 || xx / cells < 4 || yy / cells < 4) return 0;
  return std::max(std::abs(xd * yy - yd * xy) / det * canvas.width / w,
                  std::abs(yd * xx - xd * xy) / det * canvas.height / h);
}

/// The small copy turned left for right.
PictureTrace mirrored(PictureTrace trace, const PictureTrace::Shape& shape) {
  auto row = trace.cells.begin();
  for (const Size& size : {shape.luma, shape.chroma, shape.chroma})
    for (int y = 0; y < size.height; ++y, row += size.width) std::reverse(row, row + size.width);
  return trace;
}

// ---- sound

constexpr int kWindow = SoundTrace::kRate / 2; ///< values that are judged together
constexpr int kMostLate = SoundTrace::kRate / 2;
constexpr double kHeard = 0.002; ///< of full scale, root mean square: below there is nothing to judge
constexpr double kLateSeconds = 0.012;
constexpr double kGone = 0.1;    ///< of a channel's level, 20 dB: it is silent where it should sound
constexpr double kAlike = 0.5;   ///< correlation of a channel with itself, at least
constexpr double kSwapped = 0.2; ///< more like the other channel than like itself by this much

/// What AAC at a bit rate leaves of a waveform: measured here at 8 to 320 kb/s, doubled.
struct SoundLimits {
  double levelDb;
  double crest; ///< of the ratio of peak to mean power that it had; 0: cannot be told
};

SoundLimits limitsAt(int64_t bitRate) {
  if (bitRate <= 0 || bitRate >= 128'000) return {0.75, 0.85};
  if (bitRate >= 64'000) return {1.5, 0.8};
  return {5, 0.6};
}

constexpr size_t kLowFrequencies = 3; ///< of 5.1

/// Coders keep nothing of the channel of low frequencies but these: means of 4 ms have their first zero at 250 Hz.
void keepLow(std::vector<float>& values) {
  constexpr size_t kTogether = SoundTrace::kRate / 250;
  std::vector<float> low(values.size() >= kTogether ? values.size() - kTogether + 1 : 0);
  for (size_t i = 0; i < low.size(); ++i)
    low[i] = std::accumulate(values.begin() + ptrdiff_t(i), values.begin() + ptrdiff_t(i + kTogether), 0.0F) /
             float(kTogether);
  values = std::move(low);
}

Message channelName(size_t channel, size_t channels) {
  static const std::array<Message, 6> kNames{say("the left channel"),
                                             say("the right channel"),
                                             say("the centre"),
                                             say("the low frequencies' channel"),
                                             say("the left surround channel"),
                                             say("the right surround channel")};
  return channels == 1 ? say("the one channel") : kNames[channel];
}

double power(const std::vector<float>& values) {
  double sum = 0;
  for (const float v : values) sum += double(v) * v;
  return values.empty() ? 0 : sum / double(values.size());
}

double product(const std::vector<float>& a, const std::vector<float>& b) {
  double sum = 0;
  const size_t count = std::min(a.size(), b.size());
  for (size_t i = 0; i < count; ++i) sum += double(a[i]) * b[i];
  return count == 0 ? 0 : sum / double(count);
}

double alike(const std::vector<float>& a, const std::vector<float>& b) {
  const double both = power(a) * power(b);
  return both > 0 ? product(a, b) / std::sqrt(both) : 0;
}

} // namespace

PictureJudge::PictureJudge(const TraceFile& traces, Size canvas, double framesASecond, int64_t first)
    : m_traces(traces), m_canvas(canvas), m_rate(framesASecond), m_frame(first) {}

void PictureJudge::fault(const char* code, const Message& what) {
  Fault& f = m_faults[code];
  if (f.times.size() < Fault::kMostTimes) f.times.push_back(double(m_frame) / m_rate);
  if (f.count++ > 0) return;
  f.code = code;
  f.what = what;
  f.first = f.times.front();
}

Result<const PictureTrace*> PictureJudge::planned(int64_t frame) {
  if (const auto at = m_near.find(frame); at != m_near.end()) return &at->second;
  auto trace = m_traces.picture(frame);
  if (!trace) return tl::unexpected(trace.error());
  return &m_near.emplace(frame, std::move(*trace)).first->second;
}

/// True if the file shows the picture of another frame here.
Result<bool> PictureJudge::outOfOrder(const PictureTrace& seen, const PictureTrace& wanted, double noise) {
  const auto luma = size_t(m_traces.shape().luma.width) * size_t(m_traces.shape().luma.height);
  bool elsewhere = false;
  for (const int64_t side : {-1, 1}) {
    const int64_t other = m_frame + side;
    if (other < 0 || other >= m_traces.frameCount()) continue;
    const auto neighbour = planned(other);
    if (!neighbour) return tl::unexpected(neighbour.error());
    const Way way = wayBetween(seen, wanted, **neighbour, luma);
    // An encoder may skip a change of one code value and repeat the picture before, which nobody can see.
    elsewhere = elsewhere || (way.most > 1 && way.part > kPart && way.apart > 0.2 + 4 * noise * noise);
  }
  if (!elsewhere) return false;
  // Finds the neighbouring planned picture that is nearest to it.
  int64_t best = m_frame;
  double least = between(seen, wanted, luma).absolute;
  for (int64_t other = m_frame - kFarthest; other <= m_frame + kFarthest; ++other) {
    if (other < 0 || other >= m_traces.frameCount()) continue;
    const auto trace = planned(other);
    if (!trace) return tl::unexpected(trace.error());
    const double off = between(seen, **trace, luma).absolute;
    if (off < least) {
      least = off;
      best = other;
    }
  }
  // The difference must be nearly gone, not only a little smaller.
  if (best == m_frame || least > std::max(limitsFor(noise).mean, kMostLike * between(seen, wanted, luma).absolute))
    return false;
  const int64_t by = best - m_frame;
  if (by == 1)
    fault("order", say("the picture after it is shown"));
  else if (by == -1)
    fault("order", say("the picture before it is shown again"));
  else
    fault("order", by > 0 ? say("a picture is shown %1 frames too early", by)
                          : say("a picture is shown %1 frames too late", -by));
  return true;
}

Status PictureJudge::add(const Frame& picture, double quantiser) {
  if (m_frame >= m_traces.frameCount()) {
    ++m_frame;
    return {};
  }
  const PictureTrace::Shape& shape = m_traces.shape();
  const auto got = planned(m_frame);
  if (!got) return tl::unexpected(got.error());
  const PictureTrace& wanted = **got;
  const PictureTrace seen = PictureTrace::of(picture, shape, wanted.scatter);
  m_likeness.push_back(float(seen.likeness(wanted)));
  const double q = quantiser < 0 ? kUnknownQuantiser : quantiser;
  if (q <= kCoarsest) {
    ++m_judged;
    const double noise = noiseAt(q);
    const PictureLimits limits = limitsFor(noise);
    const auto luma = size_t(shape.luma.width) * size_t(shape.luma.height);
    const Difference off = between(seen, wanted, luma);
    const auto moved = outOfOrder(seen, wanted, noise);
    if (!moved) return tl::unexpected(moved.error());
    const double mirroredOff = off.absolute > 3 ? between(mirrored(seen, shape), wanted, luma).absolute : off.absolute;
    if (*moved) {
      // All other differences follow from that one.
    } else if (mirroredOff < off.absolute / 2) {
      fault("position", say("the picture is mirrored"));
    } else if (off.absolute > limits.mean || off.chroma > limits.mean || off.most > limits.cell) {
      const bool colour = off.chroma > limits.mean && off.absolute <= limits.mean;
      const double level = std::abs(off.mean);
      if (const double shift = shiftOf(seen, wanted, shape, m_canvas);
          shift > kShiftPixels + noise && level < 0.5 * off.absolute)
        fault("position", say("the picture lies about %1 pixels off", printed("%.0f", std::ceil(shift))));
      else
        fault("content", colour                       ? say("colours differ by %1", printed("%.1f", off.chroma))
                         : level > 0.7 * off.absolute ? say("it is %1 lighter or darker", printed("%+.1f", off.mean))
                                                      : say("it differs by %1", printed("%.1f", off.absolute)));
    } else if (std::abs(off.mean) > limits.level) {
      fault("content", say("it is %1 lighter or darker", printed("%+.1f", off.mean)));
    } else {
      if (const double shift = shiftOf(seen, wanted, shape, m_canvas); shift > kShiftPixels + 2 * noise)
        fault("position", say("the picture lies about %1 pixels off", printed("%.0f", std::ceil(shift))));
      const double least = 0.84 - 0.015 * std::max(0.0, q - 20);
      if (wanted.sharpness > 4 && seen.sharpness < least * wanted.sharpness)
        fault("sharpness",
              say("it keeps %1 of its contours", printed("%.2f", double(seen.sharpness / wanted.sharpness))));
    }
    const std::array<Message, 4> sides{say("a bar above"), say("a bar below"), say("a bar on the left"),
                                       say("a bar on the right")};
    constexpr auto kParts = ptrdiff_t(PictureTrace::kEdgeParts);
    for (size_t side = 0; side < sides.size() && !*moved; ++side) {
      const auto mean = [&](const PictureTrace& t) {
        const auto from = t.edges.begin() + ptrdiff_t(side) * kParts;
        return double(std::accumulate(from, from + kParts, 0)) / double(kParts);
      };
      const double left = mean(seen);
      if (mean(wanted) - left > 6 + 5 * noise && left < 32) fault("edges", sides[side]);
    }
  }
  ++m_frame;
  while (!m_near.empty() && m_near.begin()->first < m_frame - kFarthest - 1) m_near.erase(m_near.begin());
  return {};
}

void SoundJudge::fault(const char* code, const Message& what, double seconds) {
  Fault& f = m_faults[code];
  if (f.times.size() < Fault::kMostTimes) f.times.push_back(seconds);
  if (f.count++ > 0) return;
  f.code = code;
  f.what = what;
  f.first = seconds;
}

void SoundJudge::add(std::span<const float> samples) {
  m_gatherer.add(samples, m_seen);
}

/// How far the sound lies behind the mix (before it, where less than 0): most of the stretches that can tell agree.
Status SoundJudge::findLateness() {
  std::map<int, int> votes;
  int voters = 0;
  constexpr int kStretch = SoundTrace::kRate;
  const auto seenCount = int64_t(m_seen.size() / m_channels);
  for (int64_t at = 0; at < m_traces.soundCount() && voters < 24; at += kStretch * 2) {
    const auto wanted = m_traces.sound(at, kStretch);
    if (!wanted) return tl::unexpected(wanted.error());
    std::vector<float> mix;
    const auto sum = [this](const std::vector<SoundTrace::Value>& values, int64_t place) {
      const auto first = values.begin() + place * ptrdiff_t(m_channels);
      return std::accumulate(first, first + ptrdiff_t(m_channels), 0.0F);
    };
    for (int64_t i = 0; i < int64_t(wanted->size() / m_channels); ++i) mix.push_back(sum(*wanted, i));
    if (std::sqrt(power(mix)) < 2 * kHeard * double(SoundTrace::kFull)) continue;
    // The file's sound over all places that are tried; silence where the file has none.
    std::vector<float> found(mix.size() + 2 * kMostLate, 0);
    std::vector<double> squares(found.size() + 1, 0); // prefix sums of the squares
    for (size_t i = 0; i < found.size(); ++i) {
      const int64_t place = at + int64_t(i) - kMostLate;
      if (place >= 0 && place < seenCount) found[i] = sum(m_seen, place);
      squares[i + 1] = squares[i] + double(found[i]) * double(found[i]);
    }
    const auto likeness = [&](int late) {
      const auto from = size_t(late + kMostLate);
      std::array<double, 4> sums{}; // side by side, since each addition waits for the one before
      for (size_t i = 0; i < mix.size(); ++i) sums[i % 4] += double(found[from + i]) * double(mix[i]);
      return (sums[0] + sums[1] + sums[2] + sums[3]) / std::sqrt(1 + squares[from + mix.size()] - squares[from]);
    };
    // If the match is perfect already, no other place can be better (Cauchy and Schwarz), so none is tried.
    constexpr double kAsGood = 0.97;
    ++voters;
    if (likeness(0) > kAsGood * std::sqrt(power(mix) * double(mix.size()))) {
      ++votes[0];
      continue;
    }
    double most = 0;
    double here = 0;
    int best = 0;
    for (int late = -kMostLate; late <= kMostLate; ++late) {
      const double like = likeness(late);
      if (late == 0) here = like;
      if (like > most) {
        most = like;
        best = late;
      }
    }
    // A tone matches itself at every period, so only a clear difference counts.
    ++votes[here > kAsGood * most ? 0 : best];
  }
  for (const auto& [late, count] : votes)
    if (count * 2 > voters) m_late = late;
  return {};
}

void SoundJudge::judge(const std::vector<Values>& wanted, const std::vector<Values>& seen, double seconds,
                       bool settled) {
  const SoundLimits limits = limitsAt(m_bitRate * kStereo / int64_t(m_channels));
  for (size_t channel = 0; channel < m_channels; ++channel) {
    const Values& mix = wanted[channel];
    const double level = std::sqrt(power(mix)) / double(SoundTrace::kFull);
    const double found = std::sqrt(power(seen[channel])) / double(SoundTrace::kFull);
    const Message name = channelName(channel, m_channels);
    if (level < kHeard) {
      if (found > 10 * kHeard && settled)
        fault("sound-content", say("%1 sounds where it is to be silent", name), seconds);
      continue;
    }
    if (found < kGone * level) {
      fault("sound-content", say("%1 is silent", name), seconds);
      continue;
    }
    const double own = alike(mix, seen[channel]);
    double nearest = 0;
    size_t like = channel;
    for (size_t other = 0; other < m_channels; ++other)
      if (const double likeness = alike(mix, seen[other]); likeness > nearest) {
        nearest = likeness;
        like = other;
      }
    if (nearest > own + kSwapped && nearest > kAlike) {
      fault("sound-content",
            m_channels == size_t(kStereo) ? say("left and right are swapped")
                                          : say("%1 stands where %2 is to be", name, channelName(like, m_channels)),
            seconds);
      continue;
    }
    if (own < -kAlike) {
      fault("sound-content", say("%1 is turned upside down", name), seconds);
      continue;
    }
    if (own < kAlike) {
      fault("sound-content", say("%1 is another sound", name), seconds);
      continue;
    }
    const double gain = 20 * std::log10(found / level);
    if (std::abs(gain) > limits.levelDb)
      fault("sound-level", say("it is %1 dB louder or softer", printed("%+.1f", gain)), seconds);
    // Clipping makes the waveform flatter than it was.
    const auto crest = [](const Values& values) {
      float most = 0;
      for (const float v : values) most = std::max(most, std::abs(v));
      return double(most) / std::sqrt(std::max(1e-9, power(values)));
    };
    if (settled && crest(seen[channel]) < limits.crest * crest(mix))
      fault("sound-content", say("%1 is clipped", name), seconds);
  }
}

Result<std::map<std::string, Fault>> SoundJudge::faults() {
  if (const Status found = findLateness(); !found) return tl::unexpected(found.error());
  const double late = double(m_late) / SoundTrace::kRate;
  const std::string ms = printed("%.0f", std::abs(late) * 1000);
  if (std::abs(late) > kLateSeconds)
    fault("sound-lateness", late > 0 ? say("it comes %1 ms late", ms) : say("it comes %1 ms early", ms), 0);
  for (int64_t at = 0; at < m_traces.soundCount(); at += kWindow) {
    const auto mix = m_traces.sound(at, kWindow);
    if (!mix) return tl::unexpected(mix.error());
    std::vector<Values> wanted(m_channels);
    std::vector<Values> seen(m_channels);
    for (size_t i = 0; i < mix->size() / m_channels; ++i) {
      const int64_t place = at + int64_t(i) + m_late;
      if (place < 0 || place >= int64_t(m_seen.size() / m_channels)) continue;
      for (size_t channel = 0; channel < m_channels; ++channel) {
        wanted[channel].push_back(float((*mix)[i * m_channels + channel]));
        seen[channel].push_back(float(m_seen[size_t(place) * m_channels + channel]));
      }
    }
    if (m_channels == size_t(kSurround))
      for (std::vector<Values>* values : {&wanted, &seen}) keepLow((*values)[kLowFrequencies]);
    const bool settled = at >= kWindow; // the first block of a coder may ring
    if (wanted[0].size() > size_t(kWindow / 10)) judge(wanted, seen, double(at) / SoundTrace::kRate, settled);
  }
  return m_faults;
}

} // namespace tromb
