// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Lane.h"

#include "io/AtomicFile.h"
#include "io/PartFile.h"
#include "media/Av.h"
#include "picture/LightMeter.h"
#include "project/EncodingJson.h"
#include "render/ElementPainter.h"
#include "render/Pictures.h"

#include <algorithm>
#include <cerrno>
#include <fcntl.h>
#include <filesystem>
#include <sys/resource.h>
#include <system_error>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

constexpr int kLaterNice = 4; ///< more than the others': about two fifths of their share of a processor
constexpr auto kPictureEvery = std::chrono::milliseconds(250);

Error noMemory(const std::string& path) {
  return {
      ErrorCode::Encoder, say("memory has run out"), path, {}, say("Close other programs, or export fewer at once")};
}

tl::unexpected<Error> folderGone(const std::string& path) {
  return fail(ErrorCode::CannotWrite, say("its folder was taken away while it was made"), path,
              say("Bring the folder or its disk back, and do it again"));
}

} // namespace

Lane::Lane(const ExportRequest& request, size_t index, MixReader sound, const HardwareEncoder* hardware,
           std::string segments, Clock::time_point begun, std::stop_token all)
    : m_request(request), m_plan(request.plans[index]), m_index(index), m_sound(sound), m_hardware(hardware),
      m_begun(begun), m_target(targetOf(request, index)), m_fromAll(std::move(all), [this] { m_stop.request_stop(); }),
      m_cuts(m_plan), m_spending(m_plan.encoding(), m_plan.rate()), m_segmentFolder(std::move(segments)),
      m_soundSkip(sound.mix ? sound.mix->leadIn(sound.reader) : 0), m_noMemory(noMemory(m_target)) {}

Lane::~Lane() {
  m_stop.request_stop();
  wait();
}

void Lane::fail(Error error) {
  {
    const std::scoped_lock lock(m_mutex);
    if (!m_result.error) m_result.error = std::move(error);
  }
  m_stop.request_stop();
}

template <typename Work> void Lane::guarded(Work work) {
  try {
    try {
      if (const Status done = work(); !done) fail(done.error());
    } catch (const std::bad_alloc&) {
      throw;
    } catch (const std::exception& broken) {
      fail({ErrorCode::Encoder, say("a fault inside: %1", broken.what()), m_target, {}, {}});
    }
  } catch (const std::bad_alloc&) { // also if there is not even memory for an error message
    {
      const std::scoped_lock lock(m_mutex);
      if (!m_result.error) m_result.error = std::move(m_noMemory);
    }
    m_stop.request_stop();
  }
}

void Lane::start(PassLog::Pass pass) {
  guarded([this, pass]() -> Status {
    const bool first = pass == PassLog::Pass::First;
    m_log.pass = pass;
    m_decoded = std::make_unique<BoundedQueue<DecodedPicture>>(kQueuedFrames);
    m_composed = std::make_unique<BoundedQueue<Composed>>(kQueuedFrames);
    if (first && m_plan.encoding().passes == 2) {
      auto folder = TemporaryFolder::create();
      if (!folder) return tl::unexpected(folder.error());
      m_log.folder = folder->path();
      m_passFolder = std::move(*folder);
    }
    if (m_request.proof && !first) {
      auto traces = TraceFile::create(m_request.folder, m_plan.canvas(), m_plan.encoding().sound.channels, whenFull());
      if (!traces) return tl::unexpected(named(traces.error()));
      m_traces.emplace(std::move(*traces));
    }
    if (!first) {
      if (const Status there = openSegments(); !there) return there;
      if (m_plan.encoding().copies && m_plan.encoding().hasPicture() && !m_encodes) {
        ShotCopies copies = planShotCopies(m_plan, nullptr, m_stop.get_token());
        if (!copies.stretches.empty()) m_copies.emplace(m_plan, std::move(copies), m_stop.get_token());
      }
    }
    try {
      if (m_plan.encoding().hasPicture())
        m_composing = std::jthread([this] {
          guarded([this] { return composeAll(); });
          m_composed->close();
        });
      m_encoding = std::jthread([this, first] {
        guarded([this, first] { return first ? firstPass() : m_range ? encodeRange() : encodeAll(); });
        if (first) return;
        keepGroups();
        m_stop.request_stop(); // nothing takes from the queue any more
        if (m_sound.mix) m_sound.mix->leave(m_sound.reader);
      });
    } catch (const std::system_error& refused) {
      return tromb::fail(ErrorCode::Encoder, say("no thread can be started (%1)", refused.what()), m_target,
                         say("Close other programs, or export fewer deliverables at once"));
    }
    m_takesPart = m_plan.encoding().hasPicture();
    return {};
  });
}

