// SPDX-License-Identifier: GPL-3.0-or-later
// Reads checked values out of JSON and remembers the first fault with its place. For .cpp files of the core.
#pragma once

#include "Error.h"
#include "time/Rational.h"

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <iterator>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>
#include <string>

namespace tromb {

using Json = nlohmann::ordered_json;

/// Reads a JSON document. Nothing in it can do harm: nesting deeper than any of our formats is refused before it is
/// read, and so are numbers that no machine holds. Errors: ProjectInvalid, with the byte where it breaks. Thread-safe.
[[nodiscard]] Result<Json> parseJson(const std::string& text);

/// Adds a member that the object does not have yet, without looking for it: objects may be large. The object must be
/// one.
void appendMember(Json& object, std::string key, Json value);

/// The object and the members that were read with it but are not known here (see JsonNode::others).
[[nodiscard]] inline Json withUnknown(const std::string& unknown, Json object) {
  if (unknown.empty()) return object;
  auto rest = parseJson(unknown);
  if (!rest) return object; // is JSON, as it was read from some
  std::set<std::string> known;
  for (const auto& member : object.get_ref<const Json::object_t&>()) known.insert(member.first);
  for (auto& [key, value] : rest->get_ref<Json::object_t&>())
    if (!known.contains(key)) appendMember(object, key, std::move(value));
  return object;
}

/// The first fault of one document; later ones are its consequences and are not kept.
struct JsonFault {
  std::optional<Error> error;
  void at(const std::string& where, const Message& message) {
    if (!error) error = Error{ErrorCode::ProjectInvalid, message, {}, verbatim(where.empty() ? "/" : where), {}};
  }
};

/// A value in a document and the JSON pointer to it. Getters return a default after a fault.
class JsonNode {
public:
  JsonNode(const Json& value, JsonFault& fault, std::string where = {})
      : m_value(&value), m_fault(&fault), m_where(std::move(where)) {}

  [[nodiscard]] const std::string& where() const { return m_where; }
  [[nodiscard]] bool has(const char* key) const { return m_value->is_object() && m_value->contains(key); }
  void refuse(const Message& message) const { m_fault->at(m_where, message); }

  /// The member `key`; a fault when this is no object or lacks it.
  [[nodiscard]] JsonNode get(const char* key) const {
    static const Json nothing;
    if (!m_value->is_object())
      m_fault->at(m_where, say("an object is expected here"));
    else if (!m_value->contains(key))
      m_fault->at(m_where, say("'%1' is missing", key));
    else
      return {m_value->at(key), *m_fault, m_where + "/" + key};
    return {nothing, *m_fault, m_where + "/" + key};
  }

  [[nodiscard]] bool isText() const { return m_value->is_string(); }
  [[nodiscard]] std::string text(size_t most = 4096) const {
    if (!m_value->is_string()) return refuse(say("text is expected here")), std::string();
    auto value = m_value->get<std::string>();
    if (value.size() > most) refuse(say("the text is too long"));
    return value;
  }
  [[nodiscard]] double number(double least, double most) const {
    const double value = m_value->is_number() ? m_value->get<double>() : NAN;
    if (!(value >= least && value <= most)) {
      refuse(say("a number from %1 to %2 is expected here", plain(least), plain(most)));
      return least;
    }
    return value;
  }
  [[nodiscard]] int64_t integer(int64_t least, int64_t most) const {
    const bool whole = m_value->is_number_integer() &&
                       (!m_value->is_number_unsigned() || m_value->get<uint64_t>() <= uint64_t(INT64_MAX));
    const int64_t value = whole ? m_value->get<int64_t>() : 0;
    if (!whole || value < least || value > most) {
      refuse(say("a whole number from %1 to %2 is expected here", least, most));
      return least;
    }
    return value;
  }
  [[nodiscard]] bool truth() const {
    if (!m_value->is_boolean()) return refuse(say("true or false is expected here")), false;
    return m_value->get<bool>();
  }
  /// "n/d", positive or (with `zeroToo`) zero, at most `most`.
  [[nodiscard]] Rational fraction(const Rational& most, bool zeroToo) const {
    const auto value = m_value->is_string() ? Rational::parse(m_value->get<std::string>())
                                            : Result<Rational>(fail(ErrorCode::InvalidArgument, {}));
    if (!value || *value > most || *value < Rational(0) || (!zeroToo && *value == Rational(0))) {
      refuse(say("a fraction such as \"25/1\" is expected here, at most %1", most.toString()));
      return Rational(1);
    }
    return *value;
  }
  /// The place of a word among those that are known here; 0 after a fault.
  template <typename Words> [[nodiscard]] size_t word(const Words& words) const {
    const std::string said = text();
    for (size_t i = 0; i < std::size(words); ++i)
      if (said == words[i]) return i;
    refuse(say("'%1' is not known here", said));
    return 0;
  }
  /// Calls `each(node)` for every element; a fault when this is no array.
  template <typename Each> void elements(Each each) const {
    if (!m_value->is_array()) return refuse(say("a list is expected here"));
    for (size_t i = 0; i < m_value->size() && !m_fault->error; ++i)
      each(JsonNode((*m_value)[i], *m_fault, m_where + "/" + std::to_string(i)));
  }
  /// Calls `each(key, node)` for every member; a fault when this is no object.
  template <typename Each> void members(Each each) const {
    if (!m_value->is_object()) return refuse(say("an object is expected here"));
    for (const auto& [key, value] : m_value->items())
      if (!m_fault->error) each(key, JsonNode(value, *m_fault, m_where + "/" + key));
  }
  /// Returns the members that are not in `known` as JSON text. Returns an empty text if there are none.
  [[nodiscard]] std::string others(std::initializer_list<const char*> known) const {
    std::string rest;
    if (!m_value->is_object()) return rest;
    for (const auto& [key, value] : m_value->get_ref<const Json::object_t&>()) {
      if (std::find(known.begin(), known.end(), key) != known.end()) continue;
      // Written one by one and not gathered in an object first: a member may be most of a large file.
      rest.append(rest.empty() ? "{" : ",").append(Json(key).dump()).append(":").append(value.dump());
    }
    if (!rest.empty()) rest += '}';
    return rest;
  }

private:
  static std::string plain(double value) {
    std::string text = Json(value).dump();
    return text.ends_with(".0") ? text.substr(0, text.size() - 2) : text;
  }
  const Json* m_value;
  JsonFault* m_fault;
  std::string m_where;
};

} // namespace tromb
