// SPDX-License-Identifier: GPL-3.0-or-later
#include "handover/StandInService.h"

#include "destination/Destination.h"
#include "encoding/Encoding.h"
#include "export/Exporter.h"
#include "handover/FolderDevice.h"
#include "io/AtomicFile.h"
#include "io/Descriptor.h"
#include "project/Footage.h"
#include "project/Project.h"
#include "render/Plan.h"
#include "time/Timecode.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <condition_variable>
#include <ctime>
#include <deque>
#include <fcntl.h>
#include <filesystem>
#include <httplib.h>
#include <mutex>
#include <nlohmann/json.hpp>
#include <thread>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

constexpr const char* kLoopback = "127.0.0.1";
constexpr const char* kJson = "application/json";
constexpr size_t kDigits = 64; ///< of a digest

struct Rung {
  int side; ///< pixels of the shorter one
  int64_t bitRate;
};
constexpr Rung kRungs[] = {{1080, 4'500'000}, {720, 2'500'000}, {480, 1'200'000}, {360, 700'000}};

bool isDigest(const std::string& text) {
  return text.size() == kDigits && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

void answer(httplib::Response& to, int status, const Json& json) {
  to.status = status;
  to.set_content(json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace), kJson);
}
void refuse(httplib::Response& to, int status, const char* code, const Message& words) {
  answer(to, status, {{"error", code}, {"message", words.text()}});
}

/// A piece of the uploaded file and nothing else, at a rung's size and rate.
Deliverable rendition(const Project& project, const MediaInfo& media, const Rung& rung) {
  const SizeF whole = media.video->shape().picture();
  const double scale =
      std::min(double(rung.side), std::min(whole.width, whole.height)) / std::min(whole.width, whole.height);
  const auto even = [](double side) { return std::max(2, int(std::lround(side / 2)) * 2); };
  Deliverable d;
  d.id = freshId(project.deliverables, "d");
  d.name = std::to_string(rung.side);
  d.canvas = {even(whole.width * scale), even(whole.height * scale)};
  d.rate = media.video->clock.rate();
  d.encoding.rateControl = RateControl::Variable;
  d.encoding.bitRate = int64_t(double(rung.bitRate) * std::max(1.0, d.rate.toDouble() / 30));
  d.encoding.speed = "veryfast";
  for (const Shot& shot : project.shots) (void)framingByName("fill", d.framings[shot.id]);
  return d;
}

} // namespace

struct StandInService::State {
  explicit State(ServiceSettings wanted) : settings(std::move(wanted)) {}
  ServiceSettings settings;
  std::shared_ptr<const Destination> limits;
  httplib::Server server;
  int port = 0;
  std::mutex mutex; ///< of the uploads' files, and of what is below
  std::condition_variable more;
  std::deque<std::string> waiting; ///< ids, to be compressed
  std::string compressing;
  double fraction = 0; ///< of that
  std::stop_source stop;
  std::jthread listening;
  std::jthread compressor;

  [[nodiscard]] fs::path folderOf(const std::string& id) const { return fs::path(settings.folder) / id; }
  [[nodiscard]] std::string contentOf(const std::string& id) const { return (folderOf(id) / "content").string(); }
  [[nodiscard]] std::optional<Json> about(const std::string& id) const {
    if (!isDigest(id)) return {};
    const auto text = readWholeFile((folderOf(id) / "about.json").string());
    if (!text) return {};
    Json json = Json::parse(*text, nullptr, false);
    if (!json.is_object() || !json.contains("bytes") || !json["bytes"].is_number_integer()) return {};
    return json;
  }
  Status keep(const std::string& id, const Json& about) const {
    return writeFileAtomically((folderOf(id) / "about.json").string(), about.dump() + "\n");
  }
  [[nodiscard]] int64_t received(const std::string& id) const {
    std::error_code none;
    const auto size = fs::file_size(contentOf(id), none);
    return none ? 0 : int64_t(size);
  }

  bool signedIn(const httplib::Request& request, httplib::Response& to) const {
    for (int left = settings.answerMilliseconds; left > 0 && !stop.stop_requested(); left -= 20)
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
    if (request.get_header_value("Authorization") != "Bearer " + settings.token) {
      refuse(to, 401, "token", say("the token is not known here"));
      return false;
    }
    if (settings.tokenUntil > 0 && int64_t(std::time(nullptr)) >= settings.tokenUntil) {
      refuse(to, 401, "token-outdated", say("the token is outdated"));
      return false;
    }
    return true;
  }

  void announce(const httplib::Request& request, httplib::Response& to) {
    const Json asked = Json::parse(request.body, nullptr, false);
    if (!asked.is_object() || !asked.value("bytes", Json()).is_number_integer() ||
        !asked.value("sha256", Json()).is_string() || !asked.value("name", Json()).is_string() ||
        asked["bytes"].get<int64_t>() <= 0 || !isDigest(asked["sha256"].get<std::string>()))
      return refuse(to, 400, "announcement", say("name, bytes and sha256 have to be told"));
    const std::string id = asked["sha256"];
    const int64_t bytes = asked["bytes"];
    const std::scoped_lock lock(mutex);
    to.set_header("Location", "/uploads/" + id);
    if (const auto known = about(id)) {
      if ((*known)["bytes"].get<int64_t>() != bytes)
        return refuse(to, 409, "announcement", say("another length was told for the same file"));
      to.set_header("Upload-Offset", std::to_string(received(id)));
      return answer(to, 200, *known);
    }
    if (limits && limits->mostBytes > 0 && bytes > limits->mostBytes)
      return refuse(to, 413, "too-large",
                    say("%1 takes files of at most %2", limits->name, bytesText(limits->mostBytes)));
    if (settings.roomBytes > 0 && bytes > settings.roomBytes - used())
      return refuse(to, 507, "full", say("the service has no room for it just now"));
    std::error_code refused;
    fs::create_directories(folderOf(id), refused);
    const Json made{{"name", asked["name"]}, {"bytes", bytes}, {"state", "receiving"}};
    if (refused || !keep(id, made)) return refuse(to, 507, "full", say("the service cannot keep it just now"));
    to.set_header("Upload-Offset", "0");
    answer(to, 201, made);
  }

  /// Bytes that were announced of all uploads.
  [[nodiscard]] int64_t used() const {
    int64_t sum = 0;
    std::error_code none;
    for (const auto& entry : fs::directory_iterator(settings.folder, none))
      if (const auto its = about(entry.path().filename().string())) sum += (*its)["bytes"].get<int64_t>();
    return sum;
  }

  using PartReader = std::function<bool(const httplib::ContentReceiver&)>;

  /// A part is read to its end also where it is refused: the next request of the connection lies behind it.
  void receive(const httplib::Request& request, httplib::Response& to, const httplib::ContentReader& content) {
    bool read = false;
    const PartReader part = [&](const httplib::ContentReceiver& take) {
      read = true;
      return content(take);
    };
    if (signedIn(request, to)) append(request, to, part);
    if (!read) (void)content([](const char*, size_t) { return true; });
  }

  void append(const httplib::Request& request, httplib::Response& to, const PartReader& part) {
    const std::string id = request.matches[1];
    const std::scoped_lock lock(mutex);
    auto its = about(id);
    if (!its) return refuse(to, 404, "unknown", say("nothing of this name was announced"));
    const int64_t bytes = (*its)["bytes"];
    int64_t at = received(id);
    to.set_header("Upload-Offset", std::to_string(at));
    if (request.get_header_value("Upload-Offset") != std::to_string(at))
      return refuse(to, 409, "offset", say("the next part begins at byte %1", at));
    if (at < bytes) {
      const Descriptor file(::open(contentOf(id).c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0600));
      bool full = !file;
      bool longer = false;
      // What has arrived stays, also where the connection breaks off in the middle.
      const bool whole = part([&](const char* data, size_t count) {
        longer = longer || at + int64_t(count) > bytes;
        if (longer || full) return true;
        full = !writeAll(file, data, count);
        at += int64_t(count);
        return true;
      });
      if (full) return refuse(to, 507, "full", say("the service has no room for it just now"));
      if (longer || !whole) return refuse(to, 400, "part", say("the part is broken off, or longer than was announced"));
    }
    to.set_header("Upload-Offset", std::to_string(at));
    if (at == bytes && (*its)["state"] == "receiving") {
      const auto digest = digestOf(contentOf(id), stop.get_token());
      if (!digest || *digest != id) {
        std::error_code ignored;
        fs::remove(contentOf(id), ignored);
        to.set_header("Upload-Offset", "0");
        return refuse(to, 422, "digest", say("what has arrived is not what was announced"));
      }
      (*its)["state"] = "compressing";
      (void)keep(id, *its);
      waiting.push_back(id);
      more.notify_all();
    }
    to.status = 204;
  }

  void tell(const httplib::Request& request, httplib::Response& to) {
    const std::string id = request.matches[1];
    const std::scoped_lock lock(mutex);
    auto its = about(id);
    if (!its) return refuse(to, 404, "unknown", say("nothing of this name was announced"));
    to.set_header("Upload-Offset", std::to_string(received(id)));
    if (compressing == id) (*its)["fraction"] = fraction;
    answer(to, 200, *its);
  }

  void hand(const httplib::Request& request, httplib::Response& to) const {
    const std::string id = request.matches[1];
    const std::string name = request.matches[2]; // digits alone
    const std::string path = (folderOf(id) / (name + ".mp4")).string();
    auto file = isDigest(id) ? openToRead(path) : Result<Descriptor>(tl::unexpected(Error{}));
    if (!file) return refuse(to, 404, "unknown", say("there is no such rendition"));
    const auto shared = std::make_shared<Descriptor>(std::move(*file));
    to.set_content_provider(size_t(sizeOf(*shared)), "video/mp4",
                            [shared](size_t at, size_t count, httplib::DataSink& sink) {
                              std::vector<char> bytes(std::min<size_t>(count, 1 << 18));
                              const ptrdiff_t got = readAt(*shared, int64_t(at), bytes.data(), bytes.size());
                              return got > 0 && sink.write(bytes.data(), size_t(got));
                            });
  }

  /// Why a destination does not take a file; empty where it does.
  [[nodiscard]] Message refusal(const MediaInfo& media) const {
    if (media.kind != MediaKind::Video) return say("it holds no moving picture");
    if (!limits) return {};
    const VideoInfo& v = *media.video;
    const SizeF shown = v.shape().picture();
    const Size size{int(std::lround(shown.width)), int(std::lround(shown.height))};
    const auto sized = std::to_string(size.width) + "×" + std::to_string(size.height);
    if (!limits->takes(size)) return say("%1 does not take pictures of %2", limits->name, sized);
    if (!limits->takes(v.clock.rate()))
      return say("%1 does not take %2 frames a second", limits->name, v.clock.rate().name());
    if (limits->mostSeconds > Rational(0) && media.duration > limits->mostSeconds + Rational(1, 10))
      return say("%1 takes at most %2, and this lasts %3", limits->name, clockText(limits->mostSeconds),
                 clockText(media.duration));
    const auto isIt = [&](Codec codec) { return infoOf(codec).found == v.codec; };
    if (std::none_of(limits->codecs.begin(), limits->codecs.end(), isIt))
      return say("%1 does not take %2", limits->name, v.codec);
    return {};
  }

  void compressAll(const std::stop_token& end) {
    for (;;) {
      std::string id;
      {
        std::unique_lock lock(mutex);
        more.wait(lock, [&] { return end.stop_requested() || stop.stop_requested() || !waiting.empty(); });
        if (end.stop_requested() || stop.stop_requested()) return;
        id = waiting.front();
        waiting.pop_front();
        compressing = id;
        fraction = 0;
      }
      Json made = compressed(id);
      const std::scoped_lock lock(mutex);
      compressing.clear();
      if (stop.stop_requested()) return; // the next one that is started does it
      if (const auto its = about(id)) {
        Json all = *its;
        all.update(made);
        (void)keep(id, all);
      }
    }
  }

  /// What became of an upload.
  Json compressed(const std::string& id) {
    const auto media = probe(contentOf(id), {.stop = stop.get_token(), .indexFolder = {}});
    if (!media) return {{"state", "refused"}, {"message", sentence(media.error())}};
    if (const Message why = refusal(*media); !why.empty()) return {{"state", "refused"}, {"message", why.text()}};
    Project project;
    project.sources.push_back(newSource(project, *media));
    project.shots.push_back(newShot(project, project.sources.back(), *media));
    const SizeF whole = media->video->shape().picture();
    const double side = std::min(whole.width, whole.height);
    for (const Rung& rung : kRungs)
      if (rung.side <= side || (project.deliverables.empty() && &rung == std::end(kRungs) - 1))
        project.deliverables.push_back(rendition(project, *media, rung));
    ExportRequest request;
    const Footage footage{{project.sources.front().id, *media}};
    for (const Deliverable& each : project.deliverables) {
      auto plan = Plan::build(project, footage, each.id);
      if (!plan) return {{"state", "refused"}, {"message", sentence(plan.error())}};
      request.plans.push_back(std::move(*plan));
      request.paths.push_back((folderOf(id) / (each.name + ".mp4")).string());
    }
    request.folder = folderOf(id).string();
    request.overwrite = true;
    request.proof = false;
    request.onProgress = [&](const ExportProgress& progress) {
      const std::scoped_lock lock(mutex);
      fraction = progress.fraction;
    };
    const auto files = exportPlans(request, stop.get_token());
    if (!files) return {{"state", "refused"}, {"message", sentence(files.error())}};
    Json renditions = Json::array();
    for (size_t i = 0; i < files->size(); ++i) {
      const ExportedFile& file = (*files)[i];
      if (file.error) return {{"state", "refused"}, {"message", sentence(*file.error)}};
      std::error_code none;
      const auto bytes = int64_t(fs::file_size(file.path, none));
      const Deliverable& d = project.deliverables[i];
      renditions.push_back(
          {{"name", d.name},
           {"width", d.canvas.width},
           {"height", d.canvas.height},
           {"bytes", bytes},
           {"bitRate", std::llround(8.0 * double(bytes) / std::max(0.001, media->duration.toDouble()))},
           {"location", "/uploads/" + id + "/renditions/" + d.name}});
    }
    return {{"state", "done"}, {"renditions", renditions}};
  }
};

StandInService::StandInService(std::unique_ptr<State> state) : m_state(std::move(state)) {}

StandInService::~StandInService() {
  {
    const std::scoped_lock lock(m_state->mutex);
    m_state->stop.request_stop();
  }
  m_state->more.notify_all();
  m_state->server.stop();
  m_state->listening = {};
  m_state->compressor = {};
}

std::string StandInService::address() const {
  return std::string("http://") + kLoopback + ":" + std::to_string(m_state->port);
}

Result<std::unique_ptr<StandInService>> StandInService::start(const ServiceSettings& settings) {
  if (settings.token.empty()) return fail(ErrorCode::InvalidArgument, say("a token has to be chosen"));
  auto state = std::make_unique<State>(settings);
  State& s = *state;
  if (!settings.destination.empty()) {
    s.limits = destination(settings.destination);
    if (!s.limits) return fail(ErrorCode::InvalidArgument, say("there is no destination '%1'", settings.destination));
  }
  std::error_code refused;
  fs::create_directories(settings.folder, refused);
  if (refused)
    return fail(ErrorCode::CannotWrite, say("the folder cannot be made (%1)", refused.message()), settings.folder,
                say("Choose another folder"));
  // What was whole and not compressed yet.
  for (const auto& entry : fs::directory_iterator(settings.folder, refused))
    if (const auto its = s.about(entry.path().filename().string()); its && its->value("state", "") == "compressing")
      s.waiting.push_back(entry.path().filename().string());
  const auto guarded = [&s](auto work) {
    return [&s, work](const httplib::Request& request, httplib::Response& to) {
      if (s.signedIn(request, to)) (s.*work)(request, to);
    };
  };
  s.server.Post("/uploads", guarded(&State::announce));
  s.server.Patch(R"(/uploads/([0-9a-f]{64}))",
                 [&s](const httplib::Request& request, httplib::Response& to, const httplib::ContentReader& content) {
                   s.receive(request, to, content);
                 });
  s.server.Get(R"(/uploads/([0-9a-f]{64}))", guarded(&State::tell)); // HEAD as well
  s.server.Get(R"(/uploads/([0-9a-f]{64})/renditions/([0-9]{1,5}))", guarded(&State::hand));
  s.server.set_read_timeout(std::chrono::seconds(10));
  s.server.set_keep_alive_timeout(1); // which ending it may have to wait for
  s.server.set_keep_alive_max_count(1000);
  s.server.set_tcp_nodelay(true);
  s.port = settings.port;
  const bool bound = settings.port > 0 ? s.server.bind_to_port(kLoopback, settings.port)
                                       : (s.port = s.server.bind_to_any_port(kLoopback)) > 0;
  if (!bound)
    return fail(ErrorCode::InvalidArgument, say("port %1 cannot be listened on", settings.port), {},
                say("Choose another, or 0 for any"));
  s.listening = std::jthread([&s] { s.server.listen_after_bind(); });
  s.compressor = std::jthread([&s](const std::stop_token& end) { s.compressAll(end); });
  while (!s.server.is_running()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  return std::unique_ptr<StandInService>(new StandInService(std::move(state)));
}

} // namespace tromb
