// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FramingService.h"

#include "model/Translation.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr int kSoonMs = 300; ///< many changes are answered at once
constexpr size_t kMostAlternatives = 3;
constexpr double kAlike = 0.05; ///< of the picture's width, by which windows differ that look alike

} // namespace

bool subjectIsOpen(const Shot& shot) {
  return std::all_of(shot.subjects.begin(), shot.subjects.end(), [](const Subject& s) { return s.guess > 0; });
}

FramingService::FramingService(Document& document, QObject* parent) : QObject(parent), m_document(document) {
  m_soon.setSingleShot(true);
  m_soon.setInterval(kSoonMs);
  connect(&m_soon, &QTimer::timeout, this, &FramingService::refresh);
  const auto soon = [this] { m_soon.start(); };
  connect(&document, &Document::shotsInserted, this, soon);
  connect(&document, &Document::shotChanged, this, [this](int row) {
    m_soon.start();
    notice(row);
  });
  connect(&document, &Document::mediaChanged, this, soon);
  connect(&document, &Document::sourceChanged, this, soon);
  connect(&document, &Document::deliverablesInserted, this, soon);
  connect(&document, &Document::deliverableChanged, this, soon);
  connect(&document, &Document::aboutToReset, this, [this] {
    m_worker.stop();
    m_soon.stop();
    m_pending.clear();
    m_refused.clear();
    m_found.clear();
    m_laid.clear();
    m_asked.clear();
    m_open.clear();
    emit progress(0);
  });
  connect(&document, &Document::reset, this, [this] {
    m_old.clear();
    for (const Shot& shot : m_document.project().shots) m_old[shot.id] = {shot.in, shot.out};
  });
}

void FramingService::setOn(bool on) {
  if (m_on == on) return;
  m_on = on;
  if (on) m_soon.start();
}

void FramingService::frameAll() {
  m_laid.clear();
  for (const Shot& shot : m_document.project().shots) m_asked.insert(shot.id);
  refresh();
}

std::optional<FramingService::Wanted> FramingService::wantedOf(const Shot& shot) const {
  const Source* source = m_document.project().source(shot.source);
  const Result<MediaInfo>* media = m_document.media(shot.source);
  if (!source || !media || !*media || !(*media)->video || (*media)->kind == MediaKind::Audio) return {};
  // Bars that are found later make another picture.
  if ((*media)->kind == MediaKind::Video && source->barsBy == FactBy::Nobody && !m_document.measured(source->id))
    return {};
  Wanted wanted{readingOf(*source, **media), 0, 1, {}};
  if ((*media)->kind == MediaKind::Video) {
    const FrameClock& clock = (*media)->video->clock;
    wanted.first = clock.nearest(shot.in);
    wanted.end = std::max(wanted.first + 1, clock.cutAt(shot.out));
  }
  const Bars& bars = source->bars;
  const Orientation& way = source->orientation;
  for (const std::string& part :
       {source->fingerprint.empty() ? source->path : source->fingerprint, std::to_string(wanted.first),
        std::to_string(wanted.end), std::to_string(int(wanted.reading.scan)), std::to_string(bars.left),
        std::to_string(bars.top), std::to_string(bars.right), std::to_string(bars.bottom), std::to_string(way.turn),
        std::to_string(int(way.mirrored)), std::to_string(way.straighten)})
    wanted.key += part + "/";
  return wanted;
}

std::string FramingService::shapesKey() const {
  std::string key;
  for (const Deliverable& d : m_document.project().deliverables)
    key += d.id + ":" + std::to_string(d.canvas.width) + "x" + std::to_string(d.canvas.height) + "/" +
           d.pixelAspect.toString() + " ";
  return key;
}

const FramingService::Found* FramingService::found(const Shot& shot) const {
  const auto wanted = wantedOf(shot);
  const auto at = wanted ? m_found.find(wanted->key) : m_found.end();
  return at == m_found.end() ? nullptr : &at->second;
}

void FramingService::ask(const std::string& shotId) {
  const Shot* shot = m_document.project().shot(shotId);
  const auto wanted = shot ? wantedOf(*shot) : std::nullopt;
  if (wanted) look(shotId, *wanted);
}

