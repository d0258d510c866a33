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
  decltype(&avfilter_graph_parse_ptr) parse = find<decltype(parse)>("avfilter_graph_parse_ptr");
  decltype(&avfilter_inout_alloc) newEnd = find<decltype(newEnd)>("avfilter_inout_alloc");
  decltype(&avfilter_inout_free) freeEnds = find<decltype(freeEnds)>("avfilter_inout_free");
  decltype(&avfilter_graph_config) configure = find<decltype(configure)>("avfilter_graph_config");
  decltype(&av_buffersrc_add_frame) add = find<decltype(add)>("av_buffersrc_add_frame");
  decltype(&av_buffersink_get_frame) take = find<decltype(take)>("av_buffersink_get_frame");

  [[nodiscard]] bool whole() const {
    return newGraph && freeGraph && named && create && parse && newEnd && freeEnds && configure && add && take;
  }
  template <typename Function> [[nodiscard]] Function find(const char* name) const {
    return library ? reinterpret_cast<Function>(dlsym(library, name)) : nullptr;
  }
};

const Filters& loaded() {
  static const Filters filters; // never unloaded
  return filters;
}

tl::unexpected<Error> refused(int native) {
  return fail(ErrorCode::Unsupported, say("these pictures cannot be filtered (%1)", text(native)));
}

} // namespace

Result<FilterGraph> FilterGraph::build(const AVFrame& like, const std::string& filters, const AVFrame* beside) {
  const Filters& f = loaded();
  if (!f.whole())
    return fail(ErrorCode::Unsupported, say("FFmpeg's library of filters cannot be loaded"), {},
                say("Install libavfilter"));
  FilterGraph built;
  built.m_graph.reset(f.newGraph());
  if (!built.m_graph) throw std::bad_alloc();
  AVFilterGraph* graph = built.m_graph.get();
  graph->nb_threads = 1; // decoders and encoders keep the processors busy
  const auto source = [&](AVFilterContext** context, const char* name, const AVFrame& of) {
    std::array<char, 160> form{};
    std::snprintf(form.data(), form.size(), "video_size=%dx%d:pix_fmt=%d:time_base=1/25", of.width, of.height,
                  of.format);
    return f.create(context, f.named("buffer"), name, form.data(), nullptr, graph);
  };
  const auto open = [&](const char* label, AVFilterContext* filter, AVFilterInOut* next) {
    AVFilterInOut* end = allocated(f.newEnd());
    *end = {allocated(av_strdup(label)), filter, 0, next};
    return end;
  };
  int native = source(&built.m_in, "in", like);
  if (native >= 0 && beside) native = source(&built.m_beside, "beside", *beside);
  if (native >= 0) native = f.create(&built.m_out, f.named("buffersink"), "out", nullptr, nullptr, graph);
  if (native >= 0) {
    AVFilterInOut* begins = open("in", built.m_in, built.m_beside ? open("beside", built.m_beside, nullptr) : nullptr);
    AVFilterInOut* ends = open("out", built.m_out, nullptr);
    native = f.parse(graph, ("[in]" + filters + "[out]").c_str(), &ends, &begins, nullptr);
    f.freeEnds(&begins);
    f.freeEnds(&ends);
  }
  if (native >= 0) native = f.configure(graph, nullptr);
  if (native < 0) return refused(native);
  return built;
}

void FilterGraph::Closer::operator()(AVFilterGraph* graph) const {
  loaded().freeGraph(&graph);
}

Status FilterGraph::add(AVFilterContext* in, const AVFrame* picture, int64_t pts) {
  const FramePtr copy(picture ? av_frame_clone(picture) : nullptr);
  if (copy) copy->pts = pts;
  if (const int native = loaded().add(in, copy.get()); native < 0) return refused(native);
  return {};
}

FramePtr FilterGraph::pull() {
  FramePtr picture(allocated(av_frame_alloc()));
  if (loaded().take(m_out, picture.get()) < 0) picture.reset();
  return picture;
}

} // namespace tromb::av
