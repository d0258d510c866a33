// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "picture/Trace.h"

#include <deque>
#include <functional>
#include <map>
#include <string>
#include <vector>

namespace tromb {

/// What was found wrong in a finished file, of one kind.
struct Fault {
  std::string code;          ///< stable word: order, content, position, sharpness, edges, sound-level, …
  Message what;              ///< What is wrong with the first of them, such as "a bar above".
  int64_t count = 0;         ///< pictures, or half seconds of sound
  double first = 0;          ///< seconds into the file, of the first
  std::vector<double> times; ///< seconds, of each of the first kMostTimes
  static constexpr size_t kMostTimes = 200;
};

/// Holds the pictures of a finished file against what was composed, one by one. How far they may be off comes from how
/// coarsely the encoder has coded each of them: the limits are about twice what x264 did at that quantiser on footage
/// of several kinds, with grain and without (measured here, no published source). Pictures that are coded as coarsely
/// as the format allows cannot be told from faulty ones and are not judged. One thread at a time.
class PictureJudge {
public:
  /// Begins with frame `first`. `traces` is whole by now and outlives this.
  PictureJudge(const TraceFile& traces, Size canvas, double framesASecond, int64_t first);

  /// The next picture of the file. `quantiser` is the mean of its blocks, 0 to 51; < 0 where it is not known.
  /// Errors: those of TraceFile.
  [[nodiscard]] Status add(const Frame& picture, double quantiser);
  [[nodiscard]] int64_t judged() const { return m_judged; } ///< How many pictures could be told from others.
  /// By code.
  [[nodiscard]] const std::map<std::string, Fault>& faults() const { return m_faults; }
  /// Of each picture that was added and planned: PictureTrace::likeness.
  [[nodiscard]] const std::vector<float>& likeness() const { return m_likeness; }

private:
  void fault(const char* code, const Message& what);
  [[nodiscard]] Result<const PictureTrace*> planned(int64_t frame);
  [[nodiscard]] Result<bool> outOfOrder(const PictureTrace& seen, const PictureTrace& wanted, double noise);

  const TraceFile& m_traces;
  Size m_canvas;
  double m_rate;
  std::map<int64_t, PictureTrace> m_near; ///< planned pictures round the one that is judged
  int64_t m_frame;                        ///< the next one
  int64_t m_judged = 0;
  std::map<std::string, Fault> m_faults;
  std::vector<float> m_likeness;
};

/// Holds the sound of a finished file against the mix, half a second at a time. One thread at a time.
class SoundJudge {
public:
  /// `bitRate` is that of the encoded sound: low ones leave less of it.
  SoundJudge(const TraceFile& traces, int64_t bitRate)
      : m_traces(traces), m_channels(size_t(traces.channels())), m_bitRate(bitRate), m_gatherer(traces.channels()) {}

  void add(std::span<const float> samples); ///< interleaved, at 48 kHz, from the file's beginning
  /// Once everything was added. Errors: those of TraceFile.
  [[nodiscard]] Result<std::map<std::string, Fault>> faults();

private:
  using Values = std::vector<float>; ///< of one channel
  void fault(const char* code, const Message& what, double seconds);
  void judge(const std::vector<Values>& wanted, const std::vector<Values>& seen, double seconds, bool settled);
  [[nodiscard]] Status findLateness();

  const TraceFile& m_traces;
  size_t m_channels;
  int64_t m_bitRate;
  SoundGatherer m_gatherer;
  std::vector<SoundTrace::Value> m_seen; ///< interleaved; all of the file: 16 kB a second of stereo
  int m_late = 0;                        ///< values by which the file's sound lies behind the mix
  std::map<std::string, Fault> m_faults;
};

} // namespace tromb
