// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"

#include <atomic>
#include <functional>
#include <optional>
#include <stop_token>

namespace tromb {

/// How a source's lighter copy is read in its place: with the same opinions, of pictures that are whole and smaller.
[[nodiscard]] Reading lightReading(const Reading& reading, const MediaInfo& light);

/// Lighter copies of heavy sources, for looking through them: half or quarter size, each picture standing alone, so
/// that any frame is quick to reach. Frame n of a copy is frame n of its source. Exports never read them. They lie in a
/// folder of their own, by the sources' fingerprints, up to a limit in all: beyond it the ones not used for longest go.
/// Thread-safe for different fingerprints.
class LightCopies {
public:
  LightCopies(std::string folder, int64_t limitBytes) : m_folder(std::move(folder)), m_limit(limitBytes) {}

  /// Half size up to 2560 pixels wide, a quarter beyond; at least 2.
  [[nodiscard]] static int divisorFor(const MediaInfo& media);
  /// Returns true if a copy is worth making: moving pictures larger than 1280×720, or with key frames far apart.
  [[nodiscard]] static bool heavy(const MediaInfo& media);

  [[nodiscard]] bool has(const std::string& fingerprint) const;
  /// Returns the copy's facts, as those of a smaller source at a constant rate. Returns nothing if there is no copy.
  [[nodiscard]] std::optional<MediaInfo> find(const std::string& fingerprint) const;
  /// Makes one. `onFraction` is told how far it is. Errors: those of VideoReader and OutputFile, Cancelled; nothing
  /// half-made stays.
  [[nodiscard]] Status make(const Reading& reading, const std::string& fingerprint, std::stop_token stop = {},
                            const std::function<void(double)>& onFraction = {}) const;
  void setLimit(int64_t bytes) { m_limit = bytes; }
  [[nodiscard]] int64_t totalBytes() const;
  void empty() const;

private:
  [[nodiscard]] std::string pathOf(const std::string& fingerprint) const;
  void keepWithinLimit(const std::string& newest) const;
  std::string m_folder;
  std::atomic<int64_t> m_limit;
};

} // namespace tromb
