// SPDX-License-Identifier: GPL-3.0-or-later
#include "ProjectMaker.h"

#include "Arguments.h"
#include "ElementKeys.h"
#include "EncodingKeys.h"
#include "Presets.h"
#include "analysis/Measured.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "media/read/Fingerprint.h"
#include "media/read/Probe.h"
#include "project/Footage.h"
#include "time/Timecode.h"

#include <algorithm>
#include <filesystem>
#include <optional>
#include <ostream>

namespace tromb::cli {
namespace {

tl::unexpected<Error> unknownKey(const std::string& key, const char* option) {
  return fail(ErrorCode::InvalidArgument, say("'%1' is not known to %2", key, option));
}

Result<Treatment> treatmentOf(const std::string& word) {
  const auto at = std::find(kTreatmentWords.begin(), kTreatmentWords.end(), word);
  if (at == kTreatmentWords.end())
    return fail(ErrorCode::InvalidArgument, say("'%1' is no treatment of frames", word), {},
                say("Use keep-time, every-frame, mixed or interpolated"));
  return Treatment(at - kTreatmentWords.begin());
}

tl::unexpected<Error> tooLong(const std::string& name) {
  return fail(ErrorCode::InvalidArgument, say("the name '%1 …' is too long", name.substr(0, 40)), {},
              say("Names may have %1 bytes", kMostNameBytes));
}

/// The preset with this name, which must be one for a single deliverable.
Result<Preset> presetNamed(const std::string& name) {
  auto preset = cli::presets().read(name);
  if (preset && preset->kind == PresetKind::Set)
    return fail(ErrorCode::InvalidArgument, say("'%1' is a set of deliverables", name), {},
                say("Give the preset of a deliverable or of an encoding"));
  return preset;
}

} // namespace

Status ProjectMaker::addFootage(const std::string& text) {
  const auto pairs = parsePairs(text);
  if (!pairs) return tl::unexpected(pairs.error());
  if (pairs->empty() || !pairs->front().first.empty() || pairs->front().second.empty())
    return fail(ErrorCode::InvalidArgument, say("--footage '%1' does not begin with a file", text));
  return addFile(pairs->front().second, *pairs);
}

Status ProjectMaker::addFile(const std::string& file, const Pairs& pairs) {
  const std::string path = std::filesystem::absolute(file).lexically_normal().string();
  const auto known =
      std::find_if(m_project.sources.begin(), m_project.sources.end(), [&](const Source& s) { return s.path == path; });
  MediaInfo media;
  Shot shot;
  if (known != m_project.sources.end()) { // a file is one source, however many shots it gives
    media = m_media.at(known->id);
    shot = newShot(m_project, *known, media);
  } else {
    auto info = probe(path, probing(m_context));
    if (!info) return tl::unexpected(info.error());
    if (!info->video)
      return fail(ErrorCode::NotMedia, say("the file has no picture"), path, say("Give a video or a still"));
    const auto measured = measurePictures(*info, m_context.stop);
    if (!measured) return tl::unexpected(measured.error());
    media = *info;
    m_project.sources.push_back(newSource(m_project, media));
    takeIn(m_project.sources.back(), *measured);
    if (auto fingerprint = fingerprintOf(path)) m_project.sources.back().fingerprint = *fingerprint;
    m_media.emplace(m_project.sources.back().id, media);
    shot = newShot(m_project, m_project.sources.back(), media);
  }
  for (const auto& [key, value] : pairs) {
    if (key.empty()) continue;
    if (key == "name") {
      if (value.size() > kMostNameBytes) return tooLong(value);
      shot.name = value;
      continue;
    }
    if (key == "colour" || key == "range") {
      Source& source = sourceOf(shot);
      ColourTags tags = colourOf(source, *media.video);
      const auto* claim = std::find_if(kColourClaims.begin(), kColourClaims.end(),
                                       [&word = value](const ColourClaim& each) { return each.word == word; });
      if (key == "colour" && claim == kColourClaims.end())
        return fail(ErrorCode::InvalidArgument, say("'%1' is no colour", value), path,
                    say("Use rec709, rec601, rec2020, hlg or pq"));
      if (key == "colour") tags = {claim->tags.primaries, claim->tags.transfer, claim->tags.matrix, tags.fullRange};
      if (key == "range" && value != "limited" && value != "full")
        return fail(ErrorCode::InvalidArgument, say("'%1' is no range", value), path, say("Use limited or full"));
      if (key == "range") tags.fullRange = value == "full";
      source.colour = tags;
      continue;
    }
    if (key == "sound-stream") {
      const auto stream = parseInteger(value, 1, int64_t(media.audio.size()));
      if (!stream)
        return fail(ErrorCode::InvalidArgument, say("there is no sound stream '%1'", value), path,
                    say("The file has %1; they are counted from 1", media.audio.size()));
      Source& source = sourceOf(shot);
      source.sound = {int(*stream) - 1};
      source.soundBy = FactBy::Hand;
      continue;
    }
    if (key == "treatment") {
      const auto treatment = treatmentOf(value);
      if (!treatment) return tl::unexpected(treatment.error());
      shot.treatment = *treatment;
      continue;
    }
    if (key == "pitch") {
      if (value != "keep" && value != "follow" && value != "mute")
        return fail(ErrorCode::InvalidArgument, say("'%1' is nothing that a pitch can do", value), path,
                    say("Use keep, follow or mute"));
      shot.pitchFollows = value == "follow";
      shot.muted = value == "mute";
      continue;
    }
    if (key != "in" && key != "out" && key != "speed" && key != "hold") return unknownKey(key, "--footage");
    const auto fraction = key != "speed"                         ? parseTime(value, media.video->clock.rate())
                          : value.find('/') == std::string::npos ? Rational::parseDecimal(value)
                                                                 : Rational::parse(value);
    if (!fraction) return tl::unexpected(fraction.error());
    if (key == "speed") {
      shot.pace.reversed = *fraction < Rational(0);
      shot.pace.speed = shot.pace.reversed ? Rational(0) - *fraction : *fraction;
      if (shot.pace.speed < kLeastTypedSpeed || shot.pace.speed > kMostTypedSpeed)
        return fail(ErrorCode::InvalidArgument, say("the speed of '%1' is not between 0.05 and 20", shot.name), path,
                    say("Below 0, as −1, it is played backwards"));
    } else if (key == "hold") {
      if (*fraction <= Rational(0) || *fraction > kLongest)
        return fail(ErrorCode::InvalidArgument, say("'%1' is no time for which a picture can be held", value), path);
      shot.pace.held = *fraction;
    } else {
      (key == "in" ? shot.in : shot.out) = *fraction;
    }
  }
  bringOnTicks(shot);
  if (shot.out <= shot.in || (media.kind == MediaKind::Video && shot.out > onTick(media.duration)))
    return fail(
        ErrorCode::InvalidArgument,
        say("in and out of '%1' do not lie inside the source, which lasts %2", shot.name, clockText(media.duration)),
        path);
  m_project.shots.push_back(std::move(shot));
  return {};
}

Status ProjectMaker::addElement(ElementKind kind, const std::string& text) {
  auto element = elementFromWords(m_project, kind, text);
  if (!element) return tl::unexpected(element.error());
  if (kind == ElementKind::Picture) {
    const std::string path = std::filesystem::absolute(element->text).lexically_normal().string();
    element->text.clear();
    auto known = std::find_if(m_project.sources.begin(), m_project.sources.end(),
                              [&](const Source& s) { return s.path == path; });
    MediaInfo media;
    if (known != m_project.sources.end()) {
      media = m_media.at(known->id);
    } else {
      auto info = probe(path, probing(m_context));
      if (!info) return tl::unexpected(info.error());
      media = std::move(*info);
    }
    if (media.kind != MediaKind::Still || !media.video)
      return fail(ErrorCode::NotMedia, say("what lies over the shots must be a still picture"), path,
                  say("Give a still picture"));
    if (known == m_project.sources.end()) {
      m_project.sources.push_back(newSource(m_project, media));
      if (auto fingerprint = fingerprintOf(path)) m_project.sources.back().fingerprint = *fingerprint;
      m_media.emplace(m_project.sources.back().id, std::move(media));
      known = std::prev(m_project.sources.end());
    }
    element->source = known->id;
  }
  m_project.elements.push_back(std::move(*element));
  return {};
}

Status ProjectMaker::addCaptions(const std::string& path) {
  auto read = readCaptions(path);
  if (!read) return tl::unexpected(read.error());
  if (read->dropped > 0)
    m_context.err << "tromb-cli: " << path << ": " << read->dropped
                  << " of its captions are broken and left out, from line " << read->firstDropped << " on\n";
  std::vector<Element> captions = captionElements(m_project, read->captions);
  m_project.elements.insert(m_project.elements.end(), captions.begin(), captions.end());
  return {};
}

Source& ProjectMaker::sourceOf(const Shot& shot) {
  return *std::find_if(m_project.sources.begin(), m_project.sources.end(),
                       [&](const Source& s) { return s.id == shot.source; });
}

const MediaInfo* ProjectMaker::first() const {
  return m_project.sources.empty() ? nullptr : &m_media.at(m_project.sources.front().id);
}

Status ProjectMaker::addTemplate(const std::string& id) {
  if (id.empty()) return {};
  const auto data = destinationData();
  if (data->templates.empty() && !data->faults.empty()) return tl::unexpected(data->faults.front());
  std::string known;
  for (const ProjectTemplate& t : data->templates) {
    known += (known.empty() ? "" : ", ") + t.id;
    if (t.id != id) continue;
    for (const std::string& to : t.destinations)
      m_project.deliverables.push_back(newDeliverable(m_project, to, first()));
    return {};
  }
  return fail(ErrorCode::InvalidArgument, say("there is no template '%1'", id), {}, say("There are %1", known));
}

Status ProjectMaker::takePreset(const std::string& name) {
  auto preset = presetNamed(name);
  if (!preset) return tl::unexpected(preset.error());
  m_preset = std::move(*preset);
  return {};
}

Status ProjectMaker::addSet(const std::string& name) {
  const auto preset = cli::presets().read(name);
  if (!preset) return tl::unexpected(preset.error());
  if (preset->kind != PresetKind::Set)
    return fail(ErrorCode::InvalidArgument, say("'%1' is no set of deliverables", name), {},
                say("tromb-cli presets list says what each is"));
  for (Deliverable d : preset->project.deliverables) {
    d.id = freshId(m_project.deliverables, "d");
    d.name = freeDeliverableName(m_project, d.name);
    m_project.deliverables.push_back(std::move(d));
  }
  if (m_project.deliverables.size() == preset->project.deliverables.size()) m_project.output = preset->project.output;
  return {};
}

Status ProjectMaker::addDeliverable(const std::string& text) {
  auto pairs = parsePairs(text);
  if (!pairs) return tl::unexpected(pairs.error());
  // What bit rates depend on comes first: what is said of them is meant for it.
  for (const char* first : {"channels", "audio-codec", "canvas", "codec"})
    std::stable_partition(pairs->begin(), pairs->end(), [&](const auto& pair) { return pair.first == first; });
  std::string to;
  std::string like;
  for (const auto& [key, value] : *pairs) {
    if (key == "destination") to = value;
    if (key == "like") like = value;
  }
  if (!to.empty() && !destination(to))
    return fail(ErrorCode::InvalidArgument, say("there is no destination '%1'", to), {},
                say("tromb-cli destinations lists them"));
  Deliverable d = newDeliverable(m_project, to, first());
  if (m_preset) lay(*m_preset, d);
  if (!like.empty()) {
    const auto preset = presetNamed(like);
    if (!preset) return tl::unexpected(preset.error());
    lay(*preset, d);
  }
  bool named = false;
  for (const auto& [key, value] : *pairs) {
    named = named || key == "name";
    if (const Status done = set(d, key, value); !done) return done;
  }
  if (!named && to.empty())
    d.name = freeDeliverableName(m_project, std::to_string(d.canvas.width) + "×" + std::to_string(d.canvas.height));
  if (d.name.size() > kMostNameBytes) return tooLong(d.name);
  if (const Status holds = encodable(resolvedEncoding(d), pictureOf(d)); !holds) return holds;
  if (const Status holds = levelCarries(resolvedEncoding(d), pictureOf(d)); !holds) return holds;
  if (d.name.empty() || m_project.deliverableNamed(d.name))
    return fail(ErrorCode::InvalidArgument, say("the name '%1' is empty or used twice", d.name), {},
                say("Give each deliverable its own name"));
  if (!isLegalSize(d.canvas)) {
    const auto w = legalNeighbours(d.canvas.width);
    const auto h = legalNeighbours(d.canvas.height);
    m_context.err << "tromb-cli: '" << d.name << "': 4:2:0 video cannot have " << d.canvas.width << "×"
                  << d.canvas.height << "; the nearest legal sizes are " << w.first << "×" << h.first << " and "
                  << w.second << "×" << h.second << ". The project is written, but cannot be exported so.\n";
  }
  m_project.deliverables.push_back(std::move(d));
  return {};
}

Status ProjectMaker::set(Deliverable& d, const std::string& key, const std::string& value) {
  if (key == "name")
    d.name = value;
  else if (key == "destination" || key == "like")
    return {};
  else if (key == "treatment") {
    const auto treatment = treatmentOf(value);
    if (!treatment) return tl::unexpected(treatment.error());
    d.treatment = *treatment;
  } else if (key == "never-enlarge") {
    if (value != "yes" && value != "no")
      return fail(ErrorCode::InvalidArgument, say("'%1' is no answer to %2", value, key), {}, say("Use yes or no"));
    d.sharpOnly = value == "yes";
  } else if (key == "canvas") {
    const auto size = parseSize(value);
    if (!size) return tl::unexpected(size.error());
    if (*size != d.canvas) d.encoding.bitRate = 0; // the destination's bit rate is for its own canvas
    d.canvas = *size;
  } else if (key == "rate") {
    const auto rate = FrameRate::parse(value);
    if (!rate) return tl::unexpected(rate.error());
    d.rate = *rate;
  } else if (key == "pixel-aspect") {
    const auto aspect = Rational::parse(value);
    if (!aspect || *aspect < kLeastPixelAspect || *aspect > kMostPixelAspect)
      return fail(ErrorCode::InvalidArgument, say("'%1' is no pixel aspect ratio", value), {},
                  say("Use width by height of a pixel, as 4/3; 1/4 to 4/1"));
    d.pixelAspect = *aspect;
  } else if (key == "framing") {
    Framing framing;
    if (!framingByName(value, framing))
      return fail(ErrorCode::InvalidArgument, say("'%1' is no framing", value), {},
                  say("Use fill, fit, stack2, stack3, side2, side3 or backdrop"));
    for (const Shot& shot : m_project.shots) d.framings[shot.id] = framing;
  } else if (const auto setter = encodingKeys().find(key); setter != encodingKeys().end())
    return setter->second(d, value);
  else
    return unknownKey(key, "--deliverable");
  return {};
}

} // namespace tromb::cli
