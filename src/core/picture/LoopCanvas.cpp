// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/LoopCanvas.h"

#include "picture/PlanarFrame.h"

namespace tromb {

Result<Frame> LoopCanvas::of(const Frame& picture) {
  const auto planar = planarFrame(picture);
  if (!planar) return planar;
  if (!m_scaler || !m_scaler->fits(*planar)) {
    auto built = Scaler::build(*planar, {0, 0, double(m_canvas.width), double(m_canvas.height)}, m_canvas, m_format);
    if (!built) return tl::unexpected(built.error());
    m_scaler.emplace(std::move(*built));
  }
  return m_scaler->run(*planar);
}

} // namespace tromb
