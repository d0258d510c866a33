// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/Deinterlacer.h"

#include "media/Av.h"

namespace tromb {

struct Deinterlacer::Graph {
  av::FilterGraph filter;
  bool ended = false;
};

Deinterlacer::Deinterlacer(Scan scan) : m_scan(scan) {}
Deinterlacer::~Deinterlacer() = default;

Status Deinterlacer::push(const NumberedFrame& picture) {
  if (!m_graph) {
    // Every picture, whatever its own flags say: the source was found to be interlaced, or said to be.
    const char* arguments =
        m_scan == Scan::TopFieldFirst ? "mode=send_frame:parity=tff:deint=all" : "mode=send_frame:parity=bff:deint=all";
    auto filter = av::FilterGraph::build(*picture.frame, "bwdif", arguments);
    if (!filter) return tl::unexpected(filter.error());
    m_graph = std::make_unique<Graph>(Graph{std::move(*filter)});
  }
  return m_graph->filter.push(picture.frame.get(), picture.number);
}

Status Deinterlacer::end() {
  if (!m_graph || m_graph->ended) return {};
  m_graph->ended = true;
  return m_graph->filter.push(nullptr, 0);
}

NumberedFrame Deinterlacer::pull() {
  if (!m_graph) return {};
  av::FramePtr whole = m_graph->filter.pull();
  if (!whole) return {};
  const int64_t number = whole->pts / 2; // the filter counts in fields
  return {number, Frame(whole.release(), av::Closer{})};
}

void Deinterlacer::restart() {
  m_graph.reset();
}

} // namespace tromb
