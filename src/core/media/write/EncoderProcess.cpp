// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/EncoderProcess.h"

#include "media/Av.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>
#include <utility>

extern char** environ;

namespace tromb {
namespace {

constexpr int kPatience = 10'000; ///< milliseconds; encoders answer within a few hundred, drivers load in some seconds
constexpr auto kEndingWait = std::chrono::milliseconds(500);
constexpr auto kLook = std::chrono::milliseconds(5);

/// FFmpeg's options of an object that are not as usual, as one text.
std::string optionsOf(void* object) {
  char* text = nullptr;
  if (av_opt_serialize(object, 0, AV_OPT_SERIALIZE_SKIP_DEFAULTS, &text, '=', ',') < 0) throw std::bad_alloc();
  std::string options = text ? text : "";
  av_free(text);
  return options;
}

/// Starts this program once more, with one end of a channel and nothing else of this process.
int spawned(const Descriptor& end) {
  posix_spawn_file_actions_t files;
  posix_spawn_file_actions_init(&files);
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
    posix_spawn_file_actions_addopen(&files, stream, "/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY, 0);
  posix_spawn_file_actions_adddup2(&files, end.get(), kEncoderChannel);
  const std::array<const char*, 3> arguments{"tromb-encoder", kEncoderArgument, nullptr};
  pid_t process = -1;
  const int refused =
      posix_spawn(&process, "/proc/self/exe", &files, nullptr, const_cast<char**>(arguments.data()), environ);
  posix_spawn_file_actions_destroy(&files);
  errno = refused;
  return refused == 0 ? int(process) : -1;
}

} // namespace

Result<EncoderProcess> EncoderProcess::start(AVCodecContext& set, const std::string& name) {
  const std::string encoder = set.codec->name;
  const auto refused = [&](int code) {
    return fail(ErrorCode::Encoder, say("%1 cannot be started (%2)", encoder, systemMessage(code)), name,
                say("Encode in software"));
  };
  if (!encodersCanBeStarted()) return refused(ENOSYS);
  std::array<int, 2> ends{};
  if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends.data()) != 0) return refused(errno);
  Descriptor ours(ends[0]);
  Descriptor theirs(ends[1]);
  if (theirs.get() == kEncoderChannel) { // must not stay closed in the other process by standing there already
    const int moved = ::fcntl(theirs.get(), F_DUPFD_CLOEXEC, kEncoderChannel + 1);
    if (moved < 0) return refused(errno);
    theirs = Descriptor(moved);
  }
  const int process = spawned(theirs);
  if (process < 0) return refused(errno);
  (void)theirs.close();
  EncoderProcess started(EncoderChannel(std::move(ours), kPatience), process, encoder, name);
  std::string setup = encoder + '\0' + optionsOf(&set) + '\0';
  setup += optionsOf(set.priv_data) + '\0';
  if (!started.m_channel.send(EncoderChannel::Kind::Setup, setup)) return started.lost();
  auto opened = started.m_channel.receive();
  if (!opened) return started.lost();
  if (opened->kind == EncoderChannel::Kind::Failed)
    return started.failed(verbatim(opened->bytes), ErrorCode::Unsupported);
  EncoderChannel::Facts facts{};
  std::string_view headers = opened->bytes;
  if (opened->kind != EncoderChannel::Kind::Opened || !takePlain(headers, facts)) return started.lost();
  set.has_b_frames = facts.delay;
  set.profile = facts.profile;
  set.level = facts.level;
  set.extradata = static_cast<uint8_t*>(av::allocated(av_mallocz(headers.size() + AV_INPUT_BUFFER_PADDING_SIZE)));
  headers.copy(reinterpret_cast<char*>(set.extradata), headers.size());
  set.extradata_size = int(headers.size());
  return started;
}

EncoderProcess::EncoderProcess(EncoderProcess&& other) noexcept
    : m_channel(std::move(other.m_channel)), m_process(std::exchange(other.m_process, -1)),
      m_encoder(std::move(other.m_encoder)), m_name(std::move(other.m_name)) {}

