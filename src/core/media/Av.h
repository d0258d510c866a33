// SPDX-License-Identifier: GPL-3.0-or-later
// The one wrapping of FFmpeg's handles and codes. Included by .cpp files of the core only.
#pragma once

#include "Error.h"
#include "time/Rational.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavfilter/avfilter.h>
#include <libavfilter/buffersink.h>
#include <libavfilter/buffersrc.h>
#include <libavformat/avformat.h>
#include <libavutil/avutil.h>
#include <libavutil/display.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
#include <libswresample/swresample.h>
#include <libswscale/swscale.h>
}

#include <memory>
#include <string>

namespace tromb::av {

struct Closer {
  void operator()(AVFormatContext* c) const { avformat_close_input(&c); }
  void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
  void operator()(AVPacket* p) const { av_packet_free(&p); }
  void operator()(AVFrame* f) const { av_frame_free(&f); }
  void operator()(AVFilterGraph* g) const { avfilter_graph_free(&g); }
  void operator()(SwrContext* s) const { swr_free(&s); }
  void operator()(SwsContext* s) const { sws_freeContext(s); }
};
template <typename T> using Handle = std::unique_ptr<T, Closer>;
using InputPtr = Handle<AVFormatContext>;
using CodecPtr = Handle<AVCodecContext>;
using PacketPtr = Handle<AVPacket>;
using FramePtr = Handle<AVFrame>;
using GraphPtr = Handle<AVFilterGraph>;

/// FFmpeg's own words for a native code.
[[nodiscard]] std::string text(int native);
/// Keeps FFmpeg from writing to standard error; called before anything else, any number of times.
void quiet();

[[nodiscard]] inline Rational rational(AVRational value) {
  return value.den == 0 ? Rational(0) : Rational(value.num, value.den);
}
[[nodiscard]] inline AVRational rational(const Rational& value) {
  return {int(value.num()), int(value.den())};
}

/// Opens a media file and reads its stream facts; every bad file gets its reason.
[[nodiscard]] Result<InputPtr> openInput(const std::string& path);
/// A decoder for one stream, opened, with frame threads (`threads` 0 = one a processor).
[[nodiscard]] Result<CodecPtr> openDecoder(const AVStream& stream, const std::string& path, int threads);

/// One of FFmpeg's picture filters with a way in and a way out. One thread at a time.
class FilterGraph {
public:
  /// For pictures of the size and format of `like`. `arguments` as the filter's documentation gives them, may be
  /// null. Errors: Unsupported.
  [[nodiscard]] static Result<FilterGraph> build(const AVFrame& like, const char* filter, const char* arguments);

  /// Adds a picture under a time stamp of one tick a unit; null ends the stream. Errors: Unsupported.
  [[nodiscard]] Status push(const AVFrame* picture, int64_t pts);
  /// The next picture that is ready; empty when there is none yet.
  [[nodiscard]] FramePtr pull();

private:
  FilterGraph() = default;
  GraphPtr m_graph{avfilter_graph_alloc()};
  AVFilterContext* m_in = nullptr;  ///< owned by the graph
  AVFilterContext* m_out = nullptr; ///< owned by the graph
};

} // namespace tromb::av
