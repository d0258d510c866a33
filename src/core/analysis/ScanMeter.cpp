// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ScanMeter.h"

#include "media/Av.h"

#include <array>
#include <cstdlib>

namespace tromb {
namespace {

constexpr double kLeastPictures = 4; ///< told apart in all, before anything is said
constexpr std::array<const char*, 3> kCounts{"lavfi.idet.multiple.tff", "lavfi.idet.multiple.bff",
                                             "lavfi.idet.multiple.progressive"};

} // namespace

struct ScanMeter::Graph {
  av::FilterGraph idet;
  int64_t pictures = 0;
};

ScanMeter::ScanMeter() = default;
ScanMeter::~ScanMeter() = default;

Status ScanMeter::add(const Frame& frame) {
  if (!m_graph) {
    auto idet = av::FilterGraph::build(*frame, "idet", nullptr);
    if (!idet) return tl::unexpected(idet.error());
    m_graph = std::make_unique<Graph>(Graph{std::move(*idet)});
  }
  if (const Status added = m_graph->idet.push(frame.get(), m_graph->pictures++); !added) return added;
  while (const av::FramePtr told = m_graph->idet.pull())
    for (size_t i = 0; i < kCounts.size(); ++i)
      if (const AVDictionaryEntry* entry = av_dict_get(told->metadata, kCounts[i], nullptr, 0))
        m_now[i] = std::atof(entry->value);
  return {};
}

void ScanMeter::endStretch() {
  for (size_t i = 0; i < kCounts.size(); ++i) {
    m_seen[i] += m_now[i];
    m_now[i] = 0;
  }
  m_graph.reset();
}

std::optional<Scan> ScanMeter::scan() const {
  const double top = m_seen[0] + m_now[0];
  const double bottom = m_seen[1] + m_now[1];
  const double progressive = m_seen[2] + m_now[2];
  if (top + bottom + progressive < kLeastPictures) return {};
  if (progressive >= top + bottom) return Scan::Progressive;
  return top >= bottom ? Scan::TopFieldFirst : Scan::BottomFieldFirst;
}

} // namespace tromb
