// SPDX-License-Identifier: GPL-3.0-or-later
#include "sample/SampleEncode.h"

#include "io/TemporaryFolder.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/Likeness.h"
#include "media/read/LoopReader.h"
#include "media/read/PacketDecoder.h"
#include "media/write/OutputFile.h"
#include "media/write/PictureEncoder.h"
#include "picture/LoopCanvas.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
#include "sample/PictureShelf.h"

#include <algorithm>
#include <cmath>
#include <fcntl.h>
#include <filesystem>
#include <sys/stat.h>

namespace tromb {
namespace {

constexpr int64_t kMostShelfBytes = 2'000'000'000;
constexpr double kProbeShare = 0.2; ///< of the time
constexpr double kShelfShare = 0.1;
constexpr int kRungsEachWay = 2;
constexpr double kRungsOfScale = 17; ///< steps of a scale of constant quality: 3 of 51
/// An average is kept to where the sample takes at least so much of it, and not at all where it takes no more than the
/// other: the pictures do not need it. Between the two it is kept in part.
constexpr double kKept = 0.9;
constexpr double kNotKept = 0.8;

/// What a picture of the sample takes.
struct Coded {
  int64_t bytes = 0;
  bool key = false;
};

struct Mean {
  double sum = 0;
  int count = 0;
  void add(double value) {
    sum += value;
    ++count;
  }
  [[nodiscard]] double mean() const { return count > 0 ? sum / count : 0; }
};

tl::unexpected<Error> cancelled() {
  return fail(ErrorCode::Cancelled, say("the sample was cancelled"));
}

/// The setting that rungs differ in, which grows with the size of files: an exponent of two for bit rates.
double rising(const Encoding& e) {
  if (*e.rateControl == RateControl::Settled) return 0;
  if (*e.rateControl != RateControl::ConstantQuality) return std::log2(double(e.bitRate));
  return e.info().quality.rises ? *e.crf : -*e.crf;
}

class SampleRun {
public:
  SampleRun(const SampleRequest& request, std::stop_token stop) : m_request(request), m_stop(std::move(stop)) {}

  Result<SampleReport> run() {
    const Plan& plan = m_request.plan;
    const auto probes = probePlan(plan, m_stop, [this](double f) { tell(f * kProbeShare); });
    if (!probes) return tl::unexpected(probes.error());
    const int64_t each = PictureShelf::bytesOf(plan.canvas(), pixelFormatOf(plan.format()));
    m_report.stretches = chooseSample(*probes, plan.frameCount(), plan.rate(), kMostShelfBytes / each);
    if (plan.encoding().info().loop) {
      if (plan.frameCount() > kMostShelfBytes / each)
        return fail(ErrorCode::Unsupported, say("a loop of so many pictures has no sample"), {},
                    say("Make the canvas smaller or the loop shorter"));
      m_frames = plan.frameCount();
    } else {
      for (const SampleStretch& stretch : m_report.stretches) m_frames += stretch.lead + stretch.count;
    }
    if (const Status done = fillShelf(); !done) return tl::unexpected(done.error());
    std::vector<Encoding> rungs = m_request.rungs;
    if (rungs.empty()) rungs.push_back(plan.encoding());
    double begun = kProbeShare + kShelfShare;
    for (const Encoding& encoding : rungs) {
      const double share = (1 - kProbeShare - kShelfShare) / double(rungs.size());
      const auto onFraction = [&](double f) { tell(begun + f * share); };
      auto rung = encoding.info().loop ? measuredLoop(encoding, onFraction) : measured(encoding, onFraction);
      if (!rung) return tl::unexpected(rung.error());
      addRungs(m_report.rungs, {std::move(*rung)});
      begun += share;
    }
    return std::move(m_report);
  }

private:
  void tell(double fraction) const {
    if (m_request.onFraction) m_request.onFraction(fraction);
  }

  /// Places [begin, end) of the hardest stretch on the shelf.
  struct Hardest {
    int64_t begin = 0;
    int64_t end = 0;
  };

