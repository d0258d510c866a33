// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/ShotSound.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <new>
#include <rubberband/RubberBandStretcher.h>
#include <samplerate.h>
#include <utility>

namespace tromb {
namespace {

constexpr int64_t kTicksASample = kTicksASecond / kSoundRate;
constexpr int64_t kBackBlock = kSoundRate / 2; ///< read at once going backwards
constexpr int64_t kKeptBlock = 512;            ///< samples of the source that are stretched alike
constexpr int64_t kChangedBlocks = 4;          ///< after so many a change of speed is followed
constexpr double kCorrected = 0.25;            ///< of what is amiss, each time
constexpr double kFastestKept = 8;             ///< faster, Rubber Band's finer engine reads beyond what it holds
constexpr int64_t kLeftOut = 2048;             ///< samples that are left out at once where it is faster than that
constexpr int64_t kFaded = 256;                ///< samples over which one goes over into what comes after
constexpr int64_t kFollowingBlock = 64;        ///< samples of the shot that are made alike
constexpr int64_t kFollowingBefore = 16;       ///< blocks that are made before the first that is meant

/// How much too early Rubber Band's finer engine brings what happens at a speed, in seconds; measured with clicks: the
/// mean over 40 of them of their loudest samples, and beyond four times as long, where a click becomes a long swell, of
/// the middle of their power.
double broughtEarly(double speed) {
  struct Measured {
    double times; ///< as long
    double seconds;
  };
  static constexpr std::array<Measured, 12> kMeasured{{{1, 0},
                                                       {1.25, 0.0007},
                                                       {1.5, 0.0022},
                                                       {2, 0.0052},
                                                       {2.667, 0.0097},
                                                       {3, 0.0115},
                                                       {4, 0.0196},
                                                       {5, 0.0160},
                                                       {6.667, 0.0086},
                                                       {10, 0.0089},
                                                       {15, 0.0105},
                                                       {20, 0.0128}}};
  const double times = std::clamp(1 / speed, 1.0, kMeasured.back().times);
  const auto above = std::find_if(kMeasured.begin() + 1, kMeasured.end() - 1,
                                  [times](const Measured& each) { return each.times >= times; });
  const Measured& below = *(above - 1);
  return below.seconds + (above->seconds - below.seconds) * (times - below.times) / (above->times - below.times);
}

} // namespace

// ---- the sound of the source

DirectedSound::DirectedSound(AudioReader reader, const TimeMap& time, int channels)
    : m_reader(std::move(reader)), m_channels(channels), m_back(time.reversed()),
      m_origin(Rational::nearestProduct(m_back ? time.out() : time.in(), Rational(kSoundRate))) {}

Result<DirectedSound> DirectedSound::open(const Reading& reading, const TimeMap& time, int channels,
                                          std::stop_token stop) {
  auto reader = AudioReader::open(reading, std::move(stop), channels);
  if (!reader) return tl::unexpected(reader.error());
  DirectedSound sound(std::move(*reader), time, channels);
  if (const Status there = sound.goTo(0); !there) return tl::unexpected(there.error());
  return sound;
}

Status DirectedSound::goTo(int64_t passed) {
  m_passed = passed;
  m_block.clear();
  return m_back ? Status() : m_reader.goTo(m_origin + passed);
}

Status DirectedSound::read(float* out, int64_t count) {
  if (m_back) return readBackwards(out, count);
  m_passed += count;
  const auto got = m_reader.read(out, count);
  return got ? Status() : tl::unexpected(got.error());
}

Status DirectedSound::readBackwards(float* out, int64_t count) {
  while (count > 0) {
    const auto held = int64_t(m_block.size()) / m_channels;
    if (m_passed < m_blockFrom || m_passed >= m_blockFrom + held) {
      m_block.assign(size_t(kBackBlock * m_channels), 0);
      m_blockFrom = m_passed;
      if (const Status there = m_reader.goTo(m_origin - m_passed - kBackBlock); !there) return there;
      if (const auto got = m_reader.read(m_block.data(), kBackBlock); !got) return tl::unexpected(got.error());
      for (int64_t a = 0, b = kBackBlock - 1; a < b; ++a, --b)
        std::swap_ranges(m_block.data() + a * m_channels, m_block.data() + (a + 1) * m_channels,
                         m_block.data() + b * m_channels);
      continue;
    }
    const int64_t from = m_passed - m_blockFrom;
    const int64_t now = std::min(count, held - from);
    out = std::copy_n(m_block.data() + from * m_channels, now * m_channels, out);
    m_passed += now;
    count -= now;
  }
  return {};
}

// ---- at another speed

/// Makes samples of a shot, one after the other from `begin` on.
class ShotSound::Stretch {
public:
  Stretch(DirectedSound& sound, const TimeMap& time, int channels, int64_t begin)
      : m_sound(sound), m_time(time), m_channels(channels), m_begin(begin), m_made(begin) {}
  Stretch(const Stretch&) = delete;
  Stretch& operator=(const Stretch&) = delete;
  virtual ~Stretch() = default;
  [[nodiscard]] virtual Status read(float* out, int64_t count) = 0;

protected:
  /// Samples of the source that have passed at a sample of the shot.
  [[nodiscard]] double passed(int64_t sample) const {
    return double(ticksOf(m_time.passed(secondsOf(sample * kTicksASample)))) / kTicksASample;
  }
  DirectedSound& m_sound;
  const TimeMap m_time;
  const int m_channels;
  const int64_t m_begin;
  int64_t m_made; ///< the sample of the shot that comes next
};

class ShotSound::Kept final : public Stretch {
public:
  Kept(DirectedSound& sound, const TimeMap& time, int channels, int64_t begin)
      : Stretch(sound, time, channels, begin),
        m_stretcher(kSoundRate, size_t(channels),
                    RubberBand::RubberBandStretcher::OptionProcessRealTime |
                        RubberBand::RubberBandStretcher::OptionEngineFiner |
                        RubberBand::RubberBandStretcher::OptionChannelsTogether |
                        RubberBand::RubberBandStretcher::OptionThreadingNever,
                    1 / std::min(kFastestKept, speedAt(std::llround(passed(begin))))),
        m_lag(int64_t(m_stretcher.getStartDelay())), m_drop(m_lag), m_changes(!time.speed()) {
    // What is to be heard first is brought too early: so it is begun with what lies before it.
    const int64_t first = std::llround(passed(begin));
    const double speed = speedAt(first);
    m_hurry = std::max(1.0, speed / kFastestKept);
    m_fed = first - std::llround(broughtEarly(speed) * speed * kSoundRate +
                                 double(m_stretcher.getPreferredStartPad()) * m_hurry);
    m_planes.resize(size_t(channels), std::vector<float>(kKeptBlock));
  }

