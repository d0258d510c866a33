// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "project/ProjectFile.h"
#include "queue/ClusterRun.h"
#include "queue/Runner.h"

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <ostream>
#include <thread>

namespace tromb::cli {
namespace {

using Json = nlohmann::ordered_json;
constexpr auto kLookEvery = std::chrono::milliseconds(200);

Json jsonOf(const Error& error) {
  return {{"code", codeWord(error.code)}, {"message", sentence(error)}, {"path", error.path}};
}

/// How far a deliverable of a job is that somebody is at; null where it is over, or nobody is.
const JobProgress::Each* under(const QueuedJob& queued, const JobResult& result) {
  if (!queued.progress || !queued.attended || result.made() || result.state == JobResult::State::Failed) return nullptr;
  for (const JobProgress::Each& now : queued.progress->each)
    if (now.deliverable == result.deliverable) return &now;
  return nullptr;
}

Json jsonOf(const QueuedJob& queued) {
  Json object{{"id", queued.id}};
  if (queued.fault) {
    object["state"] = "damaged";
    object["error"] = jsonOf(*queued.fault);
    return object;
  }
  object["state"] = jobWord(queued.record.state);
  object["project"] = queued.job.project;
  object["projectPath"] = queued.job.projectPath;
  object["region"] = queued.job.region;
  object["folder"] = queued.job.folder;
  object["added"] = queued.job.added;
  if (queued.job.cluster)
    object["cluster"] = {{"partition", queued.job.cluster->partition},
                         {"nodes", queued.progress && queued.attended ? queued.progress->nodes : ""}};
  if (queued.record.begun > 0) object["begun"] = queued.record.begun;
  if (queued.record.ended > 0) object["ended"] = queued.record.ended;
  object["tries"] = queued.record.tries;
  if (queued.progress && queued.attended) {
    object["fraction"] = queued.progress->fraction;
    object["elapsedSeconds"] = queued.progress->elapsedSeconds;
    object["remainingSeconds"] = queued.progress->remainingSeconds;
    if (queued.progress->missingBytes > 0) object["missingBytes"] = queued.progress->missingBytes;
    if (queued.progress->onBattery) object["onBattery"] = true;
  }
  if (queued.record.error) object["error"] = jsonOf(*queued.record.error);
  object["deliverables"] = Json::array();
  for (const JobResult& result : queued.record.results) {
    Json each{{"deliverable", result.name}, {"state", resultWord(result.state)}};
    if (result.made()) {
      each["path"] = result.path;
      if (!result.soundPath.empty()) each["soundPath"] = result.soundPath;
      each["bytes"] = result.bytes;
      each["encoder"] = result.encoder;
      if (!result.notCopied.empty()) each["notCopied"] = result.notCopied.text();
      if (result.copied > 0) each["copied"] = result.copied;
      if (!result.inSoftware.empty()) each["inSoftware"] = result.inSoftware.text();
      each["proof"] = result.proof ? toJson(*result.proof) : Json(nullptr);
    }
    if (result.error) each["error"] = jsonOf(*result.error);
    for (const Message& loss : result.losses) each["losses"].push_back(loss.text());
    if (const JobProgress::Each* now = under(queued, result)) {
      each["state"] = now->state;
      each["frame"] = now->frame;
      each["frames"] = now->frames;
      each["fraction"] = now->fraction;
      each["framesASecond"] = now->framesASecond;
      each["remainingSeconds"] = now->remainingSeconds;
      each["bytes"] = now->bytes;
      each["expectedBytes"] = now->expectedBytes;
    }
    object["deliverables"].push_back(std::move(each));
  }
  return object;
}

/// The exit code that tells what came of a job.
int codeOf(const QueuedJob& queued) {
  if (queued.fault) return exitCode(queued.fault->code);
  if (queued.record.state == JobRecord::State::Cancelled) return kInterrupted;
  int code = queued.record.error ? exitCode(queued.record.error->code) : kDone;
  for (const JobResult& each : queued.record.results) {
    if (each.state == JobResult::State::Short) code = std::max<int>(code, kFallsShort);
    if (each.error) code = std::max(code, exitCode(each.error->code));
  }
  return code;
}

void tell(std::ostream& to, const QueuedJob& queued) {
  to << queued.id << "  ";
  if (queued.fault) {
    to << "damaged: " << sentence(*queued.fault) << "\n";
    return;
  }
  to << jobWord(queued.record.state);
  if (queued.progress && queued.attended) {
    if (queued.progress->missingBytes > 0)
      to << ", waits for room: " << bytesText(queued.progress->missingBytes) << " short";
    else
      to << " " << int(queued.progress->fraction * 100) << " %";
    if (queued.progress->onBattery) to << ", on the machine's battery";
    if (!queued.progress->nodes.empty()) to << ", on " << queued.progress->nodes;
  }
  to << "  " << queued.job.project << (queued.job.region.empty() ? "" : " · " + queued.job.region) << "\n";
  if (queued.record.error) to << "  " << sentence(*queued.record.error) << "\n";
  for (const JobResult& each : queued.record.results) {
    const JobProgress::Each* now = under(queued, each);
    to << "  " << each.name << ": " << (now ? now->state : resultWord(each.state));
    if (now && now->fraction > 0) to << " " << int(now->fraction * 100) << " %";
    if (now && now->framesASecond > 0) to << ", " << int(now->framesASecond + 0.5) << " frames a second";
    if (now && now->remainingSeconds > 0) to << ", " << int(now->remainingSeconds + 0.5) << " s left";
    if (each.made()) to << ", " << each.path;
    if (each.error) to << ". " << sentence(*each.error);
    to << "\n";
    if (each.proof)
      for (const ProofCheck& check : each.proof->checks)
        if (!check.pass)
          to << "    " << check.code << ": expected " << check.expected << ", found " << check.found << "\n";
    for (const Message& loss : each.losses) to << "    " << loss << "\n";
  }
}

class QueueCommand final : public Command {
public:
  explicit QueueCommand(CLI::App& app) : m_queue(Queue::usualFolder()) {
    app.require_subcommand(1);
    add(app);
    verb(app, "list", "List the jobs, in their order", [this] { return listed(); });
    verb(app, "run", "Do the jobs until none waits", [this] { return ran(); });
    task(app);
    many(verb(app, "pause", "Pause jobs", [this] { return each(&Queue::pause); }));
    many(verb(app, "resume", "Let paused jobs go on", [this] { return each(&Queue::resume); }));
    many(verb(app, "cancel", "Cancel jobs; what of them is done stays", [this] { return each(&Queue::cancel); }));
    many(verb(app, "take", "Take files that fell short as they are: they get their right names",
              [this] { return each(&Queue::take); }));
    many(verb(app, "retry", "Do again what failed, fell short or was cancelled",
              [this] { return each(&Queue::retry); }));
    many(verb(app, "remove", "Take jobs off the list; what they have exported stays",
              [this] { return each(&Queue::remove); }));
    CLI::App* move = verb(app, "move", "Put a job at another place", [this] { return moved(); });
    move->add_option("job", m_ids, "Its id")->required()->expected(1);
    move->add_option("--to", m_place, "Its place, 1 being the first")->required()->check(CLI::PositiveNumber);
    CLI::App* wait = verb(app, "wait", "Wait until jobs are over; the exit code tells what came of them",
                          [this] { return waited(); });
    wait->add_option("jobs", m_ids, "Their ids; all by default")->type_name("ID");
  }

