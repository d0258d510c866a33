// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Trace.h"

#include "media/Av.h"

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <unistd.h>

namespace tromb {
namespace {

template <typename Sample> const Sample* lineOf(const AVFrame& f, int p, int y) {
  return reinterpret_cast<const Sample*>(f.data[p] + ptrdiff_t(y) * f.linesize[p]);
}

/// Means of a plane over cells of nearly equal size, in 8-bit terms: divided by `step`. Every sample counts once.
template <typename Sample> void shrink(const AVFrame& f, int p, Size from, Size to, uint32_t step, uint8_t* cells) {
  std::vector<int> ends(size_t(to.width));
  for (int x = 0; x < to.width; ++x) ends[size_t(x)] = (x + 1) * from.width / to.width;
  std::vector<uint32_t> columns(size_t(from.width));
  // Most lines are added in 16 bits, which hold the sum of 257 of them (of 16 with 12 bits) and take half the time
  // of 32.
  constexpr int kLinesAtOnce = sizeof(Sample) == 1 ? 256 : 16;
  std::vector<uint16_t> narrow(columns.size());
  for (int cy = 0; cy < to.height; ++cy) {
    const int first = cy * from.height / to.height;
    const int end = std::max(first + 1, (cy + 1) * from.height / to.height);
    std::fill(columns.begin(), columns.end(), 0U);
    for (int top = first; top < end; top += kLinesAtOnce) {
      std::fill(narrow.begin(), narrow.end(), uint16_t(0));
      for (int y = top; y < std::min(end, top + kLinesAtOnce); ++y) {
        const auto* row = lineOf<Sample>(f, p, y);
        for (size_t x = 0; x < narrow.size(); ++x) narrow[x] = uint16_t(narrow[x] + row[x]);
      }
      for (size_t x = 0; x < narrow.size(); ++x) columns[x] += narrow[x];
    }
    int x = 0;
    for (int cx = 0; cx < to.width; ++cx) {
      const int begin = x;
      uint32_t sum = 0;
      for (; x < ends[size_t(cx)]; ++x) sum += columns[size_t(x)];
      const auto count = uint32_t(std::max(1, (x - begin) * (end - first))) * step;
      cells[size_t(cy) * size_t(to.width) + size_t(cx)] = uint8_t((sum + count / 2) / count);
    }
  }
}

/// Means along one edge of luma, in 8-bit terms.
template <typename Sample> void edgeMeans(const AVFrame& f, bool lines, bool last, int step, uint8_t* out) {
  const int length = lines ? f.width : f.height;
  const int across = lines ? f.height : f.width;
  const int depth = std::min(PictureTrace::kEdgeLines, across);
  for (int part = 0; part < PictureTrace::kEdgeParts; ++part) {
    const int from = part * length / PictureTrace::kEdgeParts;
    const int to = std::max(from + 1, (part + 1) * length / PictureTrace::kEdgeParts);
    int sum = 0;
    int count = 0;
    for (int i = from; i < std::min(to, length); ++i)
      for (int k = 0; k < depth; ++k) {
        const int place = last ? across - 1 - k : k;
        sum += lineOf<Sample>(f, 0, lines ? place : i)[lines ? i : place];
        count += step;
      }
    out[part] = uint8_t(count > 0 ? (sum + count / 2) / count : 0);
  }
}

/// The steps between neighbours, across and down, of every second line, of larger pictures every fourth or eighth: the
/// mean of the largest in two hundred. Grain and flat parts, which encoding changes first, hardly count; the contours
/// by which a picture looks sharp do. In 8-bit terms.
template <typename Sample> float sharpnessOf(const AVFrame& f, int shift) {
  // Several tables, since counting the same step twice in a row would wait for itself.
  std::array<std::array<uint32_t, 256>, 4> tables{};
  const int every = f.height < 360 ? 2 : f.height < 1440 ? 4 : 8;
  for (int y = 1; y < f.height; y += every) {
    const auto* row = lineOf<Sample>(f, 0, y);
    const auto* above = lineOf<Sample>(f, 0, y - 1);
    const auto between = [shift](int a, int b) { return size_t(std::abs(a - b) >> shift); };
    int x = 1;
    for (; x + 1 < f.width; x += 2) {
      ++tables[0][between(row[x], row[x - 1])];
      ++tables[1][between(row[x], above[x])];
      ++tables[2][between(row[x + 1], row[x])];
      ++tables[3][between(row[x + 1], above[x + 1])];
    }
    for (; x < f.width; ++x) {
      ++tables[0][between(row[x], row[x - 1])];
      ++tables[1][between(row[x], above[x])];
    }
  }
  std::array<int64_t, 256> steps{};
  for (const auto& table : tables)
    for (size_t step = 0; step < steps.size(); ++step) steps[step] += table[step];
  constexpr int64_t kOneIn = 200;
  int64_t all = 0;
  for (const int64_t count : steps) all += count;
  const int64_t wanted = std::max<int64_t>(1, all / kOneIn);
  int64_t taken = 0;
  double sum = 0;
  for (int step = 255; step >= 0 && taken < wanted; --step) {
    const int64_t count = std::min(steps[size_t(step)], wanted - taken);
    taken += count;
    sum += double(step) * double(count);
  }
  return float(sum / double(wanted));
}

/// A file without a name, on the disk of a folder.
Descriptor namelessFile(const std::string& folder) {
  const char* where = folder.empty() ? "." : folder.c_str();
  Descriptor file(::open(where, O_TMPFILE | O_RDWR | O_CLOEXEC, 0600));
  if (file) return file;
  std::string name =
      std::string(where) + "/.tromb-trace-XXXXXX"; // for file systems that cannot hold a file without a name
  file = Descriptor(::mkostemp(name.data(), O_CLOEXEC));
  if (file) ::unlink(name.c_str());
  return file;
}

tl::unexpected<Error> cannotRead(const std::string& folder) {
  return fail(ErrorCode::Unreadable, say("what a proof needs cannot be read back (%1)", systemMessage(errno)), folder,
              say("The disk may be failing"));
}

} // namespace

PictureTrace::Shape::Shape(Size canvas) {
  const int longSide = std::max({canvas.width, canvas.height, 1});
  const double scale = double(std::clamp(longSide / kCellPixels, kLongSide / 6, kLongSide)) / longSide;
  const auto side = [&](int pixels) { return std::clamp(int(std::lround(pixels * scale)), 1, std::max(1, pixels)); };
  luma = {side(canvas.width), side(canvas.height)};
  chroma = {std::max(1, luma.width / 4), std::max(1, luma.height / 4)};
  const double beside = std::sqrt(double(kPatches) * canvas.width / std::max(1, canvas.height));
  patches.width = std::clamp(int(std::lround(beside)), 1, kPatches);
  patches.height = std::max(1, kPatches / patches.width);
  patches.width = std::min(patches.width, canvas.width / kPatchSide);
  patches.height = std::min(patches.height, canvas.height / kPatchSide);
}

namespace {

/// A number that is spread evenly, from two (the last step of Murmur hashing, public domain).
uint32_t scattered(uint32_t a, uint32_t b) {
  uint32_t h = a * 0x9E3779B9U + b;
  h = (h ^ (h >> 16)) * 0x85EBCA6BU;
  h = (h ^ (h >> 13)) * 0xC2B2AE35U;
  return h ^ (h >> 16);
}

/// A patch from each field of luma, at a place that `scatter` says.
template <typename Sample>
std::vector<uint8_t> patchesOf(const AVFrame& f, const PictureTrace::Shape& shape, uint32_t scatter, int shift) {
  constexpr int kSide = PictureTrace::kPatchSide;
  std::vector<uint8_t> patches(shape.patchBytes());
  uint8_t* at = patches.data();
  uint32_t number = 0;
  for (int row = 0; row < shape.patches.height; ++row)
    for (int column = 0; column < shape.patches.width; ++column) {
      const auto place = [&](int which, int length, int fields) {
        const int begin = which * length / fields;
        const int free = (which + 1) * length / fields - begin - kSide;
        return begin + int(scattered(scatter, number++) % uint32_t(free + 1));
      };
      const int x = place(column, f.width, shape.patches.width);
      const int y = place(row, f.height, shape.patches.height);
      for (int line = 0; line < kSide; ++line)
        at = std::transform(lineOf<Sample>(f, 0, y + line) + x, lineOf<Sample>(f, 0, y + line) + x + kSide, at,
                            [shift](Sample sample) { return uint8_t(sample >> shift); });
    }
  return patches;
}

template <typename Sample> PictureTrace traced(const AVFrame& f, const PictureTrace::Shape& shape, uint32_t scatter) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  const int shift = d.comp[0].depth - 8;
  PictureTrace trace;
  trace.cells.resize(shape.cells());
  uint8_t* cells = trace.cells.data();
  for (int p = 0; p < 3; ++p) {
    const Size from = p == 0
                          ? Size{f.width, f.height}
                          : Size{AV_CEIL_RSHIFT(f.width, d.log2_chroma_w), AV_CEIL_RSHIFT(f.height, d.log2_chroma_h)};
    const Size to = p == 0 ? shape.luma : shape.chroma;
    shrink<Sample>(f, p, from, to, 1U << shift, cells);
    cells += size_t(to.width) * size_t(to.height);
  }
  trace.sharpness = sharpnessOf<Sample>(f, shift);
  trace.scatter = scatter;
  trace.patches = patchesOf<Sample>(f, shape, scatter, shift);
  for (int edge = 0; edge < 4; ++edge)
    edgeMeans<Sample>(f, edge < 2, edge % 2 == 1, 1 << shift,
                      trace.edges.data() + ptrdiff_t(edge) * PictureTrace::kEdgeParts);
  return trace;
}

} // namespace

