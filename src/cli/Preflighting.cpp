// SPDX-License-Identifier: GPL-3.0-or-later
#include "Preflighting.h"

#include "media/read/Fingerprint.h"

#include <ostream>

namespace tromb::cli {

PreflightGrounds groundsFor(const Context& context, const Project& project, const Footage& footage, bool measure) {
  PreflightGrounds grounds;
  for (const Source& source : project.sources) {
    const auto at = footage.find(source.id);
    if (at == footage.end() || !at->second) continue;
    if (!source.fingerprint.empty()) {
      const auto now = fingerprintOf(source.path);
      if (now && *now != source.fingerprint) grounds.changed.insert(source.id);
    }
    if (!measure) continue;
    if (auto measured = tromb::measure(*at->second, context.stop))
      grounds.measured.emplace(source.id, std::move(*measured));
  }
  return grounds;
}

void sayFindings(std::ostream& to, const std::vector<Finding>& findings) {
  for (const Finding& f : findings) {
    to << severityWord(f.severity) << " [" << f.code << "]";
    for (const std::string& part : {f.deliverable, f.shot})
      if (!part.empty()) to << " " << part << ":";
    to << " " << f.message << (f.fix.empty() ? "" : ". ") << f.fix;
    if (f.accepted) to << " (accepted: " << f.word << ")";
    to << "\n";
  }
}

} // namespace tromb::cli