  int run(Context& context) override {
    m_context = &context;
    if (m_queue.folder().empty())
      return failed(context,
                    {ErrorCode::CannotWrite, say("there is no home for the queue"), {}, {}, say("Set XDG_DATA_HOME")},
                    m_json);
    for (const auto& [app, work] : m_verbs)
      if (app->parsed()) return work();
    return kUsage;
  }

private:
  CLI::App* verb(CLI::App& app, const char* name, const char* what, std::function<int()> work) {
    CLI::App* sub = app.add_subcommand(name, what);
    sub->add_flag("--json", m_json, "Write JSON to standard output");
    m_verbs.emplace_back(sub, std::move(work));
    return sub;
  }

  void many(CLI::App* sub) {
    CLI::Option* ids = sub->add_option("jobs", m_ids, "Their ids, as list tells them")->type_name("ID");
    ids->excludes(sub->add_flag("--all", m_all, "All of them"));
  }

  void add(CLI::App& app) {
    CLI::App* sub = verb(app, "add", "Put deliverables of a project into the queue", [this] { return added(); });
    sub->add_option("project", m_path, "Project file")->required()->type_name("PROJECT");
    sub->add_option("--deliverable", m_deliverables, "Name of a deliverable; all by default")->take_all();
    sub->add_option("--region", m_region, "Name of a region: that part of the running order alone");
    sub->add_option("--out", m_job.folder, "Folder to write to")->required()->type_name("DIR");
    sub->add_option("--clash", m_clash, "Where a file is there already: number the new one, replace it, or refuse")
        ->check(CLI::IsMember({"number", "replace", "refuse"}));
    sub->add_flag("--no-proof", m_noProof, "Leave out the reading-back");
    sub->add_flag("--notify", m_notify, "Have the desktop show a notice when it is over");
    sub->add_flag("--first", m_first, "Put it before all others");
    sub->add_flag("--start", m_start, "Start a process that does the jobs, unless there is one");
    CLI::Option* cluster = sub->add_flag("--cluster", m_cluster,
                                         "Have it done by a cluster (Slurm); footage and DIR are on a folder that its "
                                         "machines share");
    sub->add_option("--partition", m_partition, "Of the cluster; its usual one by default")->needs(cluster);
  }

