// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "copy/ShotCopy.h"
#include "export/Exporter.h"
#include "export/Segments.h"
#include "io/BoundedQueue.h"
#include "io/PartFile.h"
#include "io/TemporaryFolder.h"
#include "media/write/OutputFile.h"
#include "picture/Trace.h"
#include "render/SoundMix.h"

#include <atomic>
#include <chrono>
#include <map>
#include <mutex>
#include <optional>
#include <thread>

namespace tromb {

/// A source picture for one deliverable, shown for `repeat` of its frames.
struct DecodedPicture {
  size_t piece = 0;
  Frame picture;     ///< null: copied, see Lane::unseenUntil
  int64_t first = 0; ///< frame of the piece
  int64_t repeat = 1;
  bool lost = false; ///< damaged, or another in the place of one that is missing
};

/// A mix of sound and the place among its readers; without a mix, there is no sound.
struct MixReader {
  SoundMix* mix = nullptr;
  size_t reader = 0;
};

/// One deliverable on its way: a thread that composes and one that encodes and proofs, with a queue before each. What
/// goes wrong in it ends it alone. Made, started and waited for by one thread; pushed to by that one.
class Lane {
public:
  /// The request and the mix of the sound, which lanes share, outlive this. `all` ends it from outside.
  /// `hardware`: the encoder in graphics hardware that makes the picture; null for the codec's in software.
  /// `segments`: a folder for what this lane has made, in case that another has to go on; empty where none is to.
  Lane(const ExportRequest& request, size_t index, MixReader sound, const HardwareEncoder* hardware,
       std::string segments, std::chrono::steady_clock::time_point begun, std::stop_token all);
  ~Lane();

  /// True if it must see all pictures before it encodes them: for two passes, and for light levels that stand in the
  /// file's head, or for the colours of all.
  [[nodiscard]] static bool needsFirstPass(const Plan& plan) {
    return plan.encoding().hasPicture() && (plan.encoding().hasTwoPasses() || plan.format().colour == kPq);
  }
  /// The first frame whose picture it needs: what lies before it was made by a run that was interrupted.
  [[nodiscard]] int64_t firstFrame() const { return m_log.pass == PassLog::Pass::First ? 0 : m_firstFrame; }
  /// Takes part in a pass over the sources from now on, until it is waited for.
  void start(PassLog::Pass pass);
  static constexpr double kEncodingShare = 0.9;   ///< of the time, where a proof follows
  static constexpr double kFirstPassShare = 0.35; ///< of the time that two passes take
  /// Before `start`: tells the seconds that all lanes together take yet, from there; 0 while nobody knows.
  void follow(const std::atomic<double>* left) { m_left = left; }
  /// Before `start`: makes those segments alone, into their folder, and no file.
  void onlySegments(const SegmentRange& range) { m_range = range; }
  /// Frames from this one up to what is returned are copied, and nobody wants to see them: `push` them without a
  /// picture.
  [[nodiscard]] int64_t unseenUntil(int64_t frame) const;
  /// Waits for room. Returns false once this lane has ended and takes no more.
  bool push(DecodedPicture picture) { return m_decoded->push(std::move(picture), m_stop.get_token()); }
  /// It takes no pictures, or no more of them, in this pass.
  [[nodiscard]] bool ended() const { return !m_takesPart || m_stop.stop_requested(); }
  void closeInput(); ///< everything has been pushed
  void wait();
  /// Before `start`: copies nothing.
  void encodeEverything() { m_encodes = true; }
  /// Why pictures could not be copied after all, so that everything is to be encoded; empty where they could.
  [[nodiscard]] Message copyFault() const;
  /// Why the encoder in graphics hardware has failed, so that software is to begin again; empty where it has not.
  [[nodiscard]] Message hardwareFault() const;
  [[nodiscard]] ExportedFile takeResult();

private:
  /// Few: coders hold pictures back themselves, and what waits longer has left the processor's cache when it is used.
  static constexpr size_t kQueuedFrames = 2;