  Status fillShelf() {
    const Plan& plan = m_request.plan;
    const bool whole = plan.encoding().info().loop;
    PlanPictures pictures(plan, m_stop);
    int64_t place = 0;
    const auto shelve = [&](int64_t first, int64_t end) -> Status {
      for (int64_t n = first; n < end; ++n) {
        if (m_stop.stop_requested()) return cancelled();
        auto picture = pictures.at(n);
        if (!picture) return tl::unexpected(picture.error());
        if (place == m_shown) {
          m_report.pictureFrame = n;
          m_report.picture = *picture;
        }
        if (const Status kept = m_shelf.add(*picture); !kept) return kept;
        tell(kProbeShare + kShelfShare * double(++place) / double(m_frames));
      }
      return {};
    };
    const auto mark = [&](const SampleStretch& stretch, int64_t begin) {
      if (!stretch.hardest) return;
      m_hardest = {begin, begin + stretch.count};
      m_shown = begin + stretch.count / 2;
    };
    for (const SampleStretch& stretch : m_report.stretches) {
      mark(stretch, whole ? stretch.first : place + stretch.lead);
      if (whole) continue;
      if (const Status done = shelve(stretch.first - stretch.lead, stretch.first + stretch.count); !done) return done;
    }
    if (whole)
      if (const Status done = shelve(0, plan.frameCount()); !done) return done;
    return m_shelf.close();
  }

  /// A loop is written to a file of its own and read back as viewers see it.
  Result<SampleRung> measuredLoop(const Encoding& encoding, const std::function<void(double)>& onFraction) {
    const Plan& plan = m_request.plan;
    const auto folder = TemporaryFolder::create();
    if (!folder) return tl::unexpected(folder.error());
    const PictureStream stream{pictureOf(plan.deliverable()), encoding};
    PassLog log;
    const bool palette = encoding.hasTwoPasses(); // which is made first, from all pictures
    const double steps = (palette ? 3 : 2) * double(m_frames);
    const double before = palette ? double(m_frames) : 0;
    if (palette) {
      log.folder = folder->path();
      log.pass = PassLog::Pass::First;
      const Status seen = encoded(stream, log, nullptr, {}, [&](double f) { onFraction(f * before / steps); });
      if (!seen) return tl::unexpected(seen.error());
      log.pass = PassLog::Pass::Second;
    }
    const std::string path = folder->path() + "/loop";
    const Descriptor there(::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, S_IRUSR | S_IWUSR));
    if (!there) return fail(ErrorCode::CannotWrite, verbatim(systemMessage(errno)), path);
    auto file = OutputFile::create(there, path, stream, OutputFile::Holds::Picture, &log);
    if (!file) return tl::unexpected(file.error());
    for (int64_t place = 0; place < m_frames; ++place) {
      if (m_stop.stop_requested()) return cancelled();
      if (const Status done = file->addPicture(m_shelf.at(place)); !done) return tl::unexpected(done.error());
      onFraction((before + double(place + 1)) / steps);
    }
    if (const Status done = file->finish(); !done) return tl::unexpected(done.error());
    auto reader = LoopReader::open(path, *encoding.container, m_stop);
    auto meter = LikenessMeter::create(m_report.picture);
    if (!reader) return tl::unexpected(reader.error());
    if (!meter) return tl::unexpected(meter.error());
    LoopCanvas canvas(plan.canvas(), plan.format());
    SampleRung rung;
    rung.encoding = encoding;
    rung.fileBytes = int64_t(std::filesystem::file_size(path));
    double ssim = 0;
    double error = 0;
    for (int64_t next = 0; next < m_frames;) {
      auto got = reader->read();
      if (!got) return tl::unexpected(got.error());
      if (!got->frame) return fail(ErrorCode::Decoder, say("only %1 of %2 frames can be read", next, m_frames));
      const int64_t end = std::clamp((got->end * plan.rate().value()).nearest(), next + 1, m_frames);
      const bool compared = next < m_hardest.end && end > m_hardest.begin;
      if (compared) {
        const auto picture = canvas.of(got->frame);
        if (!picture) return tl::unexpected(picture.error());
        for (int64_t place = std::max(next, m_hardest.begin); place < std::min(end, m_hardest.end); ++place) {
          if (place == m_shown) rung.picture = *picture;
          const auto found = meter->compare(*picture, m_shelf.at(place));
          if (!found) return tl::unexpected(found.error());
          ssim += found->ssim;
          error += found->error;
        }
      }
      next = end;
      onFraction((before + double(m_frames) + double(next)) / steps);
    }
    const double count = double(m_hardest.end - m_hardest.begin);
    rung.ssim = ssim / count;
    rung.psnr = peakSignalToNoise(error / count, plan.format().depth);
    return rung;
  }

