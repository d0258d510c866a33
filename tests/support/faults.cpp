// SPDX-License-Identifier: GPL-3.0-or-later
// A library that is loaded before all others and makes one call on a folder's files fail, or ends the process there.
// Told by the environment: TROMB_FAULT_FOLDER, the folder; TROMB_FAULT, "CALLS:N:HOW" with calls open, read, write,
// sync or rename, the number of the first that fails, and an errno's number, "short" (half is read or written) or
// "kill"; TROMB_FAULT_HIT, a file that is made when it happens. With calls "memory" it is what the program itself, not
// one of its libraries, asks FFmpeg to allocate; with "encoder", what it asks FFmpeg for by its name.
#include <atomic>
#include <cerrno>
#include <climits>
#include <csignal>
#include <cstdarg>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fcntl.h>
#include <string>
#include <sys/stat.h>
#include <sys/types.h>
#include <unistd.h>

namespace {

constexpr int kShort = -1;
constexpr int kKill = -2;

struct Fault {
  std::string folder;
  std::string calls;
  long nth = 0;
  int how = 0;
  std::string hit;
};

const Fault& fault() {
  static const Fault told = [] {
    Fault f;
    const char* folder = std::getenv("TROMB_FAULT_FOLDER");
    const char* what = std::getenv("TROMB_FAULT");
    const char* hit = std::getenv("TROMB_FAULT_HIT");
    if (!folder || !what || !hit) return f;
    const std::string text = what;
    const size_t first = text.find(':');
    const size_t second = text.find(':', first + 1);
    f.folder = folder;
    f.calls = text.substr(0, first);
    f.nth = std::atol(text.c_str() + first + 1);
    const std::string how = text.substr(second + 1);
    f.how = how == "short" ? kShort : how == "kill" ? kKill : std::atoi(how.c_str());
    f.hit = hit;
    return f;
  }();
  return told;
}

template <typename Call> Call real(const char* name) {
  return reinterpret_cast<Call>(dlsym(RTLD_NEXT, name));
}

/// Not what locks the toolkit's settings: where a program dies while that is written, the next one takes half a minute
/// to see that nobody holds it.
bool inside(const char* path) {
  return std::strncmp(path, fault().folder.c_str(), fault().folder.size()) == 0 && !std::strstr(path, ".conf.lock");
}

bool inside(int descriptor) {
  char link[PATH_MAX] = {};
  const std::string name = "/proc/self/fd/" + std::to_string(descriptor);
  return ::readlink(name.c_str(), link, sizeof link - 1) > 0 && inside(link);
}

bool inside(int folder, const char* path) {
  return path[0] == '/' || folder == AT_FDCWD ? inside(path) : inside(folder);
}

/// 0, or how this call fails. From the chosen one on all do, as on a full disk.
int failing(const char* calls, bool there) {
  static std::atomic<long> count{0};
  const Fault& f = fault();
  if (f.nth == 0 || !there || f.calls != calls || ++count < f.nth) return 0;
  const int saved = errno;
  const int told = real<int (*)(const char*, int, ...)>("open")(f.hit.c_str(), O_WRONLY | O_CREAT, 0600);
  if (told >= 0) ::close(told);
  errno = saved;
  if (f.how == kKill) ::raise(SIGKILL);
  return f.how;
}

bool fails(const char* calls, bool there) {
  const int how = failing(calls, there);
  if (how <= 0) return false;
  errno = how;
  return true;
}

/// How much of `count` is done; −1 where it fails.
ssize_t allowed(const char* calls, bool there, size_t count) {
  const int how = failing(calls, there);
  if (how == kShort) return ssize_t(count > 1 ? count / 2 : count);
  if (how == 0) return ssize_t(count);
  errno = how;
  return -1;
}

/// True where an allocation fails that was asked for from here.
bool refused(const void* caller) {
  Dl_info from{};
  static const std::string program = [] {
    char path[PATH_MAX] = {};
    return ::readlink("/proc/self/exe", path, sizeof path - 1) > 0 ? std::string(path) : std::string();
  }();
  if (fault().calls != "memory" || !dladdr(caller, &from) || !from.dli_fname || program != from.dli_fname) return false;
  return fails("memory", true);
}

} // namespace