PictureTrace PictureTrace::of(const Frame& picture, const Shape& shape, uint32_t scatter) {
  const bool deep = av_pix_fmt_desc_get(AVPixelFormat(picture->format))->comp[0].depth > 8;
  return deep ? traced<uint16_t>(*picture, shape, scatter) : traced<uint8_t>(*picture, shape, scatter);
}

double PictureTrace::likeness(const PictureTrace& other) const {
  constexpr size_t kCount = size_t(kPatchSide * kPatchSide);
  constexpr double kLevels = (0.01 * 255) * (0.01 * 255);
  constexpr double kContrasts = (0.03 * 255) * (0.03 * 255);
  double sum = 0;
  size_t count = 0;
  for (size_t begin = 0; begin + kCount <= std::min(patches.size(), other.patches.size()); begin += kCount, ++count) {
    int64_t a = 0;
    int64_t b = 0;
    int64_t aa = 0;
    int64_t bb = 0;
    int64_t ab = 0;
    for (size_t i = begin; i < begin + kCount; ++i) {
      const int one = patches[i];
      const int two = other.patches[i];
      a += one;
      b += two;
      aa += int64_t(one) * one;
      bb += int64_t(two) * two;
      ab += int64_t(one) * two;
    }
    const auto n = double(kCount);
    const double meanOne = double(a) / n;
    const double meanTwo = double(b) / n;
    const double squares = (double(aa + bb) - n * (meanOne * meanOne + meanTwo * meanTwo)) / (n - 1);
    const double products = (double(ab) - n * meanOne * meanTwo) / (n - 1);
    sum += (2 * meanOne * meanTwo + kLevels) * (2 * products + kContrasts) /
           ((meanOne * meanOne + meanTwo * meanTwo + kLevels) * (squares + kContrasts));
  }
  return count > 0 ? sum / double(count) : 1;
}

