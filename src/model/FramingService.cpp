// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FramingService.h"

#include "model/Translation.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr int kSoonMs = 300; ///< many changes are answered at once
constexpr size_t kMostAlternatives = 3;
constexpr double kAlike = 0.05; ///< of the picture's width, by which windows differ that look alike

/// Column of the deliverable that shows least of a shot, −1 for none.
int showsLeast(const Project& project, const Shot& shot, const VideoInfo& video) {
  const Source* source = project.source(shot.source);
  int narrow = -1;
  double least = 2;
  for (size_t column = 0; source && column < project.deliverables.size(); ++column) {
    const Deliverable& d = project.deliverables[column];
    const SizeF picture = shapeIn(d, *source, video).picture();
    const RectF window = resolveWindow(picture, {double(d.canvas.width), double(d.canvas.height)}, Framing::follower());
    const double shown = window.width * window.height / (picture.width * picture.height);
    if (shown >= least) continue;
    least = shown;
    narrow = int(column);
  }
  return narrow;
}

/// What a shot could be framed by; see FramingService::alternatives.
std::vector<FramingService::Alternative> alternativesOf(const FramingService::Found& found, const Project& project,
                                                        const Shot& shot, const VideoInfo& video,
                                                        const FramingRules& rules) {
  using Alternative = FramingService::Alternative;
  const int column = showsLeast(project, shot, video);
  if (column < 0) return {};
  const Deliverable& narrow = project.deliverables[size_t(column)];
  const PictureShape shape = shapeIn(narrow, *project.source(shot.source), video);
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
    return frameShot(course, found.look, project, shot, video, rules);
  };
  add({of(found.course), framedBy(found.course)});
  size_t others = 0;
  for (const CoursePart& part : found.course.parts) others = std::max(others, part.others.size());
  for (size_t i = 0; i < others; ++i) {
    const Course other = courseWith(found.course, i);
    add({of(other), framedBy(other)});
  }
  const Course middle = courseInMiddle(found.course);
  add({Of::Middle, framedBy(middle)});
  Alternative whole{Of::Whole, framedBy(middle)};
  Framing backdrop;
  (void)framingByName("backdrop", backdrop);
  for (const Deliverable& d : project.deliverables) whole.framed.framings[d.id] = backdrop;
  if (all.size() < 2) add(std::move(whole));
  return all;
}

} // namespace

FramingService::FramingService(Document& document, const MeasureService& measuring, QObject* parent)
    : QObject(parent), m_document(document), m_measuring(measuring) {
  m_soon.setSingleShot(true);
  m_soon.setInterval(kSoonMs);
  connect(&m_soon, &QTimer::timeout, this, &FramingService::refresh);
  m_rested.setSingleShot(true);
  m_rested.setInterval(kSoonMs);
  connect(&m_rested, &QTimer::timeout, this, &FramingService::offer);
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
  connect(&measuring, &MeasureService::progress, this, soon);
  connect(&document, &Document::aboutToReset, this, [this] {
    m_worker.stop();
    m_soon.stop();
    m_rested.stop();
    m_noticed.clear();
    m_pending.clear();
    m_refused.clear();
    m_found.clear();
    m_laid.clear();
    m_asked.clear();
    m_open.clear();
    m_alternatives.clear();
    m_asking.clear();
    m_reckoning = 0;
    emit progress(0);
  });
  connect(&document, &Document::reset, this, [this] {
    m_old.clear();
    for (const Shot& shot : m_document.project().shots) m_old[shot.id] = {shot.in, shot.out};
  });
}

