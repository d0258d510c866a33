// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Process.h"

#include <cerrno>
#include <csignal>
#include <fcntl.h>
#include <initializer_list>
#include <unistd.h>

namespace tromb {

void prepareProcess() {
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
    if (::fcntl(stream, F_GETFD) < 0 && errno == EBADF)
      (void)::open("/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY); // the lowest number that is free
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
}

} // namespace tromb
