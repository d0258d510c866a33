// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Av.h"

#include <array>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace tromb::av {
namespace {

/// True when the file begins as an ISO base media file, so that a failure means damage, not another kind of file.
bool beginsLikeMp4(const std::string& path) {
  std::array<char, 8> head{};
  std::ifstream file(path, std::ios::binary);
  file.read(head.data(), head.size());
  return file && (std::memcmp(head.data() + 4, "ftyp", 4) == 0 || std::memcmp(head.data() + 4, "moov", 4) == 0);
}

} // namespace

std::string text(int native) {
  std::array<char, AV_ERROR_MAX_STRING_SIZE> buffer{};
  av_strerror(native, buffer.data(), buffer.size());
  return buffer.data();
}

void quiet() {
  static const bool once = [] {
    av_log_set_level(AV_LOG_QUIET);
    return true;
  }();
  (void)once;
}

Result<InputPtr> openInput(const std::string& path) {
  quiet();
  std::error_code status;
  const auto type = std::filesystem::status(path, status).type();
  if (type == std::filesystem::file_type::not_found)
    return fail(ErrorCode::Missing, "the file is not there", path, "Check the path, or find the file again");
  if (type == std::filesystem::file_type::directory)
    return fail(ErrorCode::Unreadable, "this is a folder, not a media file", path);
  if (status) return fail(ErrorCode::Unreadable, status.message(), path);
  if (type == std::filesystem::file_type::regular && std::filesystem::file_size(path, status) == 0)
    return fail(ErrorCode::Unreadable, "the file is empty", path, "Copy it again from where it was recorded");

  AVFormatContext* raw = nullptr;
  int native = avformat_open_input(&raw, path.c_str(), nullptr, nullptr);
  if (native == AVERROR(EACCES) || native == AVERROR(EPERM))
    return fail(ErrorCode::Unreadable, "you have no permission to read this file", path, "Change its permissions");
  if (native < 0 && (native != AVERROR_INVALIDDATA || beginsLikeMp4(path)))
    return fail(ErrorCode::Unreadable, "the file is damaged or cut off (" + text(native) + ")", path,
                "Copy it again from where it was recorded");
  if (native < 0) return fail(ErrorCode::NotMedia, "this is not a video, picture or sound file", path);
  InputPtr input(raw);
  if (std::strcmp(raw->iformat->name, "tty") == 0) // FFmpeg draws plain text as a picture
    return fail(ErrorCode::NotMedia, "this is not a video, picture or sound file", path);
  native = avformat_find_stream_info(raw, nullptr);
  if (native < 0) return fail(ErrorCode::Unreadable, "the streams cannot be read (" + text(native) + ")", path);
  return input;
}

Result<CodecPtr> openDecoder(const AVStream& stream, const std::string& path, int threads) {
  const AVCodec* codec = avcodec_find_decoder(stream.codecpar->codec_id);
  if (!codec)
    return fail(ErrorCode::Unsupported,
                std::string("there is no decoder for ") + avcodec_get_name(stream.codecpar->codec_id), path,
                "Convert the file to H.264 first");
  CodecPtr context(avcodec_alloc_context3(codec));
  int native = avcodec_parameters_to_context(context.get(), stream.codecpar);
  context->pkt_timebase = stream.time_base;
  context->thread_count = threads;
  context->thread_type = FF_THREAD_FRAME | FF_THREAD_SLICE;
  if (native >= 0) native = avcodec_open2(context.get(), codec, nullptr);
  if (native < 0) return fail(ErrorCode::Decoder, "the decoder does not start (" + text(native) + ")", path);
  return context;
}

} // namespace tromb::av