  /// For the machines of a cluster alone.
  void task(CLI::App& app) {
    CLI::App* sub = verb(app, "task", "Do a part of a job on a machine of a cluster", [this] { return didTask(); });
    sub->group(""); // not for people
    sub->add_option("queue", m_path)->required();
    sub->add_option("job", m_ids)->required()->expected(1);
    CLI::Option* number = sub->add_option("--number", m_number);
    sub->add_flag("--join", m_join)->excludes(number);
  }

  int didTask() {
    const Queue queue(m_path);
    const RunnerSettings settings{cacheFolder("indexes"), cacheFolder("encoders"), true};
    const Status done = m_join ? joinClusterTasks(queue, m_ids.front(), settings, m_context->stop)
                               : doClusterTask(queue, m_ids.front(), m_number, settings, m_context->stop);
    return done ? int(kDone) : failed(*m_context, done.error(), m_json);
  }

  int added() {
    const auto project = loadProject(m_path);
    if (!project) return failed(*m_context, project.error(), m_json);
    const auto ids = deliverableIds(*project, m_deliverables);
    if (!ids) return failed(*m_context, ids.error(), m_json);
    if (!m_region.empty())
      if (const auto region = regionNamed(*project, m_region); !region)
        return failed(*m_context, region.error(), m_json);
    m_job.deliverables = *ids;
    m_job.projectPath = m_path;
    m_job.region = m_region;
    m_job.proof = !m_noProof;
    if (m_notify) m_job.afterwards = Afterwards::Notify;
    for (const Clash clash : {Clash::Number, Clash::Replace, Clash::Refuse})
      if (m_clash == clashWord(clash)) m_job.clash = clash;
    if (m_cluster) {
      const char* configuration = std::getenv("SLURM_CONF");
      m_job.cluster = ClusterPlace{m_partition, configuration ? configuration : ""};
      if (const auto nodes = Cluster(*m_job.cluster).nodeCount(); !nodes)
        return failed(*m_context, nodes.error(), m_json);
    }
    const auto id = m_queue.add(m_job, *project);
    if (!id) return failed(*m_context, id.error(), m_json);
    if (m_first)
      if (const Status done = m_queue.move(*id, 0); !done) return failed(*m_context, done.error(), m_json);
    if (m_start)
      if (const Status done = startRunner(m_queue); !done) return failed(*m_context, done.error(), m_json);
    if (m_json)
      m_context->out << jsonLine({{"id", *id}}) << "\n";
    else
      m_context->err << *id << "\n";
    return kDone;
  }

