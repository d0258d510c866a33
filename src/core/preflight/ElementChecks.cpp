// SPDX-License-Identifier: GPL-3.0-or-later
#include "Printed.h"
#include "preflight/Checking.h"
#include "project/Sharing.h"
#include "render/Plan.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace tromb {
namespace {

/// The least height of letters on a phone. Letters are read without effort from 16 minutes of arc on (ISO 9241-303,
/// from memory); phones are held 30 cm away and their screens are about 65 mm wide, or 140 when they are turned for
/// pictures that are wider than tall; capitals have about 0.7 of a font's size. Common practice, no published source.
constexpr double kLeastLetters = 1.4; // mm: 300 mm · tan 16′
constexpr double kCapitals = 0.7;
constexpr double kPhoneWidth = 65;
constexpr double kPhoneTurned = 140;

constexpr double kMostCharacters = 17; ///< a second, for subtitles and titles; common practice, no published source
constexpr size_t kQuoted = 30;

/// The letters of a text, of which each is a code point; ends of lines are none.
size_t lettersOf(const std::string& text) {
  return size_t(std::ranges::count_if(text, [](char c) { return (uint8_t(c) & 0xC0) != 0x80 && c != '\n'; }));
}

/// The beginning of a text, in one line.
std::string quoted(const std::string& text) {
  std::string line;
  size_t letters = 0;
  for (const char c : text) {
    if ((uint8_t(c) & 0xC0) != 0x80 && letters++ == kQuoted) return line + "…";
    line += c == '\n' ? ' ' : c;
  }
  return line;
}

double leastSize(Size canvas) {
  const double screen = canvas.width > canvas.height ? kPhoneTurned : kPhoneWidth;
  return kLeastLetters / kCapitals / screen * canvas.width;
}

/// The shot in which an element begins.
const Shot* shotOf(const Project& project, const std::vector<Rational>& starts, const Rational& begin) {
  const auto after = std::ranges::upper_bound(starts, begin);
  const auto place = size_t(after - starts.begin());
  return place == 0 || place > project.shots.size() ? nullptr : &project.shots[place - 1];
}

TextFacts factsOf(const Checking& c, const Deliverable& d, const Element& element, const ElementCanvas& canvas) {
  ElementBasis basis{element.look, element.placeIn(framedAs(d)), element.textIn(framedAs(d)), element.overButtons,
                     canvas};
  const auto look = [&] {
    const auto laid = layOutText(element, framedAs(d), canvas);
    return laid ? *laid : TextFacts();
  };
  if (!c.grounds.memory) return look();
  auto& known = c.grounds.memory->elements[{d.id, element.id}];
  if (known.first != basis) known = {std::move(basis), look()};
  return known.second;
}

/// Returns what the text became.
TextFacts checkText(Checking& c, const Deliverable& d, const Shot* shot, const Element& element) {
  const ElementCanvas canvas = elementCanvasOf(d);
  const std::string words = quoted(element.textIn(framedAs(d)));
  const TextFacts facts = factsOf(c, d, element, canvas);
  if (!facts.whole)
    c.find("words-cut", &d, shot, say("'%1' does not lie on the canvas whole", words),
           say("Make it smaller or its lines longer, or place it otherwise here"));
  if (facts.covered && !element.overButtons)
    c.find("words-covered", &d, shot, say("'%1' lies under the destination's own buttons", words),
           say("Make it smaller, or hold it elsewhere here"));
  if (facts.whole && facts.size < leastSize(canvas.shown) * 0.999)
    c.find("words-small", &d, shot,
           say("the letters of '%1' are %2 pixels high, and %3 are read on a phone without effort", words,
               printed("%.0f", facts.size), printed("%.0f", std::ceil(leastSize(canvas.shown)))),
           say("Make it larger here, or say it in fewer words"));
  return facts;
}

} // namespace

void checkElements(Checking& c) {
  if (c.project.elements.empty()) return;
  const std::vector<Rational> starts = c.project.shotStarts();
  const auto stretches = stretchesOf(c.project);
  for (size_t i = 0; i < stretches.size(); ++i) {
    const Element& each = c.project.elements[i];
    if (!each.hasText() || each.text.empty()) continue;
    const Element element = each.styled(c.project.captionStyle);
    const auto& [begin, end] = stretches[i];
    if (end <= begin || begin >= starts.back()) continue;
    const Shot* shot = shotOf(c.project, starts, begin);
    const double seconds = (std::min(end, starts.back()) - begin).toDouble();
    if (double(lettersOf(element.text)) > kMostCharacters * seconds)
      c.find("words-brief", nullptr, shot,
             say("'%1' is seen for %2 s, and takes %3 s to read", quoted(element.text), printed("%.1f", seconds),
                 printed("%.1f", double(lettersOf(element.text)) / kMostCharacters)),
             say("Let it stand longer, or say it in fewer words"));
    bool first = true;
    for (const Deliverable* d : c.deliverables) {
      if (!d->encoding.hasPicture() || element.placeIn(framedAs(*d)).hidden) continue;
      if (element.kind == ElementKind::Caption && d->encoding.captions != CaptionPlace::Burned) continue;
      const TextFacts facts = checkText(c, *d, shot, element);
      if (std::exchange(first, false) && !facts.family.empty() && facts.family != element.look.family)
        c.find("font-missing", nullptr, shot,
               say("the font %1 of '%2' is not there, or lacks its letters; %3 is taken", element.look.family,
                   quoted(element.text), facts.family),
               say("Install it, or choose another one"));
    }
  }
}

} // namespace tromb