void FramingService::look(const std::string& shotId, const Wanted& wanted) {
  if (m_found.contains(wanted.key) || m_refused.contains(wanted.key) || !m_pending.insert(wanted.key).second) return;
  m_worker.add(
      [this, wanted, shotId](const Job& job) {
        auto look = lookAtShot(wanted.reading, wanted.first, wanted.end, job.stop());
        Result<Found> found = tl::unexpected(Error{});
        if (look) {
          Course course = courseOf(*look);
          found = Found{std::move(*look), std::move(course)};
        } else {
          found = tl::unexpected(look.error());
        }
        job.tell([this, key = wanted.key, shotId, found = std::move(found)] {
          end(key, found);
          emit looked(QString::fromStdString(shotId));
        });
      },
      [this, key = wanted.key](const Error& error) {
        if (m_pending.contains(key)) end(key, tl::unexpected(error));
      });
  emit progress(left());
}

void FramingService::end(const std::string& key, const Result<Found>& found) {
  m_pending.erase(key);
  if (found) {
    m_found[key] = *found;
  } else {
    m_refused.insert(key);
    if (found.error().code != ErrorCode::Cancelled) emit failed(said(found.error()));
  }
  emit progress(left());
  if (m_pending.empty()) refresh();
}

void FramingService::refresh() {
  const std::string shapes = shapesKey();
  bool ready = false;
  for (const Shot& shot : m_document.project().shots) {
    const bool asked = m_asked.contains(shot.id);
    const auto old = m_old.find(shot.id);
    const bool isNew = old == m_old.end() || old->second != std::pair(shot.in, shot.out);
    if (!subjectIsOpen(shot) || !(asked || (m_on && isNew))) continue;
    const auto wanted = wantedOf(shot);
    if (!wanted || m_refused.contains(wanted->key)) continue;
    const auto laid = m_laid.find(shot.id);
    if (laid != m_laid.end() && laid->second == wanted->key + shapes) continue;
    if (m_found.contains(wanted->key))
      ready = true;
    else
      look(shot.id, *wanted);
  }
  if (ready && m_pending.empty()) layAll();
}

/// Frames all shots that wait for it and have been looked at, as one step.
void FramingService::layAll() {
  const std::string shapes = shapesKey();
  const Project& project = m_document.project();
  std::vector<Document::Framed> framed;
  int unsure = 0;
  for (const Shot& shot : project.shots) {
    const bool asked = m_asked.contains(shot.id);
    const auto old = m_old.find(shot.id);
    const bool isNew = old == m_old.end() || old->second != std::pair(shot.in, shot.out);
    if (!subjectIsOpen(shot) || !(asked || (m_on && isNew))) continue;
    const auto wanted = wantedOf(shot);
    const auto found = wanted ? m_found.find(wanted->key) : m_found.end();
    if (found == m_found.end()) continue;
    std::string& laid = m_laid[shot.id];
    if (laid == wanted->key + shapes) continue;
    laid = wanted->key + shapes;
    const Course& course = found->second.course;
    FramedShot made = frameShot(course, found->second.look, project, shot, *wanted->reading.file.video, m_rules);
    framed.push_back({shot.id, std::move(made.subjects), std::move(made.framings)});
    unsure += course.kind == Course::Kind::Unsure ? 1 : 0;
  }
  m_asked.clear();
  if (framed.empty()) return;
  m_laying = true;
  m_document.frameShots(framed, tr("Frame by what was found"));
  m_laying = false;
  emit this->framed(int(framed.size()), unsure);
}

/// Where somebody has put a subject that was suggested.
void FramingService::notice(int row) {
  const auto& shots = m_document.project().shots;
  const Shot& shot = shots[size_t(row)];
  const bool open = !shot.subjects.empty() && subjectIsOpen(shot);
  const bool was = std::exchange(m_open[shot.id], open);
  // What travels belongs to its own stretch of the source.
  if (!was || open || m_laying || shot.subjects.size() != 1 || moves(shot.subjects.front().move)) return;
  std::vector<int> others;
  for (size_t i = 0; i < shots.size(); ++i)
    if (int(i) != row && shots[i].source == shot.source && !shots[i].subjects.empty() && subjectIsOpen(shots[i]))
      others.push_back(int(i));
  if (!others.empty()) emit corrected(row, others);
}

void FramingService::carry(int row, const std::vector<int>& to) {
  const auto& shots = m_document.project().shots;
  std::vector<Document::Framed> framed;
  for (const int each : to) {
    Subjects subjects = shots[size_t(row)].subjects;
    for (Subject& subject : subjects) subject.move.front().time = shots[size_t(each)].in;
    framed.push_back({shots[size_t(each)].id, std::move(subjects)});
  }
  m_laying = true;
  m_document.frameShots(framed, tr("Frame as the other shot"));
  m_laying = false;
}

std::vector<int> FramingService::unsure() const {
  std::vector<int> rows;
  const auto& shots = m_document.project().shots;
  for (size_t row = 0; row < shots.size(); ++row)
    if (std::any_of(shots[row].subjects.begin(), shots[row].subjects.end(),
                    [](const Subject& s) { return s.guess > 0 && s.guess < kSureEnough; }))
      rows.push_back(int(row));
  return rows;
}

