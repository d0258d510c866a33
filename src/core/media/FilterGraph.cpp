// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Av.h"

#include <dlfcn.h>
extern "C" {
#include <libavfilter/avfilter.h>
#include <libavfilter/buffersink.h>
#include <libavfilter/buffersrc.h>
}
#include <array>
#include <cstdio>
#include <new>

namespace tromb::av {
namespace {

/// What is used of the filters' library, once it is loaded.
struct Filters {
  void* library = dlopen("libavfilter.so." AV_STRINGIFY(LIBAVFILTER_VERSION_MAJOR), RTLD_NOW | RTLD_LOCAL);
  decltype(&avfilter_graph_alloc) newGraph = find<decltype(newGraph)>("avfilter_graph_alloc");
  decltype(&avfilter_graph_free) freeGraph = find<decltype(freeGraph)>("avfilter_graph_free");
  decltype(&avfilter_get_by_name) named = find<decltype(named)>("avfilter_get_by_name");
  decltype(&avfilter_graph_create_filter) create = find<decltype(create)>("avfilter_graph_create_filter");
  decltype(&avfilter_link) link = find<decltype(link)>("avfilter_link");
  decltype(&avfilter_graph_config) configure = find<decltype(configure)>("avfilter_graph_config");
  decltype(&av_buffersrc_add_frame) add = find<decltype(add)>("av_buffersrc_add_frame");
  decltype(&av_buffersink_get_frame) take = find<decltype(take)>("av_buffersink_get_frame");

  [[nodiscard]] bool whole() const {
    return newGraph && freeGraph && named && create && link && configure && add && take;
  }
  template <typename Function> [[nodiscard]] Function find(const char* name) const {
    return library ? reinterpret_cast<Function>(dlsym(library, name)) : nullptr;
  }
};

const Filters& filters() {
  static const Filters loaded; // never unloaded
  return loaded;
}

tl::unexpected<Error> refused(int native) {
  return fail(ErrorCode::Unsupported, say("these pictures cannot be filtered (%1)", text(native)));
}

} // namespace

Result<FilterGraph> FilterGraph::build(const AVFrame& like, const char* filter, const char* arguments) {
  const Filters& f = filters();
  if (!f.whole())
    return fail(ErrorCode::Unsupported, say("FFmpeg's library of filters cannot be loaded"), {},
                say("Install libavfilter"));
  FilterGraph built;
  built.m_graph.reset(f.newGraph());
  if (!built.m_graph) throw std::bad_alloc();
  AVFilterGraph* graph = built.m_graph.get();
  graph->nb_threads = 1; // decoders and encoders keep the processors busy
  std::array<char, 160> form{};
  std::snprintf(form.data(), form.size(), "video_size=%dx%d:pix_fmt=%d:time_base=1/25", like.width, like.height,
                like.format);
  AVFilterContext* middle = nullptr;
  const auto create = [&f, graph](AVFilterContext** context, const char* name, const char* with) {
    return f.create(context, f.named(name), name, with, nullptr, graph);
  };
  int native = create(&built.m_in, "buffer", form.data());
  if (native >= 0) native = create(&middle, filter, arguments);
  if (native >= 0) native = create(&built.m_out, "buffersink", nullptr);
  if (native >= 0) native = f.link(built.m_in, 0, middle, 0);
  if (native >= 0) native = f.link(middle, 0, built.m_out, 0);
  if (native >= 0) native = f.configure(graph, nullptr);
  if (native < 0) return refused(native);
  return built;
}

void FilterGraph::Closer::operator()(AVFilterGraph* graph) const {
  filters().freeGraph(&graph);
}

Status FilterGraph::push(const AVFrame* picture, int64_t pts) {
  const FramePtr copy(picture ? av_frame_clone(picture) : nullptr);
  if (copy) copy->pts = pts;
  if (const int native = filters().add(m_in, copy.get()); native < 0) return refused(native);
  return {};
}

FramePtr FilterGraph::pull() {
  FramePtr picture(allocated(av_frame_alloc()));
  if (filters().take(m_out, picture.get()) < 0) picture.reset();
  return picture;
}

} // namespace tromb::av
