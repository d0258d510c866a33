// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/ColourMap.h"

#include "colour/Light.h"
#include "media/Av.h"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <tuple>

namespace tromb {
namespace {

constexpr int kFraction = 10; ///< binary places between two entries: 64 steps of 1024 are 65536

} // namespace

ColourMap::ColourMap(const ColourTags& from, const ColourTags& to, double sourcePeak) {
  // A table takes a tenth of a second to make, and each shot of an export needs one of a few.
  using Key = std::tuple<int, int, int, int, double>;
  static std::mutex mutex;
  static std::vector<std::pair<Key, std::shared_ptr<const Table>>> known;
  constexpr size_t kMostKnown = 4;
  const Key key{from.primaries, from.transfer, to.primaries, to.transfer, sourcePeak};
  const std::scoped_lock lock(mutex);
  for (const auto& [other, table] : known)
    if (other == key) {
      m_table = table;
      return;
    }
  auto table = std::make_shared<Table>();
  table->reserve(size_t(kSide) * kSide * kSide);
  constexpr double kLast = kSide - 1;
  for (int r = 0; r < kSide; ++r)
    for (int g = 0; g < kSide; ++g)
      for (int b = 0; b < kSide; ++b) {
        const Rgb out = convertedSignal({r / kLast, g / kLast, b / kLast}, from, to, sourcePeak);
        Entry entry{};
        for (size_t c = 0; c < 3; ++c) entry[c] = uint16_t(std::lround(std::clamp(out[c], 0.0, 1.0) * 65535));
        table->push_back(entry);
      }
  m_table = std::move(table);
  if (known.size() >= kMostKnown) known.erase(known.begin());
  known.emplace_back(key, m_table);
}

void ColourMap::run(const AVFrame& from, AVFrame& to) const {
  constexpr size_t kRed = size_t(kSide) * kSide;
  constexpr size_t kGreen = kSide;
  constexpr size_t kBlue = 1;
  constexpr int kOne = 1 << kFraction;
  const Entry* table = m_table->data();
  const auto row = [](const AVFrame& f, int plane, int y) {
    return reinterpret_cast<uint16_t*>(f.data[plane] + ptrdiff_t(y) * f.linesize[plane]);
  };
  for (int y = 0; y < from.height; ++y) {
    const uint16_t* in[3] = {row(from, 2, y), row(from, 0, y), row(from, 1, y)};
    uint16_t* out[3] = {row(to, 2, y), row(to, 0, y), row(to, 1, y)};
    for (int x = 0; x < from.width; ++x) {
      size_t place = 0;
      std::array<std::pair<int, size_t>, 3> axes; // how far to the next entry, and where that is
      constexpr size_t kSteps[3] = {kRed, kGreen, kBlue};
      for (size_t c = 0; c < 3; ++c) {
        // 65535 is the last entry: codes are spread over 65536 so that a shift divides.
        const int code = in[c][x] + (in[c][x] >> 15);
        const int entry = std::min(code >> kFraction, kSide - 2);
        place += size_t(entry) * kSteps[c];
        axes[c] = {code - (entry << kFraction), kSteps[c]};
      }
      if (axes[0].first < axes[1].first) std::swap(axes[0], axes[1]);
      if (axes[1].first < axes[2].first) std::swap(axes[1], axes[2]);
      if (axes[0].first < axes[1].first) std::swap(axes[0], axes[1]);
      // The corners of the tetrahedron, along the component that has gone furthest first.
      const Entry& a = table[place];
      const Entry& b = table[place += axes[0].second];
      const Entry& c = table[place += axes[1].second];
      const Entry& d = table[place + axes[2].second];
      const int wa = kOne - axes[0].first;
      const int wb = axes[0].first - axes[1].first;
      const int wc = axes[1].first - axes[2].first;
      const int wd = axes[2].first;
      for (size_t i = 0; i < 3; ++i)
        out[i][x] = uint16_t((a[i] * wa + b[i] * wb + c[i] * wc + d[i] * wd + kOne / 2) >> kFraction);
    }
  }
}

} // namespace tromb
