// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "queue/JobRun.h"

namespace tromb {

/// Does the jobs of a queue in their order until none waits, as many side by side as processors and memory are idle
/// for. One process does so at a time. What a process that was killed has left is taken up. A stop ends it soon; what
/// was under way waits then. Returns how many jobs ended while it ran. Errors: Exists (another process does so).
[[nodiscard]] Result<int> runQueue(const Queue& queue, const RunnerSettings& settings, const std::stop_token& stop,
                                   const std::function<void(const QueuedJob&)>& onEnded = {});

/// Starts a process of its own that runs the user's queue until none waits, unless one does already; it outlives this
/// one. It is `tromb-cli queue run`, of the program that lies beside this one. Errors: Missing (there is none),
/// Unsupported (the system starts no process). Thread-safe.
[[nodiscard]] Status startRunner(const Queue& queue);

/// Returns true while a process runs the queue.
[[nodiscard]] bool isRun(const Queue& queue);

} // namespace tromb
