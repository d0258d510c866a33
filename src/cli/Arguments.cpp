// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"

#include "geometry/LegalSize.h"

#include <algorithm>
#include <charconv>

namespace tromb::cli {

Result<std::vector<std::pair<std::string, std::string>>> parsePairs(std::string_view text) {
  std::vector<std::pair<std::string, std::string>> pairs;
  const auto allDigits = [](std::string_view part) {
    return !part.empty() && part.size() <= 3 && part.find_first_not_of("0123456789") == std::string_view::npos;
  };
  while (!text.empty()) {
    const size_t end = text.find(';');
    const std::string_view part = text.substr(0, end);
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
    const size_t equals = part.find('=');
    // The first part may be a path, with or without "=" in it, unless its beginning is a plain word.
    const bool plainKey =
        equals != std::string_view::npos &&
        part.substr(0, equals).find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789-") == std::string_view::npos;
    if (pairs.empty() && !plainKey)
      pairs.emplace_back("", part);
    else if (!pairs.empty() && allDigits(part) &&
             std::count(pairs.back().second.begin(), pairs.back().second.end(), ':') == 2)
      pairs.back().second += ";" + std::string(part); // drop-frame timecode, 00:01:00;02
    else if (equals == std::string_view::npos)
      return fail(ErrorCode::InvalidArgument, say("'%1' has no '='", std::string(part)), {},
                  say("Write key=value;key=value"));
    else
      pairs.emplace_back(part.substr(0, equals), part.substr(equals + 1));
  }
  return pairs;
}

Result<int64_t> parseInteger(std::string_view text, int64_t least, int64_t most) {
  int64_t value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size() || value < least || value > most)
    return fail(ErrorCode::InvalidArgument,
                say("'%1' is not a whole number from %2 to %3", std::string(text), least, most));
  return value;
}

Result<Size> parseSize(std::string_view text) {
  const size_t x = text.find('x');
  const auto width = parseInteger(text.substr(0, x), kSmallestSide, kLargestSide);
  const auto height =
      x == std::string_view::npos ? width : parseInteger(text.substr(x + 1), kSmallestSide, kLargestSide);
  if (x == std::string_view::npos || !width || !height)
    return fail(ErrorCode::InvalidArgument, say("'%1' is not a size", std::string(text)), {},
                say("Write WIDTHxHEIGHT, each from 16 to 16384, for example 1080x1920"));
  return Size{int(*width), int(*height)};
}

Result<std::vector<std::string>> deliverableIds(const Project& project, const std::vector<std::string>& names) {
  std::vector<std::string> ids;
  std::string known;
  for (const Deliverable& d : project.deliverables) {
    known += (known.empty() ? "'" : ", '") + d.name + "'";
    if (names.empty()) ids.push_back(d.id);
  }
  for (const std::string& name : names) {
    const Deliverable* d = project.deliverableNamed(name);
    if (!d)
      return fail(ErrorCode::InvalidArgument, say("there is no deliverable '%1'", name), {},
                  known.empty() ? say("The project has none") : say("The project has %1", known));
    ids.push_back(d->id);
  }
  return ids;
}

Result<Region> regionNamed(const Project& project, const std::string& name) {
  if (const Region* region = project.regionNamed(name)) return *region;
  std::string names;
  for (const Region& region : project.regions) names += (names.empty() ? "" : ", ") + region.name;
  return fail(ErrorCode::InvalidArgument, say("there is no region '%1'", name), {},
              names.empty() ? say("The project has none") : say("The project has %1", names));
}

} // namespace tromb::cli
