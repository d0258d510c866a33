// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SourceFeed.h"

#include "media/read/VideoReader.h"
#include "model/ScreenImage.h"

#include <chrono>

namespace tromb {
namespace {

using Clock = std::chrono::steady_clock;

std::chrono::nanoseconds nanoseconds(const Rational& seconds) {
  return std::chrono::nanoseconds(int64_t(seconds.toDouble() * 1e9));
}

} // namespace

SourceFeed::SourceFeed(QObject* parent)
    : QObject(parent), m_thread([this](const std::stop_token& stop) { work(stop); }) {}

SourceFeed::~SourceFeed() {
  m_thread.request_stop();
}

void SourceFeed::ask(const std::function<void(Request&)>& change) {
  {
    const std::scoped_lock lock(m_mutex);
    if (!m_request) m_request.emplace();
    change(*m_request);
    m_request->serial = ++m_serial;
  }
  m_changed.notify_all();
}

void SourceFeed::open(const MediaInfo& media, const Bars& bars, QSize most) {
  m_playing = false;
  ask([&](Request& r) {
    r = {};
    r.media = media;
    r.bars = bars;
    r.most = {most.width(), most.height()};
  });
}

void SourceFeed::show(int64_t frame) {
  m_playing = false;
  ask([&](Request& r) {
    r.frame = frame;
    r.end = 0;
  });
}

void SourceFeed::play(int64_t frame, int64_t end) {
  m_playing = end > frame;
  ask([&](Request& r) {
    r.frame = frame;
    r.end = end;
  });
}

void SourceFeed::pause() {
  m_playing = false;
  ask([](Request& r) {
    r.frame.reset();
    r.end = 0;
  });
}

void SourceFeed::work(const std::stop_token& stop) {
  std::optional<MediaInfo> media;
  std::optional<VideoReader> reader;
  std::optional<ScreenComposer> composer;
  for (;;) {
    Request request;
    {
      std::unique_lock lock(m_mutex);
      if (!m_changed.wait(lock, stop, [this] { return m_request.has_value(); })) return;
      request = std::move(*m_request);
      m_request.reset();
    }
    const auto tell = [&](auto say) {
      QMetaObject::invokeMethod(this, [this, say, serial = request.serial] {
        if (serial == m_serial) say();
      });
    };
    if (request.media) {
      media = request.media;
      reader.reset();
      composer.reset();
      if (media->video) {
        auto opened = VideoReader::open(*media);
        if (opened)
          reader = std::move(*opened);
        else
          tell([this, why = QString::fromStdString(sentence(opened.error()))] { emit failed(why); });
        composer.emplace(media->video->shape(request.bars), request.most);
      }
    }
    if (!request.frame || !reader) continue;

    const auto draw = [&](const Frame& picture, int64_t frame) {
      const auto drawn = composer->draw(picture);
      if (!drawn) return;
      const QImage image = imageOf(*drawn);
      tell([this, image, frame] { emit pictured(image, frame); });
    };
    const auto asked = [&] {
      const std::scoped_lock lock(m_mutex);
      return m_request.has_value() || stop.stop_requested();
    };
    if (request.end <= *request.frame) {
      const auto picture = reader->frameAt(*request.frame);
      if (picture)
        draw(*picture, *request.frame);
      else
        tell([this, why = QString::fromStdString(sentence(picture.error()))] { emit failed(why); });
      continue;
    }
    // Running: the frame that is due, or the first that can be had after it.
    const FrameClock& clock = media->video->clock;
    const Rational start = clock.timeOf(*request.frame);
    const auto begun = Clock::now();
    int64_t next = *request.frame;
    int64_t shown = 0;
    auto told = begun;
    int64_t firstSinceTold = next;
    bool ended = false;
    while (!asked() && !ended) {
      if (const Status there = reader->goTo(next); !there) break;
      const auto got = reader->read();
      ended = !got || !got->frame || got->number >= request.end;
      if (ended) break;
      const auto due = begun + nanoseconds(clock.timeOf(got->number) - start);
      {
        std::unique_lock lock(m_mutex);
        (void)m_changed.wait_until(lock, stop, due, [this] { return m_request.has_value(); });
      }
      if (asked()) break;
      draw(got->frame, got->number);
      ++shown;
      const auto now = Clock::now();
      const double gone = std::chrono::duration<double>(now - begun).count();
      const int64_t timely = clock.nearest(start + Rational(int64_t(gone * 1000), 1000));
      next = std::max(got->number + 1, timely);
      if (now - told > std::chrono::seconds(1)) {
        const double share = double(shown) / double(std::max<int64_t>(1, next - firstSinceTold));
        tell([this, share] { emit keptUp(share); });
        told = now;
        firstSinceTold = next;
        shown = 0;
      }
      ended = next >= request.end;
    }
    if (ended)
      tell([this] {
        m_playing = false;
        emit this->ended();
      });
  }
}

} // namespace tromb