  Result<SampleRung> measured(const Encoding& encoding, const std::function<void(double)>& onFraction) {
    const Plan& plan = m_request.plan;
    PictureStream stream{pictureOf(plan.deliverable()), encoding};
    stream.hardware = m_request.hardware;
    PassLog log;
    std::optional<TemporaryFolder> folder;
    if (encoding.hasTwoPasses()) {
      auto made = TemporaryFolder::create();
      if (!made) return tl::unexpected(made.error());
      folder.emplace(std::move(*made));
      log.folder = folder->path();
      log.pass = PassLog::Pass::First;
      const Status seen = encoded(stream, log, {}, {}, [&](double f) { onFraction(f / 2); });
      if (!seen) return tl::unexpected(seen.error());
      log.pass = PassLog::Pass::Second;
    }
    std::vector<Coded> sample(static_cast<size_t>(m_frames));
    auto meter = LikenessMeter::create(m_report.picture);
    if (!meter) return tl::unexpected(meter.error());
    SampleRung rung;
    rung.encoding = encoding;
    double ssim = 0;
    double error = 0;
    int64_t next = 0;
    const PacketDecoder::Take look = [&](const Frame& picture) -> Status {
      const int64_t place = next++;
      if (place == m_shown) rung.picture = picture;
      if (place < m_hardest.begin || place >= m_hardest.end) return {};
      const auto found = meter->compare(picture, m_shelf.at(place));
      if (!found) return tl::unexpected(found.error());
      ssim += found->ssim;
      error += found->error;
      return {};
    };
    const double begun = folder ? 0.5 : 0;
    const Status done = encoded(stream, log, &sample, look, [&](double f) { onFraction(begun + f * (1 - begun)); });
    if (!done) return tl::unexpected(done.error());
    if (next != m_frames) return fail(ErrorCode::Decoder, say("only %1 of %2 frames can be read", next, m_frames));
    const double count = double(m_hardest.end - m_hardest.begin);
    rung.ssim = ssim / count;
    rung.psnr = peakSignalToNoise(error / count, plan.format().depth);
    rung.fileBytes = fileBytes(encoding, sample);
    return rung;
  }

  /// Encodes the shelf; what each picture takes where that is asked for, and every picture that comes out.
  Status encoded(const PictureStream& stream, PassLog& log, std::vector<Coded>* sample, const PacketDecoder::Take& look,
                 const std::function<void(double)>& onFraction) {
    auto encoder = PictureEncoder::open(stream, {}, true, &log);
    if (!encoder) return tl::unexpected(encoder.error());
    std::optional<PacketDecoder> decoder;
    if (look) {
      auto opened = PacketDecoder::open(encoder->context());
      if (!opened) return tl::unexpected(opened.error());
      decoder.emplace(std::move(*opened));
    }
    const PacketSink sink = [&](AVPacket& packet) -> Status {
      if (sample && packet.pts >= 0 && packet.pts < m_frames)
        (*sample)[size_t(packet.pts)] = {packet.size, (packet.flags & AV_PKT_FLAG_KEY) != 0};
      return decoder ? decoder->add(packet, look) : Status();
    };
    for (int64_t place = 0; place < m_frames; ++place) {
      if (m_stop.stop_requested()) return cancelled();
      if (const Status done = encoder->add(m_shelf.at(place), 1, sink); !done) return done;
      onFraction(double(place + 1) / double(m_frames));
    }
    if (const Status done = encoder->finish(sink); !done) return done;
    return decoder ? decoder->finish(look) : Status();
  }

  /// Of the whole file, from what each picture of the sample takes.
  [[nodiscard]] int64_t fileBytes(const Encoding& e, const std::vector<Coded>& sample) const {
    const Plan& plan = m_request.plan;
    const double frames = double(plan.frameCount());
    double all = 0;
    for (const Coded& each : sample) all += double(each.bytes);
    const double average = all * 8 * plan.rate().toDouble() / double(sample.size());
    double picture = 0;
    size_t place = 0;
    for (const SampleStretch& stretch : m_report.stretches) {
      picture += stretch.share * stretch.factor * frames * bytesAPicture(e, stretch, place, sample);
      place += size_t(stretch.lead + stretch.count);
    }
    if (e.byBitRate()) {
      const double kept = *e.rateControl == RateControl::Constant
                              ? 1
                              : std::clamp((average / double(e.bitRate) - kNotKept) / (kKept - kNotKept), 0.0, 1.0);
      picture += kept * (double(estimatedBytes(e.bitRate, 0, plan.duration())) - picture);
    }
    const bool heard = plan.hasSound() && e.sound.place == SoundPlace::Within;
    if (heard) picture += double(estimatedBytes(0, bitRateOf(e.sound), plan.duration()));
    return int64_t(picture) + containerBytes(plan.frameCount(), heard ? plan.duration() : Rational(0));
  }

