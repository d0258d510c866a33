// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/CanvasFormat.h"
#include "element/CaptionFile.h"
#include "element/Element.h"
#include "encoding/Encoding.h"
#include "geometry/Framing.h"
#include "media/Reading.h"
#include "project/Checks.h"
#include "time/FrameMap.h"

#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace tromb {

/// The document: plain values, compared and copied whole. Ids are short words, unique within their list and
/// never shown. `unknown` keeps, as JSON text, the keys of a file that this version does not know.

/// A folder of the footage list; groups nest.
struct Group {
  std::string id;
  std::string name;
  std::string parent; ///< Group::id; empty = top
  std::string unknown;
  friend bool operator==(const Group&, const Group&) = default;
};

/// Where a fact about a source comes from: nobody looked yet, it was measured, or somebody set it.
enum class FactBy { Nobody, Measure, Hand };

/// A media file that was brought in.
struct Source {
  std::string id;
  std::string path;        ///< absolute while in memory
  std::string name;        ///< for people; empty = the file's name
  std::string group;       ///< Group::id; empty = none
  std::string fingerprint; ///< see media/read/Fingerprint.h; empty until it was taken
  Bars bars;               ///< burned into the picture, cut away everywhere
  FactBy barsBy = FactBy::Nobody;
  std::optional<Scan> scan; ///< The scan of the pictures if somebody has set it, whatever the file says.
  FactBy scanBy = FactBy::Nobody;
  std::optional<ColourTags> colour; ///< what somebody says of its colours, whatever the file's labels are
  std::vector<int> sound; ///< which of the file's sound streams are heard, as Reading::heard; empty: the usual
  FactBy soundBy = FactBy::Nobody;
  Orientation orientation;        ///< turned, mirrored and straightened everywhere
  std::optional<Repeats> repeats; ///< somebody takes it at the rate that its repeated pictures were made from
  bool slowMotion = false;        ///< shot fast to be shown slowly: never matched, never said to differ
  std::string unknown;
  friend bool operator==(const Source&, const Source&) = default;
};

/// Times lie on ticks (see time/Ticks.h): bringOnTicks sees to it wherever one enters a project.

/// A stretch of a source; its place in `Project::shots` is its place in the running order.
struct Shot {
  std::string id;
  std::string source; ///< Source::id
  std::string name;
  Rational in{0};                     ///< seconds of the source, from its first frame
  Rational out{1};                    ///< seconds, exclusive; > in
  Pace pace;                          ///< speed, direction, and where it changes
  bool pitchFollows = false;          ///< sound becomes higher and lower with the speed, instead of keeping its pitch
  std::optional<Treatment> treatment; ///< of its frames; empty: each deliverable's
  double levelDb = 0;                 ///< The level of its sound in dB, −60 to +12.
  bool muted = false;
  Subjects subjects; ///< what matters in it; empty until somebody says so
  std::string unknown;
  friend bool operator==(const Shot&, const Shot&) = default;

  /// Which moment of the source is shown when.
  [[nodiscard]] TimeMap time() const { return {in, out, pace}; }
  [[nodiscard]] int64_t length() const { return time().length(); } ///< ticks of running order, at least 1; rounded once
  [[nodiscard]] Rational duration() const { return secondsOf(length()); } ///< the same in seconds
};

/// A named stretch of the running order, to be exported alone.
struct Region {
  std::string id;
  std::string name;
  Rational in{0};  ///< seconds of the running order
  Rational out{1}; ///< seconds, exclusive; > in
  std::string unknown;
  friend bool operator==(const Region&, const Region&) = default;
};

/// Sound that lies under the running order.
struct SoundBed {
  std::string id;
  std::string source; ///< Source::id
  Rational start{0};  ///< seconds of the running order where it begins
  Rational in{0};     ///< seconds of the source
  Rational out{1};    ///< seconds of the source, exclusive; > in
  double levelDb = 0; ///< −60 to +12
  Rational fadeIn{0}; ///< seconds
  Rational fadeOut{0};
  bool duck = false; ///< goes down while there is speech in the shots
  std::string unknown;
  friend bool operator==(const SoundBed&, const SoundBed&) = default;
};

inline constexpr double kLeastLevelDb = -60;
inline constexpr double kMostLevelDb = 12;

