// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Preflight.h"

#include "Printed.h"
#include "geometry/LegalSize.h"
#include "media/write/Available.h"
#include "preflight/Checking.h"
#include "preflight/Density.h"
#include "preflight/Hindrances.h"
#include "preflight/Limits.h"
#include "project/Choices.h"
#include "project/Sharing.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace tromb {
namespace {

void checkCanvas(Checking& c, const Deliverable& d) {
  if (isLegalSize(d.canvas)) return;
  const auto [lowW, highW] = legalNeighbours(d.canvas.width);
  const auto [lowH, highH] = legalNeighbours(d.canvas.height);
  c.find("odd-size", &d, nullptr, say("4:2:0 video cannot have %1: both sides must be even", sizeText(d.canvas)),
         say("Use %1 or %2", sizeText({lowW, lowH}), sizeText({highW, highH})))
      .fixes = {{say("Use %1", sizeText({lowW, lowH})),
                 [size = Size{lowW, lowH}](Deliverable& each) { chooseCanvas(each, size); }}};
}

void checkEncoding(Checking& c, const Deliverable& d) {
  const Encoding e = resolvedEncoding(d);
  for (const Hindrance& each : hindrances(e, pictureOf(d))) {
    const char* code = each.by == Hindrance::By::Settings  ? "settings"
                       : each.by == Hindrance::By::Profile ? "profile"
                       : each.by == Hindrance::By::Buffer  ? "buffer"
                                                           : "level-too-low";
    Finding& found = c.find(code, &d, nullptr, each.why.message, each.why.hint);
    if (auto fix = mending(each.by, d)) found.fixes = {std::move(*fix)};
  }
  const bool silent = e.sound.place == SoundPlace::None;
  for (const Message& why :
       {e.hasPicture() ? whyUnavailable(e.codec) : Message(), silent ? Message() : whyUnavailable(*e.sound.codec)})
    if (!why.empty()) c.find("settings", &d, nullptr, why, say("Choose another codec"));
  const auto density = densityOf(d, e);
  const bool byQuality = density && *e.rateControl == RateControl::ConstantQuality;
  const Message setting = byQuality ? say("a quality of %1", printed("%g", *e.crf))
                                    : say("%1 bits a pixel", density ? bitsAPixelText(d, e) : "");
  if (density == Density::Blocky)
    c.find("too-few-bits", &d, nullptr, say("the picture will be blocky: %1", setting), say("Give it more")).fixes = {
        usualDensity(e)};
  if (density == Density::MoreThanSeen)
    c.find("too-many-bits", &d, nullptr, say("it is only slower to send: %1 is more than can be seen", setting),
           say("Give it fewer, unless it is to be worked on further"))
        .fixes = {usualDensity(e)};
}

/// What its destination does not take.
void checkLimits(Checking& c, const Deliverable& d) {
  SpecGrounds grounds;
  if (const auto at = c.grounds.sampledBytes.find(d.id); at != c.grounds.sampledBytes.end())
    grounds.measuredBytes = [bytes = at->second](const Deliverable&) { return bytes; };
  for (const SpecLine& line : limitLines(c.project, c.footage, d, grounds)) {
    if (line.standing != Standing::Broken) continue;
    Finding& f = c.find(line.code.c_str(), &d, nullptr, say("%1: %2", line.what, line.value),
                        line.fixes.empty() ? line.reason : line.fixes.front().words);
    f.severity = line.weight;
    f.fixes = line.fixes;
  }
}

/// True if what is to be said of a deliverable's cells is said of its normal version, which has the same ones.
bool toldOfNormal(const Checking& c, const Deliverable& d) {
  return !framesItself(d) && std::any_of(c.deliverables.begin(), c.deliverables.end(), [&d](const Deliverable* each) {
    return each->id == d.sharesWith && each->destination == d.destination &&
           each->encoding.sound.place != SoundPlace::Alone;
  });
}

/// Gives every finding the weight that the project says, leaves out what is ignored, and marks what is accepted.
void weigh(Checking& c) {
  const Checks& checks = c.project.checks;
  using Key = std::tuple<std::string_view, std::string_view, std::string_view, std::string_view>;
  std::multimap<Key, const Acceptance*> acceptances; // what it rests on is compared last: it has to be digested
  for (const Acceptance& a : checks.accepted) acceptances.emplace(Key{a.code, a.deliverable, a.shot, a.source}, &a);
  std::vector<Finding> kept;
  kept.reserve(c.findings.size());
  for (Finding& f : c.findings) {
    f.basis = f.message.text();
    if (const Source* source = c.source(f.sourceId))
      f.basis += " · " + (source->fingerprint.empty() ? source->path : source->fingerprint);
    const FindingKind& kind = *findingKind(f.code);
    const auto wanted = checks.severities.find(f.code);
    if (!kind.stops && wanted != checks.severities.end()) f.severity = wanted->second;
    if (f.severity == Severity::Ignored) continue;
    const auto [first, last] = acceptances.equal_range({f.code, f.deliverableId, f.shotId, f.sourceId});
    for (auto each = first; each != last && !kind.stops; ++each) {
      if (!sameFinding(*each->second, acceptanceOf(f, {}))) continue;
      f.accepted = true;
      f.word = each->second->word;
      f.severity = Severity::Note;
    }
    kept.push_back(std::move(f));
  }
  c.findings = std::move(kept);
}

} // namespace

