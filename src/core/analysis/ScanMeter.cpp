// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ScanMeter.h"

#include "media/Av.h"

extern "C" {
#include <libavfilter/avfilter.h>
#include <libavfilter/buffersink.h>
#include <libavfilter/buffersrc.h>
}

#include <array>
#include <cstdio>
#include <cstdlib>

namespace tromb {
namespace {

constexpr double kLeastPictures = 4; ///< told apart in all, before anything is said
constexpr std::array<const char*, 3> kCounts{"lavfi.idet.multiple.tff", "lavfi.idet.multiple.bff",
                                             "lavfi.idet.multiple.progressive"};

struct GraphCloser {
  void operator()(AVFilterGraph* graph) const { avfilter_graph_free(&graph); }
};

} // namespace

struct ScanMeter::Graph {
  std::unique_ptr<AVFilterGraph, GraphCloser> graph{avfilter_graph_alloc()};
  AVFilterContext* in = nullptr;
  AVFilterContext* out = nullptr;
  int64_t pictures = 0;

  Status build(const AVFrame& like) {
    std::array<char, 160> arguments{};
    std::snprintf(arguments.data(), arguments.size(), "video_size=%dx%d:pix_fmt=%d:time_base=1/25", like.width,
                  like.height, like.format);
    AVFilterContext* idet = nullptr;
    int native =
        avfilter_graph_create_filter(&in, avfilter_get_by_name("buffer"), "in", arguments.data(), nullptr, graph.get());
    if (native >= 0)
      native = avfilter_graph_create_filter(&idet, avfilter_get_by_name("idet"), "idet", nullptr, nullptr, graph.get());
    if (native >= 0)
      native =
          avfilter_graph_create_filter(&out, avfilter_get_by_name("buffersink"), "out", nullptr, nullptr, graph.get());
    if (native >= 0) native = avfilter_link(in, 0, idet, 0);
    if (native >= 0) native = avfilter_link(idet, 0, out, 0);
    if (native >= 0) native = avfilter_graph_config(graph.get(), nullptr);
    if (native < 0)
      return fail(ErrorCode::Unsupported, "the scan of these pictures cannot be measured (" + av::text(native) + ")");
    return {};
  }
};

ScanMeter::ScanMeter() = default;
ScanMeter::~ScanMeter() = default;

Status ScanMeter::add(const Frame& frame) {
  if (!m_graph) {
    m_graph = std::make_unique<Graph>();
    if (const Status built = m_graph->build(*frame); !built) {
      m_graph.reset();
      return built;
    }
  }
  const av::FramePtr copy(av_frame_clone(frame.get()));
  copy->pts = m_graph->pictures++;
  if (const int native = av_buffersrc_add_frame(m_graph->in, copy.get()); native < 0)
    return fail(ErrorCode::Unsupported, "the scan of these pictures cannot be measured (" + av::text(native) + ")");
  const av::FramePtr told(av_frame_alloc());
  while (av_buffersink_get_frame(m_graph->out, told.get()) >= 0) {
    for (size_t i = 0; i < kCounts.size(); ++i)
      if (const AVDictionaryEntry* entry = av_dict_get(told->metadata, kCounts[i], nullptr, 0))
        m_now[i] = std::atof(entry->value);
    av_frame_unref(told.get());
  }
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
