// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/BenchSource.h"

#include "model/Bench.h"

namespace tromb {

BenchSource::BenchSource(Bench& bench) : m_bench(bench), m_document(bench.document()) {}

Orientation BenchSource::orientation() const {
  return m_bench.media() ? m_document.project().source(m_bench.shot()->source)->orientation : Orientation();
}

void BenchSource::setOrientation(const Orientation& orientation, const QString& text) {
  if (!m_bench.media()) return;
  Source changed = *m_document.project().source(m_bench.shot()->source);
  changed.orientation = orientation;
  m_document.changeSources({changed}, text);
}

Bars BenchSource::bars() const {
  return m_bench.media() ? shownAs(m_document.project().source(m_bench.shot()->source)->bars, orientation()) : Bars();
}

std::optional<Bars> BenchSource::measuredBars() const {
  const Measured* measured = m_bench.media() ? m_document.measured(m_bench.shot()->source) : nullptr;
  if (!measured) return {};
  return shownAs(measured->bars, orientation());
}

void BenchSource::setBars(const Bars& bars) {
  if (!m_bench.media()) return;
  Source changed = *m_document.project().source(m_bench.shot()->source);
  changed.bars = takenFrom(bars, orientation());
  changed.barsBy = FactBy::Hand;
  m_document.changeSources({changed}, tr("Change the bars"));
}

Size BenchSource::raster() const {
  if (!m_bench.media()) return {16, 9};
  const PictureShape shape = shapeOf(*m_document.project().source(m_bench.shot()->source), *m_bench.media()->video);
  const bool lies = shape.rotation() == 90 || shape.rotation() == 270;
  return lies ? Size{shape.stored().height, shape.stored().width} : shape.stored();
}

} // namespace tromb