Checking::Checking(const Project& of, const Footage& with, const PreflightGrounds& on,
                   const std::vector<std::string>& ids)
    : project(of), footage(with), grounds(on) {
  for (const Source& source : project.sources) m_sources.emplace(source.id, &source);
  for (const Deliverable& d : project.deliverables)
    if (ids.empty() || std::find(ids.begin(), ids.end(), d.id) != ids.end()) deliverables.push_back(&d);
}

Finding& Checking::find(const char* code, const Deliverable* in, const Shot* of, Message message, Message fix) {
  Finding& f = findings.emplace_back();
  f.code = code;
  f.severity = findingKind(code)->severity;
  f.message = std::move(message);
  f.fix = std::move(fix);
  if (in) {
    f.deliverable = in->name;
    f.deliverableId = in->id;
  }
  if (of) {
    f.shot = of->name;
    f.shotId = of->id;
    f.sourceId = of->source;
  }
  return f;
}

const Source* Checking::source(const std::string& sourceId) const {
  const auto at = m_sources.find(sourceId);
  return at != m_sources.end() ? at->second : nullptr;
}

const MediaInfo* Checking::media(const std::string& sourceId) const {
  const auto at = footage.find(sourceId);
  return at != footage.end() && at->second ? &*at->second : nullptr;
}

const Measured* Checking::measured(const std::string& sourceId) const {
  const auto at = grounds.measured.find(sourceId);
  return at != grounds.measured.end() ? &at->second : nullptr;
}

std::vector<Finding> preflight(const Project& project, const Footage& footage, const PreflightGrounds& grounds,
                               const std::vector<std::string>& deliverableIds) {
  Checking c(project, footage, grounds, deliverableIds);
  // Cells that are no more are not kept for ever.
  if (grounds.memory && grounds.memory->cells.size() > 2 * project.shots.size() * project.deliverables.size())
    grounds.memory->cells.clear();
  if (grounds.memory && grounds.memory->elements.size() > 2 * project.elements.size() * project.deliverables.size())
    grounds.memory->elements.clear();
  if (grounds.memory && grounds.memory->copies.size() > 4 * project.shots.size()) grounds.memory->copies.clear();
  checkSources(c);
  checkSound(c);
  checkOutput(c);
  checkElements(c);
  for (const Deliverable* d : c.deliverables) {
    checkEncoding(c, *d);
    checkLimits(c, *d);
    if (d->encoding.sound.place == SoundPlace::Alone) { // how it is framed does not matter
      if (!hasSound(project, footage))
        c.find("no-sound", d, nullptr, say("there is no sound in the running order"),
               say("Bring in sound, or deliver the picture too"));
      continue;
    }
    checkCanvas(c, *d);
    if (!toldOfNormal(c, *d)) checkCells(c, *d);
    checkCopies(c, *d);
  }
  weigh(c);
  std::stable_sort(c.findings.begin(), c.findings.end(),
                   [](const Finding& a, const Finding& b) { return a.severity > b.severity; });
  return std::move(c.findings);
}

Project partOf(Project project, const Region& region) {
  const std::vector<Rational> starts = project.shotStarts();
  // What keeps its place in the running order begins as much earlier as its shots do.
  const auto first = std::ranges::find_if(starts, [&](const Rational& end) { return end > region.in; });
  const Rational before = first == starts.begin() || first == starts.end() ? Rational(0) : *std::prev(first);
  const auto stretches = stretchesOf(project);
  std::vector<Element> elements;
  for (size_t i = 0; i < stretches.size(); ++i)
    if (stretches[i].second > region.in && stretches[i].first < region.out) elements.push_back(project.elements[i]);
  project.elements = std::move(elements);
  for (Element& element : project.elements) {
    if (!element.shot.empty()) continue;
    element.in = std::max(Rational(0), element.in - before);
    element.out = element.out - before;
  }
  std::vector<Shot> inside;
  for (size_t row = 0; row < project.shots.size(); ++row)
    if (starts[row + 1] > region.in && starts[row] < region.out) inside.push_back(std::move(project.shots[row]));
  project.shots = std::move(inside);
  return project;
}

std::string detailText(double detail) {
  // Rounded down: 0.999 must not read as sharp.
  return printed("%.2f", std::floor(detail * 100 + 1e-6) / 100);
}

std::string decimals(double value, int places) {
  return printed("%.*f", places, value);
}

std::string sizeText(Size size) {
  return std::to_string(size.width) + "×" + std::to_string(size.height);
}

} // namespace tromb
