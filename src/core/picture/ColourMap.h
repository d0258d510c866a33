// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/ColourTags.h"
#include "media/Frame.h"

#include <array>
#include <cstdint>
#include <memory>
#include <vector>

namespace tromb {

/// Brings pictures from one colour system to another, with the tone curve and gamut mapping of convertedSignal. Works
/// on planar 16-bit G, B, R of full range by a table over all three components, between whose entries it interpolates
/// in tetrahedra. Value; thread-safe. Tables are shared by those of the same systems.
class ColourMap {
public:
  /// `sourcePeak` in cd/m²: see convertedSignal.
  ColourMap(const ColourTags& from, const ColourTags& to, double sourcePeak);
  /// `to` has the size of `from` and may be the same picture.
  void run(const AVFrame& from, AVFrame& to) const;

private:
  static constexpr int kSide = 65;       ///< entries along each component
  using Entry = std::array<uint16_t, 4>; ///< red, green, blue, and nothing
  using Table = std::vector<Entry>;      ///< kSide³; blue runs fastest
  std::shared_ptr<const Table> m_table;
};

} // namespace tromb