/// A loudness that one deliverable has, whatever the project's.
struct OwnLoudness {
  std::optional<double> lufs; ///< empty: as it is mixed
  friend bool operator==(const OwnLoudness&, const OwnLoudness&) = default;
};

/// One output.
struct Deliverable {
  std::string id;
  std::string name;
  Size canvas{1920, 1080};
  Rational pixelAspect{1}; ///< of the canvas's pixels, width by height
  CanvasFormat format;     ///< how its samples are stored
  FrameRate rate;
  Treatment treatment = Treatment::KeepTime; ///< of shots that say nothing else
  std::string destination;                   ///< id of a Destination; may be empty
  std::string preset;                        ///< name of the preset that was laid on it last; may be empty
  std::string sharesWith; ///< Deliverable::id of its normal version, see Sharing.h; empty: its framings are its own
  Encoding encoding;
  std::optional<OwnLoudness> loudness; ///< empty: the project's
  bool sharpOnly = false; ///< windows stop where the picture would be enlarged; a cell that cannot fill is a fault
  std::map<std::string, Framing> framings; ///< by Shot::id; a shot without one fills and follows its subject
  std::string unknown;
  friend bool operator==(const Deliverable&, const Deliverable&) = default;

  /// The canvas as it is shown: wider or narrower than its raster where its pixels are not square.
  [[nodiscard]] Size shownSize() const;
  /// The stored framing of a shot, or the one that a shot without any has.
  [[nodiscard]] Framing framingOf(const std::string& shotId) const;
};

/// What is true of all finished files of a project.
struct Output {
  std::string naming; ///< pattern of their names, see FileName.h; empty: the usual one
  /// Target of the whole running order (ITU-R BS.1770); empty leaves it as it is mixed.
  std::optional<double> loudnessLufs;
  double mostPeakDbtp = -1; ///< true peak that a loudness target may not pass
  std::string unknown;
  friend bool operator==(const Output&, const Output&) = default;
};

inline constexpr double kLeastTargetLufs = -40;
inline constexpr double kMostTargetLufs = -8;
inline constexpr double kLeastPeakDbtp = -12;

struct Project {
  std::string name;
  std::vector<Group> groups;
  std::vector<Source> sources;
  std::vector<Shot> shots;
  std::vector<Deliverable> deliverables;
  std::vector<Region> regions;
  std::vector<SoundBed> beds;
  std::vector<Element> elements; ///< what lies over the shots, the lowest first
  CaptionStyle captionStyle;
  Output output;
  Checks checks;
  std::string unknown;
  friend bool operator==(const Project&, const Project&) = default;

  [[nodiscard]] const Source* source(const std::string& id) const;
  [[nodiscard]] const Shot* shot(const std::string& id) const;
  [[nodiscard]] const Deliverable* deliverable(const std::string& id) const;
  [[nodiscard]] const Deliverable* deliverableNamed(const std::string& name) const;
  [[nodiscard]] const Region* regionNamed(const std::string& name) const;
  [[nodiscard]] Rational duration() const; ///< seconds of the running order; sums of whole ticks
  /// Where each shot starts in the running order, and one more: its end. Seconds.
  [[nodiscard]] std::vector<Rational> shotStarts() const;
};

/// A source as the project reads it: what was measured or set of its scan, bars, orientation and sound, else what its
/// file says. The one place where facts and opinions meet.
[[nodiscard]] Reading readingOf(const Source& source, const MediaInfo& file);
/// Parts of a reading, for callers that need no more: its colours, how its pictures are scanned, and their
/// shape.
[[nodiscard]] ColourTags colourOf(const Source& source, const VideoInfo& video);
[[nodiscard]] Scan scanOf(const Source& source, const VideoInfo& video);
[[nodiscard]] PictureShape shapeOf(const Source& source, const VideoInfo& video);

/// The same on the canvas of a deliverable, whose pixels may not be square.
[[nodiscard]] PictureShape shapeIn(const Deliverable& deliverable, const Source& source, const VideoInfo& video);

inline const Rational kLeastPixelAspect{1, 4};
inline const Rational kMostPixelAspect{4};

/// How a shot is framed in a deliverable: as it is stored, and held sharp where it is never to be enlarged.
[[nodiscard]] Framing framingIn(const Deliverable& deliverable, const Shot& shot, const PictureShape& shape);

