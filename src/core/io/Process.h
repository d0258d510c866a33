// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <string>
#include <vector>

namespace tromb {

/// For the beginning of `main`, before any file is opened: standard streams that are closed become /dev/null, so that
/// no file of ours takes their number and with it what is printed; a closed pipe and a limit to the size of files are
/// errors of the writing that meets them, not the end of the process.
void prepareProcess();

/// Whether a descriptor that is written to leads to a pipe or a socket that nobody reads any more: `| head -1` has its
/// line and is gone. Thread-safe.
[[nodiscard]] bool readerHasLeft(int descriptor);

/// Starts a program that outlives this one: in a session of its own, without its terminal and its open files, and not
/// as a child that would have to be waited for. Done by setsid(1). Errors: Unsupported, where nothing can be started.
/// Thread-safe.
[[nodiscard]] Status startApart(const std::string& program, const std::vector<std::string>& arguments);

/// What a program has said when it ended.
struct ProgramOutput {
  int exitCode = 0; ///< that of timeout(1) where it took too long: 124; 127 where there is no such program
  std::string text; ///< of both its standard streams, up to a megabyte
};
/// Runs a program and waits for it, `seconds` at the most. It finds nothing to read. Errors: Unsupported, where nothing
/// can be started. Thread-safe.
[[nodiscard]] Result<ProgramOutput> runProgram(std::vector<std::string> words, int seconds);

} // namespace tromb
