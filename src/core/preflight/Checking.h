// SPDX-License-Identifier: GPL-3.0-or-later
// Inside of preflight: what each group of checks looks at, and where it puts what it finds.
#pragma once

#include "copy/ShotCopy.h"
#include "destination/Destination.h"
#include "preflight/Preflight.h"

#include <unordered_map>

namespace tromb {

/// What is seen of a shot in a deliverable all along.
struct CellFacts {
  Shortfall least;
  double travel = 0; ///< window widths a second of the source
  // Shares of the shot in which its subject is:
  double outside = 0;
  double cut = 0; ///< and of these, outside of what is shown
  double covered = 0;
  std::string by; ///< what covers it
};

/// All that it rests on.
struct CellBasis {
  PictureShape shape;
  Size canvas;
  Framing framing;
  Subjects subjects;
  Rational in;
  Rational out;
  SafeInsets safe;
  std::vector<CoveredPart> covered;
  friend bool operator==(const CellBasis&, const CellBasis&) = default;
};

/// All that the facts of a text in a deliverable rest on.
struct ElementBasis {
  TextLook look;
  ElementPlace place;
  std::string text;
  bool overButtons = false;
  ElementCanvas canvas;
  friend bool operator==(const ElementBasis&, const ElementBasis&) = default;
};

struct CellMemory {
  CopyMemory copies;
  std::map<std::pair<std::string, std::string>, std::pair<ElementBasis, TextFacts>>
      elements; ///< by Deliverable and Element::id
  std::map<std::pair<std::string, std::string>, std::pair<CellBasis, CellFacts>> cells; ///< by Deliverable and Shot::id
};

/// What is looked at, and what was found. One thread at a time.
struct Checking {
  /// The deliverables with these ids are looked at; all when there are none.
  Checking(const Project& of, const Footage& with, const PreflightGrounds& on, const std::vector<std::string>& ids);

  const Project& project;
  const Footage& footage;
  const PreflightGrounds& grounds;
  std::vector<const Deliverable*> deliverables; ///< those that are looked at
  std::vector<Finding> findings;

  /// Puts in a finding of a kind, about a shot in a deliverable; either may be null. The reference is good until the
  /// next.
  Finding& find(const char* code, const Deliverable* in, const Shot* of, Message message, Message fix = {});
  [[nodiscard]] const Source* source(const std::string& sourceId) const; ///< quick; null when there is none
  /// The facts of a source; null where it is missing, or nobody has looked yet.
  [[nodiscard]] const MediaInfo* media(const std::string& sourceId) const;
  [[nodiscard]] const Measured* measured(const std::string& sourceId) const;

private:
  std::unordered_map<std::string_view, const Source*> m_sources; ///< by id
};

void checkSources(Checking& checking);                      ///< files, and what is done with what they hold
void checkSound(Checking& checking);                        ///< of shots and beds
void checkCells(Checking& checking, const Deliverable& d);  ///< how its shots are framed and move
void checkOutput(Checking& checking);                       ///< where the files go
void checkElements(Checking& checking);                     ///< whether what lies over the shots can be read
void checkCopies(Checking& checking, const Deliverable& d); ///< what is encoded where as much as can be is copied

} // namespace tromb
