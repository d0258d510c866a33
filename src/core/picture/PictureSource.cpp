// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/PictureSource.h"

#include "io/Descriptor.h"
#include "io/TemporaryFolder.h"
#include "media/Av.h"

#include <algorithm>
#include <cmath>
#include <fcntl.h>
#include <unistd.h>
#include <utility>

extern "C" {
#include <libavutil/imgutils.h>
#include <libavutil/pixdesc.h>
}

namespace tromb {
namespace {

constexpr int64_t kBackBatch = 16; ///< pictures that are decoded at once going backwards, where groups are short

size_t bytesOf(const AVFrame& frame) {
  return size_t(std::max(0, av_image_get_buffer_size(AVPixelFormat(frame.format), frame.width, frame.height, 1)));
}

} // namespace

/// Pictures in a file that has no name any more.
struct PictureSource::Spill {
  Descriptor file;
  int64_t end = 0;
  std::vector<uint8_t> buffer;

  static std::unique_ptr<Spill> create() {
    const auto folder = TemporaryFolder::create();
    if (!folder) return nullptr;
    const std::string path = folder->path() + "/pictures";
    auto spill = std::make_unique<Spill>();
    spill->file = Descriptor(::open(path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0600));
    return spill->file ? std::move(spill) : nullptr; // the file lives on until it is closed
  }
  /// The place; −1 where there is no room.
  int64_t put(const AVFrame& frame) {
    buffer.resize(bytesOf(frame));
    if (av_image_copy_to_buffer(buffer.data(), int(buffer.size()), frame.data, frame.linesize,
                                AVPixelFormat(frame.format), frame.width, frame.height, 1) < 0)
      return -1;
    for (size_t done = 0; done < buffer.size();) {
      const ssize_t written = ::pwrite(file.get(), buffer.data() + done, buffer.size() - done, end + off_t(done));
      if (written <= 0) return -1;
      done += size_t(written);
    }
    return std::exchange(end, end + int64_t(buffer.size()));
  }
  /// Null where it cannot be read. `like` is a picture without planes.
  Frame get(int64_t place, const AVFrame& like) {
    buffer.resize(bytesOf(like));
    if (readAt(file, place, buffer.data(), buffer.size()) != ptrdiff_t(buffer.size())) return nullptr;
    const auto frame = newFrame({like.width, like.height}, like.format);
    av_frame_copy_props(frame.get(), &like);
    uint8_t* planes[4];
    int lines[4];
    av_image_fill_arrays(planes, lines, buffer.data(), AVPixelFormat(like.format), like.width, like.height, 1);
    av_image_copy(frame->data, frame->linesize, const_cast<const uint8_t**>(planes), lines, AVPixelFormat(like.format),
                  like.width, like.height);
    return frame;
  }
};

PictureSource::PictureSource(const Reading& reading, PictureReader reader, bool backwards, size_t mostBytes)
    : m_still(reading.file.kind == MediaKind::Still), m_backwards(backwards && !m_still), m_reader(std::move(reader)),
      m_mostBytes(mostBytes) {}
PictureSource::PictureSource(PictureSource&&) noexcept = default;
PictureSource& PictureSource::operator=(PictureSource&&) noexcept = default;
PictureSource::~PictureSource() = default;

Result<PictureSource> PictureSource::open(const Reading& reading, ReadOptions options, bool backwards,
                                          size_t mostBytes) {
  auto reader = PictureReader::open(reading, std::move(options));
  if (!reader) return tl::unexpected(reader.error());
  return PictureSource(reading, std::move(*reader), backwards, mostBytes);
}

void PictureSource::drop(std::map<int64_t, Kept>::iterator kept) {
  if (kept->second.place < 0) m_bytes -= bytesOf(*kept->second.picture.frame);
  m_kept.erase(kept);
}

/// Those that are wanted last going backwards, that is the earliest, are written away.
void PictureSource::makeRoom() {
  for (auto each = m_kept.begin(); each != m_kept.end() && m_bytes > m_mostBytes;) {
    Kept& kept = each->second;
    if (kept.place >= 0) {
      ++each;
      continue;
    }
    if (!m_spill) m_spill = Spill::create();
    const int64_t place = m_spill ? m_spill->put(*kept.picture.frame) : -1;
    if (place < 0) {
      drop(each++);
      continue;
    }
    m_bytes -= bytesOf(*kept.picture.frame);
    const auto like = std::shared_ptr<AVFrame>(av_frame_alloc(), [](AVFrame* frame) { av_frame_free(&frame); });
    av_frame_copy_props(like.get(), kept.picture.frame.get());
    like->format = kept.picture.frame->format;
    like->width = kept.picture.frame->width;
    like->height = kept.picture.frame->height;
    kept.picture.frame = like;
    kept.place = place;
    ++each;
  }
}

void PictureSource::keep(int64_t asked, NumberedFrame picture) {
  if (const auto known = m_kept.find(asked); known != m_kept.end()) drop(known);
  m_bytes += bytesOf(*picture.frame);
  m_kept[asked] = {std::move(picture), -1};
  makeRoom();
}

NumberedFrame PictureSource::take(Kept& kept) {
  NumberedFrame picture = kept.picture;
  if (kept.place >= 0) picture.frame = m_spill->get(kept.place, *kept.picture.frame);
  return picture;
}

Result<NumberedFrame> PictureSource::decodeBack(int64_t number, const std::stop_token& unasked) {
  m_kept.clear();
  m_bytes = 0;
  if (m_spill) m_spill->end = 0;
  // After each step back a decoder begins anew, and its threads with it: short groups are taken several at a time.
  const int64_t from = m_shortGroups ? std::max<int64_t>(0, number - kBackBatch + 1) : number;
  if (const Status there = m_reader.goNear(from); !there) return tl::unexpected(there.error());
  NumberedFrame last;
  while (true) {
    if (unasked.stop_requested()) return fail(ErrorCode::Cancelled, say("cancelled"));
    auto got = m_reader.read();
    if (!got) return got;
    if (got->frame) ++m_decoded;
    if (!got->frame || got->number > number) break;
    if (!last.frame) m_shortGroups = from - got->number < kBackBatch;
    // A picture that is missing stays the one before it.
    for (int64_t missing = last.frame ? last.number + 1 : got->number; missing < got->number; ++missing)
      keep(missing, last);
    last = *got;
    keep(got->number, std::move(*got));
    if (last.number == number) return last;
  }
  if (!last.frame)
    return m_reader.shown(number, unasked); // the key frame lies behind it: only what leads up to it is lost
  keep(number, last);
  return last;
}

/// Keeps those from `before` to `after` alone.
void PictureSource::forget(int64_t before, int64_t after) {
  for (auto each = m_kept.begin(); each != m_kept.end();)
    if (each->first < before || each->first > after)
      drop(each++);
    else
      ++each;
}

Result<NumberedFrame> PictureSource::shown(int64_t number, const std::stop_token& unasked) {
  // One beside it may be wanted again, to be mixed.
  if (const auto kept = m_kept.find(number); kept != m_kept.end()) {
    if (NumberedFrame picture = take(kept->second); picture.frame) {
      if (m_backwards) forget(0, number + 1);
      return picture;
    }
    drop(kept);
  }
  if (m_backwards) {
    std::optional<NumberedFrame> beside;
    if (const auto next = m_kept.find(number + 1); next != m_kept.end()) beside = take(next->second);
    auto got = decodeBack(number, unasked);
    if (beside && beside->frame) keep(number + 1, std::move(*beside));
    return got;
  }
  auto got = m_reader.shown(number, unasked);
  if (!got || !m_mixes) return got;
  forget(number - 1, number + 1);
  keep(number, *got);
  return got;
}

Result<Frame> PictureSource::frameAt(int64_t number, const std::stop_token& unasked) {
  auto got = shown(number, unasked);
  if (!got) return tl::unexpected(got.error());
  return std::move(got->frame);
}

Result<Frame> PictureSource::near(int64_t number) {
  if (!m_still) {
    if (const Status there = m_reader.goNear(number); !there) return tl::unexpected(there.error());
    auto got = m_reader.read();
    if (!got) return tl::unexpected(got.error());
    if (got->frame) return got->frame;
  }
  return frameAt(number);
}

Result<NumberedFrame> PictureSource::shown(const ShownFrames& frames) {
  m_mixes = m_mixes || frames.nextShare > 0;
  auto first = shown(frames.frame);
  if (!first) return first;
  first->damaged = first->damaged || (first->number != frames.frame && !m_still);
  if (frames.nextShare <= 0 || frames.next == frames.frame) return first;
  const auto second = shown(frames.next);
  if (!second) return second;
  auto both = m_between.picture(first->frame, second->frame, frames);
  if (!both) return tl::unexpected(both.error());
  return NumberedFrame{first->number, std::move(*both),
                       first->damaged || second->damaged || (second->number != frames.next && !m_still)};
}

} // namespace tromb
