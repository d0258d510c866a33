// SPDX-License-Identifier: GPL-3.0-or-later
#include "Error.h"

#include <system_error>

namespace tromb {

const char* codeWord(ErrorCode code) {
  switch (code) {
  case ErrorCode::InvalidArgument:
    return "invalid-argument";
  case ErrorCode::Missing:
    return "missing";
  case ErrorCode::Unreadable:
    return "unreadable";
  case ErrorCode::NotMedia:
    return "not-media";
  case ErrorCode::Unsupported:
    return "unsupported";
  case ErrorCode::ProjectInvalid:
    return "project-invalid";
  case ErrorCode::ProjectTooNew:
    return "project-too-new";
  case ErrorCode::CannotWrite:
    return "cannot-write";
  case ErrorCode::Exists:
    return "exists";
  case ErrorCode::Decoder:
    return "decoder";
  case ErrorCode::Encoder:
    return "encoder";
  case ErrorCode::FallsShort:
    return "falls-short";
  case ErrorCode::Cancelled:
    return "cancelled";
  }
  return "internal";
}

std::string sentence(const Error& error, const Message::Translate& translate) {
  std::string text;
  if (!error.path.empty()) text += error.path + ": ";
  text += (error.where.empty() ? error.message : say("%1 (at %2)", error.message, error.where)).text(translate);
  if (!text.empty() && text.back() != '.') text += '.';
  if (error.hint.empty()) return text;
  const std::string hint = error.hint.text(translate);
  return text + " " + hint + (hint.back() == '.' ? "" : ".");
}

std::string systemMessage(int errnoValue) {
  return std::generic_category().message(errnoValue);
}

} // namespace tromb
