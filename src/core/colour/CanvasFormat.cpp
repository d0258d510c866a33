// SPDX-License-Identifier: GPL-3.0-or-later
#include "colour/CanvasFormat.h"

#include <string>

namespace tromb {

const char* chromaWord(Chroma chroma) {
  return chroma == Chroma::C420 ? "420" : chroma == Chroma::C422 ? "422" : "444";
}

bool chromaByWord(std::string_view word, Chroma& chroma) {
  for (const Chroma c : {Chroma::C420, Chroma::C422, Chroma::C444})
    if (word == chromaWord(c)) {
      chroma = c;
      return true;
    }
  return false;
}

const char* colourWord(const ColourTags& tags) {
  return tags == kRec709 ? "rec709" : tags == kHlg ? "hlg" : tags == kPq ? "pq" : nullptr;
}

bool colourByWord(std::string_view word, ColourTags& tags) {
  for (const ColourTags& t : {kRec709, kHlg, kPq})
    if (word == colourWord(t)) {
      tags = t;
      return true;
    }
  return false;
}

Message samplesText(const CanvasFormat& format) {
  const std::string word = chromaWord(format.chroma);
  return say("%1-bit %2", format.depth, word.substr(0, 1) + ":" + word.substr(1, 1) + ":" + word.substr(2));
}

} // namespace tromb
