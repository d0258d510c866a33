// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "io/Process.h"

#include <algorithm>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <ostream>
#include <unistd.h>
#include <utility>

namespace tromb::cli {

std::string jsonLine(const nlohmann::ordered_json& json) {
  return json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

int exitCode(ErrorCode code) {
  switch (code) {
  case ErrorCode::InvalidArgument:
    return kUsage;
  case ErrorCode::Missing:
  case ErrorCode::Unreadable:
  case ErrorCode::NotMedia:
  case ErrorCode::Unsupported:
  case ErrorCode::ProjectInvalid:
  case ErrorCode::ProjectTooNew:
    return kBadInput;
  case ErrorCode::CannotWrite:
  case ErrorCode::Exists:
    return kBadOutput;
  case ErrorCode::Decoder:
  case ErrorCode::Encoder:
    return kFailedInside;
  case ErrorCode::FallsShort:
    return kFallsShort;
  case ErrorCode::Cancelled:
    return kInterrupted;
  }
  return kFailedInside;
}

std::string cacheFolder(const char* name) {
  const auto set = [](const char* variable) {
    const char* value = std::getenv(variable);
    return value ? std::string(value) : std::string();
  };
  // https://specifications.freedesktop.org/basedir-spec
  std::string cache = set("XDG_CACHE_HOME");
  if (!cache.starts_with('/')) cache = set("HOME").empty() ? std::string() : set("HOME") + "/.cache";
  return cache.empty() ? cache : cache + "/tromb/" + name;
}

ProbeOptions probing(const Context& context) {
  return {context.stop, cacheFolder("indexes")};
}

int Command::failed(Context& context, const Error& error, bool json) {
  if (json) {
    const nlohmann::ordered_json object{
        {"error", {{"code", codeWord(error.code)}, {"message", sentence(error)}, {"path", error.path}}}};
    context.out << object.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) << "\n";
  } else {
    context.err << "tromb-cli: " << sentence(error) << "\n";
  }
  return exitCode(error.code);
}

int runCli(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err, std::stop_token stop) {
  CLI::App app("Delivers horizontal footage in every shape: measures, frames, encodes and proofs without a window.",
               "tromb-cli");
  app.set_version_flag("--version", std::string("tromb-cli ") + TROMB_VERSION);
  app.require_subcommand(1);
  using Maker = std::unique_ptr<Command> (*)(CLI::App&);
  const std::pair<const char*, std::pair<const char*, Maker>> kVerbs[] = {
      {"probe", {"Say what media files are", makeProbe}},
      {"make", {"Write a project from footage and deliverables", makeMake}},
      {"deliver", {"Bring in, split at cuts, frame by what is found, check, export and proof in one go", makeDeliver}},
      {"frame-subjects", {"Look for subjects, and frame the cells that nobody has framed", makeFrameSubjects}},
      {"frame", {"Write one frame of a deliverable as a PNG, as an export would encode it", makeFrame}},
      {"check", {"Say what falls short before an export", makeCheck}},
      {"sample", {"Encode the hardest seconds of a deliverable: what size costs what quality", makeSample}},
      {"export", {"Encode deliverables, all in one pass over the sources", makeExport}},
      {"queue", {"Add, list, run, pause and cancel exports that wait in the user's queue", makeQueue}},
      {"proof", {"Read a finished file back and compare it with what was asked", makeProof}},
      {"compare", {"Say how much the pictures of two files are alike", makeCompare}},
      {"cut", {"Cut parts out of a film and join them, without encoding them again", makeCut}},
      {"hand-over", {"Hand finished files to a folder or a service, and see what becomes of them", makeHandOver}},
      {"service", {"Stand in for a publishing service, on this machine alone", makeService}},
      {"destinations", {"List the destinations", makeDestinations}},
      {"presets", {"List, save, give away and take in presets", makePresets}},
      {"encoders", {"List what this machine can encode", makeEncoders}}};
  std::vector<std::pair<CLI::App*, std::unique_ptr<Command>>> verbs;
  for (const auto& [name, verb] : kVerbs) {
    CLI::App* sub = app.add_subcommand(name, verb.first);
    verbs.emplace_back(sub, verb.second(*sub));
  }
  try {
    std::vector<std::string> reversed(arguments.rbegin(), arguments.rend()); // CLI11 takes them from the back
    app.parse(reversed);
  } catch (const CLI::ParseError& error) {
    const int code = app.exit(error, out, err);
    return code == 0 ? kDone : kUsage;
  }
  Context context{out, err, stop};
  int code = kFailedInside;
  try {
    for (const auto& [sub, command] : verbs)
      if (sub->parsed()) code = command->run(context);
  } catch (const std::bad_alloc&) {
    err << "tromb-cli: memory has run out. Close other programs, and try again.\n";
  } catch (const std::exception& broken) {
    err << "tromb-cli: a fault inside: " << broken.what() << "\n";
  }
  out.flush();
  const bool counts = code == kDone || code == kFallsShort;
  if (!out && counts && !readerHasLeft(STDOUT_FILENO)) { // a reader that has read enough is no error
    err << "tromb-cli: what was to be printed cannot be written. Free some space, or print it elsewhere.\n";
    return kBadOutput;
  }
  return code;
}

} // namespace tromb::cli
