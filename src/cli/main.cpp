// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "destination/Destination.h"
#include "io/DataFolder.h"
#include "io/Process.h"
#include "media/write/EncoderProcess.h"

#include <csignal>
#include <ctime>
#include <iostream>
#include <pthread.h>
#include <thread>

int main(int argc, char** argv) {
  // SIGINT and SIGTERM are taken by a thread of their own and become a stop request for the verb.
  sigset_t signals;
  sigemptyset(&signals);
  sigaddset(&signals, SIGINT);
  sigaddset(&signals, SIGTERM);
  pthread_sigmask(SIG_BLOCK, &signals, nullptr);
  tromb::prepareProcess();
  if (const auto worked = tromb::workAsEncoder(argc, argv)) return *worked;
  tromb::useOwnDestinations(tromb::ownDataFolder() + "/destinations");
  try {
    std::stop_source stop;
    const std::jthread listener([&](const std::stop_token& end) {
      const timespec slice{0, 50'000'000};
      while (!end.stop_requested())
        if (sigtimedwait(&signals, nullptr, &slice) > 0) stop.request_stop();
    });
    return tromb::cli::runCli({argv + 1, argv + argc}, std::cout, std::cerr, stop.get_token());
  } catch (const std::exception&) { // verbs catch their own exceptions, so this one came before any verb ran
    std::cerr << "tromb-cli: there is no memory, or no thread, to begin with. Close other programs, and try again.\n";
    return tromb::cli::kFailedInside;
  }
}
