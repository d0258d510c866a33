// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SourceFacts.h"

#include "model/Translation.h"
#include "project/Sharing.h"
#include "time/Cadence.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

struct FactText {
  Q_DECLARE_TR_FUNCTIONS(SourceFacts)
};

QString pixels(const VideoInfo& video) {
  const SizeF upright = video.shape().uprightWithBars();
  return QStringLiteral("%1×%2").arg(std::lround(upright.width)).arg(std::lround(upright.height));
}

/// After the code points of ITU-T H.273.
QString colourWords(const ColourTags& colour) {
  if (colour.transfer == 16) return FactText::tr("Rec. 2100 PQ");
  if (colour.transfer == 18) return FactText::tr("Rec. 2100 HLG");
  switch (colour.primaries) {
  case 1:
    return FactText::tr("Rec. 709");
  case 5:
  case 6:
    return FactText::tr("Rec. 601");
  case 9:
    return FactText::tr("Rec. 2020");
  case 12:
    return FactText::tr("P3-D65");
  default:
    return FactText::tr("colour unlabelled");
  }
}

QString rateWords(const VideoInfo& video) {
  return QString::fromStdString(video.clock.rate().name()) +
         (video.clock.variable() ? FactText::tr(" variable") : QString());
}

/// The stream that is heard, or the first of two that are.
const AudioInfo& heardOf(const Reading& source) {
  const size_t place = source.heard.empty() ? 0 : size_t(source.heard.front());
  return source.file.audio[std::min(place, source.file.audio.size() - 1)];
}

QString soundWords(const Reading& source) {
  if (source.file.audio.empty()) return FactText::tr("no sound");
  if (source.heard.size() == 2) return FactText::tr("two mono streams %1 kHz").arg(heardOf(source).sampleRate / 1000.0);
  return streamWords(heardOf(source));
}

void addSound(const Reading& reading, const Source& source, std::vector<Consequence>& found) {
  using Kind = Consequence::Kind;
  const AudioInfo& sound = heardOf(reading);
  if (reading.heard.size() == 2)
    found.push_back(
        {Kind::Sound, Cell::State::Good, FactText::tr("Sound"),
         FactText::tr("two mono streams: %1 is left, %2 is right").arg(reading.heard[0] + 1).arg(reading.heard[1] + 1),
         source.soundBy == FactBy::Measure});
  else if (reading.file.audio.size() > 1)
    found.push_back(
        {Kind::Sound, Cell::State::Good, FactText::tr("Sound"),
         FactText::tr("%1 of its %2 streams is heard").arg(reading.heard.front() + 1).arg(reading.file.audio.size()),
         source.soundBy == FactBy::Measure});
  if (sound.downMixDb > 0)
    found.push_back({Kind::Sound, Cell::State::Good, FactText::tr("Sound"),
                     FactText::tr("%1 channels; in stereo mixed down, %2 dB lower so that nothing clips")
                         .arg(sound.channels)
                         .arg(sound.downMixDb, 0, 'f', 1),
                     false});
}

void addDeliverables(const Document& document, const Source& source, const MediaInfo& media,
                     std::vector<Consequence>& found) {
  for (const Deliverable& d : document.project().deliverables) {
    if (!framesItself(d)) continue; // the same as of its normal version
    const PictureShape shape = shapeIn(d, source, *media.video);
    const auto placements = place(shape, d.canvas, Framing{});
    const double sharp = detail(shape, placements);
    Consequence c{Consequence::Kind::Deliverable, Cell::State::Good, QString::fromStdString(d.name), {}, false};
    if (sharp < kSharpDetail) {
      c.state = Cell::State::Soft;
      c.text = FactText::tr("soft %1").arg(QString::fromStdString(detailText(sharp)));
    } else {
      c.text = FactText::tr("detail %1").arg(QString::fromStdString(detailText(sharp)));
    }
    if (media.kind == MediaKind::Video) {
      const ShotCadence cadence = cadenceIn(d, wholeShot(d, source, media), source, media);
      const FrameClock& clock = cadence.clock;
      const Rational speed = *cadence.frames.time().speed();
      c.text += QStringLiteral(" · ") + said(cadenceWords(clock, d.rate, speed));
      if (speed != Rational(1)) c.text += FactText::tr(" at %1").arg(QString::fromStdString(speedText(speed)));
      // Drawn once for deliverables that show the same.
      const bool drawn = std::any_of(found.begin(), found.end(), [&](const Consequence& each) {
        return each.cadence && each.cadence->rate == d.rate && each.treatment == d.treatment;
      });
      if (!drawn && clock.frameCount() > 1 && !Cadence(clock.rate(), d.rate, speed).even()) {
        c.cadence = cadence;
        c.treatment = d.treatment;
      }
    }
    found.push_back(c);
  }
}

} // namespace

