// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ScanMeter.h"

#include "media/read/Fields.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr int kLeastPictures = 3;        ///< that tell, before anything is said
constexpr double kLeastInterlaced = 0.1; ///< of them that are interlaced
constexpr double kOneOrder = 0.8;        ///< of those, that have the same field first

} // namespace

void ScanMeter::add(const Frame& frame) {
  if (m_last) ++m_seen[int(fieldEvidence(m_last, frame))];
  m_last = frame;
}

std::optional<Scan> ScanMeter::scan() const {
  const int top = m_seen[int(FieldEvidence::TopFirst)];
  const int bottom = m_seen[int(FieldEvidence::BottomFirst)];
  const int progressive = m_seen[int(FieldEvidence::Progressive)];
  const int interlaced = top + bottom;
  if (interlaced >= kLeastPictures && interlaced >= kLeastInterlaced * (interlaced + progressive) &&
      std::max(top, bottom) >= kOneOrder * interlaced)
    return top >= bottom ? Scan::TopFieldFirst : Scan::BottomFieldFirst;
  if (progressive < kLeastPictures) return {};
  return Scan::Progressive;
}

} // namespace tromb