void SoundGatherer::add(std::span<const float> samples, std::vector<SoundTrace::Value>& values) {
  for (size_t i = 0; i + m_sum.size() <= samples.size(); i += m_sum.size()) {
    for (size_t c = 0; c < m_sum.size(); ++c) m_sum[c] += samples[i + c];
    if (++m_count < SoundTrace::kEvery) continue;
    for (float& sum : m_sum) {
      const float value = sum / float(SoundTrace::kEvery) * SoundTrace::kFull;
      values.push_back(SoundTrace::Value(std::clamp(std::lround(value), -32768L, 32767L)));
      sum = 0;
    }
    m_count = 0;
  }
}

std::vector<uint8_t> PictureTrace::packed() const {
  std::vector<uint8_t> bytes(cells.size() + patches.size() + edges.size() + sizeof sharpness + sizeof scatter);
  uint8_t* at = std::copy(cells.begin(), cells.end(), bytes.data());
  at = std::copy(patches.begin(), patches.end(), at);
  at = std::copy(edges.begin(), edges.end(), at);
  std::memcpy(at, &sharpness, sizeof sharpness);
  std::memcpy(at + sizeof sharpness, &scatter, sizeof scatter);
  return bytes;
}

PictureTrace PictureTrace::unpacked(std::string_view bytes, const Shape& shape) {
  PictureTrace trace;
  trace.cells.resize(shape.cells());
  trace.patches.resize(shape.patchBytes());
  if (bytes.size() < shape.bytes()) return trace;
  const char* at = bytes.data();
  const auto take = [&at](void* to, size_t count) {
    std::memcpy(to, at, count);
    at += count;
  };
  take(trace.cells.data(), trace.cells.size());
  take(trace.patches.data(), trace.patches.size());
  take(trace.edges.data(), trace.edges.size());
  take(&trace.sharpness, sizeof trace.sharpness);
  take(&trace.scatter, sizeof trace.scatter);
  return trace;
}

