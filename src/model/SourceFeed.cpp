// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SourceFeed.h"

#include "media/read/VideoReader.h"
#include "model/ScreenImage.h"
#include "model/Translation.h"
#include "picture/PictureReader.h"

#include <chrono>
#include <condition_variable>
#include <mutex>

namespace tromb {
namespace {

using Clock = std::chrono::steady_clock;

std::chrono::nanoseconds nanoseconds(const Rational& seconds) {
  return std::chrono::nanoseconds(int64_t(seconds.toDouble() * 1e9));
}

/// False when it was stopped before.
bool waitUntil(Clock::time_point time, const std::stop_token& stop) {
  std::mutex mutex;
  std::unique_lock lock(mutex);
  std::condition_variable_any never;
  (void)never.wait_until(lock, stop, time, [] { return false; });
  return !stop.stop_requested();
}

} // namespace

/// An open source, or one that is being opened.
struct SourceFeed::Reel {
  Reading source;
  Size most;
  std::optional<PictureReader> reader;
  std::optional<ScreenComposer> composer;

  std::stop_source closing; ///< the whole source is no longer wanted

  Status open() {
    if (reader) return {};
    auto opened = PictureReader::open(source, {.stop = closing.get_token()});
    if (!opened) return tl::unexpected(opened.error());
    reader = std::move(*opened);
    composer.emplace(source.shape(), most);
    return {};
  }
  Result<QImage> draw(const Frame& picture) {
    const auto drawn = composer->draw(picture);
    if (!drawn) return tl::unexpected(drawn.error());
    return imageOf(*drawn);
  }
};

SourceFeed::SourceFeed(QObject* parent) : QObject(parent), m_worker(1, Worker::Pace::WithWindow) {}

void SourceFeed::ask(std::function<Status(Reel&, const Job&)> work) {
  m_worker.stop();
  if (!m_reel || !m_reel->source.file.video) return;
  m_worker.add(
      [this, reel = m_reel, work = std::move(work)](const Job& job) {
        Status done = reel->open();
        if (done) done = work(*reel, job);
        if (!done) job.tell([this, error = done.error()] { stopWith(error); });
      },
      [this](const Error& error) { stopWith(error); });
}

void SourceFeed::stopWith(const Error& error) {
  m_playing = false;
  emit failed(said(error));
}

void SourceFeed::close() {
  m_worker.stop();
  if (m_reel) m_reel->closing.request_stop();
}

SourceFeed::~SourceFeed() {
  close();
}

void SourceFeed::open(const Reading& reading, QSize most) {
  m_playing = false;
  close();
  m_reel = std::make_shared<Reel>();
  m_reel->source = reading;
  m_reel->most = {most.width(), most.height()};
  ask([](Reel&, const Job&) { return Status(); });
}

void SourceFeed::show(int64_t frame) {
  m_playing = false;
  ask([this, frame](Reel& reel, const Job& job) -> Status {
    const auto picture = reel.reader->frameAt(frame, job.stop());
    if (!picture) return tl::unexpected(picture.error());
    const auto image = reel.draw(*picture);
    if (!image) return tl::unexpected(image.error());
    job.tell([this, image = *image, frame] { emit pictured(image, frame); });
    return {};
  });
}

void SourceFeed::pause() {
  m_playing = false;
  m_worker.stop();
}

void SourceFeed::play(int64_t frame, int64_t end) {
  m_playing = end > frame;
  if (!m_playing) return show(frame);
  ask([this, frame, end](Reel& reel, const Job& job) { return run(this, reel, frame, end, job); });
}

Status SourceFeed::run(SourceFeed* feed, Reel& reel, int64_t frame, int64_t end, const Job& job) {
  // Shows the frame that is due, or the next one that could be decoded.
  const FrameClock& clock = reel.source.file.video->clock;
  const Rational start = clock.timeOf(frame);
  const auto begun = Clock::now();
  int64_t next = frame;
  int64_t shown = 0;
  auto told = begun;
  int64_t firstSinceTold = next;
  while (next < end) {
    if (const Status there = reel.reader->goTo(next); !there) return there;
    const auto got = reel.reader->read();
    if (!got) return tl::unexpected(got.error());
    if (!got->frame && reel.reader->brokenOff())
      return fail(ErrorCode::Unreadable, say("the file breaks off here"), reel.source.file.path,
                  say("Copy it again from where it was recorded"), say("frame %1", next));
    if (!got->frame || got->number >= end) break;
    if (!waitUntil(begun + nanoseconds(clock.timeOf(got->number) - start), job.stop())) return {};
    const auto image = reel.draw(got->frame);
    if (!image) return tl::unexpected(image.error());
    job.tell([feed, image = *image, number = got->number] { emit feed->pictured(image, number); });
    ++shown;
    const auto now = Clock::now();
    const double gone = std::chrono::duration<double>(now - begun).count();
    const int64_t timely = clock.onScreen(start + Rational(int64_t(gone * 1000), 1000));
    next = std::max(got->number + 1, timely);
    if (now - told > std::chrono::seconds(1)) {
      const double share = double(shown) / double(std::max<int64_t>(1, next - firstSinceTold));
      job.tell([feed, share] { emit feed->keptUp(share); });
      told = now;
      firstSinceTold = next;
      shown = 0;
    }
  }
  job.tell([feed] {
    feed->m_playing = false;
    emit feed->ended();
  });
  return {};
}

} // namespace tromb
