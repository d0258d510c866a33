// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Av.h"

#include <array>
#include <cstdio>

namespace tromb::av {
namespace {

tl::unexpected<Error> refused(int native) {
  return fail(ErrorCode::Unsupported, "these pictures cannot be filtered (" + text(native) + ")");
}

} // namespace

Result<FilterGraph> FilterGraph::build(const AVFrame& like, const char* filter, const char* arguments) {
  FilterGraph built;
  AVFilterGraph* graph = built.m_graph.get();
  graph->nb_threads = 1; // decoders and encoders keep the processors busy
  std::array<char, 160> form{};
  std::snprintf(form.data(), form.size(), "video_size=%dx%d:pix_fmt=%d:time_base=1/25", like.width, like.height,
                like.format);
  AVFilterContext* middle = nullptr;
  const auto create = [graph](AVFilterContext** context, const char* name, const char* with) {
    return avfilter_graph_create_filter(context, avfilter_get_by_name(name), name, with, nullptr, graph);
  };
  int native = create(&built.m_in, "buffer", form.data());
  if (native >= 0) native = create(&middle, filter, arguments);
  if (native >= 0) native = create(&built.m_out, "buffersink", nullptr);
  if (native >= 0) native = avfilter_link(built.m_in, 0, middle, 0);
  if (native >= 0) native = avfilter_link(middle, 0, built.m_out, 0);
  if (native >= 0) native = avfilter_graph_config(graph, nullptr);
  if (native < 0) return refused(native);
  return built;
}

Status FilterGraph::push(const AVFrame* picture, int64_t pts) {
  const FramePtr copy(picture ? av_frame_clone(picture) : nullptr);
  if (copy) copy->pts = pts;
  if (const int native = av_buffersrc_add_frame(m_in, copy.get()); native < 0) return refused(native);
  return {};
}

FramePtr FilterGraph::pull() {
  FramePtr picture(av_frame_alloc());
  if (av_buffersink_get_frame(m_out, picture.get()) < 0) picture.reset();
  return picture;
}

} // namespace tromb::av
