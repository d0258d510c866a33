// SPDX-License-Identifier: GPL-3.0-or-later
#include "handover/FolderDevice.h"

#include "encoding/Encoding.h"
#include "io/Descriptor.h"
#include "io/Digest.h"
#include "io/FreeSpace.h"
#include "io/PartFile.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <filesystem>
#include <vector>

namespace tromb {
namespace {

namespace fs = std::filesystem;

constexpr size_t kChunk = 1 << 20;
constexpr int kMostNumbers = 10'000;
constexpr double kCopyShare = 0.5; ///< of the whole: reading back takes about as long as copying

tl::unexpected<Error> cannotRead(const std::string& path) {
  return fail(ErrorCode::Unreadable, say("it cannot be read (%1)", systemMessage(errno)), path);
}
tl::unexpected<Error> stopped() {
  return fail(ErrorCode::Cancelled, say("the hand-over was stopped"));
}

/// Reads a file from its beginning in chunks.
class ChunkReader {
public:
  ChunkReader(const Descriptor& file, const std::string& path) : m_file(file), m_path(path), m_bytes(kChunk) {}
  /// What comes next; empty at the end.
  Result<std::string_view> next() {
    const ptrdiff_t got = readAt(m_file, m_at, m_bytes.data(), m_bytes.size());
    if (got < 0) return cannotRead(m_path);
    m_at += got;
    return std::string_view(m_bytes.data(), size_t(got));
  }

private:
  const Descriptor& m_file;
  const std::string& m_path;
  std::vector<char> m_bytes;
  int64_t m_at = 0;
};

/// How a file differs from another: nothing where it does not.
Result<std::optional<Message>> difference(const Descriptor& sent, const std::string& sentPath, const Descriptor& there,
                                          const std::string& therePath, const std::function<void(double)>& onFraction,
                                          const std::stop_token& stop) {
  const int64_t bytes = sizeOf(sent);
  const int64_t arrived = sizeOf(there);
  if (arrived < bytes)
    return std::optional(sayCounted("it arrived %n bytes shorter than it was sent",
                                    "it arrived one byte shorter than it was sent", bytes - arrived));
  if (arrived > bytes)
    return std::optional(sayCounted("it arrived %n bytes longer than it was sent",
                                    "it arrived one byte longer than it was sent", arrived - bytes));
  ChunkReader one(sent, sentPath);
  ChunkReader other(there, therePath);
  for (int64_t at = 0; at < bytes;) {
    if (stop.stop_requested()) return stopped();
    const auto a = one.next();
    if (!a) return tl::unexpected(a.error());
    const auto b = other.next();
    if (!b) return tl::unexpected(b.error());
    const auto [first, second] = std::mismatch(a->begin(), a->end(), b->begin(), b->end());
    if (first != a->end() || second != b->end())
      return std::optional(say("something on the way has changed it, from byte %1 on", at + (first - a->begin())));
    at += int64_t(a->size());
    if (a->empty()) break;
    if (onFraction) onFraction(double(at) / double(bytes));
  }
  return std::optional<Message>();
}

} // namespace

Result<std::string> digestOf(const std::string& path, const std::stop_token& stop) {
  const auto file = openToRead(path);
  if (!file) return tl::unexpected(file.error());
  ChunkReader reader(*file, path);
  Digest digest;
  for (;;) {
    if (stop.stop_requested()) return stopped();
    const auto chunk = reader.next();
    if (!chunk) return tl::unexpected(chunk.error());
    if (chunk->empty()) return digest.hex();
    digest.add(chunk->data(), chunk->size());
  }
}

Result<HandedFile> handToFolder(const FolderHandOver& request, const std::stop_token& stop) {
  const auto sent = openToRead(request.path);
  if (!sent) return tl::unexpected(sent.error());
  const std::string identity = identityOf(*sent);
  HandedFile made;
  made.bytes = sizeOf(*sent);
  std::error_code none;
  if (!fs::is_directory(request.folder, none))
    return fail(ErrorCode::CannotWrite, say("there is no such folder"), request.folder,
                say("Plug the device in, or choose another folder"));
  // A name that is free, or under which the very same file lies.
  const fs::path name = fs::path(request.path).filename();
  fs::path target = fs::path(request.folder) / name;
  for (int number = 2; fs::exists(target, none) && number < kMostNumbers; ++number) {
    const auto there = openToRead(target.string());
    if (there) {
      const auto differs = difference(*sent, request.path, *there, target.string(), {}, stop);
      if (!differs) return tl::unexpected(differs.error());
      if (!*differs) {
        made.wasThere = true;
        break;
      }
    }
    target = fs::path(request.folder) /
             (name.stem().string() + " (" + std::to_string(number) + ")" + name.extension().string());
  }
  made.path = target.string();
  const auto fraction = [&](double begin, double share) {
    return [&request, begin, share](double done) {
      if (request.onFraction) request.onFraction(begin + share * done);
    };
  };
  if (!made.wasThere) {
    const auto room = freeBytes(request.folder);
    if (room && *room < made.bytes)
      return fail(ErrorCode::CannotWrite,
                  say("there is too little room: %1 are missing", bytesText(made.bytes - *room)), request.folder,
                  say("Make room on the device, or choose another"));
    auto part = PartFile::create(made.path, PartFile::Busy::Refuse, stop);
    if (!part) return tl::unexpected(part.error());
    ChunkReader reader(*sent, request.path);
    const auto tell = fraction(0, kCopyShare);
    for (int64_t done = 0;;) {
      if (stop.stop_requested()) return stopped();
      const auto chunk = reader.next();
      if (!chunk) return tl::unexpected(chunk.error());
      if (chunk->empty()) break;
      if (!writeAll(part->file(), chunk->data(), chunk->size())) return cannotWrite(made.path, errno);
      done += int64_t(chunk->size());
      tell(double(done) / double(std::max<int64_t>(1, made.bytes)));
    }
    if (const Status named = part->takeFinalName(false); !named) return tl::unexpected(named.error());
    if (request.whenArrived) request.whenArrived(made.path);
  }
  // Read from the device and not from what the system still remembers of it.
  const auto there = openToRead(made.path);
  if (!there) return tl::unexpected(there.error());
  (void)::posix_fadvise(there->get(), 0, 0, POSIX_FADV_DONTNEED);
  const auto differs = difference(*sent, request.path, *there, made.path, fraction(kCopyShare, 1 - kCopyShare), stop);
  if (!differs) return tl::unexpected(differs.error());
  if (identityOf(request.path) != identity)
    return fail(ErrorCode::Unreadable, say("the file was changed while it was handed over"), request.path,
                say("Hand it over again when nobody writes to it any more"));
  if (*differs)
    return fail(ErrorCode::FallsShort, **differs, made.path,
                say("Hand it over another way: this one does not leave files as they are"));
  auto digest = digestOf(request.path, stop);
  if (!digest) return tl::unexpected(digest.error());
  made.digest = std::move(*digest);
  made.freeBytes = freeBytes(request.folder);
  return made;
}

} // namespace tromb
