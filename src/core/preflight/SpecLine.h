// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "project/Project.h"

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

/// What mends something: a change of a deliverable, or of a shot.
struct Fix {
  Message words; ///< for its button: "Use 1080×1920"
  std::function<void(Deliverable&)> change = {};
  std::function<void(Shot&)> changeShot = {};
  std::function<void(std::vector<SoundBed>&)> changeBeds = {}; ///< of the whole project
};

/// How a line of a specification stands: it only tells something; what it is about holds; holds with little to spare;
/// or does not hold.
enum class Standing { Told, Met, Near, Broken };

/// What a line is about.
enum class SpecTopic { Source, Playing, Size, Destination };

/// One consequence of the choices in a deliverable, for the footage at hand.
struct SpecLine {
  /// Stable word: source, size, level, players, copying, work, memory, buffer, density, bytes, sending, settings,
  /// profile, or limit-canvas, -rate, -length, -bytes, -codec, -container, -colour, -bit-rate, -sound, -loudness.
  std::string code;
  SpecTopic topic = SpecTopic::Playing;
  Standing standing = Standing::Told;
  Message what;   ///< "Level"
  Message value;  ///< "4.0, the lowest that carries it"
  Message reason; ///< why it does not hold, or what it means; may be empty
  std::vector<Fix> fixes;
  Severity weight = Severity::Warning; ///< that a broken line has before an export
};

/// What the lines rest on beside the project.
struct SpecGrounds {
  int64_t lineSpeed = 20'000'000; ///< bits a second, up, of the line that files are sent over
  /// Bytes of the file by a sample encode, where there is one; may be empty. Samples are encoded, so that they tell
  /// nothing of a deliverable that copies.
  std::function<std::optional<int64_t>(const Deliverable& deliverable)> measuredBytes = {};
  [[nodiscard]] std::optional<int64_t> measured(const Deliverable& deliverable) const {
    return measuredBytes && !deliverable.encoding.copies ? measuredBytes(deliverable) : std::nullopt;
  }
};

} // namespace tromb
