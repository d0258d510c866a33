// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"

#include <cstdint>
#include <string>
#include <tl/expected.hpp>

namespace tromb {

/// What went wrong, in the terms a front-end decides by. `codeWord` gives each its stable word.
enum class ErrorCode {
  InvalidArgument, ///< a value the caller gave makes no sense
  Missing,         ///< a file that was named is not there
  Unreadable,      ///< there, but cannot be read (permission, damaged, cut off)
  NotMedia,        ///< readable, but holds no picture or sound
  Unsupported,     ///< understood, and this version cannot do it
  ProjectInvalid,  ///< a project file whose contents break the format; `where` is the JSON pointer
  ProjectTooNew,   ///< a project file from a later version
  CannotWrite,     ///< an output cannot be made (permission, folder gone, disk full)
  Exists,          ///< an output is there already and overwriting was not asked for
  Decoder,         ///< decoding failed inside
  Encoder,         ///< encoding failed inside
  FallsShort,      ///< it could be done, but something is wrong with it that nobody has agreed to
  Cancelled,       ///< stopped on request; nothing half-made is left
};

/// An error with its context. A value; copies are independent.
struct Error {
  ErrorCode code{};
  Message message;  ///< what happened, in plain words, without the path
  std::string path; ///< the file it happened to; empty when no file is involved
  Message where;    ///< place inside it: JSON pointer, stream or frame; may be empty
  Message hint;     ///< what to do about it; may be empty
};

template <typename T> using Result = tl::expected<T, Error>;
using Status = Result<void>;

/// Shorthand for the failing side of a Result.
[[nodiscard]] inline tl::unexpected<Error> fail(ErrorCode code, Message message, std::string path = {},
                                                Message hint = {}, Message where = {}) {
  return tl::unexpected<Error>(Error{code, std::move(message), std::move(path), std::move(where), std::move(hint)});
}

/// The stable word of a code ("source-missing" style), for JSON output.
[[nodiscard]] const char* codeWord(ErrorCode code);

/// One or two sentences for people: what happened, to what, and what to do. In English, where there is no `translate`.
[[nodiscard]] std::string sentence(const Error& error, const Message::Translate& translate = {});

/// The message of an errno value. Thread-safe.
[[nodiscard]] std::string systemMessage(int errnoValue);

} // namespace tromb
