// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/ShotCopy.h"
#include "encoding/Encoding.h"
#include "io/FreeSpace.h"
#include "preflight/Checking.h"
#include "project/FileName.h"
#include "project/Timing.h"

#include <filesystem>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

/// The folder, or the nearest above it that is there.
fs::path nearestThere(const fs::path& folder) {
  std::error_code failed;
  fs::path at = fs::absolute(folder, failed).lexically_normal();
  while (!fs::exists(at, failed) && at.has_relative_path()) at = at.parent_path();
  return at;
}

/// About what a file takes on the disk, where its size follows from what it shows: for room, not for a promise.
int64_t roughBytes(const Project& project, const Footage& footage, const Deliverable& d, const Encoding& e) {
  const Rational seconds = durationIn(project, footage, d);
  if (const auto bytes = expectedBytes(project, footage, d, seconds)) return *bytes;
  // Of raw samples: what FFV1 leaves of footage, and what the high profiles of VC-3 leave (both from memory).
  constexpr double kLossless = 0.5;
  constexpr double kIntra = 0.25;
  const double chroma = d.format.chroma == Chroma::C420 ? 0.5 : d.format.chroma == Chroma::C422 ? 1 : 2;
  const double raw = double(d.canvas.width) * d.canvas.height * (1 + chroma) * d.format.depth * d.rate.toDouble();
  const double usual = e.info().bitRateShare * double(usualBitRate(d.canvas, d.rate));
  const double bits = *e.rateControl == RateControl::ConstantQuality ? usual
                      : e.codec == Codec::Ffv1                       ? raw * kLossless
                                                                     : raw * kIntra;
  return int64_t(bits / 8 * seconds.toDouble());
}

} // namespace

void checkOutput(Checking& c) {
  if (!c.grounds.place || c.grounds.place->folder.empty() || c.deliverables.empty()) return;
  const OutputPlace& place = *c.grounds.place;
  const fs::path there = nearestThere(place.folder);
  std::error_code failed;
  if (!fs::is_directory(there, failed)) {
    c.find("folder-not-writable", nullptr, nullptr, say("%1 is no folder", there.string()),
           say("Choose another folder"));
    return;
  }
  if (::access(there.c_str(), W_OK | X_OK) != 0)
    c.find("folder-not-writable", nullptr, nullptr, say("nothing may be written to %1", there.string()),
           say("Choose another folder, or have it opened to you"));
  int64_t bytes = 0;
  std::map<std::string, const Deliverable*> taken;
  const bool captioned = std::any_of(c.project.elements.begin(), c.project.elements.end(),
                                     [](const Element& each) { return each.kind == ElementKind::Caption; });
  for (const Deliverable* d : c.deliverables) {
    const Encoding e = resolvedEncoding(*d);
    const auto sampled = c.grounds.sampledBytes.find(d->id);
    if (sampled != c.grounds.sampledBytes.end() && !d->encoding.copies)
      bytes += sampled->second;
    else
      bytes += roughBytes(c.project, c.footage, *d, e);
    const std::string path = exportPath(place.folder, c.project.output.naming, {place.project, place.region, d});
    std::vector<std::string> paths{path};
    if (e.sound.place == SoundPlace::Beside) paths.push_back(soundPath(path, e));
    if (captioned && e.captionsBeside()) paths.push_back(captionPath(path, e));
    for (const std::string& each : paths) {
      const auto [at, fresh] = taken.emplace(each, d);
      const std::string name = fs::path(each).filename().string();
      if (!fresh && at->second != d)
        c.find("name-clash", d, nullptr, say("its file is called %1, as that of '%2'", name, at->second->name),
               say("Give one of them another name"));
      else if (!place.overwrite && fs::exists(each, failed))
        c.find("file-exists", d, nullptr, say("%1 is there already", name),
               say("Replace it, or choose another folder"));
    }
  }
  // Why what is no disk cannot be written to is told by the export.
  const auto free = freeBytes(place.folder);
  if (free && bytes > *free)
    c.find(
        "disk-space", nullptr, nullptr,
        say("about %1 are needed, and %2 are free on the disk of %3", bytesText(bytes), bytesText(*free), place.folder),
        say("Make room, or choose another folder"));
}

} // namespace tromb