/// What an encoder gets of a deliverable; its encoding with everything filled in; and the ending of its file.
[[nodiscard]] EncodedPicture pictureOf(const Deliverable& deliverable);
[[nodiscard]] Encoding resolvedEncoding(const Deliverable& deliverable);
[[nodiscard]] std::string fileEnding(const Deliverable& deliverable);

/// What a source is called: its own name, or its file's without the ending.
[[nodiscard]] std::string sourceName(const Source& source);

/// How the frames of a shot are treated in a deliverable.
[[nodiscard]] inline Treatment treatmentIn(const Deliverable& deliverable, const Shot& shot) {
  return shot.treatment.value_or(deliverable.treatment);
}

/// Frames of its source that a shot shows: the first, and the end (exclusive, at least one later). Those of a still are
/// 0 and 1. The media must have a picture.
[[nodiscard]] std::pair<int64_t, int64_t> framesOf(const Shot& shot, const MediaInfo& media);
/// Returns true if nobody has said where a shot's subject is: it has none, or they were suggested.
[[nodiscard]] bool subjectIsOpen(const Shot& shot);

/// When an element is seen: its first moment and its end, in seconds of the running order. One that goes along with a
/// shot ends with it. Equal where it is never seen.
[[nodiscard]] std::pair<Rational, Rational> stretchOf(const Project& project, const Element& element);
/// The same of all elements, in their order.
[[nodiscard]] std::vector<std::pair<Rational, Rational>> stretchesOf(const Project& project);

/// Lays an element over a shot that begins at `begin`, from one moment of the running order to another; to go along
/// with it from then on.
void bind(Element& element, const Shot& shot, const Rational& begin, const Rational& from, const Rational& to);
/// What goes along with a shot that is cut into parts, with ids that are free: with each part what lies over it. Parts
/// have ids of their own; a held one shows a picture of the whole for its length.
[[nodiscard]] std::vector<Element> elementsOfParts(const Project& project, const Shot& whole,
                                                   const std::vector<Shot>& parts);

/// Captions as elements of a project, with ids that are free in it: each goes along with its shot; one that goes on
/// over a cut, or lies behind the running order, keeps its time.
[[nodiscard]] std::vector<Element> captionElements(const Project& project, const std::vector<Caption>& captions);
/// The captions of a project in the running order, in order of time.
[[nodiscard]] std::vector<Caption> captionsOf(const Project& project);

/// A shot cut at these times of its source, those inside it, in running order: one that is played backwards begins with
/// the last of its parts. Ids are those of the whole.
[[nodiscard]] std::vector<Shot> partsOf(const Shot& whole, std::vector<Rational> sourceTimes);

/// Rounds times to ticks and speeds to plain fractions, as projects keep them.
void bringOnTicks(Shot& shot);
void bringOnTicks(Region& region);
void bringOnTicks(SoundBed& bed);
void bringOnTicks(Element& element);

/// The limits of what a project may hold, beside kLongest and those of FrameRate. What is inside them can be saved and
/// read again; they are told where they are met.
inline constexpr size_t kMostNameBytes = 2000;
inline const Rational kLeastSpeed{1, 100};
inline const Rational kMostSpeed{100};
inline const Rational kLeastTypedSpeed{1, 20}; ///< What people choose; frame by frame may be slower.
inline const Rational kMostTypedSpeed{20};
inline constexpr size_t kMostSpeedKeys = 100;
inline constexpr size_t kMostElements = 20'000;
inline constexpr int64_t kMostSpeedPart = 1'000'000; ///< The most that a speed's numerator and denominator may be.

inline const Rational kStillLength{5}; ///< seconds that a still gets when it is brought in

/// The place of the item with this id, −1 when there is none.
template <typename List> [[nodiscard]] int placeOf(const List& list, const std::string& id) {
  for (size_t i = 0; i < list.size(); ++i)
    if (list[i].id == id) return int(i);
  return -1;
}

/// The next free id: prefix and the smallest number not used in `taken`.
template <typename List> [[nodiscard]] std::string freshId(const List& taken, const std::string& prefix) {
  for (int n = int(taken.size()) + 1;; ++n) {
    const std::string id = prefix + std::to_string(n);
    bool used = false;
    for (const auto& item : taken) used = used || item.id == id;
    if (!used) return id;
  }
}

} // namespace tromb
