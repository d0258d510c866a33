// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Finding.h"

#include "io/Digest.h"

#include <nlohmann/json.hpp>

namespace tromb {

const std::vector<FindingKind>& findingKinds() {
  constexpr auto kNote = Severity::Note;
  constexpr auto kWarning = Severity::Warning;
  constexpr auto kError = Severity::Error;
  static const std::vector<FindingKind> kKinds{
      {"source-missing", kError, say("Missing source"), true},
      {"source-unreadable", kError, say("Unreadable source"), true},
      {"source-changed", kWarning, say("Source that has become another file")},
      {"beyond-source", kError, say("Shot longer than its source")},
      {"folder-not-writable", kError, say("Folder that cannot be written to"), true},
      {"disk-space", kError, say("Too little room on the disk")},
      {"name-clash", kError, say("Two files of one name"), true},
      {"file-exists", kWarning, say("File that is there already")},
      {"settings", kError, say("Settings that no encoder takes"), true},
      {"profile", kError, say("Profile that has not what is asked for"), true},
      {"level-too-low", kError, say("Level too low"), true},
      {"buffer", kError, say("Decoder's buffer larger than the level's"), true},
      {"odd-size", kError, say("Odd size"), true},
      {"no-sound", kError, say("Sound alone, and there is none"), true},
      {"bars", kWarning, say("Bars")},
      {"never-enlarge", kError, say("Enlarged, and never to be")},
      {"soft", kWarning, say("Enlarged picture")},
      {"soft-still", kWarning, say("Enlarged still under the picture")},
      {"enlarged-canvas", kWarning, say("Canvas larger than all sources")},
      {"subject-outside", kWarning, say("Subject outside the safe area")},
      {"subject-covered", kWarning, say("Subject under what is shown over it")},
      {"fast-move", kNote, say("Fast move")},
      {"rate-mismatch", kNote, say("Uneven motion")},
      {"mixed-frames", kNote, say("Mixed frames")},
      {"interpolated-frames", kNote, say("Interpolated frames")},
      {"doubled-frames", kNote, say("Doubled frames")},
      {"dropped-frames", kWarning, say("Frames dropped from fast motion")},
      {"combed", kWarning, say("Combed picture")},
      {"repeated-pictures", kNote, say("Repeated pictures")},
      {"backward-stamps", kNote, say("Time stamps that go back")},
      {"interlaced", kNote, say("Interlaced source")},
      {"hdr", kNote, say("HDR in a deliverable without")},
      {"sdr-in-hdr", kNote, say("No HDR in a deliverable with it")},
      {"transparent", kNote, say("Transparent picture")},
      {"encoded-shot", kNote, say("Shot that is encoded, not copied")},
      {"encoded-cut", kNote, say("Pictures encoded at a cut")},
      {"words-cut", kWarning, say("Words that are cut")},
      {"words-covered", kWarning, say("Words under a destination's buttons")},
      {"words-small", kWarning, say("Words too small to read")},
      {"words-brief", kWarning, say("Words too brief to read")},
      {"font-missing", kWarning, say("Font that is not there")},
      {"too-few-bits", kWarning, say("Too few bits")},
      {"too-many-bits", kNote, say("More bits than can be seen")},
      {"silent", kWarning, say("Silent sound")},
      {"clipped", kWarning, say("Clipped sound")},
      {"too-loud", kWarning, say("Sound too loud")},
      {"down-mixed", kNote, say("Down-mixed sound")},
      // How much these weigh is told by their lines: what a standard asks for more than what is only guessed.
      {"limit-canvas", kWarning, say("Canvas that the destination does not take")},
      {"limit-rate", kWarning, say("Rate that the destination does not take")},
      {"limit-length", kWarning, say("Length that the destination does not take")},
      {"limit-bytes", kWarning, say("File larger than the destination takes")},
      {"limit-codec", kWarning, say("Codec that the destination does not take")},
      {"limit-container", kWarning, say("Container that the destination does not take")},
      {"limit-colour", kWarning, say("Colours that the destination does not take")},
      {"limit-bit-rate", kWarning, say("Bit rate outside what the destination takes")},
      {"limit-sound", kWarning, say("Sound that the destination does not take")},
      {"limit-loudness", kWarning, say("Loudness that the destination does not want")},
  };
  return kKinds;
}

const FindingKind* findingKind(std::string_view code) {
  for (const FindingKind& kind : findingKinds())
    if (code == kind.code) return &kind;
  return nullptr;
}

Acceptance acceptanceOf(const Finding& f, const std::string& word) {
  return {f.code, f.deliverableId, f.shotId, f.sourceId, cacheName(f.basis), word, {}};
}

nlohmann::ordered_json toJson(const std::vector<Finding>& findings) {
  auto list = nlohmann::ordered_json::array();
  for (const Finding& f : findings) {
    list.push_back({{"code", f.code},
                    {"severity", severityWord(f.severity)},
                    {"deliverable", f.deliverable},
                    {"shot", f.shot},
                    {"message", f.message.text()},
                    {"fix", f.fix.text()}});
    if (f.accepted) list.back()["accepted"] = f.word;
  }
  return {{"findings", list}};
}

} // namespace tromb
