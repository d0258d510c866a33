// SPDX-License-Identifier: GPL-3.0-or-later
#include "sample/SampleChoice.h"

#include "media/Av.h"
#include "media/write/PictureEncoder.h"
#include "render/Pictures.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>

namespace tromb {
namespace {

constexpr int64_t kMostProbes = 60;
constexpr int kProbesASecond = 2;
constexpr double kHardestSeconds = 2;
constexpr double kTypicalSeconds = 1.2;
constexpr double kLeadSeconds = 0.7;
const double kLike = std::log(1.3); ///< bytes that are so far apart are still much the same
constexpr int kParts = 5;           ///< that a plan is divided into by the bytes that it takes

/// A probe and the frames that lie nearer to it than to others.
struct Weighed {
  Probe probe;
  double begin;
  double end;
  [[nodiscard]] double frames() const { return end - begin; }
  [[nodiscard]] double bytes() const { return frames() * probe.bytes; }
};

std::vector<Weighed> weighed(const std::vector<Probe>& probes, int64_t frames) {
  std::vector<Weighed> all;
  for (size_t i = 0; i < probes.size(); ++i) {
    const double begin = i == 0 ? 0 : double(probes[i - 1].frame + probes[i].frame) / 2;
    const double end = i + 1 == probes.size() ? double(frames) : double(probes[i].frame + probes[i + 1].frame) / 2;
    all.push_back({probes[i], begin, end});
  }
  return all;
}

/// Encodes pairs of pictures, a key frame and one that leans on it, with little effort.
class QuickEncode {
public:
  static Result<QuickEncode> open(const Plan& plan) {
    PictureStream stream{pictureOf(plan.deliverable()), quickLike(plan)};
    auto encoder = PictureEncoder::open(stream, {}, true);
    if (!encoder) return tl::unexpected(encoder.error());
    return QuickEncode(std::move(*encoder));
  }
  Status add(const Frame& picture) { return m_encoder.add(picture, 1, sink()); }
  /// The bytes of each picture.
  Result<std::vector<int64_t>> finish() {
    if (const Status done = m_encoder.finish(sink()); !done) return tl::unexpected(done.error());
    return m_bytes;
  }

private:
  /// H.264 at about the same constant quality: where little is kept, grain costs less beside edges. The plan's own
  /// codec where H.264 does not have its samples; those that do so encode every picture by itself, and quickly.
  static Encoding quickLike(const Plan& plan) {
    const Encoding& e = plan.encoding();
    const PictureCodec& quick = infoOf(Codec::H264);
    if (!quick.takes({plan.format().depth, plan.format().chroma})) return e;
    Encoding like;
    like.rateControl = RateControl::ConstantQuality;
    like.crf = quick.quality.usual;
    if (*e.rateControl == RateControl::ConstantQuality) {
      const QualityScale& from = e.info().quality;
      const double off = (*e.crf - from.usual) / (from.most - from.least) * (from.rises ? -1 : 1);
      like.crf = std::clamp(*like.crf + off * (quick.quality.most - quick.quality.least), quick.quality.least,
                            quick.quality.most);
    }
    like.speed = "ultrafast";
    like.keySeconds = plan.rate().timeOf(2);
    like.keysAtCuts = false;
    return resolved(like, pictureOf(plan.deliverable()));
  }
  explicit QuickEncode(PictureEncoder encoder) : m_encoder(std::move(encoder)) {}
  PacketSink sink() {
    return [this](AVPacket& packet) -> Status {
      if (packet.pts < 0) return {};
      m_bytes.resize(std::max(m_bytes.size(), size_t(packet.pts) + 1));
      m_bytes[size_t(packet.pts)] = packet.size;
      return {};
    };
  }
  PictureEncoder m_encoder;
  std::vector<int64_t> m_bytes;
};

bool meets(const SampleStretch& a, const SampleStretch& b) {
  return a.first - a.lead < b.first + b.count && b.first - b.lead < a.first + a.count;
}

} // namespace

double keyDistance(const Plan& plan, const Encoding& e) {
  const auto most = std::max(1.0, (e.keySeconds * plan.rate().value()).toDouble());
  double keys = 0;
  for (const PlanPiece& piece : plan.pieces()) keys += std::ceil(double(piece.frameCount) / most);
  return keys > 0 ? double(plan.frameCount()) / keys : most;
}

Result<std::vector<Probe>> probePlan(const Plan& plan, std::stop_token stop,
                                     const std::function<void(double)>& onFraction) {
  const int64_t frames = plan.frameCount();
  const auto wanted = int64_t(std::ceil(plan.duration().toDouble() * kProbesASecond));
  const int64_t count = std::clamp<int64_t>(wanted, 1, std::min(kMostProbes, frames));
  PlanPictures pictures(plan, stop);
  std::optional<QuickEncode> quick;
  if (!plan.encoding().info().loop) { // which is encoded whole
    auto opened = QuickEncode::open(plan);
    if (!opened) return tl::unexpected(opened.error());
    quick.emplace(std::move(*opened));
  }
  InformationMeter meter;
  std::vector<Probe> probes;
  for (int64_t i = 0; i < count; ++i) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("the sample was cancelled"));
    Probe probe;
    probe.frame = std::min(frames - 1, (2 * i + 1) * frames / (2 * count));
    // The change across a cut says nothing of what lies on either side.
    if (plan.at(probe.frame).frame == 0 && probe.frame + 1 < frames && plan.at(probe.frame + 1).frame != 0)
      ++probe.frame;
    for (const int64_t n : {std::max<int64_t>(0, probe.frame - 1), probe.frame}) {
      const auto picture = pictures.at(n);
      if (!picture) return tl::unexpected(picture.error());
      probe.information = meter.add(*picture);
      if (!quick) continue;
      if (const Status added = quick->add(*picture); !added) return tl::unexpected(added.error());
    }
    probes.push_back(probe);
    if (onFraction) onFraction(double(i + 1) / double(count));
  }
  if (!quick) {
    for (Probe& each : probes) each.bytes = 1 + each.hardness();
    return probes;
  }
  const auto bytes = quick->finish();
  if (!bytes) return tl::unexpected(bytes.error());
  const double keys = std::min(1.0, 1 / keyDistance(plan, plan.encoding()));
  for (size_t i = 0; i < probes.size(); ++i)
    probes[i].bytes = 1 + keys * double((*bytes)[2 * i]) + (1 - keys) * double((*bytes)[2 * i + 1]);
  return probes;
}