Result<TraceFile> TraceFile::create(const std::string& folder, Size canvas, int channels, const WhenFull& whenFull) {
  TraceFile file(canvas, channels);
  file.m_folder = folder;
  file.m_pictures = namelessFile(folder);
  if (file.m_pictures) file.m_sound = namelessFile(folder);
  if (!file.m_pictures || !file.m_sound) return cannotWrite(folder, errno);
  file.m_pictures.setWhenFull(whenFull);
  file.m_sound.setWhenFull(whenFull);
  return file;
}

Status TraceFile::addPicture(const PictureTrace& trace, int64_t frames) {
  const std::vector<uint8_t> bytes = trace.packed();
  if (!writeAll(m_pictures, bytes.data(), bytes.size())) return cannotWrite(m_folder, errno);
  m_placeOfFrame.insert(m_placeOfFrame.end(), size_t(frames), m_pictureCount);
  ++m_pictureCount;
  return {};
}

Status TraceFile::addSound(std::span<const float> samples) {
  std::vector<SoundTrace::Value> values;
  m_gatherer.add(samples, values);
  if (!writeAll(m_sound, values.data(), values.size() * sizeof values.front())) return cannotWrite(m_folder, errno);
  m_soundCount += int64_t(values.size()) / m_channels;
  return {};
}

Result<PictureTrace> TraceFile::picture(int64_t frame) const {
  std::string bytes(m_shape.bytes(), 0);
  const int64_t place = int64_t(m_placeOfFrame[size_t(frame)]) * int64_t(bytes.size());
  if (readAt(m_pictures, place, bytes.data(), bytes.size()) != ptrdiff_t(bytes.size())) return cannotRead(m_folder);
  return PictureTrace::unpacked(bytes, m_shape);
}

Result<std::vector<SoundTrace::Value>> TraceFile::sound(int64_t first, int64_t count) const {
  std::vector<SoundTrace::Value> values;
  count = std::clamp<int64_t>(m_soundCount - first, 0, count);
  values.resize(size_t(m_channels * count));
  const size_t bytes = values.size() * sizeof(SoundTrace::Value);
  if (readAt(m_sound, first * m_channels * int64_t(sizeof(SoundTrace::Value)), values.data(), bytes) !=
      ptrdiff_t(bytes))
    return cannotRead(m_folder);
  return values;
}

} // namespace tromb
