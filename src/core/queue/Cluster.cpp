// SPDX-License-Identifier: GPL-3.0-or-later
#include "queue/Cluster.h"

#include "io/Process.h"

#include <algorithm>
#include <charconv>
#include <set>
#include <sstream>

namespace tromb {
namespace {

constexpr int kAnswersWithin = 30; ///< seconds
constexpr int kNoProgram = 127;    ///< exit code of timeout(1)

std::vector<std::string> linesOf(const std::string& text) {
  std::vector<std::string> lines;
  std::istringstream in(text);
  for (std::string line; std::getline(in, line);)
    if (!line.empty()) lines.push_back(line);
  return lines;
}

std::vector<std::string> partsOf(const std::string& line) {
  std::vector<std::string> parts;
  std::istringstream in(line);
  for (std::string part; std::getline(in, part, '|');) parts.push_back(part);
  return parts;
}

template <typename Number> std::optional<Number> numberOf(std::string_view text) {
  Number value = 0;
  const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
  return code == std::errc() && end == text.data() + text.size() ? std::optional(value) : std::nullopt;
}

template <typename Each> std::string listed(const std::vector<Each>& each, const char* between) {
  std::ostringstream out;
  for (const auto& one : each) out << (&one == each.data() ? "" : between) << one;
  return out.str();
}

/// States as squeue(1) tells them.
ClusterTask::State stateOf(const std::string& word, const std::string& reason) {
  using State = ClusterTask::State;
  const auto isOneOf = [&](std::initializer_list<const char*> words) {
    return std::find(words.begin(), words.end(), word) != words.end();
  };
  if (reason == "DependencyNeverSatisfied") return State::Failed;
  if (word == "COMPLETED") return State::Done;
  if (isOneOf({"RUNNING", "COMPLETING", "STAGE_OUT", "SIGNALING", "SUSPENDED", "STOPPED"})) return State::Running;
  if (isOneOf({"PENDING", "CONFIGURING", "REQUEUED", "REQUEUE_FED", "REQUEUE_HOLD", "RESIZING", "SPECIAL_EXIT",
               "RESV_DEL_HOLD"}))
    return State::Waiting;
  return State::Failed;
}

/// For a shell, which takes it as one word whatever is in it.
std::string quoted(const std::string& word) {
  std::string out = "'";
  for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

} // namespace

Result<std::string> Cluster::run(std::vector<std::string> words) const {
  const std::string program = words.front();
  if (!m_place.configuration.empty()) words.insert(words.begin(), {"env", "SLURM_CONF=" + m_place.configuration});
  const auto said = runProgram(std::move(words), kAnswersWithin);
  if (!said) return tl::unexpected(said.error());
  if (said->exitCode == kNoProgram)
    return fail(ErrorCode::Unsupported, say("the cluster's program %1 is not there", program), {},
                say("Install slurm-client on this machine"));
  if (said->exitCode != 0) {
    const auto lines = linesOf(said->text);
    return fail(ErrorCode::Unsupported,
                say("the cluster does not do it: %1", verbatim(lines.empty() ? program : lines.back())), {},
                say("See whether sinfo shows its machines, and set SLURM_CONF where it is configured elsewhere"));
  }
  return said->text;
}

Result<int> Cluster::nodeCount() const {
  std::vector<std::string> words{"sinfo", "--noheader", "--Node", "--format=%N"};
  if (!m_place.partition.empty()) words.push_back("--partition=" + m_place.partition);
  const auto text = run(std::move(words));
  if (!text) return tl::unexpected(text.error());
  const auto lines = linesOf(*text);
  const auto count = int(std::set<std::string>(lines.begin(), lines.end()).size());
  if (count == 0 && !m_place.partition.empty())
    return fail(ErrorCode::InvalidArgument, say("the cluster has no partition '%1'", m_place.partition), {},
                say("sinfo lists them"));
  return count;
}

Result<int64_t> Cluster::submit(const Submission& submission) const {
  std::vector<std::string> words{"sbatch",
                                 "--parsable",
                                 "--no-requeue",
                                 "--job-name=" + submission.name,
                                 "--output=" + submission.log,
                                 "--open-mode=append"};
  if (!m_place.partition.empty()) words.push_back("--partition=" + m_place.partition);
  if (!submission.elements.empty()) words.push_back("--array=" + listed(submission.elements, ","));
  if (!submission.behind.empty()) words.push_back("--dependency=afterok:" + listed(submission.behind, ":"));
  if (!submission.notOn.empty()) words.push_back("--exclude=" + listed(submission.notOn, ","));
  std::string script = "exec";
  for (const std::string& word : submission.words) script += " " + quoted(word);
  if (!submission.elements.empty()) script += " \"$SLURM_ARRAY_TASK_ID\"";
  words.push_back("--wrap=" + script);
  const auto text = run(std::move(words));
  if (!text) return tl::unexpected(text.error());
  for (const std::string& line : linesOf(*text)) // NUMBER, or NUMBER;CLUSTER; warnings may stand before it
    if (const auto number = numberOf<int64_t>(std::string_view(line).substr(0, line.find(';')))) return *number;
  return fail(ErrorCode::Unsupported, say("the cluster does not do it: %1", verbatim(*text)));
}

Result<std::vector<ClusterTask>> Cluster::tasks(const std::string& name) const {
  const auto text =
      run({"squeue", "--noheader", "--array", "--states=all", "--name=" + name, "--format=%F|%K|%T|%N|%r"});
  if (!text) return tl::unexpected(text.error());
  std::vector<ClusterTask> tasks;
  for (const std::string& line : linesOf(*text)) {
    const auto parts = partsOf(line);
    const auto job = parts.size() >= 5 ? numberOf<int64_t>(parts[0]) : std::nullopt;
    if (!job) continue; // a warning
    ClusterTask task;
    task.job = *job;
    task.element = numberOf<int>(parts[1]).value_or(-1); // "N/A" where there is none
    task.state = stateOf(parts[2], parts[4]);
    task.node = parts[3];
    task.held = task.state == ClusterTask::State::Waiting && parts[4].starts_with("JobHeld");
    tasks.push_back(std::move(task));
  }
  return tasks;
}

Status Cluster::cancel(const std::string& name) const {
  const auto done = run({"scancel", "--name=" + name});
  return done ? Status() : tl::unexpected(done.error());
}

Status Cluster::cancel(int64_t job) const {
  const auto done = run({"scancel", std::to_string(job)});
  return done ? Status() : tl::unexpected(done.error());
}

Status Cluster::hold(const std::vector<std::string>& tasks, bool held) const {
  const auto done = run({"scontrol", held ? "hold" : "release", listed(tasks, ",")});
  return done ? Status() : tl::unexpected(done.error());
}

} // namespace tromb
