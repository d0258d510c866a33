// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/FileName.h"

#include "geometry/LegalSize.h"

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <string_view>

namespace tromb {
namespace {

constexpr size_t kMostBytes = 220; ///< file systems take 255; room for the temporary name

std::string told(const std::string& word, const FileSubject& of) {
  const Deliverable& d = *of.deliverable;
  if (word == "{project}") return of.project;
  if (word == "{region}") return of.region;
  if (word == "{deliverable}") return d.name;
  if (word == "{size}") return std::to_string(d.canvas.width) + "x" + std::to_string(d.canvas.height);
  return d.rate.name();
}

/// Calls `plain` with each stretch of plain text and `word` with each word; false where the braces do not close.
template <typename Plain, typename Word> bool parts(const std::string& pattern, Plain plain, Word word) {
  for (size_t at = 0; at < pattern.size();) {
    const size_t open = std::min(pattern.find('{', at), pattern.size());
    plain(pattern.substr(at, open - at));
    if (open == pattern.size()) return true;
    const size_t close = pattern.find('}', open);
    if (close == std::string::npos) return false;
    word(pattern.substr(open, close - open + 1));
    at = close + 1;
  }
  return true;
}

} // namespace

const std::vector<std::string>& namingWords() {
  static const std::vector<std::string> kWords{"{project}", "{region}", "{deliverable}", "{size}", "{rate}"};
  return kWords;
}

Message namingFault(const std::string& pattern) {
  if (pattern.empty()) return {};
  std::string unknown;
  bool tells = false;
  const bool closed = parts(
      pattern, [](const std::string&) {},
      [&](const std::string& word) {
        tells = tells || word == "{deliverable}";
        if (std::find(namingWords().begin(), namingWords().end(), word) == namingWords().end()) unknown = word;
      });
  if (!closed) return say("a brace is left open");
  if (!unknown.empty()) return say("'%1' is no word of a file name", unknown);
  return tells ? Message() : say("the name must hold {deliverable}, or files would take each other's names");
}

namespace {

/// Names that some systems keep for devices, whatever their ending and case (common practice, no published source).
bool isReserved(const std::string& name) {
  std::string stem = name.substr(0, name.find('.'));
  for (char& c : stem) c = char(std::toupper(static_cast<unsigned char>(c)));
  static const std::vector<std::string> kWhole{"CON", "PRN", "AUX", "NUL"};
  if (std::find(kWhole.begin(), kWhole.end(), stem) != kWhole.end()) return true;
  return stem.size() == 4 && (stem.starts_with("COM") || stem.starts_with("LPT")) && stem[3] >= '1' && stem[3] <= '9';
}

/// A name that a file or a folder can have on any system; empty where nothing is left.
std::string safeName(const std::string& raw) {
  std::string name;
  for (char c : raw) {
    if (static_cast<unsigned char>(c) < 32 || c == 127 ||
        std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos)
      c = '-';
    if (c == ' ' && (name.empty() || name.back() == ' ')) continue; // where a word had nothing to say
    name += c;
  }
  if (name.starts_with('.')) name[0] = '-';
  if (name.size() > kMostBytes) { // cut between characters
    size_t cut = kMostBytes;
    while (cut > 0 && (static_cast<unsigned char>(name[cut]) & 0xC0) == 0x80) --cut;
    name.resize(cut);
  }
  while (!name.empty() && (name.back() == ' ' || name.back() == '.')) name.pop_back();
  if (isReserved(name)) name.insert(0, "-");
  return name;
}

} // namespace

std::string fileName(const std::string& pattern, const FileSubject& of) {
  std::string whole = pattern.empty() ? kUsualNaming : pattern;
  if (!of.region.empty() && whole.find("{region}") == std::string::npos) whole += " {region}";
  std::vector<std::string> raw(1); // folders, and the name
  (void)parts(
      whole,
      [&raw](const std::string& text) {
        for (const char c : text) {
          if (c == '/')
            raw.emplace_back();
          else
            raw.back() += c;
        }
      },
      [&](const std::string& word) { raw.back() += told(word, of); });
  std::string path;
  for (size_t i = 0; i + 1 < raw.size(); ++i)
    if (const std::string folder = safeName(raw[i]); !folder.empty()) path += folder + "/";
  const std::string name = safeName(raw.back());
  return path + (name.empty() ? "untitled" : name); // all of its words are blank
}

std::string numberedPath(const std::string& path, int number) {
  const std::filesystem::path file(path);
  return (file.parent_path() / (file.stem().string() + " (" + std::to_string(number) + ")" + file.extension().string()))
      .string();
}

std::string exportPath(const std::string& folder, const std::string& naming, const FileSubject& of) {
  return (std::filesystem::path(folder) / (fileName(naming, of) + "." + fileEnding(*of.deliverable))).string();
}

std::string soundPath(const std::string& path, const Encoding& e) {
  return std::filesystem::path(path).replace_extension(infoOf(infoOf(*e.sound.codec).alone).word).string();
}

std::string captionPath(const std::string& path, const Encoding& encoding) {
  return std::filesystem::path(path)
      .replace_extension(encoding.captions == CaptionPlace::WebVtt ? "vtt" : "srt")
      .string();
}

} // namespace tromb
