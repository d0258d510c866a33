// SPDX-License-Identifier: GPL-3.0-or-later
#include "element/CaptionFile.h"

#include "Printed.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fstream>
#include <glib.h>
#include <optional>
#include <sstream>

namespace tromb {
namespace {

/// Text in UTF-8 whatever it was in, with line feeds alone.
std::string plainText(std::string_view bytes) {
  const char* from = nullptr;
  if (bytes.starts_with("\xFF\xFE")) from = "UTF-16LE";
  if (bytes.starts_with("\xFE\xFF")) from = "UTF-16BE";
  if (from) bytes.remove_prefix(2);
  if (bytes.starts_with("\xEF\xBB\xBF")) bytes.remove_prefix(3);
  std::string text(bytes);
  const auto convert = [&](const char* encoding) {
    gsize written = 0;
    char* converted = g_convert(bytes.data(), gssize(bytes.size()), "UTF-8", encoding, nullptr, &written, nullptr);
    if (!converted) return false;
    text.assign(converted, written);
    g_free(converted);
    return true;
  };
  if (from)
    (void)convert(from);
  else if (!g_utf8_validate_len(bytes.data(), bytes.size(), nullptr) && !convert("WINDOWS-1252"))
    (void)convert("ISO-8859-1"); // which has a letter for every byte
  if (!g_utf8_validate_len(text.data(), text.size(), nullptr)) {
    char* valid = g_utf8_make_valid(text.data(), gssize(text.size()));
    text = valid;
    g_free(valid);
  }
  std::string lines;
  lines.reserve(text.size());
  for (size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '\0') continue;
    if (text[i] == '\r') {
      lines += '\n';
      if (i + 1 < text.size() && text[i + 1] == '\n') ++i;
    } else {
      lines += text[i];
    }
  }
  return lines;
}

std::string_view trimmed(std::string_view line) {
  while (!line.empty() && (line.front() == ' ' || line.front() == '\t')) line.remove_prefix(1);
  while (!line.empty() && (line.back() == ' ' || line.back() == '\t')) line.remove_suffix(1);
  return line;
}

/// "[hh:]mm:ss,mmm" or with a point; nothing where it is no time.
std::optional<Rational> timeOf(std::string_view text) {
  text = trimmed(text);
  std::array<int64_t, 4> parts{}; // hours, minutes, seconds, thousandths
  std::vector<int64_t> whole;
  size_t at = 0;
  const auto digits = [&](size_t most) -> std::optional<int64_t> {
    int64_t value = 0;
    const size_t from = at;
    while (at < text.size() && text[at] >= '0' && text[at] <= '9' && at - from < most)
      value = value * 10 + (text[at++] - '0');
    return at > from ? std::optional(value) : std::nullopt;
  };
  while (whole.size() < 3) {
    const auto value = digits(6);
    if (!value) return {};
    whole.push_back(*value);
    if (at >= text.size() || text[at] != ':') break;
    ++at;
  }
  if (whole.size() < 2) return {};
  std::copy_backward(whole.begin(), whole.end(), parts.begin() + 3);
  if (at < text.size() && (text[at] == ',' || text[at] == '.')) {
    ++at;
    const size_t from = at;
    const auto value = digits(3);
    if (!value) return {};
    parts[3] = *value;
    for (size_t i = at - from; i < 3; ++i) parts[3] *= 10;
  }
  if (at != text.size() || parts[1] > 59 || parts[2] > 59) return {};
  return Rational(((parts[0] * 60 + parts[1]) * 60 + parts[2]) * 1000 + parts[3], 1000);
}

/// The two times of a line with an arrow; what stands behind them is passed over.
std::optional<std::pair<Rational, Rational>> timesOf(std::string_view line) {
  const size_t arrow = line.find("-->");
  if (arrow == std::string_view::npos) return {};
  const auto in = timeOf(line.substr(0, arrow));
  std::string_view behind = trimmed(line.substr(arrow + 3));
  const auto out = timeOf(behind.substr(0, behind.find_first_of(" \t")));
  if (!in || !out) return {};
  return std::pair(*in, *out);
}

/// The words of a line without its marks: "<i>", "<v Name>", "<00:01.000>", "{\an8}", and "&amp;" and its like.
std::string wordsOf(std::string_view line) {
  static constexpr std::array<std::pair<std::string_view, std::string_view>, 8> kNamed{{{"&amp;", "&"},
                                                                                        {"&lt;", "<"},
                                                                                        {"&gt;", ">"},
                                                                                        {"&quot;", "\""},
                                                                                        {"&apos;", "'"},
                                                                                        {"&nbsp;", "\u00A0"},
                                                                                        {"&lrm;", "\u200E"},
                                                                                        {"&rlm;", "\u200F"}}};
  std::string words;
  for (size_t at = 0; at < line.size();) {
    const char next = at + 1 < line.size() ? line[at + 1] : ' ';
    if (line[at] == '<' && (next == '/' || g_ascii_isalnum(next))) {
      if (const size_t end = line.find('>', at); end != std::string_view::npos) {
        at = end + 1;
        continue;
      }
    }
    if (line[at] == '{' && next == '\\') {
      if (const size_t end = line.find('}', at); end != std::string_view::npos) {
        at = end + 1;
        continue;
      }
    }
    const auto named =
        std::ranges::find_if(kNamed, [&](const auto& each) { return line.substr(at).starts_with(each.first); });
    if (named != kNamed.end()) {
      words += named->second;
      at += named->first.size();
    } else {
      words += line[at++];
    }
  }
  return std::string(trimmed(words));
}

std::string timeText(const Rational& time, CaptionFormat format) {
  const int64_t ms = Rational::nearestProduct(time, Rational(1000));
  return printed("%02lld:%02lld:%02lld%c%03lld", static_cast<long long>(ms / 3'600'000),
                 static_cast<long long>(ms / 60'000 % 60), static_cast<long long>(ms / 1000 % 60),
                 format == CaptionFormat::SubRip ? ',' : '.', static_cast<long long>(ms % 1000));
}

} // namespace

Result<ReadCaptions> parseCaptions(std::string_view bytes) {
  const std::string text = plainText(bytes);
  std::vector<std::string_view> lines;
  for (size_t at = 0; at <= text.size();) {
    const size_t end = std::min(text.find('\n', at), text.size());
    lines.push_back(std::string_view(text).substr(at, end - at));
    at = end + 1;
  }
  ReadCaptions read;
  const auto drop = [&](size_t line) {
    if (read.dropped++ == 0) read.firstDropped = line + 1;
  };
  for (size_t i = 0; i < lines.size(); ++i) {
    if (lines[i].find("-->") == std::string_view::npos) continue; // numbers, names, notes, styles
    const size_t begin = i;
    const auto times = timesOf(lines[i]);
    std::string words;
    // Up to an empty line; some files lack it, so that the next times end it, too, with the number before them.
    while (i + 1 < lines.size() && !trimmed(lines[i + 1]).empty()) {
      if (lines[i + 1].find("-->") != std::string_view::npos) break;
      const bool number = trimmed(lines[i + 1]).find_first_not_of("0123456789") == std::string_view::npos;
      if (number && i + 2 < lines.size() && timesOf(lines[i + 2])) break;
      const std::string line = wordsOf(lines[++i]);
      if (!line.empty()) words += (words.empty() ? "" : "\n") + line;
    }
    if (!times || times->second <= times->first)
      drop(begin);
    else if (!words.empty())
      read.captions.push_back({times->first, times->second, std::move(words)});
  }
  if (read.captions.empty())
    return fail(ErrorCode::NotMedia, say("there are no captions in it"), {}, say("Give a SubRip or a WebVTT file"));
  std::ranges::stable_sort(read.captions, {}, &Caption::in);
  return read;
}

Result<ReadCaptions> readCaptions(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  if (!file)
    return fail(errno == ENOENT ? ErrorCode::Missing : ErrorCode::Unreadable,
                say("the captions cannot be read (%1)", std::strerror(errno)), path);
  std::ostringstream text;
  text << file.rdbuf();
  if (text.view().size() > kMostCaptionFile)
    return fail(ErrorCode::NotMedia, say("it is too large for captions"), path, say("Give a SubRip or a WebVTT file"));
  auto read = parseCaptions(text.view());
  if (!read) read.error().path = path;
  return read;
}

std::string captionFile(const std::vector<Caption>& captions, CaptionFormat format) {
  const bool vtt = format == CaptionFormat::WebVtt;
  std::string file = vtt ? "WEBVTT\n\n" : "";
  size_t number = 0;
  for (const Caption& each : captions) {
    file += std::to_string(++number) + "\n" + timeText(each.in, format) + " --> " + timeText(each.out, format) + "\n";
    std::istringstream lines(each.text);
    for (std::string line; std::getline(lines, line);) {
      if (trimmed(line).empty()) continue;
      // SubRip has no way to write an arrow that is not one between times.
      if (!vtt)
        for (size_t at = line.find("-->"); at != std::string::npos; at = line.find("-->")) line.erase(at, 1);
      for (const char c : line)
        if (vtt && (c == '&' || c == '<' || c == '>'))
          file += c == '&' ? "&amp;" : c == '<' ? "&lt;" : "&gt;";
        else
          file += c;
      file += "\n";
    }
    file += "\n";
  }
  return file;
}

} // namespace tromb
