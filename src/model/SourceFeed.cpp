// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SourceFeed.h"

#include "model/ScreenImage.h"
#include "model/Translation.h"
#include "picture/PictureSource.h"

namespace tromb {
/// An open source, or one that is being opened.
struct SourceFeed::Reel {
  Reading source;
  Size most;
  std::optional<PictureSource> reader;
  std::optional<ScreenComposer> composer;

  std::stop_source closing; ///< the whole source is no longer wanted

  Status open() {
    if (reader) return {};
    auto opened = PictureSource::open(source, {.stop = closing.get_token()});
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

void SourceFeed::ask(std::function<Status(Reel&, const Task&)> work) {
  m_worker.stop();
  if (!m_reel || !m_reel->source.file.video) return;
  m_worker.add(
      [this, reel = m_reel, work = std::move(work)](const Task& task) {
        Status done = reel->open();
        if (done) done = work(*reel, task);
        if (!done) task.tell([this, error = done.error()] { stopWith(error); });
      },
      [this](const Error& error) { stopWith(error); });
}

void SourceFeed::stopWith(const Error& error) {
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
  close();
  m_reel = std::make_shared<Reel>();
  m_reel->source = reading;
  m_reel->most = {most.width(), most.height()};
  ask([](Reel&, const Task&) { return Status(); });
}

void SourceFeed::show(int64_t frame) {
  ask([this, frame](Reel& reel, const Task& task) -> Status {
    const auto picture = reel.reader->frameAt(frame, task.stop());
    if (!picture) return tl::unexpected(picture.error());
    const auto image = reel.draw(*picture);
    if (!image) return tl::unexpected(image.error());
    task.tell([this, image = *image, frame] { emit pictured(image, frame); });
    return {};
  });
}

} // namespace tromb
