// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/ElementJson.h"

#include "project/FramingJson.h"
#include "time/Ticks.h"

namespace tromb {
namespace {

Json toJson(const ElementPlace& place) {
  Json object{{"anchor", kAnchorWords[size_t(place.anchor)]}, {"size", place.size}};
  if (place.x != 0) object["x"] = place.x;
  if (place.y != 0) object["y"] = place.y;
  if (place.hidden) object["hidden"] = true;
  return object;
}

ElementPlace readPlace(const JsonNode& node) {
  ElementPlace place;
  place.anchor = Anchor(node.get("anchor").word(kAnchorWords));
  place.size = node.get("size").number(kLeastTextSize, kMostElementOffset);
  if (node.has("x")) place.x = node.get("x").number(-kMostElementOffset, kMostElementOffset);
  if (node.has("y")) place.y = node.get("y").number(-kMostElementOffset, kMostElementOffset);
  if (node.has("hidden")) place.hidden = node.get("hidden").truth();
  return place;
}

/// What differs from the usual look.
Json toJson(const TextLook& look) {
  const TextLook usual;
  Json object = Json::object();
  const auto tell = [&](const char* key, const auto& is, const auto& was) {
    if (is != was) object[key] = is;
  };
  tell("family", look.family, usual.family);
  tell("weight", look.weight, usual.weight);
  tell("italic", look.italic, usual.italic);
  tell("leastSize", look.leastSize, usual.leastSize);
  tell("measure", look.measure, usual.measure);
  tell("colour", toText(look.colour), toText(usual.colour));
  tell("outline", look.outline, usual.outline);
  tell("outlineColour", toText(look.outlineColour), toText(usual.outlineColour));
  tell("shadow", look.shadow, usual.shadow);
  tell("box", look.box, usual.box);
  tell("boxColour", toText(look.boxColour), toText(usual.boxColour));
  tell("padding", look.padding, usual.padding);
  tell("corner", look.corner, usual.corner);
  if (look.align != usual.align) object["align"] = kTextAlignWords[size_t(look.align)];
  tell("lineSpacing", look.lineSpacing, usual.lineSpacing);
  tell("letterSpacing", look.letterSpacing, usual.letterSpacing);
  return object;
}

TextLook readLook(const JsonNode& node) {
  TextLook look;
  const auto number = [&](const char* key, double& value, double least, double most) {
    if (node.has(key)) value = node.get(key).number(least, most);
  };
  const auto colour = [&](const char* key, Colour& value) {
    if (node.has(key)) value = readColour(node.get(key));
  };
  if (node.has("family")) look.family = node.get("family").text(200);
  if (node.has("weight")) look.weight = int(node.get("weight").integer(100, 900));
  if (node.has("italic")) look.italic = node.get("italic").truth();
  number("leastSize", look.leastSize, kLeastTextSize, kMostTextSize);
  number("measure", look.measure, 5, 100);
  colour("colour", look.colour);
  number("outline", look.outline, 0, 0.3);
  colour("outlineColour", look.outlineColour);
  number("shadow", look.shadow, 0, 1);
  number("box", look.box, 0, 1);
  colour("boxColour", look.boxColour);
  number("padding", look.padding, 0, 3);
  number("corner", look.corner, 0, 3);
  if (node.has("align")) look.align = TextAlign(node.get("align").word(kTextAlignWords));
  number("lineSpacing", look.lineSpacing, 0.5, 3);
  number("letterSpacing", look.letterSpacing, -0.2, 1);
  return look;
}

} // namespace

Json toJson(const Element& element) {
  Json object{{"id", element.id},
              {"kind", kElementKindWords[size_t(element.kind)]},
              {"in", onTick(element.in).toString()},
              {"out", onTick(element.out).toString()}};
  if (!element.shot.empty()) object["shot"] = element.shot;
  if (element.fadeIn > Rational(0)) object["fadeIn"] = onTick(element.fadeIn).toString();
  if (element.fadeOut > Rational(0)) object["fadeOut"] = onTick(element.fadeOut).toString();
  if (element.kind == ElementKind::Text) {
    object["text"] = element.text;
    if (element.look != TextLook()) object["look"] = toJson(element.look);
  } else {
    object["source"] = element.source;
  }
  object["place"] = toJson(element.place);
  if (element.overButtons) object["overButtons"] = true;
  for (const auto& [deliverable, own] : element.own) {
    Json mine = toJson(own.place);
    if (own.text) mine["text"] = *own.text;
    object["own"][deliverable] = std::move(mine);
  }
  return withUnknown(element.unknown, std::move(object));
}

Element readElement(const JsonNode& node) {
  Element element;
  element.kind = ElementKind(node.get("kind").word(kElementKindWords));
  if (node.has("shot")) element.shot = node.get("shot").text(64);
  if (node.has("fadeIn")) element.fadeIn = node.get("fadeIn").fraction(kLongest, true);
  if (node.has("fadeOut")) element.fadeOut = node.get("fadeOut").fraction(kLongest, true);
  if (element.kind == ElementKind::Text) {
    element.text = node.get("text").text(kMostTextBytes);
    if (node.has("look")) element.look = readLook(node.get("look"));
  } else {
    element.source = node.get("source").text(64);
  }
  element.place = readPlace(node.get("place"));
  if (node.has("overButtons")) element.overButtons = node.get("overButtons").truth();
  if (node.has("own"))
    node.get("own").members([&](const std::string& deliverable, const JsonNode& each) {
      OwnPlace& own = element.own[deliverable];
      own.place = readPlace(each);
      if (each.has("text")) own.text = each.get("text").text(kMostTextBytes);
    });
  element.unknown = node.others({"id", "kind", "shot", "in", "out", "fadeIn", "fadeOut", "text", "look", "source",
                                 "place", "overButtons", "own"});
  return element;
}

} // namespace tromb
