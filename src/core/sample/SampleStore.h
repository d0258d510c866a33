// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/CacheFolder.h"
#include "sample/SampleEncode.h"

#include <optional>
#include <string>

namespace tromb {

/// Keeps what samples came to, but for their pictures, in a folder of its own. What it holds is a cache: it may be
/// emptied at any time, and damaged entries count as absent. Thread-safe.
class SampleStore {
public:
  /// An empty `folder` keeps nothing.
  explicit SampleStore(std::string folder);
  /// `key` is of sampledShots and sampledSettings; `resolved` the deliverable's encoding, of which the rungs have all
  /// but their bit rate or quality.
  [[nodiscard]] std::optional<SampleReport> find(const std::string& key, const Encoding& resolved) const;
  /// Best effort.
  void keep(const std::string& key, const SampleReport& report) const;

private:
  CacheFolder m_folder;
};

} // namespace tromb
