// SPDX-License-Identifier: GPL-3.0-or-later
// A library that is loaded before all others and stands in for graphics hardware: an encoder of that name is one in
// software. Told by the environment, TROMB_STAND_IN: "NAME:HOW:N", where HOW is what the N-th picture meets in the
// process of an encoder: "works", "fails", "hangs", "crashes" or "spoils" (this picture and all later ones are grey).
extern "C" {
#include <libavcodec/avcodec.h>
#include <libavutil/cpu.h>
#include <libavutil/opt.h>
}

#include <csignal>
#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fstream>
#include <string>
#include <unistd.h>

namespace {

struct Told {
  std::string name;
  std::string how;
  long picture = 0;
};

const Told& told() {
  static const Told all = [] {
    const char* text = std::getenv("TROMB_STAND_IN");
    const std::string words = text ? text : "::";
    const size_t first = words.find(':');
    const size_t second = words.find(':', first + 1);
    return Told{words.substr(0, first), words.substr(first + 1, second - first - 1),
                std::atol(words.c_str() + second + 1)};
  }();
  return all;
}

bool inEncoderProcess() {
  static const bool is = [] {
    std::string line;
    std::getline(std::ifstream("/proc/self/cmdline"), line);
    return line.find("--work-as-encoder") != std::string::npos;
  }();
  return is;
}

template <typename Call> Call real(const char* name) {
  return reinterpret_cast<Call>(dlsym(RTLD_NEXT, name));
}

} // namespace

extern "C" {

const AVCodec* avcodec_find_encoder_by_name(const char* name) {
  const bool other = told().name == name;
  const char* wanted = !other                               ? name
                       : std::strncmp(name, "h264", 4) == 0 ? "libx264"
                       : std::strncmp(name, "hevc", 4) == 0 ? "libx265"
                                                            : "libvpx-vp9";
  return real<const AVCodec* (*)(const char*)>("avcodec_find_encoder_by_name")(wanted);
}

// As the program itself has x264 do it: see EncoderOptions.cpp.
int avcodec_open2(AVCodecContext* context, const AVCodec* codec, AVDictionary** options) {
  const AVCodec* is = codec ? codec : context->codec;
  if (inEncoderProcess() && std::strcmp(is->name, "libx264") == 0 && (av_get_cpu_flags() & AV_CPU_FLAG_AVX512))
    av_opt_set(context->priv_data, "x264-params", "asm=AVX2,FMA3,BMI1,BMI2,LZCNT", 0);
  return real<int (*)(AVCodecContext*, const AVCodec*, AVDictionary**)>("avcodec_open2")(context, codec, options);
}

int avcodec_send_frame(AVCodecContext* context, const AVFrame* frame) {
  static long count = 0;
  const auto send = real<int (*)(AVCodecContext*, const AVFrame*)>("avcodec_send_frame");
  if (!inEncoderProcess() || !frame || ++count < told().picture) return send(context, frame);
  const std::string& how = told().how;
  if (how == "fails") return AVERROR_EXTERNAL;
  if (how == "crashes") ::raise(SIGSEGV);
  while (how == "hangs") ::pause();
  if (how == "spoils")
    for (int y = 0; y < frame->height; ++y)
      std::memset(frame->data[0] + ptrdiff_t(y) * frame->linesize[0], 99, size_t(frame->width));
  return send(context, frame);
}
}
