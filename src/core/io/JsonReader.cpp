// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/JsonReader.h"

namespace tromb {
namespace {

constexpr int kDeepest = 64; ///< our formats need about ten, and members that they do not know some more

/// The byte at which lists and objects lie in each other too deeply; npos where they do not.
size_t tooDeepAt(const std::string& text) {
  int depth = 0;
  bool quoted = false;
  for (size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (quoted) {
      if (c == '\\') ++i;
      if (c == '"') quoted = false;
    } else if (c == '"') {
      quoted = true;
    } else if (c == '[' || c == '{') {
      if (++depth > kDeepest) return i;
    } else if (c == ']' || c == '}') {
      --depth;
    }
  }
  return std::string::npos;
}

tl::unexpected<Error> broken(const std::string& why, size_t at) {
  return fail(ErrorCode::ProjectInvalid, "this is not valid JSON: " + why, {}, {}, "byte " + std::to_string(at));
}

} // namespace

Result<Json> parseJson(const std::string& text) {
  if (const size_t at = tooDeepAt(text); at != std::string::npos)
    return broken("lists and objects lie in each other more than " + std::to_string(kDeepest) + " times", at + 1);
  try {
    return Json::parse(text);
  } catch (const Json::parse_error& error) {
    return broken("it is cut off or spoiled", error.byte);
  } catch (const Json::exception&) {
    return broken("it holds a number that is too large", 0);
  }
}

} // namespace tromb