int64_t Lane::unseenUntil(int64_t frame) const {
  return m_copies && !m_traces && m_log.pass != PassLog::Pass::First ? m_copies->endOf(frame) : frame;
}

void Lane::closeInput() {
  if (m_decoded) m_decoded->close();
}

void Lane::wait() {
  if (m_composing.joinable()) m_composing.join();
  if (m_encoding.joinable()) m_encoding.join();
  m_takesPart = false;
}

Message Lane::hardwareFault() const {
  const std::scoped_lock lock(m_mutex);
  if (!m_hardware || !m_result.error) return {};
  const ErrorCode code = m_result.error->code;
  return code == ErrorCode::Encoder || code == ErrorCode::Unsupported ? m_result.error->message : Message();
}

Message Lane::copyFault() const {
  const std::scoped_lock lock(m_mutex);
  return m_copies && m_result.error && m_result.error->code == ErrorCode::Unsupported ? m_result.error->message
                                                                                      : Message();
}

void Lane::describe(ExportedFile& file) const {
  if (m_plan.encoding().hasPicture())
    file.encoder = m_hardware ? m_hardware->encoder : m_plan.encoding().info().encoder;
  for (const auto& [piece, loss] : m_losses) file.losses.push_back(loss);
  if (m_copies) file.copied = m_copies->copies().copied();
}

ExportedFile Lane::takeResult() {
  describe(m_result);
  return std::move(m_result);
}

Status Lane::composeAll() {
  std::optional<Composer> composer;
  ElementPainter painter(m_plan, m_stop.get_token());
  size_t piece = SIZE_MAX;
  const std::stop_token stop = m_stop.get_token();
  while (auto item = m_decoded->pop(stop)) {
    const PlanPiece& p = m_plan.pieces()[item->piece];
    pause();
    if (!item->picture) {
      if (!m_composed->push({{}, item->repeat, {}, item->piece, false}, stop)) return {};
      continue;
    }
    if (item->piece != piece) {
      piece = item->piece;
      auto made = composerFor(p);
      if (!made) return tl::unexpected(made.error());
      composer = std::move(*made);
    }
    // If the source picture is the same and neither the framing moves nor what lies over it changes, the canvas is used
    // again.
    const int64_t begins = p.firstFrame + item->first;
    const int64_t together = p.moving || !m_plan.sameElements(begins, item->repeat) ? 1 : item->repeat;
    for (int64_t i = 0; i < item->repeat; i += together) {
      auto canvas = composer->compose(item->picture, p.placements(item->first + i, m_plan.rate()));
      if (canvas) canvas = painter.paint(begins + i, std::move(*canvas));
      if (!canvas) {
        canvas.error().path = p.reading.file.path;
        return tl::unexpected(canvas.error());
      }
      Composed composed{std::move(*canvas), together, {}, piece, item->lost};
      if (m_traces) composed.trace = PictureTrace::of(composed.canvas, m_traces->shape(), uint32_t(begins + i));
      if (!m_composed->push(std::move(composed), stop)) return {};
    }
  }
  return {};
}

Status Lane::addSoundUpTo(OutputFile& out, int64_t samples) {
  while (m_soundDone < samples) {
    if (m_chunkUsed == SoundMix::kChunkSamples) {
      auto chunk = m_sound.mix->next(m_sound.reader);
      if (!chunk) return tl::unexpected(chunk.error());
      m_chunk = *chunk;
      m_chunkUsed = std::min(m_soundSkip, SoundMix::kChunkSamples);
      m_soundSkip -= m_chunkUsed;
      continue;
    }
    const int64_t count = std::min(samples - m_soundDone, SoundMix::kChunkSamples - m_chunkUsed);
    const int channels = m_sound.mix->channels();
    const std::span<const float> part{m_chunk->data() + m_chunkUsed * channels, size_t(count * channels)};
    if (const Status added = out.addSound(part); !added) return tl::unexpected(named(added.error()));
    if (m_traces)
      if (const Status kept = m_traces->addSound(part); !kept) return tl::unexpected(named(kept.error()));
    m_chunkUsed += count;
    m_soundDone += count;
  }
  return {};
}

