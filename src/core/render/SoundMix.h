// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/Ducking.h"
#include "render/Plan.h"
#include "render/ShotSound.h"

#include <deque>
#include <mutex>
#include <optional>
#include <stop_token>
#include <string>

namespace tromb {

/// The sound of the running order: shots at their levels with short fades at cuts, and the beds under them. Made
/// once and read by every deliverable of an export. Each shot's sound starts at its exact time in the running
/// order, and is mixed to the channels of the deliverables as ChannelMix says; what it is at another speed is
/// ShotSound's. Held pictures are silent. Thread-safe; a chunk is kept until every reader has had it.
class SoundMix {
public:
  static constexpr int64_t kChunkSamples = kSoundRate / 2;
  /// Where sound is cut into, so that nothing clicks: 5 ms up and 5 ms down.
  static constexpr int64_t kCutFadeSamples = kSoundRate / 200;
  using Chunk = std::shared_ptr<const std::vector<float>>; ///< kChunkSamples of every channel, interleaved

  /// One reader for each plan of one project. All have as many channels of sound and the same timing; they may differ
  /// in rate and so in where a region begins. All of it is raised by `gainDb`.
  explicit SoundMix(const std::vector<Plan>& plans, double gainDb = 0, std::stop_token stop = {});
  /// One reader, in so many channels; by default those of the plan. It begins at the start of the running order, even
  /// if the plan is of a part.
  explicit SoundMix(const Plan& plan, std::optional<int> channels = {}, std::stop_token stop = {});
  /// Makes the next chunk of the only reader begin at this sample of the running order, at once, after those that it is
  /// to drop: see leadIn. What is open stays open.
  [[nodiscard]] Status goTo(int64_t sample);
  [[nodiscard]] int64_t samples() const { return m_end; } ///< Samples of the whole running order.

  [[nodiscard]] int channels() const { return m_channels; }
  /// Samples that a reader is to drop before its plan begins.
  [[nodiscard]] int64_t leadIn(size_t reader) const { return m_leadIns[reader]; }
  /// The next chunk for one reader; silence after the end of the running order.
  [[nodiscard]] Result<Chunk> next(size_t reader);
  /// This reader wants no more: nothing is kept for it from now on.
  void leave(size_t reader);

  /// Sound that was lost in a file, since it could not be decoded: it is silent.
  struct Loss {
    std::string path;
    int64_t packets = 0;
    Rational first; ///< seconds of the running order
  };
  [[nodiscard]] std::vector<Loss> losses(); ///< so far

private:
  using Buffer = std::vector<float>;
  /// A stretch of one file's sound in the running order; times in samples.
  struct Part {
    Reading reading;
    TimeMap time;
    bool pitchFollows = false;
    int64_t from = 0;
    int64_t to = 0;
    float gain = 1; ///< linear; 0 = nothing is read
    int64_t fadeIn = 0;
    int64_t fadeOut = 0;
    bool duck = false;
    std::optional<ShotSound> sound = {};              ///< open while the part is playing
    int64_t next = 0;                                 ///< the sample that `sound` gives next
    [[nodiscard]] float gainAt(int64_t sample) const; ///< by its level and its fades
  };
  SoundMix(const Plan& plan, int channels, const std::vector<int64_t>& begins, double gainDb, std::stop_token stop);
  void begin(const std::vector<int64_t>& begins);
  [[nodiscard]] Result<Chunk> make();
  [[nodiscard]] Result<Buffer> shotsChunk();
  /// Adds what of `part` lies in [begin, begin + kChunkSamples) to `chunk`. Its stages, one after the other:
  [[nodiscard]] Status add(Part& part, int64_t begin, Buffer& chunk, const Ducking::Gains* duck);
  [[nodiscard]] Status read(Part& part, int64_t from, Buffer& samples);
  void level(const Part& part, int64_t from, Buffer& samples) const;
  void duck(const Ducking::Gains& gains, int64_t fromBegin, Buffer& samples) const;
  void close(Part& part);
  void dropHeard();

  int m_channels;
  std::vector<Part> m_shots;
  std::vector<Part> m_beds;
  int64_t m_end = 0; ///< Samples of the running order.
  float m_gain;      ///< linear, of all
  std::stop_token m_stop;
  bool m_ducks = false;
  std::vector<int64_t> m_leadIns;
  std::vector<Loss> m_losses;
  std::mutex m_mutex;
  std::vector<int64_t> m_positions; ///< next chunk of each reader
  std::deque<Chunk> m_chunks;
  int64_t m_firstHeld = 0;
  int64_t m_sample = 0;      ///< where the next chunk of the mix begins
  int64_t m_shotsSample = 0; ///< where the next chunk of the shots begins: ahead of the mix while ducking
  std::deque<Buffer> m_ahead;
  Ducking m_ducking;
};

} // namespace tromb