  int listed() {
    const auto jobs = m_queue.list();
    if (m_json) {
      Json object{{"running", isRun(m_queue)}, {"jobs", Json::array()}};
      for (const QueuedJob& each : jobs) object["jobs"].push_back(jsonOf(each));
      m_context->out << jsonLine(object) << "\n";
      return kDone;
    }
    if (jobs.empty()) m_context->err << "The queue is empty.\n";
    for (const QueuedJob& each : jobs) tell(m_context->err, each);
    return kDone;
  }

  int ran() {
    int code = kDone;
    const auto ended = runQueue(m_queue, {cacheFolder("indexes"), cacheFolder("encoders")}, m_context->stop,
                                [&](const QueuedJob& each) {
                                  if (!each.record.over()) return; // it was interrupted, and waits
                                  code = std::max(code, codeOf(each));
                                  if (m_json)
                                    m_context->out << jsonLine(jsonOf(each)) << std::endl;
                                  else
                                    tell(m_context->err, each);
                                });
    if (!ended && ended.error().code == ErrorCode::Exists) { // what was asked for is the case
      m_context->err << "tromb-cli: " << sentence(ended.error()) << "\n";
      return kDone;
    }
    if (!ended) return failed(*m_context, ended.error(), m_json);
    return m_context->stop.stop_requested() ? int(kInterrupted) : code;
  }

  int each(Status (Queue::*what)(const std::string&) const) {
    if (m_all)
      for (const QueuedJob& job : m_queue.list()) m_ids.push_back(job.id);
    else if (m_ids.empty())
      return failed(*m_context,
                    {ErrorCode::InvalidArgument, say("no job is named"), {}, {}, say("Give its id, or --all")}, m_json);
    for (const std::string& id : m_ids)
      if (const Status done = (m_queue.*what)(id); !done) return failed(*m_context, done.error(), m_json);
    return kDone;
  }

  int moved() {
    const Status done = m_queue.move(m_ids.front(), size_t(m_place - 1));
    return done ? int(kDone) : failed(*m_context, done.error(), m_json);
  }

  int waited() {
    const bool all = m_ids.empty();
    for (;;) {
      std::vector<QueuedJob> jobs;
      if (all) {
        jobs = m_queue.list();
      } else {
        for (const std::string& id : m_ids) {
          auto job = m_queue.find(id);
          if (!job) return failed(*m_context, job.error(), m_json);
          jobs.push_back(std::move(*job));
        }
      }
      const bool over =
          std::all_of(jobs.begin(), jobs.end(), [](const QueuedJob& each) { return each.fault || each.record.over(); });
      if (over) {
        int code = kDone;
        Json list = Json::array();
        for (const QueuedJob& each : jobs) {
          code = std::max(code, codeOf(each));
          if (m_json)
            list.push_back(jsonOf(each));
          else
            tell(m_context->err, each);
        }
        if (m_json) m_context->out << jsonLine({{"jobs", list}}) << "\n";
        return code;
      }
      if (m_context->stop.stop_requested()) return kInterrupted;
      std::this_thread::sleep_for(kLookEvery);
    }
  }

  Queue m_queue;
  std::vector<std::pair<CLI::App*, std::function<int()>>> m_verbs;
  Context* m_context = nullptr;
  bool m_json = false;
  std::string m_path;
  std::vector<std::string> m_deliverables;
  std::string m_region;
  Job m_job;
  std::string m_clash = "number";
  bool m_noProof = false;
  bool m_notify = false;
  bool m_first = false;
  bool m_start = false;
  bool m_cluster = false;
  std::string m_partition;
  int m_number = -1;
  bool m_join = false;
  bool m_all = false;
  std::vector<std::string> m_ids;
  int m_place = 1;
};

} // namespace

std::unique_ptr<Command> makeQueue(CLI::App& app) {
  return std::make_unique<QueueCommand>(app);
}

} // namespace tromb::cli
