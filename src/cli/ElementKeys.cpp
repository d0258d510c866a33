// SPDX-License-Identifier: GPL-3.0-or-later
#include "ElementKeys.h"

#include "Arguments.h"
#include "Printed.h"
#include "project/FramingJson.h"
#include "time/Timecode.h"

#include <algorithm>
#include <functional>
#include <map>

namespace tromb::cli {
namespace {

using Setter = std::function<Status(Element& element, const std::string& value, const Project& project)>;

struct Key {
  const char* values; ///< for the help
  bool text;          ///< only of texts
  Setter set;
};

/// A number in [least, most].
Result<double> numberOf(const std::string& value, double least, double most) {
  const auto fraction = Rational::parseDecimal(value);
  const double number = fraction ? fraction->toDouble() : least - 1;
  if (!(number >= least && number <= most))
    return fail(ErrorCode::InvalidArgument,
                say("'%1' is no number from %2 to %3", value, printed("%g", least), printed("%g", most)));
  return number;
}

Setter number(double& (*of)(Element&), double least, double most) {
  return [=](Element& e, const std::string& value, const Project&) -> Status {
    const auto is = numberOf(value, least, most);
    if (!is) return tl::unexpected(is.error());
    of(e) = *is;
    return {};
  };
}

Setter colour(Colour& (*of)(Element&)) {
  return [=](Element& e, const std::string& value, const Project&) -> Status {
    const auto is = colourFromText(value);
    if (!is) return fail(ErrorCode::InvalidArgument, say("'%1' is no colour", value), {}, say("Write it as #20303f"));
    of(e) = *is;
    return {};
  };
}

Setter time(Rational& (*of)(Element&)) {
  return [=](Element& e, const std::string& value, const Project& project) -> Status {
    const auto is = parseTime(value, project.deliverables.empty() ? FrameRate() : project.deliverables.front().rate);
    if (!is) return tl::unexpected(is.error());
    of(e) = *is;
    return {};
  };
}

template <size_t Count> std::string listOf(const std::array<const char*, Count>& words) {
  std::string list;
  for (const char* word : words) list += (list.empty() ? "" : "|") + std::string(word);
  return list;
}

template <typename Kind, size_t Count> Setter word(const std::array<const char*, Count>& words, Kind& (*of)(Element&)) {
  return [&words, of](Element& e, const std::string& value, const Project&) -> Status {
    const auto at = std::find(words.begin(), words.end(), value);
    if (at == words.end())
      return fail(ErrorCode::InvalidArgument, say("'%1' is not known here", value), {},
                  say("Use one of %1", listOf(words)));
    of(e) = Kind(at - words.begin());
    return {};
  };
}

const std::map<std::string, Key>& keys() {
  using E = Element;
  static const std::map<std::string, Key> all{
      {"in", {"T", false, time([](E& e) -> Rational& { return e.in; })}},
      {"out", {"T", false, time([](E& e) -> Rational& { return e.out; })}},
      {"fade-in", {"T", false, time([](E& e) -> Rational& { return e.fadeIn; })}},
      {"fade-out", {"T", false, time([](E& e) -> Rational& { return e.fadeOut; })}},
      {"anchor",
       {"top-left|top|…|bottom-right", false,
        word(
            kAnchorWords, +[](E& e) -> Anchor& { return e.place.anchor; })}},
      {"size",
       {"PERCENT", false, number([](E& e) -> double& { return e.place.size; }, kLeastTextSize, kMostElementOffset)}},
      {"x",
       {"PERCENT", false, number([](E& e) -> double& { return e.place.x; }, -kMostElementOffset, kMostElementOffset)}},
      {"y",
       {"PERCENT", false, number([](E& e) -> double& { return e.place.y; }, -kMostElementOffset, kMostElementOffset)}},
      {"shot",
       {"N", false,
        [](E& e, const std::string& value, const Project& project) -> Status {
          const auto place = parseInteger(value, 1, int64_t(project.shots.size()));
          if (!place) return tl::unexpected(place.error());
          e.shot = project.shots[size_t(*place) - 1].id;
          return {};
        }}},
      {"over-buttons",
       {"yes|no", false,
        [](E& e, const std::string& value, const Project&) -> Status {
          if (value != "yes" && value != "no")
            return fail(ErrorCode::InvalidArgument, say("'%1' is not known here", value), {},
                        say("Use one of %1", "yes|no"));
          e.overButtons = value == "yes";
          return {};
        }}},
      {"font",
       {"NAME", true,
        [](E& e, const std::string& value, const Project&) -> Status {
          e.look.family = value.substr(0, 200);
          return {};
        }}},
      {"weight",
       {"100…900", true,
        [](E& e, const std::string& value, const Project&) -> Status {
          const auto weight = parseInteger(value, 100, 900);
          if (!weight) return tl::unexpected(weight.error());
          e.look.weight = int(*weight);
          return {};
        }}},
      {"least-size",
       {"PERCENT", true, number([](E& e) -> double& { return e.look.leastSize; }, kLeastTextSize, kMostTextSize)}},
      {"measure", {"PERCENT", true, number([](E& e) -> double& { return e.look.measure; }, 5, 100)}},
      {"align",
       {"start|middle|end", true,
        word(
            kTextAlignWords, +[](E& e) -> TextAlign& { return e.look.align; })}},
      {"colour", {"#RRGGBB", true, colour([](E& e) -> Colour& { return e.look.colour; })}},
      {"outline", {"0…0.3", true, number([](E& e) -> double& { return e.look.outline; }, 0, 0.3)}},
      {"outline-colour", {"#RRGGBB", true, colour([](E& e) -> Colour& { return e.look.outlineColour; })}},
      {"shadow", {"0…1", true, number([](E& e) -> double& { return e.look.shadow; }, 0, 1)}},
      {"box", {"0…1", true, number([](E& e) -> double& { return e.look.box; }, 0, 1)}},
      {"box-colour", {"#RRGGBB", true, colour([](E& e) -> Colour& { return e.look.boxColour; })}}};
  return all;
}

/// Whether a key stands at this place: a word that is known, and an equals sign.
bool keyAt(const std::string& words, size_t at) {
  const size_t equals = words.find('=', at);
  return equals != std::string::npos && keys().contains(words.substr(at, equals - at));
}

} // namespace

Result<Element> elementFromWords(const Project& project, ElementKind kind, const std::string& words) {
  const char* const option = kind == ElementKind::Text ? "--text" : "--overlay";
  size_t end = words.find(';');
  while (end != std::string::npos && !keyAt(words, end + 1)) end = words.find(';', end + 1);
  Element element;
  element.kind = kind;
  element.id = freshId(project.elements, "e");
  element.text = words.substr(0, end);
  if (kind == ElementKind::Text)
    for (size_t at = element.text.find("\\n"); at != std::string::npos; at = element.text.find("\\n", at))
      element.text.replace(at, 2, "\n");
  else
    element.place = kUsualOverlay;
  if (element.text.empty() || element.text.size() > kMostTextBytes)
    return fail(ErrorCode::InvalidArgument,
                element.text.empty() ? say("%1 '%2' does not begin with what is to be seen", option, words)
                                     : say("the text of %1 is too long", option),
                {}, say("Texts may have %1 bytes", kMostTextBytes));
  element.out = Rational(0);
  if (end != std::string::npos) {
    const auto pairs = parsePairs(std::string_view(words).substr(end + 1));
    if (!pairs) return tl::unexpected(pairs.error());
    for (const auto& [key, value] : *pairs) {
      const auto known = keys().find(key);
      if (known == keys().end() || (known->second.text && kind != ElementKind::Text))
        return fail(ErrorCode::InvalidArgument, say("'%1' is not known to %2", key, option), {},
                    say("Its keys are %1", elementKeysHelp(kind)));
      if (Status done = known->second.set(element, value, project); !done) {
        done.error().message = say("%1: %2", key, done.error().message);
        return tl::unexpected(done.error());
      }
    }
  }
  const Shot* shot = project.shot(element.shot);
  if (element.out == Rational(0)) element.out = shot ? shot->duration() : project.duration();
  bringOnTicks(element);
  if (element.out <= element.in)
    return fail(ErrorCode::InvalidArgument,
                say("the out point of %1 '%2' does not lie after its in point", option, element.text));
  if (shot) bind(element, *shot, Rational(0), element.in, element.out);
  return element;
}

std::string elementKeysHelp(ElementKind kind) {
  std::string help;
  for (const auto& [name, key] : keys())
    if (!key.text || kind == ElementKind::Text) help += (help.empty() ? "" : ";") + name + "=" + key.values;
  return help;
}

} // namespace tromb::cli
