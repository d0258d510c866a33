// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "picture/Trace.h"
#include "render/Plan.h"

#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <stop_token>

namespace tromb {

/// Pictures or sound of a source that are damaged or missing, and what a deliverable shows in their place.
struct SourceLoss {
  enum class Kind { Pictures, Sound };
  std::string path;
  std::string shot; ///< name; empty for sound, of which more than one shot may be made
  Kind kind = Kind::Pictures;
  int64_t count = 0; ///< frames of the deliverable, or packets of sound
  Rational first;    ///< seconds into the deliverable (of the running order, for sound)
};
[[nodiscard]] Message lossText(const SourceLoss& loss); ///< "12 frames from 0:03 on are damaged or missing in …"

/// One line of a proof.
struct ProofCheck {
  std::string code; ///< stable word: canvas, rate, frames, duration, …
  Message expected; ///< empty when nothing particular was asked for
  Message found;
  bool pass = true;
  bool made = true; ///< false: it could not be made, and `found` says why

  /// The code in words for people: "frame rate", "length of the sound".
  [[nodiscard]] Message title() const;
};

/// How far down a drawing of structural similarity goes that is `least` at least: such that this is seen.
[[nodiscard]] double likenessFloor(double least);

/// How a file goes along its time.
struct ProofCurves {
  /// Something that was found at a time.
  struct Mark {
    std::string code; ///< of the check
    double at = 0;    ///< seconds into the file
    friend bool operator==(const Mark&, const Mark&) = default;
  };
  double seconds = 0;                      ///< length of the file
  std::vector<float> bitRate;              ///< of the picture, bits a second, of each second
  double mostBitRate = 0;                  ///< the most that any second may have; 0: nothing was asked for
  std::vector<float> loudness;             ///< short-term loudness in LUFS, at the end of each second
  double loudnessTarget = 0;               ///< LUFS; 0: none
  static constexpr double kQuietest = -50; ///< LUFS, the least that a drawing shows
  /// Structural similarity of each picture with the one that was composed: PictureTrace::likeness. Empty where nothing
  /// was compared.
  std::vector<float> likeness;
  double framesASecond = 0; ///< of the pictures
  std::vector<Mark> marks;  ///< in the order of their times; of each kind the first 200
  /// How far up a drawing of the bit rates goes, in bits a second, and whether it shows what is asked for as well: one
  /// far above what is used would press the curve to the floor.
  struct Height {
    double most;
    bool limited;
  };
  [[nodiscard]] Height bitRateHeight() const;
  /// A picture that is less like what was composed than others.
  struct Unlike {
    int64_t frame = 0;
    double at = 0; ///< seconds into the file
    double ssim = 1;
  };
  /// The least like of all first, each a second or more from the others.
  [[nodiscard]] std::vector<Unlike> leastLike(size_t most) const;
  [[nodiscard]] double meanLikeness() const;                       ///< 1 where nothing was compared
  [[nodiscard]] std::vector<float> likenessIn(size_t parts) const; ///< the least in each of up to so many even parts
  [[nodiscard]] double likenessFloor() const;                      ///< tromb::likenessFloor of the least
  friend bool operator==(const ProofCurves&, const ProofCurves&) = default;
};

struct ProofReport {
  std::vector<ProofCheck> checks;
  ProofCurves curves;
  [[nodiscard]] bool passed() const;
};

/// What is proofed, and what it is held against.
struct ProofSubject {
  std::string path;
  const Plan* plan = nullptr;        ///< null: the file is held against what any delivered file should be
  const TraceFile* traces = nullptr; ///< What was composed and mixed. Null if contents are not to be compared.
  std::vector<SourceLoss> losses;    ///< Losses that are known already.
  ContentLight light = {};           ///< what was measured of the composed pictures; zero where nothing was
  /// Of the sound where the plan puts it beside the picture; empty: under the picture's name.
  std::string soundPath = {};
};

/// Reads a finished file back (and that of its sound, where that lies beside it), decoding every frame and all sound,
/// and compares it with what was asked: its labels with
/// the plan, and its pictures and sound, one by one, with what was composed. `onFrame` is told how many frames are
/// done: by several threads, but never by two at a time. Errors: those of probe, Decoder, Cancelled. Thread-safe.
[[nodiscard]] Result<ProofReport> proofFile(const ProofSubject& subject, std::stop_token stop = {},
                                            const std::function<void(int64_t)>& onFrame = {});

/// Composes and mixes a whole plan once more without encoding it, so that a file can be held against it; the traces are
/// kept in `folder`. Also tells what was lost of the sources. Errors: those of the sources, CannotWrite, Cancelled.
[[nodiscard]] Result<TraceFile> composeTraces(const Plan& plan, const std::string& folder,
                                              std::vector<SourceLoss>& losses, std::stop_token stop = {});

[[nodiscard]] nlohmann::ordered_json toJson(const ProofReport& report);

} // namespace tromb