Lane::Turn Lane::encoderTurn() const {
  const auto& plans = m_request.plans;
  const auto pixels = [](const Plan& plan) {
    return plan.encoding().hasPicture() ? int64_t(plan.canvas().width) * plan.canvas().height : 0;
  };
  const auto count = size_t(std::count_if(plans.begin(), plans.end(), pixels)) + m_request.madeBefore.size();
  if (count < 2 || count < std::thread::hardware_concurrency()) return Turn::Any;
  const auto largest =
      std::max_element(plans.begin(), plans.end(), [&](const Plan& a, const Plan& b) { return pixels(a) < pixels(b); });
  const bool larger = std::any_of(m_request.madeBefore.begin(), m_request.madeBefore.end(),
                                  [&](Size made) { return int64_t(made.width) * made.height > pixels(*largest); });
  return size_t(largest - plans.begin()) == m_index && !larger ? Turn::Last : Turn::First;
}

PictureStream Lane::streamOf() const {
  PictureStream stream{pictureOf(m_plan.deliverable()), m_plan.encoding()};
  stream.threads = encoderTurn() == Turn::First ? 1 : 0;
  stream.light = m_light;
  stream.hardware = m_hardware;
  stream.headersBefore = m_headersBefore;
  if (m_copies) {
    stream.headersBefore = m_copies->copies().headers;
    stream.decodedAhead = m_copies->copies().ahead;
    // Whatever follows then goes on in the order of decoding.
    if (m_plan.encoding().info().bPictures) stream.encoding.bPictures = 0;
  }
  m_spending.brief(stream);
  return stream;
}

WhenFull Lane::whenFull() const {
  if (!m_request.whenFull) return {};
  return [this] { return !m_stop.stop_requested() && m_request.whenFull(m_index); };
}

/// Sees all pictures for what they teach, and keeps nothing of them.
Status Lane::firstPass() {
  const std::stop_token stop = m_stop.get_token();
  std::optional<PictureEncoder> encoder;
  if (m_plan.encoding().hasTwoPasses()) {
    auto opened = PictureEncoder::open(streamOf(), m_target, true, &m_log);
    if (!opened) return tl::unexpected(opened.error());
    encoder.emplace(std::move(*opened));
  }
  std::optional<LightMeter> meter;
  if (m_plan.format().colour == kPq) meter.emplace(m_plan.format());
  const PacketSink nowhere = [](AVPacket&) { return Status(); };
  int64_t frame = 0;
  while (auto item = m_composed->pop(stop)) {
    if (meter) meter->add(item->canvas);
    for (int64_t i = 0; i < item->repeat && !stop.stop_requested(); ++i) {
      if (encoder)
        if (const Status done = encoder->add(item->canvas, 1, nowhere); !done) return done;
      report(++frame, ExportState::Encoding);
    }
  }
  if (stop.stop_requested()) return {};
  if (meter) m_light = meter->light();
  return encoder ? encoder->finish(nowhere) : Status();
}

Result<Lane::Output> Lane::begin(const std::string& target, OutputFile::Holds holds) {
  auto part = PartFile::create(target);
  if (!part) return tl::unexpected(part.error());
  part->setWhenFull(whenFull());
  auto kept = std::make_unique<PartFile>(std::move(*part));
  auto out = OutputFile::create(kept->file(), target, streamOf(), holds, &m_log, m_plan.chapters());
  if (!out) return tl::unexpected(out.error());
  return Output{target, std::move(kept), std::move(*out)};
}