  /// In the mean of what a stretch stands for. Key frames come where they happen to fall in the sample; in the file
  /// they come as often as the encoding has them.
  [[nodiscard]] double bytesAPicture(const Encoding& e, const SampleStretch& stretch, size_t place,
                                     const std::vector<Coded>& sample) const {
    Mean others;
    Mean keys;
    for (size_t i = place; i < place + size_t(stretch.lead + stretch.count); ++i) {
      if (sample[i].key)
        keys.add(double(sample[i].bytes));
      else if (i >= place + size_t(stretch.lead))
        others.add(double(sample[i].bytes));
    }
    if (keys.count == 0)
      for (const Coded& each : sample)
        if (each.key) keys.add(double(each.bytes));
    if (others.count == 0) return keys.mean();
    const double often = std::min(1.0, 1 / keyDistance(m_request.plan, e));
    return often * keys.mean() + (1 - often) * others.mean();
  }

  const SampleRequest& m_request;
  std::stop_token m_stop;
  SampleReport m_report;
  PictureShelf m_shelf;
  int64_t m_frames = 0;
  Hardest m_hardest;
  int64_t m_shown = -1; ///< place of the picture that is shown of each rung
};

} // namespace

std::vector<Encoding> rungsRound(const Encoding& e, const EncodedPicture& picture) {
  std::vector<Encoding> rungs;
  const QualityScale& scale = e.info().quality;
  for (int step = -kRungsEachWay; step <= kRungsEachWay; ++step) {
    Encoding rung = e;
    if (*e.rateControl == RateControl::ConstantQuality) {
      const double by = std::round((scale.most - scale.least) / kRungsOfScale) * (scale.rises ? step : -step);
      if (*e.crf + by < scale.least || *e.crf + by > scale.most) continue;
      rung.crf = *e.crf + by;
    } else if (*e.rateControl != RateControl::Settled) {
      const double factor = std::exp2(step / 2.0);
      const auto changed = [&](int64_t bits) { return int64_t(std::llround(double(bits) * factor)); };
      rung.bitRate = changed(e.bitRate);
      if (rung.bitRate < kLeastBitRate || rung.bitRate > kMostBitRate) continue;
      rung.maxBitRate = changed(e.maxBitRate);
      rung.bufferBits = changed(e.bufferBits);
    } else if (step != 0) {
      continue;
    }
    if (step != 0) {
      rung.level.clear(); // what a rung needs, whatever was chosen
      rung = resolved(rung, picture);
      if (!encodable(rung, picture)) continue;
    }
    rungs.push_back(std::move(rung));
  }
  return rungs;
}

Result<SampleReport> encodeSample(const SampleRequest& request, std::stop_token stop) {
  const Encoding& e = request.plan.encoding();
  if (!e.hasPicture()) return fail(ErrorCode::Unsupported, say("there is no picture in it"));
  return SampleRun(request, std::move(stop)).run();
}

std::optional<SamplePoint> pointAt(const std::vector<SampleRung>& rungs, const Encoding& e) {
  if (rungs.empty() || rungs.front().encoding.rateControl != e.rateControl) return {};
  const auto point = [](const SampleRung& rung) { return SamplePoint{rung.fileBytes, rung.ssim, rung.psnr}; };
  if (*e.rateControl == RateControl::Settled) return point(rungs.front());
  const double wanted = rising(e);
  constexpr double kSame = 1e-6;
  for (size_t i = 0; i < rungs.size(); ++i) {
    const double at = rising(rungs[i].encoding);
    if (std::abs(at - wanted) < kSame) return point(rungs[i]);
    if (i == 0 || at < wanted || rising(rungs[i - 1].encoding) > wanted) continue;
    const SampleRung& a = rungs[i - 1];
    const SampleRung& b = rungs[i];
    const double part = (wanted - rising(a.encoding)) / (at - rising(a.encoding));
    const auto mixed = [part](double x, double y) { return x + part * (y - x); };
    return SamplePoint{int64_t(std::exp2(mixed(std::log2(double(a.fileBytes)), std::log2(double(b.fileBytes))))),
                       mixed(a.ssim, b.ssim), mixed(a.psnr, b.psnr)};
  }
  return {};
}

