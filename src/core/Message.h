// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>
#include <iosfwd>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

namespace tromb {

/// Something that is said to people: an English pattern, and what stands in its places. It is put together only where
/// it is shown, so that it can be said in another language. A value; copies are independent. Messages are made by
/// `say`, `sayCounted` and `verbatim` only, so that no text is said that a translator has not seen.
class Message {
public:
  /// Gives a pattern in another language. `one` is its English form for a count of one and `count` what is counted;
  /// both are empty where nothing is. Returns an empty text where there is no translation.
  using Translate =
      std::function<std::string(const std::string& pattern, const std::string& one, std::optional<int64_t> count)>;

  Message() = default;
  [[nodiscard]] bool empty() const { return m_pattern.empty(); }
  /// How many of something it speaks of; nothing where it does not count.
  [[nodiscard]] std::optional<int64_t> count() const { return m_count; }
  /// The whole text. Without `translate`, and where that has nothing to offer, it is English.
  [[nodiscard]] std::string text(const Translate& translate = {}) const;
  [[nodiscard]] bool operator==(const Message& other) const = default;

  // What it is made of, for keeping it in a file.
  [[nodiscard]] const std::string& pattern() const { return m_pattern; }
  [[nodiscard]] const std::string& patternForOne() const { return m_one; } ///< empty where nothing is counted
  [[nodiscard]] const std::vector<Message>& arguments() const { return m_arguments; }
  [[nodiscard]] bool isVerbatim() const { return m_verbatim; }

private:
  friend Message verbatim(std::string text);
  friend Message sayWith(const char* pattern, const char* one, std::optional<int64_t> count,
                         std::vector<Message> arguments);

  std::string m_pattern; ///< places are %1 to %9, and %n for what is counted
  std::string m_one;     ///< the English pattern for a count of one; empty where nothing is counted
  std::optional<int64_t> m_count;
  std::vector<Message> m_arguments;
  bool m_verbatim = false;
};

/// Text that is the same in every language: names, paths, numbers with their units, words of the system.
[[nodiscard]] Message verbatim(std::string text);
/// See `say`, which counts the places of a pattern.
[[nodiscard]] Message sayWith(const char* pattern, const char* one, std::optional<int64_t> count,
                              std::vector<Message> arguments);

/// A pattern with a fixed count of places, looked at by the compiler.
template <size_t Places> struct MessagePattern {
  const char* text;
  // NOLINTNEXTLINE(google-explicit-constructor): a literal is a pattern
  consteval MessagePattern(const char* literal) : text(literal) {
    for (char place = '1'; place <= '9'; ++place) {
      bool seen = false;
      for (const char* at = literal; *at != 0; ++at) seen = seen || (*at == '%' && at[1] == place);
      if (seen != (size_t(place - '1') < Places)) throw "a pattern has as many places as there are arguments";
    }
  }
};

inline Message argument(const Message& message) {
  return message;
}
inline Message argument(std::string_view text) {
  return verbatim(std::string(text));
}
template <typename Number, typename = std::enable_if_t<std::is_integral_v<Number>>> Message argument(Number number) {
  return verbatim(std::to_string(number));
}

/// A sentence or a part of one. `%1` to `%9` in the pattern, which is a literal, stand for the arguments in their
/// order: messages, texts, or whole numbers.
template <typename... Arguments>
[[nodiscard]] Message say(MessagePattern<sizeof...(Arguments)> pattern, const Arguments&... arguments) {
  return sayWith(pattern.text, "", std::nullopt, {argument(arguments)...});
}

/// The same of something that is counted: `%n` stands for the count. `one` is what is said of one in English; other
/// languages have as many forms as they need.
template <typename... Arguments>
[[nodiscard]] Message sayCounted(MessagePattern<sizeof...(Arguments)> many, const char* one, int64_t count,
                                 const Arguments&... arguments) {
  return sayWith(many.text, one, count, {argument(arguments)...});
}

/// Joins messages, with `between` between them. Empty ones are left out.
[[nodiscard]] Message joined(const std::vector<Message>& messages, const char* between);

/// English, for the command line and for logs.
std::ostream& operator<<(std::ostream& out, const Message& message);

} // namespace tromb
