// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Frame.h"

#include "media/Av.h"

#include <array>
#include <cstdint>
#include <new>

namespace tromb {

std::shared_ptr<AVFrame> newFrame(Size size, int pixelFormat) {
  return FramePool().frame(size, pixelFormat);
}

void FramePool::Closer::operator()(AVBufferPool* pool) const {
  av_buffer_pool_uninit(&pool);
}

std::shared_ptr<AVFrame> FramePool::frame(Size size, int pixelFormat) {
  std::shared_ptr<AVFrame> frame(av::allocated(av_frame_alloc()), av::Closer{});
  frame->width = size.width;
  frame->height = size.height;
  frame->format = pixelFormat;
  const auto format = AVPixelFormat(pixelFormat);
  std::array<ptrdiff_t, 4> strides{};
  std::array<size_t, 4> planes{};
  bool fits = av_image_fill_linesizes(frame->linesize, format, size.width) >= 0;
  for (int p = 0; p < 4; ++p) {
    frame->linesize[p] = (frame->linesize[p] + kFrameAlignment - 1) / kFrameAlignment * kFrameAlignment;
    strides[size_t(p)] = frame->linesize[p];
  }
  fits = fits && av_image_fill_plane_sizes(planes.data(), format, size.height, strides.data()) >= 0;
  if (!fits) throw std::bad_alloc();
  constexpr size_t kSpare = 2 * kFrameAlignment; // before and after a plane, for those that read in whole vectors
  size_t bytes = kSpare;
  for (const size_t plane : planes) bytes += plane + kSpare;
  if (!m_pool || m_bytes != bytes) {
    m_pool.reset(av_buffer_pool_init(bytes, nullptr));
    m_bytes = bytes;
  }
  frame->buf[0] = m_pool ? av_buffer_pool_get(m_pool.get()) : nullptr;
  if (!frame->buf[0]) throw std::bad_alloc();
  auto at = reinterpret_cast<uintptr_t>(frame->buf[0]->data);
  for (size_t p = 0; p < planes.size() && planes[p] > 0; ++p) {
    at = (at + kFrameAlignment - 1) / kFrameAlignment * kFrameAlignment;
    frame->data[p] = reinterpret_cast<uint8_t*>(at);
    at += planes[p] + kFrameAlignment;
  }
  frame->extended_data = frame->data;
  return frame;
}

} // namespace tromb
