// SPDX-License-Identifier: GPL-3.0-or-later
#include "sample/PictureShelf.h"

#include "media/Av.h"

#include <cerrno>
#include <cstdlib>
#include <fcntl.h>
#include <filesystem>
#include <sys/mman.h>
#include <unistd.h>

namespace tromb {
namespace {

/// On disk: what is temporary often lies in memory (Filesystem Hierarchy Standard 3.0, 5.15).
std::string folderOfShelves() {
  std::error_code status;
  if (std::filesystem::is_directory("/var/tmp", status) && ::access("/var/tmp", W_OK) == 0) return "/var/tmp";
  const std::string path = std::filesystem::temp_directory_path(status).string();
  return status ? "/tmp" : path;
}

} // namespace

struct PictureShelf::Mapping {
  void* begin = MAP_FAILED;
  size_t bytes = 0;
  Mapping(int file, size_t length) : begin(::mmap(nullptr, length, PROT_READ, MAP_PRIVATE, file, 0)), bytes(length) {}
  Mapping(const Mapping&) = delete;
  Mapping& operator=(const Mapping&) = delete;
  ~Mapping() {
    if (begin != MAP_FAILED) ::munmap(begin, bytes);
  }
};

int64_t PictureShelf::bytesOf(Size size, int pixelFormat) {
  return av_image_get_buffer_size(AVPixelFormat(pixelFormat), size.width, size.height, kFrameAlignment);
}

Status PictureShelf::add(const Frame& picture) {
  const AVFrame& f = *picture;
  if (!m_file) {
    std::string path = folderOfShelves() + "/tromb-XXXXXX";
    m_file = Descriptor(::mkostemp(path.data(), O_CLOEXEC));
    if (!m_file) return cannotWrite(path, errno);
    (void)::unlink(path.c_str());
    m_like = picture;
    m_bytes = bytesOf({f.width, f.height}, f.format);
    m_packed.resize(size_t(m_bytes));
  }
  av_image_copy_to_buffer(m_packed.data(), int(m_bytes), f.data, f.linesize, AVPixelFormat(f.format), f.width, f.height,
                          kFrameAlignment);
  if (!writeAll(m_file, m_packed.data(), m_packed.size())) return cannotWrite(folderOfShelves(), errno);
  ++m_count;
  return {};
}

Status PictureShelf::close() {
  // Some read a little beyond a picture, in whole vectors.
  m_packed.assign(size_t(kFrameAlignment), 0);
  if (!writeAll(m_file, m_packed.data(), m_packed.size())) return cannotWrite(folderOfShelves(), errno);
  m_packed = {};
  auto mapping = std::make_shared<Mapping>(m_file.get(), size_t(m_bytes * m_count + kFrameAlignment));
  if (mapping->begin == MAP_FAILED) return cannotWrite(folderOfShelves(), errno);
  m_mapping = std::move(mapping);
  return {};
}

Frame PictureShelf::at(int64_t place) const {
  const std::shared_ptr<AVFrame> frame(av::allocated(av_frame_alloc()), av::Closer());
  frame->width = m_like->width;
  frame->height = m_like->height;
  frame->format = m_like->format;
  if (av_frame_copy_props(frame.get(), m_like.get()) < 0) throw std::bad_alloc();
  auto* begin = static_cast<uint8_t*>(m_mapping->begin) + place * m_bytes;
  av_image_fill_arrays(frame->data, frame->linesize, begin, AVPixelFormat(frame->format), frame->width, frame->height,
                       kFrameAlignment);
  // The picture keeps the mapping.
  auto* keeps = new std::shared_ptr<const Mapping>(m_mapping);
  const auto letGo = [](void* opaque, uint8_t*) { delete static_cast<std::shared_ptr<const Mapping>*>(opaque); };
  frame->buf[0] = av_buffer_create(begin, size_t(m_bytes), letGo, keeps, AV_BUFFER_FLAG_READONLY);
  if (!frame->buf[0]) {
    delete keeps;
    throw std::bad_alloc();
  }
  return frame;
}

} // namespace tromb
