// SPDX-License-Identifier: GPL-3.0-or-later
// The one wrapping of FFmpeg's handles and codes. Included by .cpp files of the core only.
#pragma once

#include "Error.h"
#include "time/FrameRate.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/avutil.h>
#include <libavutil/display.h>
#include <libavutil/imgutils.h>
#include <libavutil/mastering_display_metadata.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
#include <libavutil/video_enc_params.h>
#include <libswresample/swresample.h>
#include <libswscale/swscale.h>
}

#include <memory>
#include <new>
#include <stop_token>
#include <string>
#include <vector>

struct AVFilterContext;
struct AVFilterGraph;

namespace tromb::av {

struct Closer {
  void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
  void operator()(AVCodecParameters* p) const { avcodec_parameters_free(&p); }
  void operator()(AVPacket* p) const { av_packet_free(&p); }
  void operator()(AVFrame* f) const { av_frame_free(&f); }
  void operator()(SwrContext* s) const { swr_free(&s); }
  void operator()(SwsContext* s) const { sws_freeContext(s); }
};
template <typename T> using Handle = std::unique_ptr<T, Closer>;
using ParametersPtr = Handle<AVCodecParameters>;
using CodecPtr = Handle<AVCodecContext>;
using PacketPtr = Handle<AVPacket>;
using FramePtr = Handle<AVFrame>;

/// What one of FFmpeg's functions has allocated. Throws std::bad_alloc where it gave nothing.
template <typename T> [[nodiscard]] T* allocated(T* made) {
  if (!made) throw std::bad_alloc();
  return made;
}

/// FFmpeg's own words for a native code.
[[nodiscard]] std::string text(int native);
/// The error of a file whose reading asks for more memory than can be had. That is more often a damaged number in the
/// file than a machine that is short of memory, so it is told of the file and does not end what reads others.
[[nodiscard]] tl::unexpected<Error> memoryRefused(const std::string& path, Message where = {});
/// Keeps FFmpeg from writing to standard error, and from taking more than 1 GiB in one piece, which no picture and no
/// list of pictures needs that is not damaged. Called before anything else, any number of times.
void tame();

[[nodiscard]] inline Rational rational(AVRational value) {
  return value.den == 0 ? Rational(0) : Rational(value.num, value.den);
}
[[nodiscard]] inline AVRational rational(const Rational& value) {
  return {int(value.num()), int(value.den())};
}

/// Where the channels of sound stand that has kMono, kStereo or kSurround of them.
[[nodiscard]] inline AVChannelLayout layoutOf(int channels) {
  if (channels == 1) return AV_CHANNEL_LAYOUT_MONO;
  if (channels == 2) return AV_CHANNEL_LAYOUT_STEREO;
  return AV_CHANNEL_LAYOUT_5POINT1_BACK;
}

/// False for a stamp that is none, or beyond what times can be reckoned with: damage.
[[nodiscard]] bool sensible(int64_t stamp, const AVStream& stream);

/// Takes away what a file's header or a picture's says of colours, range and chroma siting in numbers that FFmpeg's
/// lists do not hold: damage. Some decoders hand on whatever stands there, and such a number in an enumeration is not
/// even to be looked at.
void dropUnlisted(AVCodecParameters& stream);
void dropUnlisted(AVFrame& picture);

/// What decoders are told of a file's streams: as its headers say it, and as it was found out by decoding. Immutable.
struct StreamParameters {
  struct Stream {
    ParametersPtr said;
    ParametersPtr found;
  };
  std::vector<Stream> streams;
};

/// A media file that is open for reading, with its stream facts. Only regular files are opened, by their path and never
/// as an address; only formats that hold pictures and sound themselves are taken, and none of them can open another
/// file. One thread at a time; movable.
class InputFile {
public:
  /// Errors: Missing, Unreadable, NotMedia, Cancelled. `stop` ends every read of the file, also later ones. `known`:
  /// what was found out of the file before; where its headers still say the same and tell all that matters (MP4, MOV,
  /// stills), no pictures are decoded to find it out again.
  [[nodiscard]] static Result<InputFile> open(const std::string& path, std::stop_token stop = {},
                                              std::shared_ptr<const StreamParameters> known = nullptr);
  InputFile(InputFile&&) noexcept;
  InputFile& operator=(InputFile&&) noexcept;
  ~InputFile();

