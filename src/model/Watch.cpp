// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Watch.h"

#include "analysis/SoundTarget.h"
#include "media/read/Probe.h"
#include "model/ScreenImage.h"
#include "model/Translation.h"
#include "watch/WatchPictures.h"
#include "watch/WatchSound.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstdlib>
#include <deque>
#include <mutex>
#include <set>

namespace tromb {
namespace {

constexpr int kTickMs = 4;
constexpr int64_t kSoundAhead = kSoundRate / 2;  ///< samples that are mixed ahead
constexpr int64_t kSoundBlock = kSoundRate / 50; ///< mixed at once
constexpr int64_t kSoundFirst = kSoundRate / 20; ///< there before the clock begins
constexpr int64_t kPicturesAhead = kSoundRate;   ///< samples by which pictures are drawn ahead
constexpr size_t kPicturesBytes = size_t(96) << 20;
constexpr int64_t kCutAhead = 3 * kSoundRate; ///< before a cut, what comes behind it is opened
constexpr int64_t kShort = kSoundRate / 4;    ///< so little ahead is too little
constexpr int kMostDivisor = 4;
constexpr int kSlowInARow = 8; ///< pictures that took too long before they are drawn smaller

using Clock = std::chrono::steady_clock;

} // namespace

/// The pictures of one moment.
struct Watch::Set {
  int64_t due = 0; ///< samples heard
  std::vector<WatchedPicture> pictures;
  std::vector<QImage> images{};
  int divisor = 1;
  [[nodiscard]] size_t bytes() const {
    size_t sum = 0;
    for (const QImage& image : images) sum += size_t(image.sizeInBytes());
    return sum;
  }
};

/// Pictures on their way from the drawer to the window.
struct Watch::Line {
  std::mutex mutex;
  std::condition_variable_any taken;
  std::deque<Set> sets;
  size_t bytes = 0;
  std::atomic<int64_t> heard = 0;
  std::atomic<int64_t> leftOut = 0;
};

/// A project as it is watched: its plans, and what draws and mixes them. Plans are made once, by whoever needs them
/// first; the rest belongs to the worker that uses it.
struct Watch::Show {
  Project project;
  Footage footage;
  WatchLights lights;
  std::optional<Finished> finished;
  std::stop_source closing;

  std::mutex mutex;
  std::map<std::string, std::shared_ptr<const Plan>> plans;
  std::shared_ptr<const Plan> finishedPlan;

  std::vector<Screen> screens; ///< those that `pictures` is for
  std::unique_ptr<WatchPictures> pictures;
  std::set<std::string> listened; ///< deliverables whose loudness is found or being found; of the window
  std::unique_ptr<WatchSound> sound;
  std::shared_ptr<const Plan> heard; ///< the plan that it is of

  Result<std::shared_ptr<const Plan>> plan(int column) {
    const std::scoped_lock lock(mutex);
    const std::string& id = project.deliverables[size_t(column)].id;
    std::shared_ptr<const Plan>& known = plans[id];
    if (known) return known;
    auto made = Plan::build(project, footage, id);
    if (!made) return tl::unexpected(made.error());
    known = std::make_shared<const Plan>(std::move(*made));
    return known;
  }

  /// Of the finished file.
  Result<std::shared_ptr<const Plan>> filePlan() {
    const std::scoped_lock lock(mutex);
    if (finishedPlan) return finishedPlan;
    auto made = planOfFile(finished->media);
    if (!made) return tl::unexpected(made.error());
    finishedPlan = std::make_shared<const Plan>(std::move(*made));
    return finishedPlan;
  }

  /// Where it begins in the time of its deliverable.
  [[nodiscard]] Rational fileBegins(const Plan& plan) const { return plan.timing().fromProject(finished->begin); }

