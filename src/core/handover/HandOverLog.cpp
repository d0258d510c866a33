// SPDX-License-Identifier: GPL-3.0-or-later
#include "handover/HandOverLog.h"

#include "io/AtomicFile.h"
#include "io/Descriptor.h"

#include <cerrno>
#include <fcntl.h>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <sstream>
#include <unistd.h>

namespace tromb {

std::string handOverLog(const std::string& projectPath) {
  return std::filesystem::path(projectPath).replace_extension(".handed-over.jsonl").string();
}

Status addHandOver(const std::string& projectPath, const HandOver& handOver) {
  const nlohmann::ordered_json line{{"at", handOver.at},       {"file", handOver.path},   {"to", handOver.to},
                                    {"place", handOver.place}, {"bytes", handOver.bytes}, {"sha256", handOver.digest}};
  const std::string text = line.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
  const std::string path = handOverLog(projectPath);
  // One write to the end: whole lines, whoever else writes.
  Descriptor file(::open(path.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC | O_NOFOLLOW, 0666));
  if (!file || !writeAll(file, text.data(), text.size()) || ::fsync(file.get()) != 0 || !file.close())
    return cannotWrite(path, errno);
  return {};
}

std::vector<HandOver> handOvers(const std::string& projectPath) {
  std::vector<HandOver> all;
  const auto text = readWholeFile(handOverLog(projectPath));
  if (!text) return all;
  std::istringstream lines(*text);
  for (std::string line; std::getline(lines, line);) {
    const auto json = nlohmann::json::parse(line, nullptr, false);
    if (!json.is_object()) continue;
    try {
      all.push_back({json.value("at", int64_t(0)), json.value("file", std::string()), json.value("to", std::string()),
                     json.value("place", std::string()), json.value("bytes", int64_t(0)),
                     json.value("sha256", std::string())});
    } catch (const nlohmann::json::exception&) { // a member of another type
    }
  }
  return all;
}

} // namespace tromb
