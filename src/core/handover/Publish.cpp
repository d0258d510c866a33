// SPDX-License-Identifier: GPL-3.0-or-later
#include "handover/Publish.h"

#include "io/Descriptor.h"
#include "io/PartFile.h"

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <filesystem>
#include <httplib.h>
#include <nlohmann/json.hpp>
#include <regex>
#include <thread>

namespace tromb {
namespace {

using Clock = std::chrono::steady_clock;
using Json = nlohmann::json;
using Stage = PublishRequest::Stage;
using namespace std::chrono_literals;

constexpr auto kFirstPause = 100ms;
constexpr auto kLongestPause = 2000ms;
constexpr auto kAskEvery = 200ms;
constexpr auto kAnswerWithin = 20s;

/// One conversation with a service.
class Conversation {
public:
  Conversation(const PublishRequest& request, std::string host, int port, std::stop_token stop)
      : m_request(request), m_stop(std::move(stop)), m_client(host, port),
        m_ending(m_stop, [this] { m_client.stop(); }) {
    m_client.set_bearer_token_auth(request.token.c_str());
    m_client.set_connection_timeout(std::chrono::seconds(5));
    m_client.set_read_timeout(kAnswerWithin);
    m_client.set_write_timeout(kAnswerWithin);
    m_client.set_keep_alive(true);
    m_client.set_tcp_nodelay(true); // parts are not held back for answers
  }

  Result<Published> publish() {
    const auto file = openToRead(m_request.path);
    if (!file) return tl::unexpected(file.error());
    Published made;
    made.file.bytes = sizeOf(*file);
    if (made.file.bytes == 0) return fail(ErrorCode::Unreadable, say("the file is empty"), m_request.path);
    auto digest = digestOf(m_request.path, m_stop);
    if (!digest) return tl::unexpected(digest.error());
    made.file.digest = std::move(*digest);
    if (const Status sent = send(*file, made.file); !sent) return tl::unexpected(sent.error());
    if (const Status done = wait(made); !done) return tl::unexpected(done.error());
    if (const Status got = fetch(made); !got) return tl::unexpected(got.error());
    return made;
  }

private:
  void tell(Stage stage, double fraction) const {
    if (m_request.onProgress) m_request.onProgress(stage, fraction);
  }
  tl::unexpected<Error> stopped() const { return fail(ErrorCode::Cancelled, say("the hand-over was stopped")); }

  /// Asks again and again until the service answers, or has been silent for too long. A service that is busy or full is
  /// given time, too.
  Result<httplib::Response> ask(const std::function<httplib::Result()>& question) {
    auto pause = kFirstPause;
    for (;;) {
      if (m_stop.stop_requested()) return stopped();
      auto got = question();
      if (m_stop.stop_requested()) return stopped();
      if (got && got->status != 503) {
        m_heard = Clock::now();
        return *got;
      }
      if (Clock::now() - m_heard > std::chrono::duration<double>(m_request.patience))
        return fail(ErrorCode::CannotWrite, say("the service cannot be reached"), m_request.address,
                    say("Look whether it is there, and hand the file over again: what has arrived is not sent twice"));
      for (auto left = pause; left > 0ms && !m_stop.stop_requested(); left -= 20ms) std::this_thread::sleep_for(20ms);
      pause = std::min<std::chrono::milliseconds>(2 * pause, kLongestPause);
    }
  }

  /// What an answer says that is no success.
  [[nodiscard]] Error refusal(const httplib::Response& answer) const {
    const Json json = Json::parse(answer.body, nullptr, false);
    const std::string words = json.is_object() && json.value("message", Json()).is_string()
                                  ? json["message"].get<std::string>()
                                  : "answer " + std::to_string(answer.status);
    switch (answer.status) {
    case 401:
    case 403:
      return {ErrorCode::InvalidArgument,
              say("the service does not let us in: %1", words),
              m_request.address,
              {},
              say("Ask for a new token")};
    case 507:
      return {ErrorCode::CannotWrite,
              verbatim(words),
              m_request.address,
              {},
              say("Hand it over again later: what has arrived is not sent twice")};
    case 413:
    case 415:
    case 422:
      return {ErrorCode::FallsShort, say("the service refuses it: %1", words), m_request.path, {}, {}};
    default:
      return {ErrorCode::CannotWrite, say("the service does not take it: %1", words), m_request.address, {}, {}};
    }
  }