  struct Composed {
    Frame canvas; ///< as DecodedPicture::picture
    int64_t repeat = 1;
    std::optional<PictureTrace> trace; ///< where it is to be proofed
    size_t piece = 0;
    bool lost = false; ///< as DecodedPicture::lost
  };
  template <typename Work> void guarded(Work work);
  void fail(Error error);
  [[nodiscard]] Status composeAll();
  [[nodiscard]] Status firstPass();
  /// A file of the deliverable that is being written.
  struct Output {
    std::string target;
    std::unique_ptr<PartFile> part; ///< which the file writes to
    OutputFile file;
  };
  [[nodiscard]] Result<Output> begin(const std::string& target, OutputFile::Holds holds);
  [[nodiscard]] Status encodeAll();
  /// Looks for segments that were made before.
  [[nodiscard]] Status openSegments();
  [[nodiscard]] Status encodeRange();
  [[nodiscard]] size_t endSegment() const { return m_range ? m_range->end : m_cuts.count(); }
  /// Encodes everything: all pictures that come, and the sound. Says how many frames were made.
  [[nodiscard]] Result<int64_t> encode(OutputFile* picture, OutputFile* sound);
  /// Takes over the segments that were made before.
  [[nodiscard]] Status replay(OutputFile& picture, OutputFile* sound);
  [[nodiscard]] Status addPictures(const Composed& item, OutputFile& picture, OutputFile* sound);
  /// Adds the picture of the next frame: copied, or encoded.
  [[nodiscard]] Status addPicture(const Frame& canvas, OutputFile& picture);
  /// Of one frame more, whose picture has been added.
  [[nodiscard]] Status addFrame(OutputFile* sound);
  [[nodiscard]] Status beginSegment();
  /// Before the next packet of the picture is kept: where a group begins with it, hardware can be relieved there.
  void markGroup(const AVPacket& packet);
  /// Of the segment in which hardware has given up, what is whole groups stays.
  void keepGroups();
  /// What came of keeping a segment. Where that is for hardware's sake alone, the export goes on without it.
  [[nodiscard]] Status kept(const Status& done);
  /// Ends a segment where one ends, and begins the next.
  [[nodiscard]] Status turnSegment(OutputFile& picture);
  [[nodiscard]] Status note(const PictureTrace& trace, int64_t frames);
  void lose(const LostPictures& lost);
  [[nodiscard]] Status proof(const std::vector<Output>& outputs, bool& good);
  /// Gives the files their names, of which all or none stay.
  [[nodiscard]] Status takeNames(std::vector<Output>& outputs, bool good);
  [[nodiscard]] PictureStream streamOf() const;
  [[nodiscard]] WhenFull whenFull() const;
  void describe(ExportedFile& file) const; ///< adds what is known beside its proof
  void pause() const;
  [[nodiscard]] Status addSoundUpTo(OutputFile& out, int64_t samples);
  /// Where there are as many encoders as processors, these are busy already, and threads inside each encoder would only
  /// cost. But the largest canvas has threads and gives way to the others, so that it ends last and then has all
  /// processors: otherwise the last of those with one thread would leave the others idle.
  enum class Turn { Any, First, Last };
  [[nodiscard]] Turn encoderTurn() const;
  [[nodiscard]] Error named(Error error) const;
  void report(int64_t frame, ExportState state);

  const ExportRequest& m_request;
  const Plan& m_plan;
  size_t m_index;
  MixReader m_sound;
  const HardwareEncoder* m_hardware;
  std::chrono::steady_clock::time_point m_begun;
  std::string m_target;
  std::stop_source m_stop; ///< Stops this lane alone.
  std::stop_callback<std::function<void()>> m_fromAll;
  std::optional<TraceFile> m_traces; ///< Present if the file is to be proofed.
  bool m_takesPart = false;
  SegmentCuts m_cuts;
  Spending m_spending;
  std::string m_segmentFolder;
  std::optional<SegmentStore> m_segments; ///< where segments are kept
  SegmentMaker m_maker;                   ///< of this lane's
  std::string m_headersBefore;            ///< of the encoder in hardware that has made the first of them
  size_t m_before = 0;                    ///< segments of that
  int64_t m_latest = -1;                  ///< frame among those that have been encoded
  const std::atomic<double>* m_left = nullptr;
  std::optional<CopyStream> m_copies;          ///< where pictures are copied
  bool m_copying = false;                      ///< the last one was
  bool m_encodes = false;                      ///< none is
  std::optional<SegmentRange> m_range;         ///< where only these are made
  size_t m_segment = 0;                        ///< that is made
  int64_t m_firstFrame = 0;                    ///< of the first segment that was not made before
  int64_t m_frame = 0;                         ///< frames of the file so far
  std::optional<TemporaryFolder> m_passFolder; ///< Present if there are two passes.
  PassLog m_log;
  ContentLight m_light;                                    ///< measured in the first pass of high dynamic range
  std::unique_ptr<BoundedQueue<DecodedPicture>> m_decoded; ///< of the pass that is under way
  std::unique_ptr<BoundedQueue<Composed>> m_composed;
  SoundMix::Chunk m_chunk;
  int64_t m_chunkUsed = SoundMix::kChunkSamples;
  int64_t m_soundSkip = 0;
  int64_t m_soundDone = 0;
  std::map<size_t, SourceLoss> m_losses; ///< by piece
  mutable std::mutex m_mutex;
  Error m_noMemory;      ///< made ahead, since there is nothing to make it of then
  ExportedFile m_result; ///< its error is guarded by the mutex while threads run, as the one made ahead
  std::jthread m_composing;
  std::jthread m_encoding;
};

} // namespace tromb
