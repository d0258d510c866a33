// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"
#include "project/Footage.h"

namespace tromb {

/// A source in a deliverable's canvas. `detail` and `uncoveredPercent` are the worst of its shots, or of the source
/// filling the canvas where it has none.
struct SourceInCanvas {
  std::string source;
  std::string name;
  PictureShape shape;
  Framing framing; ///< of the shot that is worst
  double detail = 0;
  double uncoveredPercent = 0;
  Rational seconds; ///< The moment of the source that is looked at.
  Subjects subjects;
};

/// Every source with a picture that the project has shots of, or all of them where it has no shots; in the order of the
/// project's sources. Thread-safe.
[[nodiscard]] std::vector<SourceInCanvas> sourcesIn(const Project& project, const Footage& footage,
                                                    const Deliverable& deliverable);

/// Everything that follows from the choices in a deliverable, topic by topic. The deliverable need not be in the
/// project. Never fails: what cannot be made is itself a line. Thread-safe.
[[nodiscard]] std::vector<SpecLine> specLines(const Project& project, const Footage& footage,
                                              const Deliverable& deliverable, const SpecGrounds& grounds = {});

} // namespace tromb