Status Lane::encodeAll() {
  using Holds = OutputFile::Holds;
  const Encoding& e = m_plan.encoding();
  if (!e.hasPicture() && !m_sound.mix)
    return tromb::fail(ErrorCode::InvalidArgument, say("there is no sound in the running order"), m_target,
                       say("Bring in sound, or deliver the picture too"));
  if (encoderTurn() == Turn::Last) { // inherited by the encoder's threads
    const auto self = id_t(gettid());
    (void)setpriority(PRIO_PROCESS, self, getpriority(PRIO_PROCESS, self) + kLaterNice);
  }
  std::vector<Output> outputs;
  const bool apart = m_sound.mix && e.sound.place != SoundPlace::Within;
  outputs.reserve(2); // so that they stay where they are
  if (e.hasPicture()) {
    auto begun = begin(m_target, m_sound.mix && !apart ? Holds::Both : Holds::Picture);
    if (!begun) return tl::unexpected(begun.error());
    outputs.push_back(std::move(*begun));
    m_maker.headers = outputs.back().file.headers();
  }
  if (apart) {
    auto begun = begin(soundPath(m_target, e), Holds::Sound);
    if (!begun) return tl::unexpected(begun.error());
    outputs.push_back(std::move(*begun));
  }
  const std::stop_token stop = m_stop.get_token();
  const auto frames =
      encode(e.hasPicture() ? &outputs.front().file : nullptr, m_sound.mix ? &outputs.back().file : nullptr);
  if (!frames) return tl::unexpected(frames.error());
  if (stop.stop_requested()) return {};
  if (*frames != m_plan.frameCount())
    return tromb::fail(ErrorCode::Encoder, say("only %1 of %2 frames were made", *frames, m_plan.frameCount()),
                       m_target);
  report(*frames, ExportState::Finishing);
  for (Output& output : outputs)
    if (const Status done = output.file.finish(); !done) return done;
  if (m_sound.mix)
    for (const SoundMix::Loss& loss : m_sound.mix->losses())
      m_result.losses.push_back({loss.path, {}, SourceLoss::Kind::Sound, loss.packets, loss.first});
  bool good = true;
  if (m_request.proof)
    if (const Status done = proof(outputs, good); !done) return done;
  if (stop.stop_requested()) return {};
  if (const Status done = takeNames(outputs, good); !done) return done;
  report(*frames, ExportState::Done);
  return {};
}

Status Lane::encodeRange() {
  if (m_segment == endSegment()) return {};
  const Descriptor nowhere(::open("/dev/null", O_RDWR | O_CLOEXEC));
  if (!nowhere) return cannotWrite("/dev/null", errno);
  auto file = OutputFile::create(nowhere, m_target, streamOf(), OutputFile::Holds::Picture, &m_log);
  if (!file) return tl::unexpected(file.error());
  m_maker.headers = file->headers();
  const auto frames = encode(&*file, nullptr);
  if (!frames) return tl::unexpected(frames.error());
  const int64_t wanted = m_cuts.end(m_range->end - 1);
  if (m_stop.stop_requested() || *frames == wanted) return {};
  return tromb::fail(ErrorCode::Encoder, say("only %1 of %2 frames were made", *frames, wanted), m_target);
}

Status Lane::openSegments() {
  if (m_segmentFolder.empty() || !m_cuts.kept()) return {};
  ExportedFile made;
  describe(made);
  m_maker.encoder = made.encoder;
  // Whoever goes on must make pictures as they were made.
  const std::string key = std::string(TROMB_VERSION) + " " + av_version_info() + " " +
                          std::to_string(m_plan.frameCount()) + " " + toJson(m_plan.encoding()).dump() +
                          (m_request.proof ? " traced" : "");
  auto store = SegmentStore::open(m_segmentFolder, key, m_plan.canvas(),
                                  m_request.segmentFolders.empty() ? WhenFull() : whenFull());
  if (!store) return kept(tl::unexpected(store.error()));
  m_segments.emplace(std::move(*store));
  if (m_range) {
    m_segment = m_range->first;
    // What was spent before is of no account, or there was nothing.
    m_spending.takeUp({0, m_cuts.first(m_segment), PictureStream::kFullAtFirst});
    for (; m_segment < m_range->end; ++m_segment) {
      const auto there = m_segments->made(m_segment);
      if (!there || there->by.encoder != m_maker.encoder) break;
      m_spending.takeUp(there->end.spent);
    }
    m_firstFrame = m_frame = m_segment < m_range->end ? m_cuts.first(m_segment) : m_cuts.end(m_range->end - 1);
    return {};
  }
  size_t segment = 0;
  for (; segment < m_cuts.count(); ++segment) {
    const auto there = m_segments->made(segment);
    if (!there) break;
    // Software goes on where hardware has begun, not the other way round.
    const bool mine = there->by.encoder == m_maker.encoder;
    const bool begins = !m_hardware && segment == m_before && (segment == 0 || there->by.headers == m_headersBefore);
    if (!mine && !begins) break;
    if (there->end.frame != m_cuts.end(segment)) { // hardware has given up within it
      if (mine) break;
      m_cuts.cutAt(there->end.frame);
    }
    if (!mine) {
      m_headersBefore = there->by.headers;
      ++m_before;
    }
    m_spending.takeUp(there->end.spent);
    m_firstFrame = m_cuts.end(segment);
  }
  m_segments->forget(segment, m_cuts.count() + 1); // there is one more where hardware has given up
  return {};
}

