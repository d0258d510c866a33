// SPDX-License-Identifier: GPL-3.0-or-later
#include "element/Element.h"

#include <algorithm>

namespace tromb {

Element Element::styled(const CaptionStyle& style) const {
  Element shown = *this;
  if (kind != ElementKind::Caption) return shown;
  shown.look = style.look;
  shown.place = style.place;
  shown.own = style.own;
  shown.overButtons = style.overButtons;
  return shown;
}

ElementPlace Element::placeIn(const std::string& deliverable) const {
  const auto mine = own.find(deliverable);
  return mine == own.end() ? place : mine->second.place;
}

const std::string& Element::textIn(const std::string& deliverable) const {
  const auto mine = own.find(deliverable);
  return mine == own.end() || !mine->second.text ? text : *mine->second.text;
}

double opacityAt(const Element& element, const Rational& since, const Rational& length) {
  double in = element.fadeIn.toDouble();
  double out = element.fadeOut.toDouble();
  const double whole = length.toDouble();
  if (in + out > whole) {
    const double shrunk = whole / (in + out);
    in *= shrunk;
    out *= shrunk;
  }
  const double at = since.toDouble();
  const double rising = in > 0 ? at / in : 1;
  const double falling = out > 0 ? (whole - at) / out : 1;
  return std::clamp(std::min(rising, falling), 0.0, 1.0);
}

} // namespace tromb
