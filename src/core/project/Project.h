// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "delivery/Encoding.h"
#include "geometry/Framing.h"
#include "time/FrameRate.h"

#include <map>
#include <string>
#include <vector>

namespace tromb {

/// The document: plain values, compared and copied whole. Ids are short words, unique within their list and
/// never shown. `unknown` keeps, as JSON text, the keys of a file that this version does not know.

/// A media file that was brought in.
struct Source {
  std::string id;
  std::string path; ///< absolute while in memory
  Bars bars;        ///< burned into the picture, cut away everywhere
  std::string unknown;
  friend bool operator==(const Source&, const Source&) = default;
};

/// A stretch of a source; its place in `Project::shots` is its place in the running order.
struct Shot {
  std::string id;
  std::string source; ///< Source::id
  std::string name;
  Rational in{0};    ///< seconds of the source, from its first frame
  Rational out{1};   ///< seconds, exclusive; > in
  Rational speed{1}; ///< seconds of source a second of running order; > 0
  std::string unknown;
  friend bool operator==(const Shot&, const Shot&) = default;

  [[nodiscard]] Rational duration() const { return (out - in) / speed; } ///< seconds of running order
};

/// One output.
struct Deliverable {
  std::string id;
  std::string name;
  Size canvas{1920, 1080};
  FrameRate rate;
  std::string destination; ///< id of a Destination; may be empty
  Encoding encoding;
  std::map<std::string, Framing> framings; ///< by Shot::id; a shot without one is filled and centred
  std::string unknown;
  friend bool operator==(const Deliverable&, const Deliverable&) = default;

  [[nodiscard]] Framing framingOf(const std::string& shotId) const;
};

struct Project {
  std::string name;
  std::vector<Source> sources;
  std::vector<Shot> shots;
  std::vector<Deliverable> deliverables;
  std::string unknown;
  friend bool operator==(const Project&, const Project&) = default;

  [[nodiscard]] const Source* source(const std::string& id) const;
  [[nodiscard]] const Shot* shot(const std::string& id) const;
  [[nodiscard]] const Deliverable* deliverable(const std::string& id) const;
  [[nodiscard]] const Deliverable* deliverableNamed(const std::string& name) const;
  [[nodiscard]] Rational duration() const; ///< seconds of the running order
};

inline constexpr int kMostShots = 10'000;
inline const Rational kStillLength{5}; ///< seconds that a still gets when it is brought in

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