std::vector<SampleStretch> chooseSample(const std::vector<Probe>& probes, int64_t frames, const FrameRate& rate,
                                        int64_t mostFrames) {
  if (probes.empty() || frames <= std::min(mostFrames, rate.frameAt(Rational(kWholeSampleSeconds))))
    return {{0, 0, frames, 1, 1, true}};
  const double most = double(mostFrames) / (kHardestSeconds + kLeadSeconds + kParts * (kTypicalSeconds + kLeadSeconds));
  const double framesASecond = std::min(rate.toDouble(), most);
  const auto stretchAt = [&](int64_t frame, double seconds) {
    const auto count = std::clamp<int64_t>(std::lround(seconds * framesASecond), 1, frames);
    const auto first = std::clamp<int64_t>(frame - count / 2, 0, frames - count);
    return SampleStretch{std::min<int64_t>(first, std::lround(kLeadSeconds * framesASecond)), first, count};
  };
  const auto hardest = std::max_element(probes.begin(), probes.end(),
                                        [](const Probe& a, const Probe& b) { return a.hardness() < b.hardness(); });
  std::vector<SampleStretch> chosen{stretchAt(hardest->frame, kHardestSeconds)};
  chosen.front().hardest = true;
  std::vector<Weighed> byBytes = weighed(probes, frames);
  std::stable_sort(byBytes.begin(), byBytes.end(),
                   [](const Weighed& a, const Weighed& b) { return a.probe.bytes < b.probe.bytes; });
  double all = 0;
  for (const Weighed& each : byBytes) all += each.bytes();
  double below = 0;                              // bytes of the cheaper ones
  std::array<std::vector<size_t>, kParts> parts; // places in byBytes
  std::vector<double> middle;                    // of each place, as a share of all bytes
  for (const Weighed& each : byBytes) {
    middle.push_back((below + each.bytes() / 2) / all);
    parts[size_t(std::clamp(int(middle.back() * kParts), 0, kParts - 1))].push_back(middle.size() - 1);
    below += each.bytes();
  }
  const auto bytesIn = [&](const SampleStretch& stretch) { // a picture, by the probes that its frames are nearest to
    double sum = 0;
    for (const Weighed& each : byBytes) {
      const double begin = std::max(each.begin, double(stretch.first));
      const double end = std::min(each.end, double(stretch.first + stretch.count));
      sum += std::max(0.0, end - begin) * each.probe.bytes;
    }
    return sum / double(stretch.count);
  };
  for (int part = 0; part < kParts; ++part) {
    const std::vector<size_t>& places = parts[size_t(part)];
    double share = 0;
    double bytes = 0;
    for (const size_t place : places) {
      share += byBytes[place].frames() / double(frames);
      bytes += byBytes[place].bytes() / double(frames);
    }
    if (share <= 0) continue;
    const double mean = bytes / share;
    // What is most like the mean of its part and lies apart from what is chosen already; where something that is chosen
    // is much more like it, that stands for this part, too.
    const auto distance = [mean](double each) { return std::abs(std::log(each / mean)); };
    std::optional<SampleStretch> apart;
    double nearest = std::numeric_limits<double>::infinity();
    for (const size_t place : places) {
      const SampleStretch at = stretchAt(byBytes[place].probe.frame, kTypicalSeconds);
      if (std::any_of(chosen.begin(), chosen.end(), [&](const auto& each) { return meets(each, at); })) continue;
      if (distance(bytesIn(at)) >= nearest) continue;
      nearest = distance(bytesIn(at));
      apart = at;
    }
    const auto like = std::min_element(chosen.begin(), chosen.end(), [&](const auto& x, const auto& y) {
      return distance(bytesIn(x)) < distance(bytesIn(y));
    });
    if (apart && (nearest < kLike || nearest <= distance(bytesIn(*like)))) chosen.push_back(*apart);
  }
  // Each place is stood for by the stretch that is most like it.
  std::vector<double> bytes(chosen.size(), 0);
  for (const Weighed& each : byBytes) {
    size_t best = 0;
    const auto distance = [&](size_t i) { return std::abs(std::log(each.probe.bytes / bytesIn(chosen[i]))); };
    for (size_t i = 1; i < chosen.size(); ++i)
      if (distance(i) < distance(best)) best = i;
    chosen[best].share += each.frames() / double(frames);
    bytes[best] += each.bytes() / double(frames);
  }
  for (size_t i = 0; i < chosen.size(); ++i)
    if (chosen[i].share > 0) chosen[i].factor = bytes[i] / chosen[i].share / bytesIn(chosen[i]);
  std::sort(chosen.begin(), chosen.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  return chosen;
}

} // namespace tromb
