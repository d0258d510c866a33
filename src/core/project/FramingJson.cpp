// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/FramingJson.h"

#include "time/Ticks.h"

#include <array>
#include <charconv>
#include <cstdio>

namespace tromb {
namespace {

constexpr std::array<const char*, 6> kLayoutWords{"single", "stack2", "stack3", "side2", "side3", "backdrop"};
constexpr std::array<const char*, 4> kEaseWords{"hold", "linear", "eased", "smooth"};
constexpr std::array<const char*, 4> kGroundWords{"copy", "colour", "gradient", "still"};

Json toJson(const Move& move, bool zooms) {
  Json keys = Json::array();
  for (const MoveKey& key : move) {
    Json object{{"time", onTick(key.time).toString()}, {"x", key.x}, {"y", key.y}};
    if (zooms) object["zoom"] = key.zoom;
    object["ease"] = kEaseWords[size_t(key.ease)];
    keys.push_back(withUnknown(key.unknown, std::move(object)));
  }
  return keys;
}

Move readMove(const JsonNode& node, bool zooms) {
  Move move;
  node.elements([&](const JsonNode& each) {
    MoveKey key;
    key.time = onTick(each.get("time").fraction(kLongest, true));
    key.x = each.get("x").number(0, 1);
    key.y = each.get("y").number(0, 1);
    if (zooms) key.zoom = each.get("zoom").number(1, kMostZoom);
    key.ease = Ease(each.get("ease").word(kEaseWords));
    key.unknown = each.others({"time", "x", "y", zooms ? "zoom" : "time", "ease"});
    if (!move.empty() && key.time <= move.back().time) each.get("time").refuse(say("keys must be in order of time"));
    move.push_back(std::move(key));
  });
  return move;
}

Window readWindow(const JsonNode& node) {
  Window window;
  window.base = node.get("base").word(std::array{"fill", "fit"}) == 1 ? WindowBase::Fit : WindowBase::Fill;
  window.x = node.get("x").number(0, 1);
  window.y = node.get("y").number(0, 1);
  window.zoom = node.get("zoom").number(1, kMostZoom);
  if (node.has("follows")) window.follows = node.get("follows").truth();
  if (node.has("move")) window.move = readMove(node.get("move"), true);
  window.unknown = node.others({"base", "x", "y", "zoom", "follows", "move"});
  return window;
}

} // namespace

Json toJson(const Framing& framing) {
  Json windows = Json::array();
  for (const Window& w : framing.windows) {
    Json object{{"base", w.base == WindowBase::Fill ? "fill" : "fit"}, {"x", w.x}, {"y", w.y}, {"zoom", w.zoom}};
    if (w.follows) object["follows"] = true;
    if (!w.move.empty()) object["move"] = toJson(w.move, true);
    windows.push_back(withUnknown(w.unknown, std::move(object)));
  }
  Json object{{"layout", kLayoutWords[size_t(framing.layout)]}, {"windows", std::move(windows)}};
  if (!framing.shares.empty()) object["shares"] = framing.shares;
  if (framing.gap != 0) object["gap"] = framing.gap;
  if (framing.ground != Ground::Copy) object["ground"] = kGroundWords[size_t(framing.ground)];
  if (!framing.still.empty()) object["still"] = framing.still;
  if (framing.colour != Colour()) object["colour"] = toText(framing.colour);
  if (framing.guess > 0) object["guess"] = framing.guess;
  return withUnknown(framing.unknown, std::move(object));
}

Json toJson(const Subject& subject) {
  Json object{{"atX", subject.atX}, {"atY", subject.atY}, {"move", toJson(subject.move, false)}};
  if (subject.guess > 0) object["guess"] = subject.guess;
  return withUnknown(subject.unknown, std::move(object));
}

Framing readFraming(const JsonNode& node) {
  Framing framing;
  framing.layout = Layout(node.get("layout").word(kLayoutWords));
  framing.windows.clear();
  node.get("windows").elements([&](const JsonNode& each) { framing.windows.push_back(readWindow(each)); });
  const size_t count = windowCount(framing.layout);
  if (framing.windows.size() != count) node.get("windows").refuse(say("this layout has %1 windows", count));
  if (node.has("shares")) {
    double whole = 0;
    node.get("shares").elements([&](const JsonNode& each) {
      framing.shares.push_back(each.number(kLeastShare, 1));
      whole += framing.shares.back();
    });
    if (framing.shares.size() != count || whole < 0.999 || whole > 1.001)
      node.get("shares").refuse(say("one share a window is expected, together 1"));
  }
  if (node.has("gap")) framing.gap = node.get("gap").number(0, kMostGap);
  if (node.has("ground")) framing.ground = Ground(node.get("ground").word(kGroundWords));
  if (node.has("still")) framing.still = node.get("still").text(64);
  if (framing.ground == Ground::Still && framing.still.empty())
    node.get("ground").refuse(say("a still is asked for, and none is named under 'still'"));
  if (node.has("colour")) framing.colour = readColour(node.get("colour"));
  if (node.has("guess")) framing.guess = node.get("guess").number(0, 1);
  framing.unknown = node.others({"layout", "windows", "shares", "gap", "ground", "still", "colour", "guess"});
  return framing;
}

Subject readSubject(const JsonNode& node) {
  Subject subject;
  subject.atX = node.get("atX").number(0, 1);
  subject.atY = node.get("atY").number(0, 1);
  subject.move = readMove(node.get("move"), false);
  if (subject.move.empty()) node.get("move").refuse(say("a subject is somewhere: it needs a key at least"));
  if (node.has("guess")) subject.guess = node.get("guess").number(0, 1);
  subject.unknown = node.others({"atX", "atY", "move", "guess"});
  return subject;
}

std::string toText(const Colour& colour) {
  std::array<char, 8> text{};
  std::snprintf(text.data(), text.size(), "#%02x%02x%02x", colour.red, colour.green, colour.blue);
  return text.data();
}

std::optional<Colour> colourFromText(const std::string& text) {
  unsigned value = 0;
  if (text.size() != 7 || text[0] != '#' ||
      std::from_chars(text.data() + 1, text.data() + 7, value, 16).ptr != text.data() + 7)
    return {};
  return Colour{uint8_t(value >> 16), uint8_t(value >> 8), uint8_t(value)};
}

Colour readColour(const JsonNode& node) {
  const auto colour = colourFromText(node.text(7));
  if (!colour) node.refuse(say("a colour such as \"#20303f\" is expected here"));
  return colour.value_or(Colour());
}

} // namespace tromb