  Status read(float* out, int64_t count) override {
    if (!m_begun) {
      m_begun = true;
      if (const Status there = m_sound.goTo(m_fed); !there) return there;
    }
    while (count > 0) {
      const int ready = m_stretcher.available();
      if (ready <= 0) {
        if (const Status fed = feed(); !fed) return fed;
        continue;
      }
      const int64_t now = std::min({int64_t(ready), kKeptBlock, m_drop > 0 ? m_drop : count});
      std::vector<float*> planes;
      for (auto& plane : m_planes) planes.push_back(plane.data());
      const auto got = int64_t(m_stretcher.retrieve(planes.data(), size_t(now)));
      if (m_drop > 0) {
        m_drop -= got;
        continue;
      }
      for (int64_t i = 0; i < got; ++i)
        for (int c = 0; c < m_channels; ++c) *out++ = m_planes[size_t(c)][size_t(i)];
      count -= got;
      m_made += got;
    }
    return {};
  }

private:
  /// The speed where so many samples of the source have passed.
  [[nodiscard]] double speedAt(int64_t passed) const { return m_time.speedAt(since(passed)).toDouble(); }
  [[nodiscard]] Rational since(int64_t passed) const {
    const Rational gone = secondsOf(passed * kTicksASample);
    return m_time.sinceBegin(m_time.reversed() ? m_time.out() - gone : m_time.in() + gone);
  }
  /// The sample of the shot at which a sample of the source is to be put for it to be heard at its place.
  [[nodiscard]] double target(int64_t passed) const {
    const Rational at = since(passed);
    return double(ticksOf(at)) / kTicksASample + broughtEarly(m_time.speedAt(at).toDouble()) * kSoundRate;
  }

