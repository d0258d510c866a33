// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/FramingStore.h"

#include "io/AtomicFile.h"
#include "project/FramingJson.h"

#include <filesystem>

namespace tromb {
namespace {

constexpr const char* kFramingFormat = "tromb-framing";
constexpr int kVersion = 1;

Result<Framing> load(const std::string& path) {
  const auto text = readWholeFile(path);
  if (!text) return tl::unexpected(text.error());
  const Json root = parseJson(*text).value_or(Json());
  JsonFault fault;
  const JsonNode node(root, fault);
  if (root.is_discarded()) node.refuse(say("it is not valid JSON"));
  if (node.get("format").text() != kFramingFormat) node.refuse(say("this is not a saved framing"));
  const int64_t version = node.get("version").integer(1, 1'000'000);
  if (!fault.error && version > kVersion)
    return fail(ErrorCode::ProjectTooNew, say("the framing was saved by a later version of Tromb"), path,
                say("Open it with that version"), say("/version"));
  Framing framing = fault.error ? Framing() : readFraming(node.get("framing"));
  if (!fault.error) return withoutStill(std::move(framing));
  fault.error->path = path;
  return tl::unexpected(*fault.error);
}

} // namespace

std::vector<SavedFraming> FramingStore::all() const {
  std::vector<SavedFraming> framings;
  for (const std::string& name : m_files.names())
    if (auto framing = load(m_files.pathOf(name))) framings.push_back({name, std::move(*framing)});
  return framings;
}

Status FramingStore::save(const std::string& name, const Framing& framing, bool overwrite) {
  if (const Status good = m_files.mayTake(name, overwrite); !good) return good;
  const Json root{{"format", kFramingFormat}, {"version", kVersion}, {"framing", toJson(withoutStill(framing))}};
  return writeFileAtomically(m_files.pathOf(name), root.dump(2) + "\n");
}

Result<std::string> FramingStore::importFile(const std::string& path) {
  const auto framing = load(path);
  if (!framing) return tl::unexpected(framing.error());
  const std::string name = m_files.freeName(std::filesystem::path(path).stem().string());
  if (const Status saved = save(name, *framing, false); !saved) return tl::unexpected(saved.error());
  return name;
}

Status FramingStore::exportFile(const std::string& name, const std::string& path) const {
  if (!m_files.has(name)) return m_files.missing(name);
  const auto text = readWholeFile(m_files.pathOf(name));
  if (!text) return tl::unexpected(text.error());
  return writeFileAtomically(path, *text);
}

} // namespace tromb
