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
Json toJson(const TextLook& look, const TextLook& usual) {
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

TextLook readLook(const JsonNode& node, TextLook look) {
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

/// Of an element, or of the style of captions.
template <typename Placed> void putPlaces(Json& object, const Placed& placed) {
  object["place"] = toJson(placed.place);
  if (placed.overButtons) object["overButtons"] = true;
  for (const auto& [deliverable, own] : placed.own) {
    Json mine = toJson(own.place);
    if (own.text) mine["text"] = *own.text;
    object["own"][deliverable] = std::move(mine);
  }
}

template <typename Placed> void readPlaces(const JsonNode& node, Placed& placed) {
  placed.place = readPlace(node.get("place"));
  if (node.has("overButtons")) placed.overButtons = node.get("overButtons").truth();
  if (node.has("own"))
    node.get("own").members([&](const std::string& deliverable, const JsonNode& each) {
      OwnPlace& own = placed.own[deliverable];
      own.place = readPlace(each);
      if (each.has("text")) own.text = each.get("text").text(kMostTextBytes);
    });
}

} // namespace

Json toJson(const CaptionStyle& style) {
  Json object = Json::object();
  if (style.look != CaptionStyle().look) object["look"] = toJson(style.look, CaptionStyle().look);
  putPlaces(object, style);
  return object;
}

CaptionStyle readCaptionStyle(const JsonNode& node) {
  CaptionStyle style;
  if (node.has("look")) style.look = readLook(node.get("look"), style.look);
  readPlaces(node, style);
  return style;
}

Json toJson(const Element& element) {
  Json object{{"id", element.id},
              {"kind", kElementKindWords[size_t(element.kind)]},
              {"in", onTick(element.in).toString()},
              {"out", onTick(element.out).toString()}};
  if (!element.shot.empty()) object["shot"] = element.shot;
  if (element.fadeIn > Rational(0)) object["fadeIn"] = onTick(element.fadeIn).toString();
  if (element.fadeOut > Rational(0)) object["fadeOut"] = onTick(element.fadeOut).toString();
  if (element.hasText())
    object["text"] = element.text;
  else
    object["source"] = element.source;
  if (element.kind == ElementKind::Text && element.look != TextLook()) object["look"] = toJson(element.look, {});
  if (element.kind != ElementKind::Caption) putPlaces(object, element);
  return withUnknown(element.unknown, std::move(object));
}

Element readElement(const JsonNode& node) {
  Element element;
  element.kind = ElementKind(node.get("kind").word(kElementKindWords));
  if (node.has("shot")) element.shot = node.get("shot").text(64);
  if (node.has("fadeIn")) element.fadeIn = node.get("fadeIn").fraction(kLongest, true);
  if (node.has("fadeOut")) element.fadeOut = node.get("fadeOut").fraction(kLongest, true);
  if (element.hasText())
    element.text = node.get("text").text(kMostTextBytes);
  else
    element.source = node.get("source").text(64);
  if (element.kind == ElementKind::Text && node.has("look")) element.look = readLook(node.get("look"), {});
  if (element.kind != ElementKind::Caption) readPlaces(node, element);
  element.unknown = node.others({"id", "kind", "shot", "in", "out", "fadeIn", "fadeOut", "text", "look", "source",
                                 "place", "overButtons", "own"});
  return element;
}

} // namespace tromb
