// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Process.h"

#include <cerrno>
#include <csignal>
#include <fcntl.h>
#include <initializer_list>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

namespace tromb {

void prepareProcess() {
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
    if (::fcntl(stream, F_GETFD) < 0 && errno == EBADF)
      (void)::open("/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY); // the lowest number that is free
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
}

Status startApart(const std::string& program, const std::vector<std::string>& arguments) {
  std::vector<std::string> words{"setsid", "--fork", program};
  words.insert(words.end(), arguments.begin(), arguments.end());
  std::vector<char*> given;
  for (std::string& word : words) given.push_back(word.data());
  given.push_back(nullptr);
  posix_spawn_file_actions_t files;
  posix_spawn_file_actions_init(&files);
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
    posix_spawn_file_actions_addopen(&files, stream, "/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY, 0);
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  sigset_t none;
  sigemptyset(&none);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
  pid_t process = -1;
  int code = posix_spawnp(&process, given[0], &files, &attributes, given.data(), environ);
  posix_spawnattr_destroy(&attributes);
  posix_spawn_file_actions_destroy(&files);
  int status = 0;
  if (code == 0) {
    while (::waitpid(process, &status, 0) < 0 && errno == EINTR) {
    }
    if (!WIFEXITED(status) || WEXITSTATUS(status) != 0) code = ENOEXEC;
  }
  if (code == 0) return {};
  return fail(ErrorCode::Unsupported, say("no process can be started (%1)", systemMessage(code)), program,
              say("Close other programs, and try again"));
}

} // namespace tromb
