// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Encoding.h"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

/// A part of the canvas that a destination's own buttons and captions lie over.
struct CoveredPart {
  RectF part;     ///< shares of the canvas
  std::string by; ///< what lies there
  friend bool operator==(const CoveredPart&, const CoveredPart&) = default;
};

/// How sure a value of a destination is: a published standard says so; it is common practice; a house asks for it; or
/// it is a guess on the safe side.
enum class Sureness { Standard, Practice, House, Guess };
[[nodiscard]] const char* surenessWord(Sureness sure); ///< "standard", "practice", "house", "guess"

/// Why a value of a destination is what it is.
struct Because {
  Sureness sure = Sureness::House;
  std::string why;
  friend bool operator==(const Because&, const Because&) = default;
};

/// Bit rates of H.264 for pictures of at most so many pixels and frames a second; bits a second.
struct BitRateBand {
  int64_t pixels = 0;
  FrameRate rate;
  int64_t least = 0;
  int64_t usual = 0;
  int64_t most = 0;
  friend bool operator==(const BitRateBand&, const BitRateBand&) = default;
};

/// What a destination takes of sound.
struct TakenSound {
  std::vector<SoundCodec> codecs; ///< the usual one first; never empty
  std::vector<int> channels;      ///< likewise
  std::vector<int> sampleRates;   ///< Hz, likewise
  int64_t bitRate = 0;            ///< bits a second that are recommended; 0: the codec's usual one
  bool needed = false;            ///< a file without sound is not taken
  friend bool operator==(const TakenSound&, const TakenSound&) = default;
};

/// How loud a destination wants the whole piece (ITU-R BS.1770).
struct LoudnessLimit {
  double lufs = -23;
  double within = 1; ///< LU, up and down
  double peakDbtp = -1;
  friend bool operator==(const LoudnessLimit&, const LoudnessLimit&) = default;
};

/// Shares of the canvas at its edges that nothing important should lie in.
struct SafeInsets {
  double left = 0;
  double top = 0;
  double right = 0;
  double bottom = 0;
  friend bool operator==(const SafeInsets&, const SafeInsets&) = default;
};

/// A published or house set of limits and recommendations for where a file goes. What is empty or 0 is not limited.
/// `because` says of each value that is there, by its key in the file, how sure it is and why.
struct Destination {
  std::string id;      ///< "vertical-story"
  std::string name;    ///< "Vertical story"
  std::string summary; ///< one sentence
  bool own = false;    ///< one of the user's own, not one that comes with the program
  bool starred = false;
  std::vector<Size> canvases;   ///< the usual one first; never empty
  bool otherCanvases = true;    ///< other sizes of a shape that is among them are taken as well
  std::vector<FrameRate> rates; ///< the only ones that are taken; empty: all up to the highest
  FrameRate mostRate;
  Rational leastSeconds{0};
  Rational mostSeconds{0};
  int64_t mostBytes = 0;
  std::vector<Codec> codecs; ///< the usual one first; never empty
  std::vector<Container> containers;
  std::vector<ColourTags> colours;   ///< empty: Rec. 709
  int depth = 0;                     ///< bits of a sample, at least
  std::vector<BitRateBand> bitRates; ///< smallest pictures first
  std::optional<TakenSound> sound;   ///< empty: a silent file is expected
  std::optional<LoudnessLimit> loudness;
  SafeInsets safe;
  std::vector<CoveredPart> covered; ///< nothing important should lie there
  std::map<std::string, Because> because;
  std::string unknown; ///< members of its file that are not known here, as JSON
  friend bool operator==(const Destination&, const Destination&) = default;

  [[nodiscard]] Size canvas() const { return canvases.front(); }
  /// The bit rates for a picture in a codec: those of the smallest pictures that are as large and as fast, in
  /// proportion to the pixels, in steps of 100 kb/s, and of what the codec needs for the look of H.264. Nothing where
  /// none are said for it.
  [[nodiscard]] std::optional<BitRateBand> band(Size canvas, const FrameRate& rate, Codec codec) const;
  /// A canvas of this size is taken.
  [[nodiscard]] bool takes(Size canvas) const;
  [[nodiscard]] bool takes(const FrameRate& rate) const;
};

/// A set of deliverables that a project can start from.
struct ProjectTemplate {
  std::string id;
  std::string name;
  std::vector<std::string> destinations; ///< ids, one deliverable each
};

struct DestinationData {
  std::vector<Destination>
      destinations; ///< those that come with the program, in its order, then the user's own by name
  std::vector<ProjectTemplate> templates;
  std::vector<Error> faults; ///< of files that could not be taken; the others are there

  [[nodiscard]] const Destination* find(std::string_view id) const; ///< null when there is none
};

/// Reads a destination from the text of its file. Errors: ProjectInvalid (with the JSON pointer), ProjectTooNew.
[[nodiscard]] Result<Destination> parseDestination(const std::string& text);
/// Reads a destination's file. Errors: Missing, Unreadable, and those of parseDestination, with the path.
[[nodiscard]] Result<Destination> readDestination(const std::string& path);
/// The text of a destination's file: see data/destination.schema.json.
[[nodiscard]] std::string destinationText(const Destination& destination);

/// Reads what comes with the program from its data folder, and the user's own from another (empty: none). A file that
/// cannot be taken hides no other.
[[nodiscard]] DestinationData readDestinations(const std::string& dataFolder, const std::string& ownFolder);

/// All destinations and templates as they are now. They were read when first asked for. Thread-safe.
[[nodiscard]] std::shared_ptr<const DestinationData> destinationData();
/// From now on the user's own are those in this folder; all are read anew when next asked for. Thread-safe.
void useOwnDestinations(const std::string& folder);
/// The destination with this id; null when there is none. Thread-safe.
[[nodiscard]] std::shared_ptr<const Destination> destination(const std::string& id);

} // namespace tromb