QString streamWords(const AudioInfo& sound) {
  const QString channels = sound.channels == 1   ? FactText::tr("mono")
                           : sound.channels == 2 ? FactText::tr("stereo")
                                                 : FactText::tr("%1 channels").arg(sound.channels);
  return FactText::tr("%1 %2 kHz").arg(channels).arg(sound.sampleRate / 1000.0);
}

QString shortFacts(const Reading& source) {
  const MediaInfo& media = source.file;
  if (!media.video) return soundWords(source);
  if (media.kind == MediaKind::Still) return FactText::tr("%1 · still").arg(pixels(*media.video));
  return FactText::tr("%1 · %2").arg(pixels(*media.video), rateWords(*media.video));
}

QString factsLine(const Reading& source) {
  const MediaInfo& media = source.file;
  if (!media.video) return soundWords(source);
  QStringList words{shortFacts(source)};
  const VideoInfo& video = *media.video;
  if (media.kind == MediaKind::Video)
    words << (source.scan == Scan::Progressive     ? FactText::tr("progressive")
              : source.scan == Scan::TopFieldFirst ? FactText::tr("interlaced, top field first")
                                                   : FactText::tr("interlaced, bottom field first"));
  words << FactText::tr("%1 bit").arg(video.bitDepth);
  if (video.alpha) words << FactText::tr("transparency");
  if (video.timecode)
    words << FactText::tr("from %1").arg(QString::fromStdString(video.timecode->labelOf(0, video.clock.rate())));
  if (media.kind == MediaKind::Video) words << colourWords(source.colour.value_or(video.colour)) << soundWords(source);
  return words.join(QStringLiteral(" · "));
}

