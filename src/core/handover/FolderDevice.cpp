// SPDX-License-Identifier: GPL-3.0-or-later
#include "handover/FolderDevice.h"

#include "encoding/Encoding.h"
#include "io/ByteCopy.h"
#include "io/Digest.h"
#include "io/FreeSpace.h"
#include "io/PartFile.h"
#include "project/FileName.h"

#include <algorithm>
#include <filesystem>

namespace tromb {
namespace {

namespace fs = std::filesystem;

constexpr int kMostNumbers = 10'000;
constexpr double kCopyShare = 0.5; ///< of the whole: reading back takes about as long as copying

tl::unexpected<Error> ended(const Error& error) {
  if (error.code != ErrorCode::Cancelled) return tl::unexpected(error);
  return fail(ErrorCode::Cancelled, say("the hand-over was stopped"));
}

/// What something on the way has done to a file that differs from a byte on.
Message changeWords(int64_t from, int64_t sent, int64_t arrived) {
  if (arrived < sent)
    return sayCounted("it arrived %n bytes shorter than it was sent", "it arrived one byte shorter than it was sent",
                      sent - arrived);
  if (arrived > sent)
    return sayCounted("it arrived %n bytes longer than it was sent", "it arrived one byte longer than it was sent",
                      arrived - sent);
  return say("something on the way has changed it, from byte %1 on", from);
}

} // namespace

Result<std::string> digestOf(const std::string& path, const std::stop_token& stop) {
  const auto file = openToRead(path);
  if (!file) return tl::unexpected(file.error());
  Digest digest;
  const Status read = readBytes(
      {*file, path}, [&](std::string_view bytes) { digest.add(bytes.data(), bytes.size()); }, stop);
  if (!read) return ended(read.error());
  return digest.hex();
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
  // Tells how much of the file is done, and keeps its digest where it is read to the end.
  std::optional<Digest> digest;
  const auto follow = [&](double begin, bool digests) {
    return [&, begin, digests, done = int64_t(0)](std::string_view bytes) mutable {
      if (digests) digest->add(bytes.data(), bytes.size());
      done += int64_t(bytes.size());
      if (request.onFraction)
        request.onFraction(begin + (1 - kCopyShare) * double(done) / double(std::max<int64_t>(1, made.bytes)));
    };
  };
  // A name that is free, or under which the very same file lies.
  const std::string wanted = (fs::path(request.folder) / fs::path(request.path).filename()).string();
  made.path = wanted;
  for (int number = 2; fs::exists(made.path, none) && number < kMostNumbers; ++number) {
    if (const auto there = openToRead(made.path); there && sizeOf(*there) == made.bytes) {
      digest.emplace();
      const auto differs = firstDifference({*sent, request.path}, {*there, made.path}, follow(kCopyShare, true), stop);
      if (!differs) return ended(differs.error());
      made.wasThere = !*differs;
      if (made.wasThere) break;
    }
    made.path = numberedPath(wanted, number);
  }
  if (!made.wasThere) {
    const auto room = freeBytes(request.folder);
    if (room && *room < made.bytes)
      return fail(ErrorCode::CannotWrite,
                  say("there is too little room: %1 are missing", bytesText(made.bytes - *room)), request.folder,
                  say("Make room on the device, or choose another"));
    auto part = PartFile::create(made.path, PartFile::Busy::Refuse, stop);
    if (!part) return tl::unexpected(part.error());
    if (const Status copied = copyBytes({*sent, request.path}, {part->file(), made.path}, follow(0, false), stop);
        !copied)
      return ended(copied.error());
    if (const Status named = part->takeFinalName(false); !named) return tl::unexpected(named.error());
    if (request.whenArrived) request.whenArrived(made.path);
    const auto there = openToRead(made.path);
    if (!there) return tl::unexpected(there.error());
    digest.emplace();
    const auto differs = firstDifference({*sent, request.path}, {*there, made.path}, follow(kCopyShare, true), stop);
    if (!differs) return ended(differs.error());
    if (*differs && identityOf(request.path) == identity)
      return fail(ErrorCode::FallsShort, changeWords(**differs, made.bytes, sizeOf(*there)), made.path,
                  say("Hand it over another way: this one does not leave files as they are"));
  }
  if (identityOf(request.path) != identity)
    return fail(ErrorCode::Unreadable, say("the file was changed while it was handed over"), request.path,
                say("Hand it over again when nobody writes to it any more"));
  made.digest = digest->hex();
  made.freeBytes = freeBytes(request.folder);
  return made;
}

} // namespace tromb