  /// Reads the next block. Of what is faster than the stretcher can be, parts are left out.
  Status readBlock() {
    m_block.resize(size_t(kKeptBlock * m_channels));
    m_owed += double(kKeptBlock) * (m_hurry - 1);
    std::vector<float> before;
    if (m_owed >= double(kLeftOut)) {
      const auto out = int64_t(m_owed);
      m_owed -= double(out);
      before.resize(size_t(out * m_channels));
      if (const Status got = m_sound.read(before.data(), out); !got) return got;
      m_fed += out;
    }
    if (const Status got = m_sound.read(m_block.data(), kKeptBlock); !got) return got;
    m_fed += kKeptBlock;
    for (int64_t i = 0; !before.empty() && i < kFaded; ++i)
      for (int c = 0; c < m_channels; ++c) {
        float& sample = m_block[size_t(i * m_channels + c)];
        sample = std::lerp(before[size_t(i * m_channels + c)], sample, float(i) / kFaded);
      }
    return {};
  }

  Status feed() {
    if (m_changes && m_blocks++ % kChangedBlocks == 0) follow();
    if (const Status got = readBlock(); !got) return got;
    for (int64_t i = 0; i < kKeptBlock; ++i)
      for (int c = 0; c < m_channels; ++c) m_planes[size_t(c)][size_t(i)] = m_block[size_t(i * m_channels + c)];
    std::vector<const float*> planes;
    for (const auto& plane : m_planes) planes.push_back(plane.data());
    m_stretcher.process(planes.data(), size_t(kKeptBlock), false);
    return {};
  }

  /// Sets how much the next blocks are stretched. Each time the stretcher loses a fraction of what it had in hand, a
  /// millisecond in a second at the most: so what it has made is looked at, and made up for.
  void follow() {
    // What is stretched now lies in the middle of the window that ends with what comes next.
    m_hurry = std::max(1.0, speedAt(m_fed) / kFastestKept);
    const int64_t middle = m_fed - std::llround(double(m_lag) * m_hurry);
    const double behind = target(middle) - double(m_lag) - double(m_made + m_stretcher.available());
    constexpr int64_t kNext = kChangedBlocks * kKeptBlock;
    const double length = target(middle + std::llround(double(kNext) * m_hurry)) - target(middle) +
                          (m_made > m_begin ? kCorrected * behind : 0);
    m_stretcher.setTimeRatio(std::max(1 / kFastestKept, length / double(kNext)));
  }

  RubberBand::RubberBandStretcher m_stretcher;
  int64_t m_lag;  ///< samples of the source from the middle of the stretcher's window to its end
  int64_t m_drop; ///< samples that it gives before the first that is meant
  int64_t m_fed;  ///< samples of the source
  int64_t m_blocks = 0;
  double m_hurry = 1; ///< samples of the source for each that is put into the stretcher
  double m_owed = 0;  ///< samples that are to be left out
  bool m_changes;     ///< of speed
  bool m_begun = false;
  std::vector<float> m_block;
  std::vector<std::vector<float>> m_planes;
};

class ShotSound::Following final : public Stretch {
public:
  Following(DirectedSound& sound, const TimeMap& time, int channels, int64_t begin)
      : Stretch(sound, time, channels, begin), m_converter(src_new(SRC_SINC_MEDIUM_QUALITY, channels, nullptr)) {
    if (!m_converter) throw std::bad_alloc();
    // From whole blocks, and a few before, so that the filter knows what came before.
    m_made = std::max<int64_t>(0, begin / kFollowingBlock - kFollowingBefore) * kFollowingBlock;
    m_drop = begin - m_made;
  }