  static std::optional<int64_t> offsetOf(const httplib::Response& answer) {
    const std::string text = answer.get_header_value("Upload-Offset");
    if (text.empty() || text.size() > 18 || text.find_first_not_of("0123456789") != std::string::npos) return {};
    return std::stoll(text);
  }

  Status send(const Descriptor& file, HandedFile& made) {
    const Json announcement{{"name", std::filesystem::path(m_request.path).filename().string()},
                            {"bytes", made.bytes},
                            {"sha256", made.digest}};
    const std::string body = announcement.dump(-1, ' ', false, Json::error_handler_t::replace);
    auto answer = ask([&] { return m_client.Post("/uploads", body, "application/json"); });
    if (!answer) return tl::unexpected(answer.error());
    const auto offset = offsetOf(*answer);
    if (answer->status >= 300 || !offset) return tl::unexpected(refusal(*answer));
    m_location = "/uploads/" + made.digest;
    made.path = m_request.address + m_location;
    int64_t at = *offset;
    made.wasThere = at >= made.bytes;
    std::vector<char> part;
    int64_t refusedAt = -1;
    while (at < made.bytes) {
      if (m_stop.stop_requested()) return stopped();
      tell(Stage::Sending, double(at) / double(made.bytes));
      part.resize(size_t(std::clamp<int64_t>(m_request.partBytes, 1, made.bytes - at)));
      if (readAt(file, at, part.data(), part.size()) != ptrdiff_t(part.size()))
        return fail(ErrorCode::Unreadable, say("the file became shorter while it was handed over"), m_request.path);
      auto sent = m_client.Patch(m_location, {{"Upload-Offset", std::to_string(at)}}, part.data(), part.size(),
                                 "application/partial-upload");
      if (m_stop.stop_requested()) return stopped();
      if (sent && sent->status == 204) {
        m_heard = Clock::now();
        at += int64_t(part.size());
        continue;
      }
      if (sent && sent->status != 409 && sent->status != 400 && sent->status != 503)
        return tl::unexpected(refusal(*sent));
      // The connection broke off, or we do not agree on where we are: the service says what has arrived. On a
      // connection of its own, since a part that was refused need not have been read to its end.
      m_client.stop();
      auto there = ask([&] { return m_client.Head(m_location); });
      if (!there) return tl::unexpected(there.error());
      const auto arrived = offsetOf(*there);
      if (there->status >= 300 || !arrived || *arrived > made.bytes) return tl::unexpected(refusal(*there));
      if (sent && *arrived == refusedAt) return tl::unexpected(refusal(*sent)); // twice at the same place
      refusedAt = sent ? *arrived : -1;
      at = *arrived;
    }
    tell(Stage::Sending, 1);
    return {};
  }

  Status wait(Published& made) {
    for (;;) {
      auto answer = ask([&] { return m_client.Get(m_location); });
      if (!answer) return tl::unexpected(answer.error());
      if (answer->status >= 300) return tl::unexpected(refusal(*answer));
      const Json json = Json::parse(answer->body, nullptr, false);
      const std::string state = json.is_object() ? json.value("state", std::string()) : std::string();
      if (state == "refused")
        return fail(ErrorCode::FallsShort, say("the service refuses it: %1", json.value("message", std::string())),
                    m_request.path);
      if (state == "done") return take(json, made);
      if (state != "compressing" && state != "receiving")
        return fail(ErrorCode::CannotWrite, say("the service's answer cannot be understood"), m_request.address);
      tell(Stage::Compressing, json.value("fraction", 0.0));
      for (auto left = kAskEvery; left > 0ms && !m_stop.stop_requested(); left -= 20ms)
        std::this_thread::sleep_for(20ms);
    }
  }