std::vector<Consequence> consequencesOf(const Document& document, const Source& source) {
  std::vector<Consequence> found;
  const Result<MediaInfo>* known = document.media(source.id);
  if (!known || !*known) return found;
  const Reading reading = readingOf(source, **known);
  const MediaInfo& media = reading.file;
  const Measured* measured = document.measured(source.id);
  using Kind = Consequence::Kind;
  using State = Cell::State;
  if (media.video) {
    const VideoInfo& video = *media.video;
    if (!source.bars.none()) {
      const std::pair<int, const char*> sides[] = {{source.bars.left, QT_TRANSLATE_NOOP("SourceFacts", "%1 left")},
                                                   {source.bars.top, QT_TRANSLATE_NOOP("SourceFacts", "%1 top")},
                                                   {source.bars.right, QT_TRANSLATE_NOOP("SourceFacts", "%1 right")},
                                                   {source.bars.bottom, QT_TRANSLATE_NOOP("SourceFacts", "%1 bottom")}};
      QStringList cut;
      for (const auto& [pixels_, words] : sides)
        if (pixels_ > 0) cut << FactText::tr(words).arg(pixels_);
      found.push_back({Kind::Bars, State::Good, FactText::tr("Bars"),
                       FactText::tr("burned in, cut away: %1").arg(cut.join(QStringLiteral(", "))),
                       source.barsBy == FactBy::Measure});
    } else if (measured && !measured->bars.none()) {
      found.push_back(
          {Kind::Bars, State::Bars, FactText::tr("Bars"), FactText::tr("burned in and kept, as you asked"), true});
    }
    if (media.kind == MediaKind::Video) {
      const bool interlaced = reading.scan != Scan::Progressive;
      const bool contradicts = reading.scan != video.scan;
      if (interlaced)
        found.push_back({Kind::Interlaced, State::Good, FactText::tr("Scan"),
                         contradicts && video.scan != Scan::Progressive
                             ? FactText::tr("interlaced, fields in the other order than the file says: put right")
                         : contradicts ? FactText::tr("interlaced, though the file says progressive: de-interlaced")
                                       : FactText::tr("interlaced: de-interlaced to frames, or to fields where a "
                                                      "deliverable's rate needs them"),
                         source.scanBy == FactBy::Measure});
      else if (contradicts)
        found.push_back({Kind::Interlaced, State::Good, FactText::tr("Scan"),
                         FactText::tr("progressive, though the file says interlaced: left as it is"),
                         source.scanBy == FactBy::Measure});
    }
    if (video.pixelAspect != Rational(1))
      found.push_back({Kind::NotSquare, State::Good, FactText::tr("Pixels"),
                       FactText::tr("not square (%1): widened to %2")
                           .arg(QString::fromStdString(video.pixelAspect.toString()), pixels(video)),
                       false});
    const auto repeats = source.repeats ? source.repeats : measured ? measured->repeats : std::nullopt;
    if (repeats && !video.clock.variable() && media.kind == MediaKind::Video) {
      const QString made = QString::fromStdString(repeats->clockOf(video.clock).rate().name());
      found.push_back({Kind::Repeats, source.repeats ? State::Good : State::Soft, FactText::tr("Rate"),
                       source.repeats ? FactText::tr("taken at %1: repeated pictures count once").arg(made)
                                      : FactText::tr("repeats pictures made at %1").arg(made),
                       true});
    }
    if (video.clock.variable())
      found.push_back({Kind::Variable, State::Good, FactText::tr("Rate"),
                       FactText::tr("variable: each picture stays until the next is due"), false});
    if (source.colour && *source.colour != video.colour)
      found.push_back({Kind::Colour, State::Good, FactText::tr("Colour"),
                       source.colour->fullRange ? FactText::tr("taken as %1, full range, though the file says %2")
                                                      .arg(colourWords(*source.colour), colourWords(video.colour))
                                                : FactText::tr("taken as %1, though the file says %2")
                                                      .arg(colourWords(*source.colour), colourWords(video.colour)),
                       false});
    if (isHdr(colourOf(source, video)))
      found.push_back({Kind::Hdr, State::Good, FactText::tr("Colour"),
                       FactText::tr("HDR: its highlights are rolled off in Rec. 709"), false});
    if (video.rotation != 0 || video.mirrored)
      found.push_back({Kind::Turned, State::Good, FactText::tr("Turned"),
                       video.rotation == 0 ? FactText::tr("turned left for right, as its file asks")
                       : video.mirrored
                           ? FactText::tr("stood upright by %1° and turned left for right").arg(video.rotation)
                           : FactText::tr("stood upright by %1°").arg(video.rotation),
                       false});
    if (video.alpha)
      found.push_back({Kind::Transparent, State::Good, FactText::tr("Ground"),
                       FactText::tr("shows through where it is transparent: what lies under it, else a colour"),
                       false});
    if (media.kind == MediaKind::Video && media.audio.empty())
      found.push_back(
          {Kind::Silent, State::Good, FactText::tr("Sound"), FactText::tr("none: its shots are silent"), false});
    if (source.slowMotion)
      found.push_back({Kind::SlowMotion, State::Good, FactText::tr("Motion"),
                       FactText::tr("slow motion material: new shots show every frame once, without sound"), false});
    addDeliverables(document, source, media, found);
  }
  if (!media.audio.empty()) addSound(reading, source, found);
  if (measured && measured->loudness)
    found.push_back({Kind::Loudness, State::Good, FactText::tr("Loudness"),
                     FactText::tr("%1 LUFS, peak %2 dBTP")
                         .arg(measured->loudness->integratedLufs, 0, 'f', 1)
                         .arg(measured->loudness->truePeakDbtp, 0, 'f', 1),
                     true});
  return found;
}

} // namespace tromb
