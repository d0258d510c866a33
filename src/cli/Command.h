// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/read/Probe.h"

#include <CLI/CLI.hpp>
#include <iosfwd>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <stop_token>
#include <string>
#include <vector>

namespace tromb::cli {

/// Exit codes, a contract.
enum Exit {
  kDone = 0,
  kFallsShort = 1,
  kUsage = 2,
  kBadInput = 3,
  kBadOutput = 4,
  kFailedInside = 5,
  kInterrupted = 130
};

/// Where a verb writes and when it must stop.
struct Context {
  std::ostream& out; ///< JSON alone
  std::ostream& err; ///< words for people
  std::stop_token stop;
};

/// One verb. Options are declared on construction; run is called once, after parsing.
class Command {
public:
  virtual ~Command() = default;
  [[nodiscard]] virtual int run(Context& context) = 0;

protected:
  /// Reports an error in the form that was asked for and gives its exit code.
  [[nodiscard]] static int failed(Context& context, const Error& error, bool json);
};

[[nodiscard]] int exitCode(ErrorCode code);
/// JSON on one line, whatever bytes its texts hold.
[[nodiscard]] std::string jsonLine(const nlohmann::ordered_json& json);

/// A folder of the user's cache, as the window has it; empty where there is none.
[[nodiscard]] std::string cacheFolder(const char* name);
/// How files are looked at: stopped with the verb, and with indexes kept in the user's cache, as the window does.
[[nodiscard]] ProbeOptions probing(const Context& context);

std::unique_ptr<Command> makeProbe(CLI::App& app);
std::unique_ptr<Command> makeMake(CLI::App& app);
std::unique_ptr<Command> makeFrame(CLI::App& app);
std::unique_ptr<Command> makeCheck(CLI::App& app);
std::unique_ptr<Command> makeExport(CLI::App& app);
std::unique_ptr<Command> makeFrameSubjects(CLI::App& app);
std::unique_ptr<Command> makeDeliver(CLI::App& app);
std::unique_ptr<Command> makeSample(CLI::App& app);
std::unique_ptr<Command> makeProof(CLI::App& app);
std::unique_ptr<Command> makeDestinations(CLI::App& app);
std::unique_ptr<Command> makeEncoders(CLI::App& app);
std::unique_ptr<Command> makePresets(CLI::App& app);
std::unique_ptr<Command> makeQueue(CLI::App& app);
std::unique_ptr<Command> makeCompare(CLI::App& app);
std::unique_ptr<Command> makeCut(CLI::App& app);
std::unique_ptr<Command> makeHandOver(CLI::App& app);
std::unique_ptr<Command> makeService(CLI::App& app);

/// The program without its name: parses, runs the verb, returns the exit code. Never throws.
int runCli(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err, std::stop_token stop = {});

} // namespace tromb::cli