  Status take(const Json& json, Published& made) const {
    const auto not_understood = [&] {
      return fail(ErrorCode::CannotWrite, say("the service's answer cannot be understood"), m_request.address);
    };
    if (!json.contains("renditions") || !json["renditions"].is_array()) return not_understood();
    for (const Json& each : json["renditions"]) {
      if (!each.is_object()) return not_understood();
      try {
        Rendition r;
        r.name = each.at("name").get<std::string>();
        r.canvas = {each.at("width").get<int>(), each.at("height").get<int>()};
        r.bytes = each.at("bytes").get<int64_t>();
        r.bitRate = each.at("bitRate").get<int64_t>();
        if (r.name.empty() || r.name.find_first_not_of("0123456789") != std::string::npos) return not_understood();
        made.renditions.push_back(std::move(r));
      } catch (const Json::exception&) {
        return not_understood();
      }
    }
    return {};
  }

  Status fetch(Published& made) {
    if (m_request.folder.empty()) return {};
    std::error_code refused;
    std::filesystem::create_directories(m_request.folder, refused);
    if (refused)
      return fail(ErrorCode::CannotWrite, say("the folder cannot be made (%1)", refused.message()), m_request.folder);
    double done = 0;
    for (Rendition& each : made.renditions) {
      each.path = (std::filesystem::path(m_request.folder) /
                   (std::filesystem::path(m_request.path).stem().string() + " " + each.name + ".mp4"))
                      .string();
      auto part = PartFile::create(each.path, PartFile::Busy::Refuse, m_stop);
      if (!part) return tl::unexpected(part.error());
      int64_t got = 0;
      int error = 0;
      const auto answer = ask([&] {
        if (::ftruncate(part->file().get(), 0) != 0 || ::lseek(part->file().get(), 0, SEEK_SET) != 0) error = errno;
        got = 0;
        return m_client.Get(m_location + "/renditions/" + each.name, [&](const char* data, size_t count) {
          if (!writeAll(part->file(), data, count)) error = errno;
          got += int64_t(count);
          tell(Stage::Fetching,
               (done + double(got) / double(std::max<int64_t>(1, each.bytes))) / double(made.renditions.size()));
          return error == 0 && !m_stop.stop_requested();
        });
      });
      if (error != 0) return cannotWrite(each.path, error);
      if (!answer) return tl::unexpected(answer.error());
      if (answer->status >= 300) return tl::unexpected(refusal(*answer));
      if (got != each.bytes)
        return fail(ErrorCode::Unreadable, say("a rendition arrived otherwise than it was told"), m_request.address);
      if (const Status named = part->takeFinalName(true); !named) return named;
      ++done;
    }
    return {};
  }

  const PublishRequest& m_request;
  std::stop_token m_stop;
  httplib::Client m_client;
  std::stop_callback<std::function<void()>> m_ending;
  Clock::time_point m_heard = Clock::now();
  std::string m_location;
};

} // namespace

Result<Published> publish(const PublishRequest& request, const std::stop_token& stop) {
  static const std::regex kAddress(R"(http://([a-z0-9.\-]+|\[::1\]):([0-9]{1,5})/?)");
  std::smatch parts;
  if (!std::regex_match(request.address, parts, kAddress))
    return fail(ErrorCode::InvalidArgument, say("'%1' is no address of a service", request.address), {},
                say("Write it as http://127.0.0.1:8080"));
  const std::string host = parts[1];
  // What is said is not enciphered: it stays on this machine.
  if (host != "127.0.0.1" && host != "localhost" && host != "[::1]")
    return fail(ErrorCode::Unsupported, say("only services on this machine are spoken to"), request.address);
  return Conversation(request, host, std::stoi(parts[2]), stop).publish();
}

} // namespace tromb