  [[nodiscard]] AVFormatContext& context() const;
  [[nodiscard]] AVStream& stream(int index) const { return *context().streams[index]; }
  [[nodiscard]] const std::string& path() const;
  [[nodiscard]] int64_t sizeBytes() const;
  [[nodiscard]] const std::shared_ptr<const StreamParameters>& parameters() const;
  /// A broadcast stream, of which several may stand one behind the other: its clock may jump.
  [[nodiscard]] bool clockMayJump() const;
  /// It can be entered anywhere by position, and by nothing else exactly.
  [[nodiscard]] bool entersByPosition() const;
  /// Reads packets of this stream alone from now on.
  void keepOnly(int stream) const;

  /// Reads the next packet. Returns false at the end. A file that breaks off ends there, and `brokenOff` is true from
  /// then on. Stamps that are not `sensible` are taken away. Errors: Unreadable (the disk fails), Cancelled.
  [[nodiscard]] Result<bool> read(AVPacket& packet);
  [[nodiscard]] bool brokenOff() const;
  /// Errors: Unreadable where the disk fails; Cancelled. False where the file cannot be entered there.
  [[nodiscard]] Result<bool> seekByte(int64_t position);
  /// To a key packet at or before the stamp (of the stream's ticks), as far as the format knows. As seekByte.
  [[nodiscard]] Result<bool> seekStamp(int stream, int64_t stamp);

private:
  struct State;
  explicit InputFile(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};
/// Returns true if the container says that a stream of a codec without transparency carries some beside it (WebM).
[[nodiscard]] bool saysTransparent(const AVStream& stream);

/// A decoder for one stream, opened, with frame threads (`threads` 0 = one a processor). `sideData`: what is to be told
/// beside the pictures, as FFmpeg's export_side_data.
[[nodiscard]] Result<CodecPtr> openDecoder(const AVStream& stream, const std::string& path, int threads,
                                           int sideData = 0);

/// The frame rates that a stream gives of itself, the most trusted first.
[[nodiscard]] std::vector<FrameRate> declaredRates(const AVStream& stream);

/// FFmpeg's picture filters in a row, with a way in and a way out. One thread at a time. Their library is loaded when
/// the first one is built: it brings thirty others along, which would slow every start for the few that need it.
class FilterGraph {
public:
  /// For pictures of the size and format of `like`. `filters` as FFmpeg writes them, from [in] on. `beside` is like the
  /// pictures of a second way in, at [beside]; may be null. Errors: Unsupported, also where the library is not there.
  [[nodiscard]] static Result<FilterGraph> build(const AVFrame& like, const std::string& filters,
                                                 const AVFrame* beside = nullptr);

  /// Adds a picture under a time stamp of one tick a unit; null ends the stream. Errors: Unsupported.
  [[nodiscard]] Status push(const AVFrame* picture, int64_t pts) { return add(m_in, picture, pts); }
  /// The same at [beside].
  [[nodiscard]] Status pushBeside(const AVFrame* picture, int64_t pts) { return add(m_beside, picture, pts); }
  /// Returns the next picture that is ready. Returns an empty frame if there is none yet.
  [[nodiscard]] FramePtr pull();

private:
  struct Closer {
    void operator()(AVFilterGraph* graph) const;
  };
  FilterGraph() = default;
  [[nodiscard]] static Status add(AVFilterContext* in, const AVFrame* picture, int64_t pts);
  std::unique_ptr<AVFilterGraph, Closer> m_graph;
  AVFilterContext* m_in = nullptr;     ///< owned by the graph
  AVFilterContext* m_beside = nullptr; ///< owned by the graph; null where there is one way in
  AVFilterContext* m_out = nullptr;    ///< owned by the graph
};

} // namespace tromb::av