  Result<WatchPictures*> picturesFor(const std::vector<Screen>& wanted) {
    if (pictures && screens == wanted) return pictures.get();
    std::vector<WatchScreen> made;
    for (const Screen& screen : wanted) {
      if (screen.column < 0 || screen.column >= int(project.deliverables.size()))
        return tromb::fail(ErrorCode::InvalidArgument, say("there is no such deliverable"));
      auto its = plan(screen.column);
      if (!its) return tl::unexpected(its.error());
      made.push_back({*its, {screen.most.width(), screen.most.height()}, screen.source});
      if (!screen.file || !finished) continue;
      auto file = filePlan();
      if (!file) return tl::unexpected(file.error());
      made.back().file = *file;
      made.back().fileBegins = (*its)->rate().frameAt(fileBegins(**its));
    }
    if (pictures) {
      pictures->setScreens(std::move(made));
    } else {
      auto first = std::make_unique<WatchPictures>(std::move(made), lights, closing.get_token());
      const std::scoped_lock lock(mutex); // the opener looks for it
      pictures = std::move(first);
    }
    screens = wanted;
    return pictures.get();
  }
};

namespace {

/// The frames of all screens after so many samples; the first leads.
std::vector<int64_t> framesAt(const WatchRun& run, int64_t heard, const std::vector<WatchScreen>& screens) {
  std::vector<int64_t> frames;
  for (const WatchScreen& screen : screens) {
    const Plan& plan = *screen.plan;
    const Timing& leads = screens.front().plan->timing();
    if (plan.timing().same(leads)) {
      frames.push_back(run.frameAt(heard, plan.rate(), plan.frameCount()));
      continue;
    }
    const Rational there = plan.timing().fromProject(leads.toProject(run.at(heard)));
    frames.push_back(frameOnScreen(there, run.backwards(), plan.rate(), plan.frameCount()));
  }
  return frames;
}

} // namespace

Watch::Watch(Session& session, LightService& lights, std::unique_ptr<SoundOut> out, QObject* parent)
    : QObject(parent), m_session(session), m_document(session.document()), m_lights(lights), m_out(std::move(out)),
      m_drawer(1, Worker::Pace::WithWindow), m_opener(1, Worker::Pace::WithWindow),
      m_mixer(1, Worker::Pace::WithWindow), m_listener(1), m_looker(1) {
  m_tick.setTimerType(Qt::PreciseTimer);
  m_tick.setInterval(kTickMs);
  m_rest.setSingleShot(true);
  m_quiet.setSingleShot(true);
  connect(&m_tick, &QTimer::timeout, this, &Watch::tick);
  connect(&m_rest, &QTimer::timeout, this, &Watch::rest);
  connect(&m_quiet, &QTimer::timeout, this, [this] {
    if (!playing()) hush();
  });
  connect(&session, &Session::playheadMoved, this, [this] {
    if (m_moving) return;
    if (playing())
      begin(m_run->speed());
    else
      restSoon();
  });
  connect(&session, &Session::selectionChanged, this, [this] {
    if (playing() && m_part.kind == Part::Kind::Selected) begin(m_run->speed());
  });
  connect(&m_document.undoStack(), &QUndoStack::indexChanged, this, &Watch::changed);
  connect(&m_document, &Document::mediaChanged, this, &Watch::changed);
  connect(&m_document, &Document::aboutToReset, this, [this] {
    pause();
    m_part = {};
    m_file.reset();
    emit fileChanged();
    changed();
  });
  connect(&m_document, &Document::reset, this, &Watch::changed);
  connect(&lights, &LightService::ready, this, &Watch::changed);
}

Watch::~Watch() {
  halt();
  if (m_show) m_show->closing.request_stop();
}

std::shared_ptr<Watch::Show> Watch::show() {
  if (m_show) return m_show;
  m_show = std::make_shared<Show>();
  m_show->project = m_document.project();
  m_show->footage = m_document.footage();
  m_show->lights = m_lights.finder();
  m_show->finished = m_file;
  return m_show;
}

/// The project is another: what was read and planned of it goes.
void Watch::changed() {
  if (m_show) m_show->closing.request_stop();
  m_show.reset();
  // Pictures of deliverables that are gone are wanted no more; whoever looks asks anew.
  const int columns = int(m_document.project().deliverables.size());
  if (m_file && !m_document.project().deliverable(m_file->deliverable)) leaveFile();
  for (auto& viewer : m_viewers)
    std::erase_if(viewer.second, [columns](const Screen& screen) { return screen.column >= columns; });
  if (std::any_of(m_screens.begin(), m_screens.end(), [columns](const Screen& s) { return s.column >= columns; }))
    return gatherScreens();
  if (playing())
    begin(m_run->speed());
  else
    restSoon();
}

void Watch::setScreens(const QObject* viewer, const std::vector<Screen>& screens) {
  const auto known = std::find_if(m_viewers.begin(), m_viewers.end(), [&](const auto& v) { return v.first == viewer; });
  if (known == m_viewers.end() ? screens.empty() : known->second == screens) return;
  if (known == m_viewers.end()) {
    m_viewers.emplace_back(viewer, screens);
    connect(viewer, &QObject::destroyed, this, [this, viewer] { setScreens(viewer, {}); });
  } else if (!screens.empty()) {
    known->second = screens;
  } else {
    m_viewers.erase(known);
    disconnect(viewer, &QObject::destroyed, this, nullptr);
  }
  gatherScreens();
}

/// The deliverable that a finished file is of: the current one, or the first whose canvas it has.
std::string Watch::deliverableOf(const MediaInfo& file) const {
  const auto& all = m_document.project().deliverables;
  const auto fits = [&](const Deliverable& d) { return d.canvas == file.video->stored; };
  const auto current = all.begin() + std::max(0, m_session.current().deliverable);
  const auto first = std::find_if(all.begin(), all.end(), fits);
  return fits(*current) || first == all.end() ? current->id : first->id;
}

/// Where in the running order a finished file begins: that of the whole, or of the region that is as long as it.
Rational Watch::beginOf(const MediaInfo& file, const std::string& deliverable) const {
  const Project& project = m_document.project();
  const Deliverable* d = project.deliverable(deliverable);
  if (!d) return {};
  const Timing time(project, m_document.footage(), *d);
  const int64_t frames = file.video->clock.frameCount();
  const auto frameAt = [&](const Rational& moment) { return d->rate.frameAt(time.fromProject(moment)); };
  if (frames == d->rate.frameAt(time.duration())) return {};
  for (const Region& region : project.regions)
    if (frameAt(region.out) - frameAt(region.in) == frames) return region.in;
  return {};
}

void Watch::watchFile(const QString& path, const std::string& deliverable, const std::optional<Rational>& begin) {
  m_looker.stop();
  m_looker.add(
      [this, path = path.toStdString(), deliverable, begin](const Task& task) {
        ProbeOptions options;
        options.stop = task.stop();
        auto media = probe(path, options);
        if (media && !media->video)
          media = tromb::fail(ErrorCode::NotMedia, say("the file has no picture"), path, say("Listen to it elsewhere"));
        task.tell([this, media, deliverable, begin] {
          if (!media) {
            emit failed(said(media.error()));
            return;
          }
          if (m_document.project().deliverables.empty()) return;
          const std::string of = deliverable.empty() ? deliverableOf(*media) : deliverable;
          m_file = Finished{*media, of, begin ? *begin : beginOf(*media, of)};
          changed(); // what was planned and opened was without it
          emit fileChanged();
        });
      },
      [this](const Error& error) { fail(error); });
}

void Watch::leaveFile() {
  if (!m_file) return;
  m_file.reset();
  for (auto& viewer : m_viewers) std::erase_if(viewer.second, [](const Screen& screen) { return screen.file; });
  changed();
  emit fileChanged();
}

void Watch::gatherScreens() {
  m_screens.clear();
  for (const auto& [viewer, screens] : m_viewers) m_screens.insert(m_screens.end(), screens.begin(), screens.end());
  m_pictures.assign(m_screens.size(), {});
  if (m_starting) return;
  if (playing())
    begin(m_run->speed());
  else
    restSoon();
}

std::vector<Watch::Picture> Watch::pictures(const QObject* viewer) const {
  size_t first = 0;
  for (const auto& [each, screens] : m_viewers) {
    if (each == viewer)
      return {m_pictures.begin() + ptrdiff_t(first), m_pictures.begin() + ptrdiff_t(first + screens.size())};
    first += screens.size();
  }
  return {};
}

void Watch::setPart(const Part& part) {
  if (part == m_part) return;
  m_part = part;
  if (playing()) begin(m_run->speed());
  emit stateChanged();
}

/// The deliverable whose time passes at its own speed: that of the first screen.
int Watch::leader() const {
  return m_screens.empty() ? std::max(0, m_session.current().deliverable) : m_screens.front().column;
}

Timing Watch::timing() const {
  const Project& project = m_document.project();
  return {project, m_document.footage(), project.deliverables[size_t(leader())]};
}

/// The ends of the part that is played, in seconds of the running order.
std::pair<Rational, Rational> Watch::ends() const {
  const std::vector<Rational>& starts = m_session.starts();
  const auto shots = [&](int first, int last) { return std::pair{starts[size_t(first)], starts[size_t(last) + 1]}; };
  const std::pair<Rational, Rational> all{Rational(0), starts.back()};
  switch (m_part.kind) {
  case Part::Kind::All:
    return all;
  case Part::Kind::Shot: {
    const int row = m_session.underPlayhead().row;
    return row < 0 ? all : shots(row, row);
  }
  case Part::Kind::Selected: {
    const std::vector<int> rows = m_session.shots();
    return rows.empty() ? all : shots(rows.front(), rows.back());
  }
  case Part::Kind::Region:
    for (const Region& region : m_document.project().regions)
      if (region.id == m_part.region) return {std::min(region.in, all.second), std::min(region.out, all.second)};
  }
  return all;
}

// ---- playing

void Watch::play(int speed) {
  begin(speed);
}

void Watch::playOrPause() {
  if (playing())
    pause();
  else
    play();
}

void Watch::playFaster(bool backwards) {
  const int direction = backwards ? -1 : 1;
  const int now = speed();
  const bool same = now * direction > 0;
  begin(direction * std::min(WatchRun::kMostSpeed, same ? 2 * std::abs(now) : 1));
}

/// What is played from the playhead on, in the time of the deliverable that leads; empty where nothing is.
std::optional<WatchRun> Watch::runFromHere(int speed) {
  const auto& project = m_document.project();
  if (project.shots.empty() || project.deliverables.empty()) return {};
  m_timing = timing();
  const auto part = ends();
  const Rational from = m_timing->fromProject(part.first);
  const Rational to = m_timing->fromProject(part.second);
  const Rational least(1, 1000); // seconds: less has no sample of sound
  if (to - from < least) return {};
  Rational at = m_timing->fromProject(m_session.playhead());
  if (at < from || at > to || at == (speed > 0 ? to : from)) at = speed > 0 ? from : to;
  return WatchRun(at, speed, from, to, m_part.kind != Part::Kind::All);
}

void Watch::begin(int speed) {
  const bool was = playing();
  halt();
  m_run.reset();
  // Which deliverable leads is settled once everybody has said what is to be drawn.
  m_run = runFromHere(speed);
  if (m_run && !was) {
    m_pace = {};
    m_starting = true;
    emit starting();
    m_starting = false;
    m_run = runFromHere(speed);
  }
  if (!m_run) {
    if (was) emit stateChanged();
    return restSoon();
  }
  m_rest.stop();
  m_heard = 0;
  m_prepared = -1;
  m_line = std::make_shared<Line>();
  if (!m_screens.empty())
    m_drawer.add(
        [this, show = show(), screens = m_screens, run = *m_run, line = m_line,
         divisor = m_pace.divisor](const Task& task) mutable {
          const auto roll = [&]() -> Status {
            const auto made = show->picturesFor(screens);
            if (!made) return tl::unexpected(made.error());
            WatchPictures& pictures = **made;
            std::vector<FrameRate> rates;
            for (const WatchScreen& screen : pictures.screens()) rates.push_back(screen.plan->rate());
            std::vector<int64_t> shown(rates.size(), -1);
            int slow = 0;
            for (int64_t due = 0; !run.over(due);) {
              // What would come too late is left out.
              int64_t leftOut = 0;
              for (const int64_t heard = line->heard; due < heard && !run.over(run.nextChange(due, rates)); ++leftOut) {
                const int64_t next = run.nextChange(due, rates);
                if (next > heard && leftOut == 0) break; // still on screen
                due = next;
              }
              line->leftOut += leftOut;
              Set set{due, {}, {}, divisor};
              const std::vector<int64_t> frames = framesAt(run, due, pictures.screens());
              std::vector<int64_t> wanted = frames;
              for (size_t i = 0; i < wanted.size(); ++i)
                if (wanted[i] == shown[i]) wanted[i] = -1;
              const auto begun = Clock::now();
              auto drawn = pictures.draw(wanted, run.backwards(), divisor, task.stop());
              if (!drawn) return tl::unexpected(drawn.error());
              shown = frames;
              for (const WatchedPicture& each : *drawn)
                set.images.push_back(each.frame < 0 ? QImage() : imageOf(each.picture));
              set.pictures = std::move(*drawn);
              for (WatchedPicture& each : set.pictures) each.picture.bytes.clear();
              const int64_t next = run.nextChange(due, rates);
              const double took = std::chrono::duration<double>(Clock::now() - begun).count() * kSoundRate;
              {
                std::unique_lock lock(line->mutex);
                const bool isShort = due - line->heard < kShort && line->heard > 0;
                slow = isShort && took > double(next - due) ? slow + 1 : 0;
                line->bytes += set.bytes();
                line->sets.push_back(std::move(set));
                const auto room = [&] {
                  return line->sets.size() < 2 || (line->bytes < kPicturesBytes && due - line->heard < kPicturesAhead);
                };
                if (!line->taken.wait(lock, task.stop(), room)) return {};
              }
              if (slow >= kSlowInARow && divisor < kMostDivisor) {
                divisor *= 2;
                slow = 0;
                shown.assign(shown.size(), -1);
              }
              due = next;
            }
            return {};
          };
          if (const Status done = roll(); !done) task.tell([this, error = done.error()] { fail(error); });
        },
        [this](const Error& error) { fail(error); });
  playSound(*m_run);
  m_tick.start();
  emit stateChanged();
}

/// How much louder a deliverable's sound is made to meet its loudness target, in decibels. It is found beside the
/// window, once for each state of the project; until then it is what it was last.
std::shared_ptr<std::atomic<float>> Watch::listen(int column) {
  const std::string& id = m_document.project().deliverables[size_t(column)].id;
  std::shared_ptr<std::atomic<float>>& gain = m_gains[id];
  if (!gain) gain = std::make_shared<std::atomic<float>>(0.0F);
  if (!show()->listened.insert(id).second) return gain;
  m_listener.add(
      [show = show(), column, gain](const Task& task) {
        const auto plan = show->plan(column);
        if (!plan) return; // what fails is told when it is mixed
        std::stop_source stop;
        const auto end = [&stop] { stop.request_stop(); };
        const std::stop_callback unasked(task.stop(), end);
        const std::stop_callback closing(show->closing.get_token(), end);
        if (const auto found = soundGainDb(**plan, stop.get_token())) gain->store(float(*found));
      },
      [](const Error&) {});
  return gain;
}

/// Mixes the sound of a run beside the window; the clock begins when the first of it is there.
void Watch::playSound(const WatchRun& run) {
  m_mixer.stop();
  m_pipe = std::make_shared<SoundPipe>(kSoundAhead);
  m_sounding = false;
  m_mixer.add(
      [this, show = show(), run, pipe = m_pipe, column = leader(), gain = listen(leader())](const Task& task) {
        const auto mix = [&]() -> Status {
          const auto plan = show->plan(column);
          if (!plan) return tl::unexpected(plan.error());
          const bool file = show->finished.has_value();
          if (!show->sound || !show->heard->timing().same((*plan)->timing())) {
            auto heard = file ? show->filePlan() : plan;
            if (!heard) return tl::unexpected(heard.error());
            const int64_t begins = file ? Rational::nearestProduct(show->fileBegins(**plan), Rational(kSoundRate)) : 0;
            show->sound = std::make_unique<WatchSound>(*heard, show->closing.get_token(), begins);
            show->heard = *plan;
          }
          show->sound->follow(file ? nullptr : gain);
          show->sound->begin(run);
          std::vector<float> block(size_t(kSoundBlock * kStereo));
          for (int64_t mixed = 0; !run.over(mixed) && pipe->waitForRoom(kSoundBlock, task.stop());
               mixed += kSoundBlock) {
            if (const Status got = show->sound->read(block.data(), kSoundBlock); !got) return got;
            pipe->put(block.data(), kSoundBlock);
          }
          return {};
        };
        const Status done = mix();
        pipe->end();
        if (!done) task.tell([this, error = done.error()] { fail(error); });
      },
      [this](const Error& error) { fail(error); });
}

/// Ends pictures and sound under way.
void Watch::halt() {
  m_drawer.stop();
  m_drawing = false;
  m_opener.stop();
  hush();
}

/// Ends the sound alone: the picture of a step may take longer than it.
void Watch::hush() {
  m_tick.stop();
  m_quiet.stop();
  m_mixer.stop();
  m_out->stop();
  m_sounding = false;
  m_line.reset();
  m_pipe.reset();
}

void Watch::pause() {
  if (!playing()) return;
  halt();
  m_run.reset();
  restSoon(); // at full size, exactly
  emit stateChanged();
}

void Watch::moveTo(const Rational& time) {
  m_moving = true;
  m_session.setPlayhead(time);
  m_moving = false;
}

void Watch::tick() {
  if (!m_sounding) {
    if (m_pipe->held() < kSoundFirst && !m_pipe->ended()) return;
    // Backwards a whole group is decoded before its last picture is there.
    if (m_run && !m_screens.empty()) {
      const std::scoped_lock lock(m_line->mutex);
      if (m_line->sets.empty()) return;
    }
    m_sounding = true;
    m_out->start(m_pipe);
  }
  m_heard = m_out->heard();
  m_pace.silent = m_pipe->missed();
  if (!m_run) return; // the sound of a step
  std::optional<Set> newest;
  {
    const std::scoped_lock lock(m_line->mutex);
    m_line->heard = m_heard;
    while (!m_line->sets.empty() && m_line->sets.front().due <= m_heard) {
      Set set = std::move(m_line->sets.front());
      m_line->sets.pop_front();
      m_line->bytes -= set.bytes();
      if (newest) {
        ++m_pace.leftOut;
        // What does not change later is still to be shown.
        for (size_t i = 0; i < set.images.size(); ++i)
          if (set.images[i].isNull()) {
            set.images[i] = newest->images[i];
            set.pictures[i] = newest->pictures[i];
          }
      }
      newest = std::move(set);
    }
  }
  m_line->taken.notify_all();
  m_pace.leftOut += m_line->leftOut.exchange(0);
  if (newest) {
    ++m_pace.shown;
    take(std::move(*newest));
  } else if (m_screens.empty()) {
    const FrameRate& rate = m_session.rate();
    const Rational now = m_timing->toProject(m_run->at(m_heard));
    const Rational frame = rate.timeOf((now * rate.value()).floor());
    if (frame != m_session.playhead()) moveTo(frame);
  }
  if (m_run) prepareCut();
  if (m_run && m_run->over(m_heard)) {
    moveTo(m_timing->toProject(m_run->at(m_heard)));
    pause();
  }
}

/// Opens what comes behind the next cut, or where it begins again, a while before it is there.
void Watch::prepareCut() {
  if (m_screens.empty()) return;
  const std::vector<Rational>& starts = m_timing->starts();
  const auto& shots = m_document.project().shots;
  const Rational now = m_run->at(m_heard);
  const auto after = std::upper_bound(starts.begin(), starts.end() - 1, now);
  const auto row = after - starts.begin() - 1;
  if (row < 0 || size_t(row) >= shots.size()) return;
  const int64_t speed = std::abs(m_run->speed());
  const Rational way = m_run->backwards() ? now - starts[size_t(row)] : starts[size_t(row) + 1] - now;
  const int64_t toCut = (way * Rational(kSoundRate)).ceil();
  const bool turns = m_run->round() && m_run->toEnd(m_heard) <= toCut;
  const int64_t left = turns ? m_run->toEnd(m_heard) : toCut;
  const int64_t cut = m_heard + (left + speed - 1) / speed;
  if (cut - m_heard > kCutAhead || m_run->over(cut) || std::abs(cut - m_prepared) < kShort) return;
  m_prepared = cut;
  const auto next = size_t(row) + size_t(m_run->backwards() ? -1 : 1);
  if (!turns && next < shots.size()) {
    // What runs on in its source needs no other reader.
    const Shot& a = shots[m_run->backwards() ? next : size_t(row)];
    const Shot& b = shots[m_run->backwards() ? size_t(row) : next];
    if (a.source == b.source && a.out == b.in && a.pace.asShot() && b.pace.asShot()) return;
  }
  m_opener.stop();
  m_opener.add(
      [show = show(), run = *m_run, cut, column = m_screens.front().column](const Task& task) {
        const auto plan = show->plan(column);
        if (!plan) return;
        const Plan::At at = (*plan)->at(run.frameAt(cut, (*plan)->rate(), (*plan)->frameCount()));
        auto reel = WatchPictures::prepare(at, show->lights, run.backwards(), show->closing.get_token(), task.stop());
        if (!reel) return; // what fails is told when it is drawn
        const std::scoped_lock lock(show->mutex);
        if (show->pictures) show->pictures->offer(std::move(*reel));
      },
      [](const Error&) {});
}

/// Shows what is due, and moves the playhead there.
void Watch::take(Set set) {
  for (size_t i = 0; i < set.images.size() && i < m_pictures.size(); ++i)
    if (!set.images[i].isNull())
      m_pictures[i] = {set.images[i], set.pictures[i].frame, set.pictures[i].sourceFrame, set.pictures[i].shot};
  const bool slower = set.divisor != m_pace.divisor;
  m_pace.divisor = set.divisor;
  if (m_run) moveTo(m_timing->toProject(m_run->at(set.due)));
  emit pictured();
  if (slower) emit stateChanged();
}

// ---- while nothing plays

void Watch::restSoon() {
  if (m_screens.empty() || playing()) return;
  m_drawing = true;
  m_rest.start(0);
}

/// Draws the pictures at the playhead.
void Watch::rest() {
  m_drawer.stop();
  m_drawing = false;
  const auto& project = m_document.project();
  const Rational& end = m_session.starts().back();
  if (m_screens.empty() || project.shots.empty() || project.deliverables.empty() || end <= Rational(0)) {
    m_pictures.assign(m_screens.size(), {});
    emit pictured();
    return;
  }
  m_drawing = true;
  const Timing time = timing();
  const WatchRun here(time.fromProject(m_session.playhead()), 1, Rational(0), time.duration(), false);
  m_drawer.add(
      [this, show = show(), screens = m_screens, here](const Task& task) {
        const auto draw = [&]() -> Result<Set> {
          const auto pictures = show->picturesFor(screens);
          if (!pictures) return tl::unexpected(pictures.error());
          auto drawn = (*pictures)->draw(framesAt(here, 0, (*pictures)->screens()), false, 1, task.stop());
          if (!drawn) return tl::unexpected(drawn.error());
          Set set;
          for (const WatchedPicture& each : *drawn) set.images.push_back(imageOf(each.picture));
          set.pictures = std::move(*drawn);
          return set;
        };
        auto set = draw();
        if (set)
          task.tell([this, made = std::move(*set)] {
            m_drawing = false;
            take(made);
          });
        else
          task.tell([this, error = set.error()] { fail(error); });
      },
      [this](const Error& error) { fail(error); });
}

void Watch::fail(const Error& error) {
  m_drawing = false;
  const bool was = playing();
  halt();
  m_run.reset();
  m_pictures.assign(m_screens.size(), {});
  emit failed(said(error));
  if (was) emit stateChanged();
}

void Watch::step(int frames) {
  if (m_document.project().shots.empty() || m_document.project().deliverables.empty()) return;
  pause();
  const FrameRate& rate = m_session.rate();
  const Rational& end = m_session.starts().back();
  const int64_t last = std::max<int64_t>(0, (end * rate.value()).ceil() - 1);
  const int64_t now = (m_session.playhead() * rate.value()).floor();
  const Rational at = rate.timeOf(std::clamp<int64_t>(now + frames, 0, last));
  m_session.setPlayhead(at);
  const Rational next = std::min(end, at + rate.frameDuration());
  if (next <= at) return;
  const Timing time = timing();
  const Rational from = time.fromProject(at);
  const Rational to = time.fromProject(next);
  if (to > from) playSound(WatchRun(from, 1, from, to, false));
  m_tick.start();
  constexpr int kQuietAfterMs = 400;
  m_quiet.start(kQuietAfterMs);
}

void Watch::toCut(bool before) {
  const std::vector<Rational>& starts = m_session.starts();
  const Rational& now = m_session.playhead();
  const auto next = before ? std::lower_bound(starts.begin(), starts.end(), now)
                           : std::upper_bound(starts.begin(), starts.end(), now);
  if (before ? next != starts.begin() : next != starts.end()) m_session.setPlayhead(before ? *std::prev(next) : *next);
}

SoundLevel Watch::level() {
  return m_pipe && m_sounding ? m_pipe->level() : SoundLevel();
}

} // namespace tromb