Status Lane::beginSegment() {
  return m_segments ? kept(m_segments->begin(m_segment, m_maker)) : Status();
}

void Lane::markGroup(const AVPacket& packet) {
  // All pictures before it have been encoded, and none behind it: it needs none of them, and none needs it.
  const bool begins = (packet.flags & AV_PKT_FLAG_KEY) != 0 && packet.pts == m_spending.state().pictures &&
                      packet.pts == m_latest + 1 && packet.pts > m_cuts.first(m_segment);
  if (begins && m_segments) m_segments->mark({m_spending.state(), packet.pts});
  m_latest = std::max(m_latest, packet.pts);
}

void Lane::keepGroups() {
  if (m_segments && !hardwareFault().empty())
    (void)m_segments->finishAtMark(); // where that fails, software begins with the segment
}

Status Lane::kept(const Status& done) {
  if (done) return {};
  if (!m_request.segmentFolders.empty()) return tl::unexpected(named(done.error()));
  m_segments.reset();
  return {};
}

Status Lane::note(const PictureTrace& trace, int64_t frames) {
  if (!m_traces) return {};
  const Status kept = m_traces->addPicture(trace, frames);
  return kept ? Status() : tl::unexpected(named(kept.error()));
}

void Lane::lose(const LostPictures& lost) {
  const PlanPiece& piece = m_plan.pieces()[lost.piece];
  SourceLoss& loss = m_losses[lost.piece];
  if (loss.count == 0)
    loss = {piece.reading.file.path, piece.shot.name, SourceLoss::Kind::Pictures, 0, m_plan.rate().timeOf(lost.first)};
  loss.count += lost.count;
}

Status Lane::addFrame(OutputFile* sound) {
  ++m_frame;
  const int64_t samples = Rational::nearestProduct(m_plan.rate().timeOf(m_frame), Rational(kSoundRate));
  if (sound)
    if (const Status done = addSoundUpTo(*sound, samples); !done) return done;
  report(m_frame, ExportState::Encoding);
  return {};
}

Status Lane::replay(OutputFile& picture, OutputFile* sound) {
  for (; m_frame < m_firstFrame && !m_stop.stop_requested(); ++m_segment) {
    int64_t traced = m_frame;
    const Status done =
        m_segments->replay(m_segment, {[&](AVPacket& packet) -> Status {
                                         if (const Status put = picture.addPacket(packet, m_segment < m_before); !put)
                                           return put;
                                         return m_frame < m_cuts.end(m_segment) ? addFrame(sound) : Status();
                                       },
                                       [&](const PictureTrace& trace, int64_t frames) {
                                         // More have been traced than encoded where hardware has given up.
                                         const int64_t now = std::min(frames, m_cuts.end(m_segment) - traced);
                                         traced += now;
                                         return now > 0 ? note(trace, now) : Status();
                                       },
                                       [&](const LostPictures& lost) { lose(lost); }});
    if (!done) return done;
    while (m_frame < m_cuts.end(m_segment))
      if (const Status added = addFrame(sound); !added) return added;
  }
  return {};
}

Status Lane::turnSegment(OutputFile& picture) {
  if (m_frame != m_cuts.end(m_segment)) return {};
  if (const Status done = picture.finishPicture(); !done) return done;
  if (m_segments)
    if (const Status done = kept(m_segments->finish({m_spending.state(), m_frame})); !done) return done;
  if (++m_segment == endSegment()) return {};
  if (const Status begun = picture.nextEncoder(streamOf()); !begun) return begun;
  return beginSegment();
}

