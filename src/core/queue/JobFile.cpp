// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/JsonReader.h"
#include "queue/Job.h"

#include <filesystem>

namespace tromb {
namespace {

constexpr const char* kClashes[] = {"number", "replace", "refuse"};
constexpr const char* kAfterwards[] = {"nothing", "notify", "open-file", "open-folder"};
constexpr const char* kJobStates[] = {"waiting", "running", "paused", "done", "failed", "cancelled"};
constexpr const char* kResultStates[] = {"waiting", "naming", "done", "short", "failed", "cancelled"};
constexpr int64_t kMostSeconds = 253'402'300'799; ///< the year 9999
constexpr int64_t kMostBytes = int64_t(1) << 60;
constexpr double kMostElapsed = 1e12; ///< seconds
constexpr ErrorCode kLastCode = ErrorCode::Cancelled;

std::string dumped(const Json& json) {
  return json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

// A message keeps its pattern and what stands in its places, so that it is told in the language of whoever reads it.
Json jsonOf(const Message& message) {
  if (message.isVerbatim() || message.empty()) return message.pattern();
  Json object{{"pattern", message.pattern()}};
  if (message.count()) {
    object["one"] = message.patternForOne();
    object["count"] = *message.count();
  }
  for (const Message& each : message.arguments()) object["arguments"].push_back(jsonOf(each));
  return object;
}

Message messageFrom(const JsonNode& node) {
  if (node.isText()) {
    std::string text = node.text(1'000'000);
    return text.empty() ? Message() : verbatim(std::move(text));
  }
  const std::string pattern = node.get("pattern").text();
  std::string one;
  std::optional<int64_t> count;
  if (node.has("count")) {
    count = node.get("count").integer(INT64_MIN, INT64_MAX);
    one = node.get("one").text();
  }
  std::vector<Message> arguments;
  if (node.has("arguments"))
    node.get("arguments").elements([&](const JsonNode& each) { arguments.push_back(messageFrom(each)); });
  return sayWith(pattern.c_str(), one.c_str(), count, std::move(arguments));
}

Message messageIn(const JsonNode& node, const char* key) {
  return node.has(key) ? messageFrom(node.get(key)) : Message();
}
std::string textIn(const JsonNode& node, const char* key) {
  return node.has(key) ? node.get(key).text(1'000'000) : std::string();
}
int64_t wholeIn(const JsonNode& node, const char* key, int64_t most) {
  return node.has(key) ? node.get(key).integer(0, most) : 0;
}
double numberIn(const JsonNode& node, const char* key, double most) {
  return node.has(key) ? node.get(key).number(0, most) : 0;
}

Json jsonOf(const Error& error) {
  Json object{{"code", codeWord(error.code)}, {"message", jsonOf(error.message)}};
  if (!error.path.empty()) object["path"] = error.path;
  if (!error.where.empty()) object["where"] = jsonOf(error.where);
  if (!error.hint.empty()) object["hint"] = jsonOf(error.hint);
  return object;
}

Error errorFrom(const JsonNode& node) {
  std::vector<std::string> words;
  for (int code = 0; code <= int(kLastCode); ++code) words.emplace_back(codeWord(ErrorCode(code)));
  return {ErrorCode(int(node.get("code").word(words))), messageFrom(node.get("message")), textIn(node, "path"),
          messageIn(node, "where"), messageIn(node, "hint")};
}

Json jsonOf(const ProofReport& report) {
  Json checks = Json::array();
  for (const ProofCheck& check : report.checks)
    checks.push_back({{"code", check.code},
                      {"expected", jsonOf(check.expected)},
                      {"found", jsonOf(check.found)},
                      {"pass", check.pass},
                      {"made", check.made}});
  return {{"checks", std::move(checks)}};
}

ProofReport proofFrom(const JsonNode& node) {
  ProofReport report;
  node.get("checks").elements([&](const JsonNode& each) {
    report.checks.push_back({each.get("code").text(), messageIn(each, "expected"), messageIn(each, "found"),
                             each.get("pass").truth(), each.get("made").truth()});
  });
  return report;
}

Json jsonOf(const JobResult& r) {
  Json object{{"deliverable", r.deliverable}, {"name", r.name}, {"state", resultWord(r.state)}, {"path", r.path}};
  if (!r.soundPath.empty()) object["soundPath"] = r.soundPath;
  if (!r.identity.empty()) object["identity"] = r.identity;
  if (!r.soundIdentity.empty()) object["soundIdentity"] = r.soundIdentity;
  object["bytes"] = r.bytes;
  object["frames"] = r.frames;
  object["seconds"] = r.seconds;
  if (!r.encoder.empty()) object["encoder"] = r.encoder;
  if (r.copied > 0) object["copied"] = r.copied;
  if (!r.notCopied.empty()) object["notCopied"] = jsonOf(r.notCopied);
  if (!r.inSoftware.empty()) object["inSoftware"] = jsonOf(r.inSoftware);
  if (r.taken) object["taken"] = true;
  if (r.error) object["error"] = jsonOf(*r.error);
  if (r.proof) object["proof"] = jsonOf(*r.proof);
  for (const Message& loss : r.losses) object["losses"].push_back(jsonOf(loss));
  return object;
}

JobResult resultFrom(const JsonNode& node) {
  JobResult r;
  r.deliverable = node.get("deliverable").text();
  r.name = textIn(node, "name");
  r.state = JobResult::State(node.get("state").word(kResultStates));
  r.path = textIn(node, "path");
  r.soundPath = textIn(node, "soundPath");
  r.identity = textIn(node, "identity");
  r.soundIdentity = textIn(node, "soundIdentity");
  r.bytes = wholeIn(node, "bytes", kMostBytes);
  r.frames = wholeIn(node, "frames", INT64_MAX);
  r.seconds = numberIn(node, "seconds", kMostElapsed);
  r.encoder = textIn(node, "encoder");
  r.copied = wholeIn(node, "copied", INT64_MAX);
  r.notCopied = messageIn(node, "notCopied");
  r.inSoftware = messageIn(node, "inSoftware");
  r.taken = node.has("taken") && node.get("taken").truth();
  if (node.has("error")) r.error = errorFrom(node.get("error"));
  if (node.has("proof")) r.proof = proofFrom(node.get("proof"));
  if (node.has("losses"))
    node.get("losses").elements([&](const JsonNode& each) { r.losses.push_back(messageFrom(each)); });
  return r;
}

/// Reads a document of this version or an earlier one.
template <typename Read>
auto readFrom(const std::string& text, Read read) -> Result<decltype(read(std::declval<JsonNode>()))> {
  const auto json = parseJson(text);
  if (!json) return tl::unexpected(json.error());
  JsonFault fault;
  const JsonNode root(*json, fault);
  const int64_t version = root.get("format").integer(1, INT64_MAX);
  if (!fault.error && version > kJobVersion)
    return fail(ErrorCode::ProjectTooNew, say("this job is from a later version of the program"), {},
                say("Open it with that version"));
  auto value = read(root);
  if (fault.error) return tl::unexpected(*fault.error);
  return value;
}

} // namespace

const char* clashWord(Clash clash) {
  return kClashes[int(clash)];
}

const char* afterwardsWord(Afterwards afterwards) {
  return kAfterwards[int(afterwards)];
}

const char* jobWord(JobRecord::State state) {
  return kJobStates[int(state)];
}

const char* resultWord(JobResult::State state) {
  return kResultStates[int(state)];
}

std::string toText(const Job& job) {
  Json object({{"format", kJobVersion},
               {"id", job.id},
               {"added", job.added},
               {"project", job.project},
               {"projectPath", job.projectPath},
               {"deliverables", job.deliverables},
               {"region", job.region},
               {"folder", job.folder},
               {"clash", clashWord(job.clash)},
               {"proof", job.proof},
               {"afterwards", afterwardsWord(job.afterwards)}});
  if (job.cluster)
    object["cluster"] = {{"partition", job.cluster->partition}, {"configuration", job.cluster->configuration}};
  return dumped(object);
}

Result<Job> jobFromText(const std::string& text) {
  return readFrom(text, [](const JsonNode& root) {
    Job job;
    job.id = root.get("id").text(200);
    job.added = root.get("added").integer(0, kMostSeconds);
    job.project = textIn(root, "project");
    job.projectPath = textIn(root, "projectPath");
    root.get("deliverables").elements([&](const JsonNode& each) { job.deliverables.push_back(each.text()); });
    if (job.deliverables.empty()) root.get("deliverables").refuse(say("at least one deliverable is expected here"));
    job.region = textIn(root, "region");
    job.folder = root.get("folder").text(100'000);
    if (!job.folder.starts_with('/')) root.get("folder").refuse(say("a whole path is expected here"));
    if (root.has("clash")) job.clash = Clash(root.get("clash").word(kClashes));
    if (root.has("proof")) job.proof = root.get("proof").truth();
    if (root.has("afterwards")) job.afterwards = Afterwards(root.get("afterwards").word(kAfterwards));
    if (root.has("cluster")) {
      const JsonNode cluster = root.get("cluster");
      job.cluster = ClusterPlace{textIn(cluster, "partition"), textIn(cluster, "configuration")};
    }
    return job;
  });
}

std::string toText(const JobRecord& record) {
  Json object{{"format", kJobVersion}, {"state", jobWord(record.state)}, {"begun", record.begun},
              {"ended", record.ended}, {"tries", record.tries},          {"segments", record.segments}};
  if (record.error) object["error"] = jsonOf(*record.error);
  object["results"] = Json::array();
  for (const JobResult& each : record.results) object["results"].push_back(jsonOf(each));
  if (!record.handedOver.empty()) object["handedOver"] = record.handedOver;
  return dumped(object);
}

Result<JobRecord> recordFromText(const std::string& text) {
  return readFrom(text, [](const JsonNode& root) {
    JobRecord record;
    record.state = JobRecord::State(root.get("state").word(kJobStates));
    record.begun = wholeIn(root, "begun", kMostSeconds);
    record.ended = wholeIn(root, "ended", kMostSeconds);
    record.tries = int(wholeIn(root, "tries", 1'000'000'000));
    record.segments = int(wholeIn(root, "segments", 1'000'000'000));
    if (root.has("error")) record.error = errorFrom(root.get("error"));
    root.get("results").elements([&](const JsonNode& each) { record.results.push_back(resultFrom(each)); });
    if (root.has("handedOver"))
      root.get("handedOver").elements([&](const JsonNode& each) {
        record.handedOver.push_back(int(each.integer(0, 1'000'000'000)));
      });
    return record;
  });
}

std::string toText(const ProofCurves& curves) {
  constexpr double kSsimSteps = 1e4;
  Json marks = Json::array();
  for (const ProofCurves::Mark& mark : curves.marks) marks.push_back({{"code", mark.code}, {"at", mark.at}});
  // Rounded: what is drawn needs no more.
  const auto rounded = [](const std::vector<float>& values, double step) {
    Json list = Json::array();
    for (const float value : values) list.push_back(std::round(double(value) / step) * step);
    return list;
  };
  Json ssim = Json::array(); // short texts, since there is one for each picture
  for (const float each : curves.likeness) ssim.push_back(std::round(double(each) * kSsimSteps) / kSsimSteps);
  const Json object{{"format", kJobVersion},
                    {"seconds", curves.seconds},
                    {"bitRate", rounded(curves.bitRate, 1)},
                    {"mostBitRate", curves.mostBitRate},
                    {"loudness", rounded(curves.loudness, 0.125)},
                    {"loudnessTarget", curves.loudnessTarget},
                    {"ssim", std::move(ssim)},
                    {"framesASecond", curves.framesASecond},
                    {"marks", std::move(marks)}};
  return object.dump() + "\n";
}

Result<ProofCurves> curvesFromText(const std::string& text) {
  return readFrom(text, [](const JsonNode& root) {
    ProofCurves curves;
    constexpr double kMost = 1e15;
    curves.seconds = numberIn(root, "seconds", kMostElapsed);
    curves.mostBitRate = numberIn(root, "mostBitRate", kMost);
    curves.loudnessTarget = root.get("loudnessTarget").number(-kMost, kMost);
    root.get("bitRate").elements([&](const JsonNode& each) { curves.bitRate.push_back(float(each.number(0, kMost))); });
    root.get("loudness").elements([&](const JsonNode& each) {
      curves.loudness.push_back(float(each.number(-kMost, kMost)));
    });
    if (root.has("ssim")) {
      root.get("ssim").elements([&](const JsonNode& each) { curves.likeness.push_back(float(each.number(-1, 1))); });
      curves.framesASecond = root.get("framesASecond").number(0, kMost);
    }
    root.get("marks").elements([&](const JsonNode& each) {
      curves.marks.push_back({each.get("code").text(), each.get("at").number(0, kMostElapsed)});
    });
    return curves;
  });
}

std::string toText(const JobProgress& progress) {
  Json object{{"format", kJobVersion},
              {"fraction", progress.fraction},
              {"elapsedSeconds", progress.elapsedSeconds},
              {"remainingSeconds", progress.remainingSeconds}};
  if (progress.missingBytes > 0) object["missingBytes"] = progress.missingBytes;
  if (progress.onBattery) object["onBattery"] = true;
  if (!progress.nodes.empty()) object["nodes"] = progress.nodes;
  object["deliverables"] = Json::array();
  for (const JobProgress::Each& each : progress.each)
    object["deliverables"].push_back({{"deliverable", each.deliverable},
                                      {"state", each.state},
                                      {"frame", each.frame},
                                      {"frames", each.frames},
                                      {"fraction", each.fraction},
                                      {"framesASecond", each.framesASecond},
                                      {"remainingSeconds", each.remainingSeconds},
                                      {"bytes", each.bytes},
                                      {"expectedBytes", each.expectedBytes}});
  return dumped(object);
}

Result<JobProgress> progressFromText(const std::string& text) {
  return readFrom(text, [](const JsonNode& root) {
    JobProgress progress;
    progress.fraction = numberIn(root, "fraction", 1);
    progress.elapsedSeconds = numberIn(root, "elapsedSeconds", kMostElapsed);
    progress.remainingSeconds = numberIn(root, "remainingSeconds", kMostElapsed);
    progress.missingBytes = wholeIn(root, "missingBytes", kMostBytes);
    progress.onBattery = root.has("onBattery") && root.get("onBattery").truth();
    progress.nodes = textIn(root, "nodes");
    root.get("deliverables").elements([&](const JsonNode& node) {
      progress.each.push_back({node.get("deliverable").text(), textIn(node, "state"), wholeIn(node, "frame", INT64_MAX),
                               wholeIn(node, "frames", INT64_MAX), numberIn(node, "fraction", 1),
                               numberIn(node, "framesASecond", kMostElapsed),
                               numberIn(node, "remainingSeconds", kMostElapsed), wholeIn(node, "bytes", kMostBytes),
                               wholeIn(node, "expectedBytes", kMostBytes)});
    });
    return progress;
  });
}

std::string segmentFolder(const std::string& id, const std::string& path) {
  const std::filesystem::path file(path);
  return (file.parent_path() / ("." + file.filename().string() + "." + id + ".tromb-segments")).string();
}

void dropSegments(const std::string& id, const JobRecord& record) {
  std::error_code ignored;
  for (const JobResult& result : record.results)
    if (!result.path.empty()) std::filesystem::remove_all(segmentFolder(id, result.path), ignored);
}

} // namespace tromb