extern "C" {

struct AVCodec;
const AVCodec* avcodec_find_encoder_by_name(const char* name) {
  return fails("encoder", true) ? nullptr : real<const AVCodec* (*)(const char*)>("avcodec_find_encoder_by_name")(name);
}

int open(const char* path, int flags, ...) {
  va_list more;
  va_start(more, flags);
  const mode_t mode = flags & (O_CREAT | __O_TMPFILE) ? va_arg(more, mode_t) : 0;
  va_end(more);
  return fails("open", inside(path)) ? -1 : real<int (*)(const char*, int, ...)>("open")(path, flags, mode);
}
int openat(int folder, const char* path, int flags, ...) {
  va_list more;
  va_start(more, flags);
  const mode_t mode = flags & (O_CREAT | __O_TMPFILE) ? va_arg(more, mode_t) : 0;
  va_end(more);
  return fails("open", inside(folder, path))
             ? -1
             : real<int (*)(int, const char*, int, ...)>("openat")(folder, path, flags, mode);
}
ssize_t read(int file, void* bytes, size_t count) {
  const ssize_t most = fault().calls == "read" ? allowed("read", inside(file), count) : ssize_t(count);
  return most < 0 ? -1 : real<ssize_t (*)(int, void*, size_t)>("read")(file, bytes, size_t(most));
}
ssize_t pread(int file, void* bytes, size_t count, off_t at) {
  const ssize_t most = fault().calls == "read" ? allowed("read", inside(file), count) : ssize_t(count);
  return most < 0 ? -1 : real<ssize_t (*)(int, void*, size_t, off_t)>("pread")(file, bytes, size_t(most), at);
}
ssize_t write(int file, const void* bytes, size_t count) {
  const ssize_t most = fault().calls == "write" ? allowed("write", inside(file), count) : ssize_t(count);
  return most < 0 ? -1 : real<ssize_t (*)(int, const void*, size_t)>("write")(file, bytes, size_t(most));
}
ssize_t pwrite(int file, const void* bytes, size_t count, off_t at) {
  const ssize_t most = fault().calls == "write" ? allowed("write", inside(file), count) : ssize_t(count);
  return most < 0 ? -1 : real<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite")(file, bytes, size_t(most), at);
}
int fsync(int file) {
  return fails("sync", inside(file)) ? -1 : real<int (*)(int)>("fsync")(file);
}
int rename(const char* from, const char* to) {
  return fails("rename", inside(to)) ? -1 : real<int (*)(const char*, const char*)>("rename")(from, to);
}
int renameat(int folder, const char* from, int other, const char* to) {
  return fails("rename", inside(other, to))
             ? -1
             : real<int (*)(int, const char*, int, const char*)>("renameat")(folder, from, other, to);
}
int renameat2(int folder, const char* from, int other, const char* to, unsigned flags) {
  return fails("rename", inside(other, to))
             ? -1
             : real<int (*)(int, const char*, int, const char*, unsigned)>("renameat2")(folder, from, other, to, flags);
}
int linkat(int folder, const char* from, int other, const char* to, int flags) {
  return fails("rename", inside(other, to))
             ? -1
             : real<int (*)(int, const char*, int, const char*, int)>("linkat")(folder, from, other, to, flags);
}

// What FFmpeg allocates for the program.
#define TROMB_ALLOCATES(result, name, parameters, arguments)                                                           \
  result* name parameters {                                                                                            \
    return refused(__builtin_return_address(0)) ? nullptr : real<result*(*)parameters>(#name) arguments;               \
  }
TROMB_ALLOCATES(void, av_packet_alloc, (), ())
TROMB_ALLOCATES(void, av_frame_alloc, (), ())
TROMB_ALLOCATES(void, av_frame_clone, (const void* frame), (frame))
TROMB_ALLOCATES(void, avcodec_alloc_context3, (const void* codec), (codec))
TROMB_ALLOCATES(void, avformat_new_stream, (void* format, const void* codec), (format, codec))
TROMB_ALLOCATES(void, avformat_alloc_context, (), ())
TROMB_ALLOCATES(void, av_buffer_pool_init, (size_t size, void* make), (size, make))
TROMB_ALLOCATES(void, av_buffer_pool_get, (void* pool), (pool))

// Here a file's offset always has 64 bits: the same under their other names.
int open64(const char* path, int flags, ...) __attribute__((alias("open")));
ssize_t pread64(int file, void* bytes, size_t count, off_t at) __attribute__((alias("pread")));
ssize_t pwrite64(int file, const void* bytes, size_t count, off_t at) __attribute__((alias("pwrite")));
}