Status Lane::addPicture(const Frame& canvas, OutputFile& picture) {
  if (m_copies && m_copies->endOf(m_frame) > m_frame) {
    if (!m_copying)
      if (const Status done = picture.finishPicture(); !done) return done;
    m_copying = true;
    return m_copies->next(m_frame, [&](AVPacket& packet) {
      m_spending.add(int64_t(packet.size) * 8);
      return picture.addPacket(packet);
    });
  }
  if (m_copying)
    if (const Status begun = picture.nextEncoder(streamOf()); !begun) return begun;
  m_copying = false;
  return picture.addPicture(canvas);
}

Status Lane::addPictures(const Composed& item, OutputFile& picture, OutputFile* sound) {
  const std::stop_token stop = m_stop.get_token();
  for (int64_t done = 0; done < item.repeat && m_segment < endSegment() && !stop.stop_requested();) {
    const int64_t together = std::min(item.repeat - done, m_cuts.end(m_segment) - m_frame);
    if (item.trace) {
      if (const Status kept = note(*item.trace, together); !kept) return kept;
      if (m_segments)
        if (const Status added = kept(m_segments->add(*item.trace, together)); !added) return added;
    }
    if (item.lost) {
      const LostPictures lost{item.piece, m_frame, together};
      lose(lost);
      if (m_segments) m_segments->add(lost);
    }
    for (int64_t i = 0; i < together && !stop.stop_requested(); ++i) {
      if (const Status added = addPicture(item.canvas, picture); !added) return added;
      if (const Status added = addFrame(sound); !added) return added;
    }
    if (stop.stop_requested()) return {};
    if (const Status turned = turnSegment(picture); !turned) return turned;
    done += together;
  }
  return {};
}

Result<int64_t> Lane::encode(OutputFile* picture, OutputFile* sound) {
  const std::stop_token stop = m_stop.get_token();
  // Of sound alone, as though there were pictures.
  while (!picture && m_frame < m_plan.frameCount() && !stop.stop_requested())
    if (const Status done = addFrame(sound); !done) return tl::unexpected(done.error());
  if (!picture) return m_frame;
  if (m_segments) {
    if (const Status done = replay(*picture, sound); !done) return tl::unexpected(done.error());
    if (m_segment < endSegment())
      if (const Status begun = beginSegment(); !begun) return tl::unexpected(begun.error());
  }
  m_latest = m_frame - 1;
  picture->setOnPicture([this](const AVPacket& packet) -> Status {
    if (m_hardware) markGroup(packet);
    m_spending.add(int64_t(packet.size) * 8);
    return m_segments ? kept(m_segments->add(packet)) : Status();
  });
  Clock::time_point lastPicture{};
  while (auto item = m_composed->pop(stop)) {
    if (const Status done = addPictures(*item, *picture, sound); !done) return tl::unexpected(done.error());
    if (m_segment == endSegment()) break;
    if (m_request.onPicture && item->canvas && Clock::now() - lastPicture >= kPictureEvery) {
      lastPicture = Clock::now();
      m_request.onPicture(m_index, item->canvas);
    }
  }
  return m_frame;
}

Status Lane::proof(const std::vector<Output>& outputs, bool& good) {
  ProofSubject subject{outputs.front().part->path(), &m_plan, &*m_traces, {}, m_light};
  if (outputs.size() > 1) subject.soundPath = outputs.back().part->path();
  for (const auto& [piece, loss] : m_losses) subject.losses.push_back(loss);
  subject.losses.insert(subject.losses.end(), m_result.losses.begin(), m_result.losses.end());
  auto proof = proofFile(subject, m_stop.get_token(), [this](int64_t n) { report(n, ExportState::Proofing); });
  if (!proof && proof.error().code == ErrorCode::Missing) return folderGone(m_target);
  if (!proof) return tl::unexpected(named(proof.error()));
  good = proof->passed();
  m_result.proof = std::move(*proof);
  return {};
}

