// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/CompareService.h"

#include "model/ScreenImage.h"
#include "model/Translation.h"
#include "project/Footage.h"
#include "queue/Queue.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace tromb {
namespace {

constexpr auto kTellMeasureEvery = std::chrono::milliseconds(300);

/// Opens one side, anew each time.
Result<ComparedPictures> openSide(const std::string& queueFolder, const std::string& indexFolder,
                                  const ComparedSide& side, std::stop_token stop) {
  if (!side.path.empty()) return ComparedPictures::ofFile(side.path, std::move(stop));
  const Queue queue(queueFolder);
  const auto job = queue.find(side.job);
  if (!job) return tl::unexpected(job.error());
  const auto project = queue.project(side.job);
  if (!project) return tl::unexpected(project.error());
  const Footage footage = probeFootage(*project, {.stop = stop, .indexFolder = indexFolder});
  auto plan = planOf(job->job, *project, footage, side.deliverable);
  if (!plan) return tl::unexpected(plan.error());
  return ComparedPictures::ofPlan(std::move(*plan), std::move(stop));
}

/// The true shape of a picture whose pixels may not be square, within a size.
QSize fitting(QSize stored, const Rational& pixelAspect, QSize most) {
  const QSizeF shape(stored.width() * pixelAspect.toDouble(), stored.height());
  return shape.scaled(most, Qt::KeepAspectRatio).toSize().expandedTo({1, 1});
}

QImage smaller(const QImage& image, QSize size) {
  return image.isNull() ? image : image.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
}

/// What is drawn, and how.
struct Wish {
  int64_t frame;
  int gain;
  QSize most;
};

} // namespace

/// The two sides as they are open.
struct CompareService::Opened {
  std::stop_source closing; ///< neither is wanted any more
  std::optional<PairReader> pictures;
  std::optional<ComparedPair> last; ///< that was read

  Result<Pair> drawn(const Wish& wish) {
    if (!last || last->frame != wish.frame) {
      auto read = pictures->at(wish.frame);
      if (!read) return tl::unexpected(read.error());
      last = std::move(*read);
    }
    Pair pair{last->frame, last->otherFrame, imageOf(last->first), imageOf(last->second), {}, {}, {}, {}};
    if (wish.gain > 0) pair.difference = imageOf(differenceOf(last->first, last->second, wish.gain));
    const QSize size = fitting(pair.first.size(), pictures->first().pixelAspect(), wish.most);
    pair.smallFirst = smaller(pair.first, size);
    pair.smallSecond = smaller(pair.second, size);
    pair.smallDifference = smaller(pair.difference, size);
    return pair;
  }
};

CompareService::CompareService(std::string queueFolder, std::string indexFolder, QObject* parent)
    : QObject(parent), m_queueFolder(std::move(queueFolder)), m_indexFolder(std::move(indexFolder)),
      m_drawer(1, Worker::Pace::WithWindow) {
  connect(&m_drawer, &Worker::idle, this, [this] {
    if (std::exchange(m_stale, false)) draw();
  });
}

CompareService::~CompareService() {
  close();
}

void CompareService::close() {
  m_drawer.stop();
  m_measurer.stop();
  if (m_opened) m_opened->closing.request_stop();
  m_opened.reset();
  m_sides = {};
  m_frames = 0;
  m_seconds = 0;
  m_pair = {};
  m_comparison.reset();
  m_measured = false;
  m_wanted = 0;
  m_wantedAt.reset();
  m_stale = false;
}

void CompareService::open(const ComparedSide& first, const ComparedSide& second) {
  if (m_opened && m_sides == std::pair(first, second)) return;
  close();
  m_sides = {first, second};
  m_opened = std::make_shared<Opened>();
  m_drawer.add(
      [this, both = m_opened, sides = m_sides, folder = m_queueFolder, indexes = m_indexFolder](const Task& task) {
        auto one = openSide(folder, indexes, sides.first, both->closing.get_token());
        if (!one) return task.tell([this, error = one.error()] { fail(error); });
        auto other = openSide(folder, indexes, sides.second, both->closing.get_token());
        if (!other) return task.tell([this, error = other.error()] { fail(error); });
        both->pictures.emplace(std::move(*one), std::move(*other));
        const ComparedPictures& its = both->pictures->first();
        task.tell([this, frames = its.frameCount(), rate = its.rate(), seconds = its.duration().toDouble()] {
          m_frames = frames;
          m_rate = rate;
          m_seconds = seconds;
          if (m_wantedAt) m_wanted = frameAt(*m_wantedAt);
          m_wanted = std::clamp<int64_t>(m_wanted, 0, m_frames - 1);
          m_stale = true;
          emit opened();
        });
      },
      [this](const Error& error) { fail(error); });
}

int64_t CompareService::frameAt(double seconds) const {
  const double frame = std::floor(seconds * m_rate.toDouble() + 1e-6);
  return std::clamp<int64_t>(int64_t(frame), 0, std::max<int64_t>(0, m_frames - 1));
}

void CompareService::show(int64_t frame) {
  m_wantedAt.reset();
  m_wanted = isOpen() ? std::clamp<int64_t>(frame, 0, m_frames - 1) : frame;
  draw();
}

void CompareService::showAt(double seconds) {
  if (isOpen()) return show(frameAt(seconds));
  m_wantedAt = seconds;
}

void CompareService::setGain(int gain) {
  if (std::exchange(m_gain, gain) != gain) draw();
}

void CompareService::setMost(QSize most) {
  if (std::exchange(m_most, most) != most) draw();
}

void CompareService::draw() {
  if (!isOpen()) return;
  m_stale = m_drawer.busy(); // one picture after the other, so that some show while somebody drags
  if (m_stale) return;
  m_drawer.add(
      [this, both = m_opened, wish = Wish{m_wanted, m_gain, m_most}](const Task& task) {
        auto pair = both->drawn(wish);
        if (!pair) return task.tell([this, error = pair.error()] { fail(error); });
        task.tell([this, pair = std::move(*pair)] {
          m_pair = pair;
          emit pictured();
        });
      },
      [this](const Error& error) { fail(error); });
}

void CompareService::measure() {
  if (!m_opened || m_measured || m_measurer.busy()) return;
  m_measurer.add(
      [this, sides = m_sides, folder = m_queueFolder, indexes = m_indexFolder](const Task& task) {
        auto one = openSide(folder, indexes, sides.first, task.stop());
        if (!one) return task.tell([this, error = one.error()] { fail(error); });
        auto other = openSide(folder, indexes, sides.second, task.stop());
        if (!other) return task.tell([this, error = other.error()] { fail(error); });
        Throttle throttle(kTellMeasureEvery);
        const auto tell = [this, &task](const Comparison& made, bool whole) {
          task.tell([this, made, whole] {
            m_comparison = made;
            m_measured = whole;
            emit measuredMore();
          });
        };
        const auto made = comparePictures(std::move(*one), std::move(*other), [&](const Comparison& soFar) {
          if (throttle.due()) tell(soFar, false);
        });
        if (!made) return task.tell([this, error = made.error()] { fail(error); });
        tell(*made, true);
      },
      [this](const Error& error) { fail(error); });
}

void CompareService::fail(const Error& error) {
  if (error.code != ErrorCode::Cancelled) emit failed(said(error));
}

} // namespace tromb
