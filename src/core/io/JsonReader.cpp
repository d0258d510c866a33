// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/JsonReader.h"

#include <unordered_map>
#include <vector>

namespace tromb {
namespace {

constexpr int kDeepest = 64;          ///< our formats need about ten, and members that they do not know some more
constexpr size_t kLookedThrough = 32; ///< members that are quicker looked through than looked up
constexpr size_t kSmallList = 1024;   ///< elements below which a list gives back the room it does not need

/// Returns the byte at which lists and objects are nested too deeply, or npos.
size_t tooDeepAt(const std::string& text) {
  int depth = 0;
  bool quoted = false;
  for (size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (quoted) {
      if (c == '\\') ++i;
      if (c == '"') quoted = false;
    } else if (c == '"') {
      quoted = true;
    } else if (c == '[' || c == '{') {
      if (++depth > kDeepest) return i;
    } else if (c == ']' || c == '}') {
      --depth;
    }
  }
  return std::string::npos;
}

tl::unexpected<Error> broken(const Message& why, size_t at) {
  return fail(ErrorCode::ProjectInvalid, say("this is not valid JSON: %1", why), {}, {}, say("byte %1", at));
}

/// Builds a document as it is read. The library's own builder looks through an object for every member that it adds,
/// which makes a file of a few megabytes that is one large object take minutes, and copies its members whenever it
/// grows.
class Builder : public nlohmann::json_sax<Json> {
public:
  Json root;
  Message why; ///< and `byte`: what is wrong with the document
  size_t byte = 0;

  bool null() override { return add(nullptr); }
  bool boolean(bool value) override { return add(value); }
  bool number_integer(number_integer_t value) override { return add(value); }
  bool number_unsigned(number_unsigned_t value) override { return add(value); }
  bool number_float(number_float_t value, const string_t& /*text*/) override { return add(value); }
  bool string(string_t& value) override { return add(std::move(value)); }
  bool binary(binary_t& /*value*/) override { return false; } // is in no text
  bool start_object(size_t /*count*/) override { return enter(); }
  bool start_array(size_t /*count*/) override { return enter(); }
  bool key(string_t& name) override {
    Open& open = m_open.back();
    open.member = find(open, name);
    if (open.member < open.members.size()) return true; // a repeated key: the last value counts
    open.members.emplace_back(std::move(name), nullptr);
    if (open.members.size() > kLookedThrough)
      for (size_t i = open.places.size(); i < open.members.size(); ++i) open.places.emplace(open.members[i].first, i);
    return true;
  }
  bool end_object() override {
    Open open = std::move(m_open.back());
    m_open.pop_back();
    Json object = Json::object();
    object.get_ref<Json::object_t&>().reserve(open.members.size());
    for (auto& [key, value] : open.members) appendMember(object, std::move(key), std::move(value));
    return add(std::move(object));
  }
  bool end_array() override {
    Open open = std::move(m_open.back());
    m_open.pop_back();
    // Small lists are many. The spare room of a large one has never been written to, so it takes no memory, and giving
    // it back would need a second copy for a while.
    if (open.elements.size() < kSmallList) open.elements.shrink_to_fit();
    return add(std::move(open.elements));
  }
  bool parse_error(size_t at, const std::string& /*token*/, const Json::exception& error) override {
    byte = at;
    why = dynamic_cast<const Json::parse_error*>(&error) ? say("it is cut off or spoiled")
                                                         : say("it holds a number that is too large");
    return false;
  }

private:
  /// A list or an object that has not ended.
  struct Open {
    std::vector<std::pair<std::string, Json>> members;
    std::unordered_map<std::string, size_t> places; ///< of the members, if they are many
    size_t member = 0;                              ///< whose value comes next
    Json::array_t elements;
  };

  static size_t find(const Open& open, const std::string& name) {
    size_t i = 0;
    if (open.members.size() > kLookedThrough) {
      const auto at = open.places.find(name);
      return at == open.places.end() ? open.members.size() : at->second;
    }
    while (i < open.members.size() && open.members[i].first != name) ++i;
    return i;
  }
  bool add(Json value) {
    if (m_open.empty())
      root = std::move(value);
    else if (Open& open = m_open.back(); open.members.empty())
      open.elements.push_back(std::move(value));
    else
      open.members[open.member].second = std::move(value);
    return true;
  }
  bool enter() {
    m_open.emplace_back();
    return true;
  }

  std::vector<Open> m_open;
};

} // namespace

void appendMember(Json& object, std::string key, Json value) {
  std::vector<Json::object_t::value_type>& members = object.get_ref<Json::object_t&>();
  members.emplace_back(std::move(key), std::move(value));
}

Result<Json> parseJson(const std::string& text) {
  if (const size_t at = tooDeepAt(text); at != std::string::npos)
    return broken(say("lists and objects lie in each other more than %1 times", kDeepest), at + 1);
  Builder builder;
  if (!Json::sax_parse(text, &builder)) return broken(builder.why, builder.byte);
  return std::move(builder.root);
}

} // namespace tromb