std::vector<FramingService::Alternative> FramingService::alternatives(int row) const {
  const Project& project = m_document.project();
  if (row < 0 || row >= int(project.shots.size())) return {};
  const Shot& shot = project.shots[size_t(row)];
  const Found* known = found(shot);
  const Result<MediaInfo>* media = m_document.media(shot.source);
  if (!known || !media || !*media) return {};
  const int column = narrowest(row);
  const Source* source = project.source(shot.source);
  if (column < 0 || !source) return {};
  const VideoInfo& video = *(*media)->video;
  const Deliverable& narrow = project.deliverables[size_t(column)];
  const PictureShape shape = shapeIn(narrow, *source, video);
  const auto shown = [&](const FramedShot& framed) {
    const auto own = framed.framings.find(narrow.id);
    return place(shape, narrow.canvas, own != framed.framings.end() ? own->second : Framing(), framed.subjects,
                 ((shot.in + shot.out) / Rational(2)).toDouble());
  };
  const auto alike = [&](const std::vector<Placement>& a, const std::vector<Placement>& b) {
    return a.size() == b.size() &&
           std::equal(a.begin(), a.end(), b.begin(), [&](const Placement& p, const Placement& q) {
             return p.kind == q.kind && std::abs(p.window.x - q.window.x) < kAlike * shape.picture().width &&
                    std::abs(p.window.y - q.window.y) < kAlike * shape.picture().height;
           });
  };
  std::vector<Alternative> all;
  const auto add = [&](Alternative made) {
    if (all.size() < kMostAlternatives && std::none_of(all.begin(), all.end(), [&](const Alternative& each) {
          return alike(shown(each.framed), shown(made.framed));
        }))
      all.push_back(std::move(made));
  };
  using Of = Alternative::Of;
  const auto of = [&](const Course& course) {
    for (const CoursePart& part : course.parts)
      if (!part.ways.empty())
        return part.ways.size() > 1                          ? Of::Two
               : part.ways.front().by == Sight::Kind::Face   ? Of::Face
               : part.ways.front().by == Sight::Kind::Motion ? Of::Motion
                                                             : Of::Detail;
    return Of::Middle;
  };
  const auto framedBy = [&](const Course& course) {
    return frameShot(course, known->look, project, shot, video, m_rules);
  };
  add({of(known->course), framedBy(known->course)});
  size_t others = 0;
  for (const CoursePart& part : known->course.parts) others = std::max(others, part.others.size());
  for (size_t i = 0; i < others; ++i) {
    const Course other = courseWith(known->course, i);
    add({of(other), framedBy(other)});
  }
  const Course middle = courseInMiddle(known->course);
  add({Of::Middle, framedBy(middle)});
  Alternative whole{Of::Whole, framedBy(middle)};
  Framing backdrop;
  (void)framingByName("backdrop", backdrop);
  for (const Deliverable& d : project.deliverables) whole.framed.framings[d.id] = backdrop;
  if (all.size() < 2) add(std::move(whole));
  return all;
}

int FramingService::narrowest(int row) const {
  const Project& project = m_document.project();
  const Shot& shot = project.shots[size_t(row)];
  const Source* source = project.source(shot.source);
  const Result<MediaInfo>* media = m_document.media(shot.source);
  int narrow = -1;
  double least = 2;
  for (size_t column = 0; column < project.deliverables.size(); ++column) {
    const Deliverable& d = project.deliverables[column];
    if (!source || !media || !*media || !(*media)->video) return 0;
    const SizeF picture = shapeIn(d, *source, *(*media)->video).picture();
    const RectF window = resolveWindow(picture, {double(d.canvas.width), double(d.canvas.height)}, Framing::follower());
    const double shown = window.width * window.height / (picture.width * picture.height);
    if (shown >= least) continue;
    least = shown;
    narrow = int(column);
  }
  return narrow;
}

void FramingService::take(int row, size_t alternative) {
  std::vector<Alternative> all = alternatives(row);
  if (alternative >= all.size()) return;
  FramedShot& chosen = all[alternative].framed;
  for (Subject& subject : chosen.subjects) subject.guess = 0;
  for (auto& [id, framing] : chosen.framings) framing.guess = 0;
  m_laying = true;
  m_document.frameShots({{m_document.project().shots[size_t(row)].id, chosen.subjects, chosen.framings}},
                        tr("Frame by what was found"));
  m_laying = false;
}

} // namespace tromb
