// SPDX-License-Identifier: GPL-3.0-or-later
#include "Message.h"

#include <ostream>

namespace tromb {

Message verbatim(std::string text) {
  Message message;
  message.m_pattern = std::move(text);
  message.m_verbatim = true;
  return message;
}

Message sayWith(const char* pattern, const char* one, std::optional<int64_t> count, std::vector<Message> arguments) {
  Message message;
  message.m_pattern = pattern;
  message.m_one = one;
  message.m_count = count;
  message.m_arguments = std::move(arguments);
  return message;
}

std::string Message::text(const Translate& translate) const {
  if (m_verbatim) return m_pattern;
  std::string pattern = translate ? translate(m_pattern, m_one, m_count) : std::string();
  if (pattern.empty()) pattern = m_count == 1 ? m_one : m_pattern;
  std::string whole;
  for (size_t i = 0; i < pattern.size(); ++i) {
    const char place = pattern[i] == '%' && i + 1 < pattern.size() ? pattern[i + 1] : '\0';
    if (place == 'n' && m_count)
      whole += std::to_string(*m_count);
    else if (place >= '1' && place <= '9' && size_t(place - '1') < m_arguments.size())
      whole += m_arguments[size_t(place - '1')].text(translate);
    else {
      whole += pattern[i];
      continue;
    }
    ++i;
  }
  return whole;
}

Message joined(const std::vector<Message>& messages, const char* between) {
  Message whole;
  for (const Message& message : messages) {
    if (message.empty()) continue;
    // A pattern that has only places and no words needs no translation.
    whole = whole.empty() ? message : sayWith("%1%2%3", "", std::nullopt, {whole, verbatim(between), message});
  }
  return whole;
}

std::ostream& operator<<(std::ostream& out, const Message& message) {
  return out << message.text();
}

} // namespace tromb