std::string sampledShots(const Project& project, const Footage& footage) {
  Project alone;
  alone.shots = project.shots;
  for (Shot& shot : alone.shots) shot.name.clear();
  alone.beds = project.beds;
  for (const Source& each : project.sources) {
    // As it is read: not who found that out, nor when.
    Source& source = alone.sources.emplace_back();
    source.id = each.id;
    source.path = each.path;
    source.bars = each.bars;
    source.colour = each.colour;
    source.sound = each.sound;
    source.orientation = each.orientation;
    source.slowMotion = each.slowMotion;
    source.repeats = each.repeats;
    const auto media = footage.find(each.id);
    if (media == footage.end() || !media->second) continue;
    source.name = std::to_string(media->second->sizeBytes);
    if (media->second->video) source.scan = scanOf(each, *media->second->video);
  }
  return toText(alone, "/");
}

std::string sampledSettings(const Deliverable& d) {
  Project alone;
  Deliverable& kept = alone.deliverables.emplace_back(d);
  kept.id = "one";
  kept.name = kept.destination = kept.preset = kept.sharesWith = kept.unknown = {}; // its framings are written
  kept.loudness.reset();
  Encoding e = resolvedEncoding(d);
  e.crf.reset();
  e.bitRate = e.maxBitRate = e.bufferBits = 0;
  e.level = e.title = e.comment = e.language = e.unknown = {};
  e.chapters = Chapters::None;
  kept.encoding = std::move(e);
  return toText(alone, "/");
}

void addRungs(std::vector<SampleRung>& rungs, const std::vector<SampleRung>& more) {
  for (const SampleRung& each : more) {
    const auto same = [&](const SampleRung& other) {
      return other.encoding.bitRate == each.encoding.bitRate && other.encoding.crf == each.encoding.crf;
    };
    rungs.erase(std::remove_if(rungs.begin(), rungs.end(), same), rungs.end());
    rungs.push_back(each);
  }
  std::stable_sort(rungs.begin(), rungs.end(),
                   [](const SampleRung& a, const SampleRung& b) { return rising(a.encoding) < rising(b.encoding); });
}

std::optional<Knee> kneeOf(const std::vector<SampleRung>& rungs) {
  if (rungs.size() < 3) return {};
  const auto octaves = [&](size_t i) { return std::log2(double(rungs[i].fileBytes)); };
  const auto gain = [&](size_t i) { // of twice the bits, from rung i to the next
    const double wider = octaves(i + 1) - octaves(i);
    return wider > 0 ? (rungs[i + 1].ssim - rungs[i].ssim) / wider : 0;
  };
  const auto setting = [&](double rises) {
    const Encoding& e = rungs.front().encoding;
    if (*e.rateControl != RateControl::ConstantQuality) return std::exp2(rises);
    return e.info().quality.rises ? rises : -rises;
  };
  const auto at = [&](size_t i, double part, bool within) { // between rung i and the next
    const size_t next = std::min(i + 1, rungs.size() - 1);
    const auto mixed = [&](double a, double b) { return a + part * (b - a); };
    Knee knee;
    knee.setting = setting(mixed(rising(rungs[i].encoding), rising(rungs[next].encoding)));
    knee.fileBytes = int64_t(std::exp2(mixed(octaves(i), octaves(next))));
    knee.ssim = mixed(rungs[i].ssim, rungs[next].ssim);
    knee.within = within;
    return knee;
  };
  const size_t last = rungs.size() - 1;
  if (gain(0) < kKneeGain) return at(0, 0, false);
  for (size_t i = 1; i < last; ++i)
    if (gain(i) < kKneeGain) {
      // The gain is that of the middle between two rungs: the place where it has sunk so far lies between the middles.
      const double part = (gain(i - 1) - kKneeGain) / (gain(i - 1) - gain(i));
      return part < 0.5 ? at(i - 1, 0.5 + part, true) : at(i, part - 0.5, true);
    }
  return at(last, 0, false);
}

} // namespace tromb