void FramingService::setRules(const FramingRules& rules) {
  if (m_rules == rules) return;
  m_rules = rules;
  m_alternatives.clear();
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
  const auto [first, end] = framesOf(shot, **media);
  Wanted wanted{readingOf(*source, **media), first, end, {}};
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

std::shared_ptr<const FramingService::Found> FramingService::found(const Shot& shot) const {
  const auto wanted = wantedOf(shot);
  const auto at = wanted ? m_found.find(wanted->key) : m_found.end();
  return at == m_found.end() ? nullptr : at->second;
}

bool FramingService::knows(const Shot& shot) const {
  const auto wanted = wantedOf(shot);
  return !wanted || m_found.contains(wanted->key) || m_refused.contains(wanted->key);
}

std::vector<SeenBox> FramingService::matters(const Shot& shot) const {
  const auto its = found(shot);
  return its ? seenBoxes(its->course, (*m_document.media(shot.source))->video->clock) : std::vector<SeenBox>();
}

void FramingService::ask(const std::string& shotId) {
  const Shot* shot = m_document.project().shot(shotId);
  const auto wanted = shot ? wantedOf(*shot) : std::nullopt;
  if (!wanted || m_refused.contains(wanted->key)) return;
  if (m_alternatives.contains(wanted->key + shapesKey()) || !m_asking.insert(shotId).second) return;
  if (m_found.contains(wanted->key))
    reckonAlternatives(shotId);
  else
    look(shotId, *wanted);
}

void FramingService::look(const std::string& shotId, const Wanted& wanted) {
  if (m_refused.contains(wanted.key) || !m_pending.insert(wanted.key).second) return;
  m_worker.add(
      [this, wanted, shotId](const Task& task) {
        Result<std::shared_ptr<const Found>> found;
        if (auto look = lookAtShot(wanted.reading, wanted.first, wanted.end, task.stop())) {
          Course course = courseOf(*look);
          found = std::make_shared<const Found>(Found{std::move(*look), std::move(course)});
        } else {
          found = tl::unexpected(look.error());
        }
        task.tell([this, key = wanted.key, shotId, found = std::move(found)] {
          end(key, found);
          emit looked(QString::fromStdString(shotId));
        });
      },
      [this, key = wanted.key](const Error& error) {
        if (m_pending.contains(key)) end(key, tl::unexpected(error));
      });
  emit progress(left());
}

void FramingService::end(const std::string& key, const Result<std::shared_ptr<const Found>>& found) {
  m_pending.erase(key);
  if (found) {
    m_found[key] = *found;
  } else {
    m_refused.insert(key);
    if (found.error().code != ErrorCode::Cancelled) emit failed(said(found.error()));
  }
  emit progress(left());
  for (const std::string& shot : std::set<std::string>(m_asking)) reckonAlternatives(shot);
  if (m_pending.empty()) refresh();
}

/// Of those that nobody has framed, what is new, has another in or out, or was asked for.
bool FramingService::isToBeFramed(const Shot& shot) const {
  const auto old = m_old.find(shot.id);
  const bool isNew = old == m_old.end() || old->second != std::pair(shot.in, shot.out);
  return subjectIsOpen(shot) && (m_asked.contains(shot.id) || (m_on && isNew));
}

bool FramingService::awaitsMeasures() const {
  const auto& shots = m_document.project().shots;
  return std::any_of(shots.begin(), shots.end(),
                     [&](const Shot& shot) { return isToBeFramed(shot) && m_measuring.measures(shot.source); });
}

/// The shots that are to be framed and can be looked at, unless they have been framed as they are now.
std::vector<FramingService::Waiting> FramingService::waiting() const {
  const std::string shapes = shapesKey();
  std::vector<Waiting> all;
  for (const Shot& shot : m_document.project().shots) {
    if (!isToBeFramed(shot)) continue;
    auto wanted = wantedOf(shot);
    if (!wanted || m_refused.contains(wanted->key)) continue;
    std::string now = wanted->key + shapes;
    const auto laid = m_laid.find(shot.id);
    if (laid == m_laid.end() || laid->second != now) all.push_back({shot.id, std::move(*wanted), std::move(now)});
  }
  return all;
}

void FramingService::refresh() {
  const std::vector<Waiting> all = waiting();
  for (const Waiting& each : all)
    if (!m_found.contains(each.wanted.key)) look(each.shot, each.wanted);
  if (!all.empty() && m_pending.empty() && !awaitsMeasures()) frame(all);
}

/// Reckons how they are framed beside the window: a calm path takes a tenth of a second.
void FramingService::frame(const std::vector<Waiting>& shots) {
  std::vector<std::shared_ptr<const Found>> found;
  for (const Waiting& each : shots) {
    m_laid[each.shot] = each.laid;
    found.push_back(m_found.at(each.wanted.key));
  }
  m_asked.clear();
  ++m_reckoning;
  m_worker.add(
      [this, shots, found, project = m_document.project(), rules = m_rules](const Task& task) {
        std::vector<Document::Framed> framed;
        for (size_t i = 0; i < shots.size() && !task.stopped(); ++i) {
          FramedShot made = frameShot(found[i]->course, found[i]->look, project, *project.shot(shots[i].shot),
                                      *shots[i].wanted.reading.file.video, rules);
          framed.push_back({shots[i].shot, std::move(made.subjects), std::move(made.framings)});
        }
        task.tell([this, shots, framed = std::move(framed)] {
          --m_reckoning;
          put(framed, shots);
        });
      },
      [this](const Error& error) {
        --m_reckoning;
        emit failed(said(error));
      });
}

/// Puts framings into the document, as one step; not those of shots that have become others meanwhile.
void FramingService::put(std::vector<Document::Framed> framed, const std::vector<Waiting>& shots) {
  const std::string shapes = shapesKey();
  int unsure = 0;
  for (const Waiting& each : shots) {
    const Shot* shot = m_document.project().shot(each.shot);
    const auto wanted = shot && subjectIsOpen(*shot) ? wantedOf(*shot) : std::nullopt;
    if (!wanted || wanted->key + shapes != each.laid)
      std::erase_if(framed, [&](const Document::Framed& f) { return f.shot == each.shot; });
    else if (m_found.at(each.wanted.key)->course.kind == Course::Kind::Unsure)
      ++unsure;
  }
  if (framed.empty()) return;
  lay(framed, tr("Frame by what was found"));
  emit this->framed(int(framed.size()), unsure);
}

void FramingService::lay(const std::vector<Document::Framed>& framed, const QString& text) {
  m_laying = true;
  m_document.frameShots(framed, text);
  m_laying = false;
}

/// Where somebody has put a subject that was suggested.
void FramingService::notice(int row) {
  const Shot& shot = m_document.project().shots[size_t(row)];
  const bool open = !shot.subjects.empty() && subjectIsOpen(shot);
  const bool was = std::exchange(m_open[shot.id], open);
  if (m_laying) return;
  if (was && !open) m_noticed = shot.id;
  if (m_noticed == shot.id) m_rested.start();
}

std::optional<Correction> FramingService::correctionIn(const Shot& shot) const {
  const auto its = found(shot);
  if (!its || shot.subjects.size() != 1) return {};
  const MoveKey& placed = shot.subjects.front().move.front();
  return correctionOf(its->course, placed.x, placed.y);
}

/// Offers for others what somebody has put right, once it rests.
void FramingService::offer() {
  const auto& shots = m_document.project().shots;
  const int row = placeOf(shots, std::exchange(m_noticed, std::string()));
  if (row < 0) return;
  const Shot& shot = shots[size_t(row)];
  // What travels belongs to its own stretch of the source.
  if (subjectIsOpen(shot) || shot.subjects.size() != 1 || moves(shot.subjects.front().move)) return;
  const auto correction = correctionIn(shot);
  std::set<std::string> others;
  std::vector<std::pair<std::string, std::shared_ptr<const Found>>> perhaps;
  for (const Shot& other : shots) {
    if (other.id == shot.id || other.subjects.empty() || !subjectIsOpen(other)) continue;
    if (other.source == shot.source)
      others.insert(other.id);
    else if (auto its = correction ? found(other) : nullptr)
      perhaps.emplace_back(other.id, std::move(its));
  }
  if (perhaps.empty()) return tellCorrected(shot.id, others);
  ++m_reckoning; // many faces are held against each other
  m_worker.add(
      [this, id = shot.id, others, perhaps, correction](const Task& task) mutable {
        for (const auto& [other, its] : perhaps)
          if (!task.stopped() && tromb::corrected(its->course, *correction)) others.insert(other);
        task.tell([this, id, others] {
          --m_reckoning;
          tellCorrected(id, others);
        });
      },
      [this](const Error& error) {
        --m_reckoning;
        emit failed(said(error));
      });
}

void FramingService::tellCorrected(const std::string& shotId, const std::set<std::string>& others) {
  const auto& shots = m_document.project().shots;
  const int row = placeOf(shots, shotId);
  std::vector<int> rows;
  for (size_t i = 0; i < shots.size(); ++i)
    if (others.contains(shots[i].id) && subjectIsOpen(shots[i])) rows.push_back(int(i));
  if (row >= 0 && !rows.empty()) emit corrected(row, rows);
}

void FramingService::carry(int row, const std::vector<int>& to) {
  struct Alike {
    std::string shot;
    std::shared_ptr<const Found> found;
    Wanted wanted;
  };
  const auto& shots = m_document.project().shots;
  const Shot& from = shots[size_t(row)];
  const auto correction = correctionIn(from);
  std::vector<Document::Framed> placed;
  std::vector<Alike> alike;
  for (const int each : to) {
    const Shot& shot = shots[size_t(each)];
    if (shot.source == from.source) {
      Subjects subjects = from.subjects;
      for (Subject& subject : subjects) subject.move.front().time = shot.in;
      placed.push_back({shot.id, std::move(subjects)});
    } else if (auto its = found(shot); its && correction) {
      alike.push_back({shot.id, std::move(its), *wantedOf(shot)});
    }
  }
  if (alike.empty()) return lay(placed, tr("Frame as the other shot"));
  ++m_reckoning;
  m_worker.add(
      [this, placed, alike, correction, project = m_document.project(), rules = m_rules](const Task& task) {
        std::vector<Document::Framed> framed = placed;
        for (const Alike& each : alike) {
          const auto course = tromb::corrected(each.found->course, *correction);
          if (!course || task.stopped()) continue;
          FramedShot made = frameShot(*course, each.found->look, project, *project.shot(each.shot),
                                      *each.wanted.reading.file.video, rules);
          for (Subject& subject : made.subjects) subject.guess = 0;
          framed.push_back({each.shot, std::move(made.subjects)});
        }
        task.tell([this, alike, framed = std::move(framed)]() mutable {
          --m_reckoning;
          const auto isAnother = [&](const Document::Framed& f) {
            const Shot* shot = m_document.project().shot(f.shot);
            if (!shot || !subjectIsOpen(*shot)) return true;
            const auto its = std::find_if(alike.begin(), alike.end(), [&](const Alike& a) { return a.shot == f.shot; });
            const auto now = its != alike.end() ? wantedOf(*shot) : std::nullopt;
            return its != alike.end() && (!now || now->key != its->wanted.key);
          };
          std::erase_if(framed, isAnother);
          if (!framed.empty()) lay(framed, tr("Frame as the other shot"));
        });
      },
      [this](const Error& error) {
        --m_reckoning;
        emit failed(said(error));
      });
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
  const auto& shots = m_document.project().shots;
  const auto wanted = row >= 0 && row < int(shots.size()) ? wantedOf(shots[size_t(row)]) : std::nullopt;
  const auto at = wanted ? m_alternatives.find(wanted->key + shapesKey()) : m_alternatives.end();
  return at == m_alternatives.end() ? std::vector<Alternative>() : at->second;
}

/// Beside the window, for a shot that was looked at.
void FramingService::reckonAlternatives(const std::string& shotId) {
  const Shot* shot = m_document.project().shot(shotId);
  const auto wanted = shot ? wantedOf(*shot) : std::nullopt;
  const auto known = wanted ? m_found.find(wanted->key) : m_found.end();
  if (wanted && known == m_found.end() && !m_refused.contains(wanted->key)) return; // not looked at yet
  m_asking.erase(shotId);
  if (!wanted || known == m_found.end()) return;
  ++m_reckoning;
  m_worker.add(
      [this, shotId, key = wanted->key + shapesKey(), found = known->second, project = m_document.project(),
       file = wanted->reading.file, rules = m_rules](const Task& task) {
        auto all = alternativesOf(*found, project, *project.shot(shotId), *file.video, rules);
        task.tell([this, shotId, key, all = std::move(all)] {
          --m_reckoning;
          m_alternatives[key] = all;
          emit looked(QString::fromStdString(shotId));
        });
      },
      [this](const Error& error) {
        --m_reckoning;
        emit failed(said(error));
      });
}

int FramingService::narrowest(int row) const {
  const Shot& shot = m_document.project().shots[size_t(row)];
  const Result<MediaInfo>* media = m_document.media(shot.source);
  return media && *media && (*media)->video ? showsLeast(m_document.project(), shot, *(*media)->video) : -1;
}

void FramingService::take(int row, size_t alternative) {
  std::vector<Alternative> all = alternatives(row);
  if (alternative >= all.size()) return;
  FramedShot& chosen = all[alternative].framed;
  for (Subject& subject : chosen.subjects) subject.guess = 0;
  for (auto& [id, framing] : chosen.framings) framing.guess = 0;
  const std::string id = m_document.project().shots[size_t(row)].id;
  const bool another = alternative > 0 && all[alternative].of != Alternative::Of::Whole;
  lay({{id, chosen.subjects, chosen.framings}}, tr("Frame by what was found"));
  if (!another) return;
  m_noticed = id; // as if it had been placed there by hand
  m_rested.start();
}

} // namespace tromb
