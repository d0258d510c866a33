// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Process.h"

#include "io/Descriptor.h"

#include <cerrno>
#include <csignal>
#include <fcntl.h>
#include <initializer_list>
#include <poll.h>
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

bool readerHasLeft(int descriptor) {
  pollfd end{descriptor, POLLOUT, 0};
  return ::poll(&end, 1, 0) > 0 && (end.revents & (POLLERR | POLLHUP)) != 0;
}

namespace {

/// Starts a program by its name, without the signals that this one has masked. Returns a code of the system.
int started(std::vector<std::string> words, const posix_spawn_file_actions_t& files, pid_t& process) {
  std::vector<char*> given;
  for (std::string& word : words) given.push_back(word.data());
  given.push_back(nullptr);
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  sigset_t none;
  sigemptyset(&none);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
  const int code = posix_spawnp(&process, given[0], &files, &attributes, given.data(), environ);
  posix_spawnattr_destroy(&attributes);
  return code;
}

int waitedFor(pid_t process) {
  int status = 0;
  while (::waitpid(process, &status, 0) < 0 && errno == EINTR) {
  }
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

tl::unexpected<Error> cannotStart(int code, const std::string& program) {
  return fail(ErrorCode::Unsupported, say("no process can be started (%1)", systemMessage(code)), program,
              say("Close other programs, and try again"));
}

} // namespace

Status startApart(const std::string& program, const std::vector<std::string>& arguments) {
  std::vector<std::string> words{"setsid", "--fork", program};
  words.insert(words.end(), arguments.begin(), arguments.end());
  posix_spawn_file_actions_t files;
  posix_spawn_file_actions_init(&files);
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
    posix_spawn_file_actions_addopen(&files, stream, "/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY, 0);
  pid_t process = -1;
  int code = started(std::move(words), files, process);
  posix_spawn_file_actions_destroy(&files);
  if (code == 0 && waitedFor(process) != 0) code = ENOEXEC;
  return code == 0 ? Status() : cannotStart(code, program);
}

Result<ProgramOutput> runProgram(std::vector<std::string> words, int seconds) {
  const std::string program = words.empty() ? std::string() : words.front();
  words.insert(words.begin(), {"timeout", std::to_string(seconds)});
  int ends[2];
  if (::pipe2(ends, O_CLOEXEC) != 0) return cannotStart(errno, program);
  Descriptor from(ends[0]);
  Descriptor to(ends[1]);
  posix_spawn_file_actions_t files;
  posix_spawn_file_actions_init(&files);
  posix_spawn_file_actions_addopen(&files, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
  for (const int stream : {STDOUT_FILENO, STDERR_FILENO}) posix_spawn_file_actions_adddup2(&files, to.get(), stream);
  pid_t process = -1;
  const int code = started(std::move(words), files, process);
  posix_spawn_file_actions_destroy(&files);
  if (code != 0) return cannotStart(code, program);
  to = Descriptor();
  ProgramOutput output;
  constexpr size_t kMostText = 1 << 20;
  char piece[4096];
  for (;;) {
    const ssize_t got = ::read(from.get(), piece, sizeof piece);
    if (got < 0 && errno == EINTR) continue;
    if (got <= 0) break;
    if (output.text.size() < kMostText) output.text.append(piece, size_t(got));
  }
  output.exitCode = waitedFor(process);
  return output;
}

} // namespace tromb
