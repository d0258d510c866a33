// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"

#include <cstdint>
#include <vector>

namespace tromb {

/// The spatial and temporal information of a picture (Rec. ITU-T P.910): the standard deviation of its
/// edges, and that of its change from the picture before. In steps of full-range luma of 8 bits. A sequence's own are
/// the greatest of its pictures.
struct PictureInformation {
  double spatial = 0;
  double temporal = 0; ///< 0 of the first picture
};

/// Measures pictures that follow each other, of one size and format; their first plane is luma. One thread at a time.
class InformationMeter {
public:
  enum class Of { Both, Motion }; ///< the spatial information takes most of the time, and stays 0 where nobody asks
  [[nodiscard]] PictureInformation add(const Frame& picture, Of of = Of::Both);

private:
  std::vector<uint16_t> m_now; ///< luma in full range, of the format's own depth, rows without padding
  std::vector<uint16_t> m_before;
  std::vector<uint16_t> m_fullRange; ///< by the format's own steps
  int m_format = -1;
  int m_range = -1;
};

} // namespace tromb