  Status read(float* out, int64_t count) override {
    if (!m_begun) {
      m_begun = true;
      if (const Status there = m_sound.goTo(std::llround(passed(m_made))); !there) return there;
      std::vector<float> dropped(size_t(m_drop * m_channels));
      if (const Status got = make(dropped.data(), m_drop); !got) return got;
    }
    return make(out, count);
  }

private:
  Status make(float* out, int64_t count) {
    while (count > 0) {
      const int64_t now = std::min(count, kFollowingBlock - m_made % kFollowingBlock);
      // Of whole blocks, so that the same is made whatever is asked for at once.
      const int64_t block = m_made / kFollowingBlock * kFollowingBlock;
      const double passes = passed(block + kFollowingBlock) - passed(block);
      const double ratio = std::clamp(double(kFollowingBlock) / std::max(passes, 0.001), 1.0 / 250, 250.0);
      if (!std::exchange(m_ratioSet, true)) src_set_ratio(m_converter.get(), ratio);
      for (int64_t made = 0; made < now;) {
        SRC_DATA data{};
        data.data_in = m_held.data();
        data.input_frames = long(int64_t(m_held.size()) / m_channels);
        data.data_out = out;
        data.output_frames = long(now - made);
        data.src_ratio = ratio;
        if (src_process(m_converter.get(), &data) != 0)
          return fail(ErrorCode::Unsupported, say("sound cannot be brought to this speed"));
        m_held.erase(m_held.begin(), m_held.begin() + data.input_frames_used * m_channels);
        out += data.output_frames_gen * m_channels;
        made += data.output_frames_gen;
        if (made == now) break;
        const size_t before = m_held.size();
        m_held.resize(before + size_t(kKeptBlock * m_channels));
        if (const Status got = m_sound.read(m_held.data() + before, kKeptBlock); !got) return got;
      }
      m_made += now;
      count -= now;
    }
    return {};
  }

  struct Closer {
    void operator()(SRC_STATE* state) const { src_delete(state); }
  };
  std::unique_ptr<SRC_STATE, Closer> m_converter;
  std::vector<float> m_held; ///< of the source, not yet used
  int64_t m_drop = 0;        ///< samples that are made before the first that is meant
  bool m_begun = false;
  bool m_ratioSet = false;
};

// ---- the sound of the shot

ShotSound::ShotSound(DirectedSound sound, const TimeMap& time, bool pitchFollows, int channels)
    : m_sound(std::make_unique<DirectedSound>(std::move(sound))), m_time(time), m_pitchFollows(pitchFollows),
      m_channels(channels) {}
ShotSound::ShotSound(ShotSound&&) noexcept = default;
ShotSound& ShotSound::operator=(ShotSound&&) noexcept = default;
ShotSound::~ShotSound() = default;

Result<ShotSound> ShotSound::open(const Reading& reading, const TimeMap& time, bool pitchFollows, int channels,
                                  std::stop_token stop) {
  auto source = DirectedSound::open(reading, time, channels, std::move(stop));
  if (!source) return tl::unexpected(source.error());
  ShotSound sound(std::move(*source), time, pitchFollows, channels);
  if (const Status there = sound.goTo(0); !there) return tl::unexpected(there.error());
  return sound;
}

Status ShotSound::read(float* out, int64_t count) {
  return m_stretch ? m_stretch->read(out, count) : m_sound->read(out, count);
}

Status ShotSound::goTo(int64_t sample) {
  if (m_time.speed() == Rational(1)) return m_sound->goTo(sample);
  if (m_pitchFollows)
    m_stretch = std::make_unique<Following>(*m_sound, m_time, m_channels, sample);
  else
    m_stretch = std::make_unique<Kept>(*m_sound, m_time, m_channels, sample);
  return {};
}

AudioReader::Damage ShotSound::damage(int64_t from, int64_t to) const {
  return m_sound->reader().damage(from, to);
}

} // namespace tromb