EncoderProcess& EncoderProcess::operator=(EncoderProcess&& other) noexcept {
  std::swap(m_channel, other.m_channel);
  std::swap(m_process, other.m_process);
  std::swap(m_encoder, other.m_encoder);
  std::swap(m_name, other.m_name);
  return *this;
}

EncoderProcess::~EncoderProcess() {
  end(false);
}

int EncoderProcess::end(bool byItself) {
  if (m_process < 0) return 0;
  const pid_t process = std::exchange(m_process, -1);
  const auto last = std::chrono::steady_clock::now() + kEndingWait;
  int status = 0;
  pid_t ended = 0;
  while ((ended = ::waitpid(process, &status, WNOHANG)) == 0 && byItself && std::chrono::steady_clock::now() < last)
    std::this_thread::sleep_for(kLook);
  if (ended == process) return WIFSIGNALED(status) ? WTERMSIG(status) : 0;
  ::kill(process, SIGKILL);
  // What waits inside a driver cannot be ended even so, and is not waited for.
  const auto patience = std::chrono::steady_clock::now() + kEndingWait;
  while (::waitpid(process, &status, WNOHANG) == 0 && std::chrono::steady_clock::now() < patience)
    std::this_thread::sleep_for(kLook);
  return 0;
}

tl::unexpected<Error> EncoderProcess::failed(const Message& how, ErrorCode code) const {
  return fail(code, say("%1 failed: %2", m_encoder, how), m_name, say("Encode in software"));
}

tl::unexpected<Error> EncoderProcess::lost() {
  if (m_channel.silent()) {
    end(false);
    return failed(say("it does not answer"));
  }
  const int signal = end(true);
  return signal == 0 ? failed(say("it ended"))
                     : failed(say("it has crashed (%1)", sigabbrev_np(signal) ? sigabbrev_np(signal) : "?"));
}

Status EncoderProcess::answer(const Take& take) {
  for (;;) {
    auto got = m_channel.receive();
    if (!got) return lost();
    std::string_view bytes = got->bytes;
    switch (got->kind) {
    case EncoderChannel::Kind::Answered:
      return {};
    case EncoderChannel::Kind::Failed:
      return failed(verbatim(got->bytes), ErrorCode::Unsupported);
    case EncoderChannel::Kind::Packet: {
      EncoderChannel::Stamp stamp{};
      if (!takePlain(bytes, stamp)) return lost();
      av::PacketPtr packet(av::allocated(av_packet_alloc()));
      if (av_new_packet(packet.get(), int(bytes.size())) < 0) throw std::bad_alloc();
      bytes.copy(reinterpret_cast<char*>(packet->data), bytes.size());
      packet->pts = stamp.shown;
      packet->dts = stamp.decoded;
      packet->flags = stamp.flags;
      if (const Status taken = take(*packet); !taken) return taken;
      break;
    }
    default:
      return lost();
    }
  }
}

Status EncoderProcess::add(const AVFrame& picture, const Take& take) {
  const auto format = AVPixelFormat(picture.format);
  const int bytes = av_image_get_buffer_size(format, picture.width, picture.height, 1);
  std::string samples(size_t(std::max(bytes, 0)), '\0');
  if (bytes <= 0 || av_image_copy_to_buffer(reinterpret_cast<uint8_t*>(samples.data()), bytes, picture.data,
                                            picture.linesize, format, picture.width, picture.height, 1) < 0)
    return failed(say("it takes no such pictures"));
  const EncoderChannel::Stamp stamp{picture.pts, 0, 0};
  if (!m_channel.send(EncoderChannel::Kind::Picture, bytesOf(stamp), samples)) return lost();
  return answer(take);
}

Status EncoderProcess::finish(const Take& take) {
  if (!m_channel.send(EncoderChannel::Kind::Finish, {})) return lost();
  return answer(take);
}

} // namespace tromb
