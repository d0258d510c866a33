// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Framing.h"
#include "time/Rational.h"

#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

/// Words and graphics that lie over shots. They are anchored, not placed: sizes are shares of the canvas, so that an
/// element that is laid once sits right in every shape. Plain values; ids as in Project.h.

enum class ElementKind {
  Text,
  Picture, ///< a still, with its transparency
  Caption, ///< a text that goes along with what is said; all of a project look alike and lie at one place
};
inline constexpr std::array<const char*, 3> kElementKindWords{"text", "picture", "caption"};

/// Where an element is held: three rows of three, from the top left corner to the bottom right one.
enum class Anchor { TopLeft, Top, TopRight, Left, Centre, Right, BottomLeft, Bottom, BottomRight };
inline constexpr std::array<const char*, 9> kAnchorWords{
    "top-left", "top", "top-right", "left", "centre", "right", "bottom-left", "bottom", "bottom-right"};
/// 0 for the left (the top), 0.5 for the middle, 1 for the right (the bottom).
[[nodiscard]] constexpr double acrossOf(Anchor anchor) {
  return int(anchor) % 3 / 2.0;
}
[[nodiscard]] constexpr double downOf(Anchor anchor) {
  return int(anchor) / 3 / 2.0;
}

/// How lines of a text lie to each other. Of a script that is written from right to left, Start is the right.
enum class TextAlign { Start, Middle, End };
inline constexpr std::array<const char*, 3> kTextAlignWords{"start", "middle", "end"};

inline constexpr const char* kOwnFamily = "Lato"; ///< the font that comes with the program
inline constexpr double kLeastTextSize = 0.5;     ///< percent
inline constexpr double kMostTextSize = 60;
inline constexpr size_t kMostTextBytes = 4000;

/// How a text looks. Sizes in percent of the canvas's shorter side, as it is shown; those of parts in shares of the
/// letters' own size.
struct TextLook {
  std::string family = kOwnFamily;
  int weight = 600; ///< 100 to 900, as fonts say it (OpenType, usWeightClass)
  bool italic = false;
  double leastSize = 2.5; ///< what it shrinks to where its words do not fit
  double measure = 84;    ///< the longest line, percent of the width in which it may lie
  Colour colour{255, 255, 255};
  double outline = 0; ///< its width, 0 to 0.3
  Colour outlineColour;
  double shadow = 0.5; ///< how dark, 0 to 1
  double box = 0;      ///< how opaque the box behind it is, 0 (none) to 1
  Colour boxColour;
  double padding = 0.4; ///< between letters and the edge of the box, 0 to 3
  double corner = 0.2;  ///< the radius of the box's corners, 0 to 3
  TextAlign align = TextAlign::Middle;
  double lineSpacing = 1.15; ///< of lines to each other, 0.5 to 3
  double letterSpacing = 0;  ///< −0.2 to 1
  friend bool operator==(const TextLook&, const TextLook&) = default;
};

/// Where an element lies and how large it is.
struct ElementPlace {
  Anchor anchor = Anchor::Bottom;
  double x = 0;    ///< from there to the right, percent of the canvas's shorter side
  double y = 0;    ///< … and down
  double size = 6; ///< the letters' size (the font's), or the picture's shorter side, percent of the canvas's
  bool hidden = false;
  friend bool operator==(const ElementPlace&, const ElementPlace&) = default;
};

/// Where a picture lies at first: as a mark in a corner.
inline constexpr ElementPlace kUsualOverlay{Anchor::TopRight, 0, 0, 12, false};

/// What somebody has laid by hand in one deliverable.
struct OwnPlace {
  ElementPlace place;
  std::optional<std::string> text; ///< with line breaks of its own
  friend bool operator==(const OwnPlace&, const OwnPlace&) = default;
};

inline constexpr double kMostElementOffset = 400; ///< percent, to all sides

/// What captions look like unless somebody says otherwise: on a box, so that they can be read over anything.
[[nodiscard]] inline TextLook usualCaptionLook() {
  TextLook look;
  look.leastSize = 3.1;
  look.measure = 88;
  look.shadow = 0;
  look.box = 0.7;
  return look;
}

/// How the captions of a project look, and where they lie.
struct CaptionStyle {
  TextLook look = usualCaptionLook();
  ElementPlace place{Anchor::Bottom, 0, 0, 5, false};
  std::map<std::string, OwnPlace> own; ///< by Deliverable::id
  bool overButtons = false;
  friend bool operator==(const CaptionStyle&, const CaptionStyle&) = default;
};

struct Element {
  std::string id;
  ElementKind kind = ElementKind::Text;
  std::string shot; ///< Shot::id of the one that it goes along with; empty: it keeps its place in the running order
  Rational in{0};   ///< seconds of the running order; of one with a shot those of its source, so that it stays on what
                    ///< it was laid over when that is trimmed or shown faster; where its picture is held or stands
                    ///< still, from the shot's beginning
  Rational out{1};  ///< seconds, exclusive; > in
  Rational fadeIn{0}; ///< seconds
  Rational fadeOut{0};
  std::string text; ///< UTF-8; lines are parted by a line feed
  TextLook look;
  std::string source; ///< Source::id of a picture
  ElementPlace place;
  bool overButtons = false;            ///< it may lie where a destination's own buttons do
  std::map<std::string, OwnPlace> own; ///< by Deliverable::id
  std::string unknown;                 ///< see Project.h
  friend bool operator==(const Element&, const Element&) = default;

  [[nodiscard]] bool hasText() const { return kind != ElementKind::Picture; }
  /// As it is shown: a caption with the style of its project.
  [[nodiscard]] Element styled(const CaptionStyle& style) const;
  /// As a deliverable has it.
  [[nodiscard]] ElementPlace placeIn(const std::string& deliverable) const;
  [[nodiscard]] const std::string& textIn(const std::string& deliverable) const;
};

/// How opaque an element is `since` seconds after it began, of `length` seconds: 1 but while it fades. Fades that are
/// longer than there is time meet in proportion.
[[nodiscard]] double opacityAt(const Element& element, const Rational& since, const Rational& length);

} // namespace tromb