Status Lane::takeNames(std::vector<Output>& outputs, bool good) {
  // A file that fails its proof gets a name of its own; an earlier one of that name is replaced.
  const auto named = [&](const Output& output) {
    return good ? output.target : (fs::path(output.target).parent_path() / shortName(output.target)).string();
  };
  m_result.path = named(outputs.front());
  if (outputs.size() > 1) m_result.soundPath = named(outputs.back());
  const auto refused = [&](const Status& why) {
    m_result.path.clear();
    m_result.soundPath.clear();
    m_result.captionPath.clear();
    return why;
  };
  // What is known now is told, although the lane is not over.
  ExportedFile told = m_result;
  describe(told);
  FileIdentities identities;
  for (const Output& output : outputs) {
    if (const Status synced = output.part->sync(); !synced) return refused(synced);
    (&output == &outputs.front() ? identities.file : identities.sound) = identityOf(output.part->file());
  }
  if (m_request.onNaming)
    if (const Status agreed = m_request.onNaming(m_index, told, identities); !agreed) return refused(agreed);
  std::vector<std::string> taken;
  if (!m_plan.captions().empty()) {
    const std::string path = captionPath(named(outputs.front()), m_plan.encoding());
    std::error_code unknown;
    if (!m_request.overwrite && good && fs::exists(path, unknown))
      return refused(tromb::fail(ErrorCode::Exists, say("the file is there already"), path,
                                 say("Allow it to be replaced, or export elsewhere")));
    const CaptionFormat format =
        m_plan.encoding().captions == CaptionPlace::WebVtt ? CaptionFormat::WebVtt : CaptionFormat::SubRip;
    if (const Status written = writeFileAtomically(path, captionFile(m_plan.captions(), format)); !written)
      return refused(written);
    m_result.captionPath = path;
    taken.push_back(path);
  }
  // That of the sound beside a picture first: where the picture has its name, all is there.
  for (auto output = outputs.rbegin(); output != outputs.rend(); ++output) {
    const std::string name = good ? std::string() : shortName(output->target);
    Status done = output->part->takeFinalName(m_request.overwrite || !good, name);
    const std::string at = done ? output->part->foundAt() : std::string();
    if (done && at.empty()) done = folderGone(output->target);
    if (!done) {
      std::error_code ignored;
      for (const std::string& path : taken) fs::remove(path, ignored);
      return refused(done);
    }
    taken.push_back(at);
  }
  told.path = m_result.path = taken.back();
  if (outputs.size() > 1) told.soundPath = m_result.soundPath = taken.front();
  if (m_request.onNamed) m_request.onNamed(m_index, told);
  return {};
}

/// Waits while the export is paused.
void Lane::pause() const {
  if (m_request.gate) m_request.gate->pass(m_stop.get_token());
}

/// Errors speak of the file under its final name.
Error Lane::named(Error error) const {
  error.path = m_target;
  return error;
}

void Lane::report(int64_t frame, ExportState state) {
  pause();
  if (!m_request.onProgress) return;
  const double total = double(m_plan.frameCount());
  const double share = m_request.proof ? kEncodingShare : 1;
  ExportProgress p;
  p.index = m_index;
  p.frame = state == ExportState::Proofing ? m_plan.frameCount() : frame;
  p.frames = m_plan.frameCount();
  p.first = firstFrame();
  p.state = state;
  const bool twice = needsFirstPass(m_plan);
  const double before = twice && m_log.pass != PassLog::Pass::First ? kFirstPassShare : 0;
  const double pass = !twice ? 1 : m_log.pass == PassLog::Pass::First ? kFirstPassShare : 1 - kFirstPassShare;
  p.fraction = state == ExportState::Done       ? 1
               : state == ExportState::Proofing ? share + (1 - share) * double(frame) / total
                                                : share * (before + pass * double(frame) / total);
  p.elapsedSeconds = std::chrono::duration<double>(Clock::now() - m_begun).count();
  if (m_request.gate) p.elapsedSeconds -= m_request.gate->closedSeconds();
  // What an earlier run has made took this one no time.
  const double there = m_log.pass == PassLog::Pass::First ? 0 : share * (before + pass * double(m_firstFrame) / total);
  const double made = p.fraction - there;
  p.remainingSeconds = made > 0.01 ? p.elapsedSeconds * (1 - p.fraction) / made : 0;
  if (state == ExportState::Encoding && m_left && *m_left > 0) p.remainingSeconds = *m_left;
  m_request.onProgress(p);
}

} // namespace tromb
