// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/DestinationStore.h"

#include "io/AtomicFile.h"

#include <algorithm>

namespace tromb {
namespace {

/// "own-evening-show": a word for an id, made from a name.
std::string idFor(const std::string& name) {
  std::string id = "own";
  for (const char c : name) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9');
    const bool capital = c >= 'A' && c <= 'Z';
    if (plain || capital)
      id += (id == "own" ? "-" : "") + std::string(1, capital ? char(c - 'A' + 'a') : c);
    else if (id.back() != '-')
      id += '-';
  }
  constexpr size_t kMostId = 48;
  return id.substr(0, kMostId);
}

} // namespace

Destination destinationFrom(const Deliverable& deliverable, const std::string& name) {
  const Encoding e = resolvedEncoding(deliverable);
  Destination d;
  d.id = idFor(name);
  d.name = name;
  d.own = true;
  d.canvases = {deliverable.canvas};
  d.otherCanvases = false;
  d.rates = {deliverable.rate};
  d.mostRate = deliverable.rate;
  d.codecs = {e.codec};
  d.containers = {*e.container};
  if (isHdr(deliverable.format.colour)) d.colours = {deliverable.format.colour};
  if (e.byBitRate()) {
    const auto usual = int64_t(std::min(double(e.bitRate) / e.info().bitRateShare, double(kMostBitRate)));
    d.bitRates = {{int64_t(deliverable.canvas.width) * deliverable.canvas.height, deliverable.rate, usual / 2, usual,
                   std::min<int64_t>(usual * 2, kMostBitRate)}};
  }
  if (e.sound.place != SoundPlace::None)
    d.sound = TakenSound{{*e.sound.codec}, {e.sound.channels}, {e.sound.sampleRate}, e.sound.bitRate, false};
  if (deliverable.loudness && deliverable.loudness->lufs)
    d.loudness = LoudnessLimit{.lufs = *deliverable.loudness->lufs};
  const Because house{Sureness::House, "as in the deliverable '" + deliverable.name + "'"};
  for (const char* key : {"canvases", "rates", "codecs", "containers"}) d.because[key] = house;
  if (!d.colours.empty()) d.because["colours"] = house;
  if (!d.bitRates.empty()) d.because["bitRates"] = house;
  if (d.sound) d.because["sound"] = house;
  if (d.loudness) d.because["loudness"] = house;
  return d;
}

Status DestinationStore::save(Destination destination, bool overwrite) {
  if (const Status good = m_files.mayTake(destination.name, overwrite); !good) return good;
  const auto before =
      m_files.has(destination.name) ? read(destination.name) : Result<Destination>(fail(ErrorCode::Missing, {}));
  const auto all = destinationData();
  if (before) {
    destination.id = before->id; // deliverables go on knowing it
  } else {
    const std::string wanted = destination.id.empty() ? idFor(destination.name) : destination.id;
    destination.id = wanted;
    for (int n = 2; all->find(destination.id); ++n) destination.id = wanted + "-" + std::to_string(n);
  }
  const std::string text = destinationText(destination);
  // A deliverable may have a size or a rate that no destination may: nothing is saved that could not be read again.
  if (const auto read = parseDestination(text); !read) return tl::unexpected(read.error());
  if (const Status written = writeFileAtomically(m_files.pathOf(destination.name), text); !written) return written;
  useOwnDestinations(m_files.folder());
  return {};
}

Status DestinationStore::rename(const std::string& from, const std::string& to) {
  auto destination = read(from);
  if (!destination)
    return m_files.has(from) ? Status(tl::unexpected(destination.error())) : Status(m_files.missing(from));
  if (const Status done = m_files.rename(from, to); !done) return done;
  destination->name = to;
  if (const Status written = writeFileAtomically(m_files.pathOf(to), destinationText(*destination)); !written)
    return written;
  useOwnDestinations(m_files.folder());
  return {};
}

Status DestinationStore::remove(const std::string& name) {
  if (const Status done = m_files.remove(name); !done) return done;
  useOwnDestinations(m_files.folder());
  return {};
}

Result<std::string> DestinationStore::importFile(const std::string& path) {
  auto destination = readDestination(path);
  if (!destination) return tl::unexpected(destination.error());
  destination->name = m_files.freeName(destination->name);
  const std::string name = destination->name;
  if (const Status saved = save(std::move(*destination), false); !saved) return tl::unexpected(saved.error());
  return name;
}

Status DestinationStore::exportFile(const std::string& name, const std::string& path) const {
  if (!m_files.has(name)) return m_files.missing(name);
  const auto destination = read(name);
  if (!destination) return tl::unexpected(destination.error());
  return writeFileAtomically(path, destinationText(*destination));
}

} // namespace tromb
