// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "time/FrameClock.h"

#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace tromb {

/// Where pictures and sound lie in a file whose container does not say it completely: made once by reading all its
/// packets, in the order in which they stand in the file, and kept by the file's fingerprint. Stamps are in ticks of
/// the stream they belong to. Value; read from any number of threads.
struct FileIndex {
  static constexpr int64_t kNoStamp = INT64_MIN; ///< a packet tells no time

  /// A picture at which decoding can begin.
  struct Key {
    int64_t number = 0;       ///< The number of the picture in order of presentation.
    int64_t packet = 0;       ///< The number of its packet in order of decoding.
    int64_t stamp = kNoStamp; ///< The time stamp as the file has it.
    int64_t decodes = kNoStamp;
    int64_t position = -1; ///< first byte of the packet, or of a larger one that it lies in; −1 where the format does
                           ///< not tell
    friend bool operator==(const Key&, const Key&) = default;
  };
  /// From this byte on the file's clock is another; `shift` is added to all stamps, so that time goes on evenly.
  struct Jump {
    int64_t position = 0;
    int64_t shift = 0;
    friend bool operator==(const Jump&, const Jump&) = default;
  };
  /// A place at which a stream's sound can be entered.
  struct Mark {
    int64_t stamp = 0; ///< with its jump's shift
    int64_t position = 0;
    friend bool operator==(const Mark&, const Mark&) = default;
  };
  struct Sound {
    int stream = 0;
    int64_t first = 0; ///< stamp of the first packet
    int64_t end = 0;   ///< where the last one ends
    std::vector<Mark> marks;
    friend bool operator==(const Sound&, const Sound&) = default;
  };

  int pictureStream = -1; ///< −1: the file has sound alone
  int64_t firstStamp = 0; ///< The time stamp of picture 0, with the shift of its jump.
  FrameClock clock;
  std::vector<Key> keys; ///< ascending numbers
  /// Only where packets tell no presentation time: the picture that each packet holds, −1 where it holds none, and the
  /// stamp that was made for each picture.
  std::vector<int32_t> pictureOfPacket;
  std::vector<int64_t> stampOfPicture;
  std::vector<Jump> jumps; ///< ascending positions
  int64_t backward = 0;    ///< packets of pictures whose time of decoding lies before that of the one before them
  std::vector<Sound> sounds;

  [[nodiscard]] bool untimed() const { return !pictureOfPacket.empty(); }
  /// What is added to the stamps of a packet at this byte.
  [[nodiscard]] int64_t shiftAt(int64_t position) const;
  /// Returns the last key whose number is at most `number`. Returns null if there is none.
  [[nodiscard]] const Key* keyBefore(int64_t number) const;
  [[nodiscard]] const Sound* soundOf(int stream) const;
};

/// Reads all packets of a file, and as much of its pictures as is needed to tell them apart: the first one, and all of
/// them where packets tell no time. `pictureStream` is −1 for sound alone. Errors: Unreadable, NotMedia (no picture can
/// be decoded), Cancelled. Thread-safe.
[[nodiscard]] Result<FileIndex> buildIndex(const std::string& path, int pictureStream, std::stop_token stop = {});

/// Keeps indexes by the files' fingerprints in a folder of its own: a cache, which may be emptied at any time. Damaged
/// entries count as absent. Thread-safe for different fingerprints.
class IndexStore {
public:
  explicit IndexStore(std::string folder) : m_folder(std::move(folder)) {} ///< empty: nothing is kept
  [[nodiscard]] std::optional<FileIndex> find(const std::string& fingerprint, int pictureStream) const;
  void keep(const std::string& fingerprint, const FileIndex& index) const; ///< best effort

private:
  [[nodiscard]] std::string pathOf(const std::string& fingerprint, int pictureStream) const;
  std::string m_folder;
};

} // namespace tromb
