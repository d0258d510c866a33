// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Gate.h"
#include "export/Proof.h"
#include "io/Descriptor.h"
#include "media/Frame.h"
#include "project/FileName.h"
#include "render/Plan.h"

#include <functional>
#include <optional>
#include <stop_token>

namespace tromb {

enum class ExportState { Encoding, Finishing, Proofing, Done };
[[nodiscard]] const char* exportStateWord(ExportState state); ///< "encoding", "finishing", "proofing", "done"

struct ExportProgress {
  size_t index = 0; ///< The place of the deliverable in ExportRequest::plans.
  int64_t frame = 0;
  int64_t frames = 0;
  int64_t first = 0;   ///< frames that an earlier run had made
  double fraction = 0; ///< 0 to 1, proof included
  double elapsedSeconds = 0;
  double remainingSeconds = 0; ///< 0 while it cannot be told
  ExportState state = ExportState::Encoding;
};

struct ExportedFile;
struct SegmentRange;

/// What tells a file, and that of the sound beside it, from all others before they have their names: see
/// io/Descriptor.h. The second is empty where there is none.
struct FileIdentities {
  std::string file;
  std::string sound;
};

struct ExportRequest {
  std::vector<Plan> plans; ///< Plans of one project, so that all have the same shots.
  /// Canvases of deliverables that belong to the same export and are made already: the others are encoded as though
  /// these were made beside them, so that they come out the same.
  std::vector<Size> madeBefore;
  std::string projectName;
  std::string folder; ///< made when it is not there
  /// The file of each plan, in that folder. Empty: they are called by the project's pattern.
  std::vector<std::string> paths;
  /// Where each plan keeps the segments it has made, so that an export that was interrupted can go on after the last
  /// of them; see SegmentStore. Whoever gives them removes them. Empty: nothing is kept.
  std::vector<std::string> segmentFolders;
  bool overwrite = false;
  bool proof = true;
  std::string trialFolder; ///< for hardwareTrials; may be empty
  /// Both are called from worker threads, one call at a time for each deliverable; either may be empty.
  std::function<void(const ExportProgress&)> onProgress;
  std::function<void(size_t index, const Frame& picture)> onPicture; ///< about four times a second
  /// A file is whole and proofed, and is about to get its name, `path`: the last moment to refuse it with an error.
  /// Sound beside a picture gets its name before the picture does. Called by a thread of its deliverable; may be empty.
  std::function<Status(size_t index, const ExportedFile& file, const FileIdentities& identities)> onNaming;
  /// It has that name. The same thread; may be empty.
  std::function<void(size_t index, const ExportedFile& file)> onNamed;
  Gate* gate = nullptr;                       ///< holds it up while it is closed; null where it is never paused
  std::function<bool(size_t index)> whenFull; ///< see WhenFull; may be empty
};

/// What became of one deliverable.
struct ExportedFile {
  std::string path;                 ///< The finished file. If it fell short in the proof its name says so.
  std::string captionPath;          ///< that of the captions, where they have a file beside the picture
  std::string soundPath;            ///< that of the sound, where it has a file of its own beside the picture
  std::optional<ProofReport> proof; ///< empty when none was asked for
  std::vector<SourceLoss> losses;   ///< pictures and sound of its sources that were damaged or missing
  std::string encoder;              ///< FFmpeg's name of the picture's encoder; empty for sound alone
  int64_t copied = 0;               ///< frames whose pictures were copied from their sources
  Message notCopied;                ///< why its pictures were encoded although it was to copy some; may be empty
  Message inSoftware;               ///< why it is not by graphics hardware where that was asked for; may be empty
  std::optional<Error> error;       ///< why there is no file; the others may still be whole

  /// True if the file is as it was asked for: the proof, if there was one, found no fault, and nothing of the sources
  /// was lost.
  [[nodiscard]] bool good() const { return !error && losses.empty() && (!proof || proof->passed()); }
};

/// The file that a plan is written to.
[[nodiscard]] std::string targetOf(const ExportRequest& request, size_t index);

/// The name, in the same folder, of a file that fell short in its proof.
[[nodiscard]] std::string shortName(const std::string& path);
/// The path of such a file without what its name says so by; the same path where it says nothing.
[[nodiscard]] std::string rightPath(const std::string& path);

/// Decodes every source once and encodes all plans side by side. Each file is written under a temporary name,
/// proofed, then renamed: to its final name where the proof is passed, else to its shortName. Where one deliverable
/// fails the others go on; where an encoder in graphics hardware does, the deliverable is begun again in software once
/// the others are done. Nothing half-made stays. One entry a plan, in the same order. Errors, where none could be
/// begun or all had to end: Exists, CannotWrite, Decoder, Cancelled, InvalidArgument and those of the sources.
[[nodiscard]] Result<std::vector<ExportedFile>> exportPlans(const ExportRequest& request, std::stop_token stop);

/// Makes some segments of the one plan of a request into its segment folder, and no file: a later exportPlans of the
/// same plan takes them up. For several machines that share a folder. Errors: as exportPlans.
[[nodiscard]] Status makeSegments(const ExportRequest& request, const SegmentRange& range, std::stop_token stop);

} // namespace tromb
