#include <fmt/format.h>

#include "cli/cluster_job.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

struct SubmitWords {
  std::string folder, time, partition;
  std::vector<std::string> command, options;
  int parts = 0, cpus = 1;
  double memory = 0;
  bool go = false;
};

/// A call that cannot be made is refused here, and not by every task.
int tried(const ClusterJob& job) {
  if (job.command.front() != "apply") return all_done;
  CommandWords words = job.words();
  words.drop("--journal");
  if (!words.has("--replace") && !words.has("--resume")) words.add("--resume");
  std::string line = quoted(job.program.string());
  for (const std::string& word : words.all()) line += " " + quoted(word);
  const int status = std::system((line + " --dry-run --quiet > /dev/null").c_str());
  return WIFEXITED(status) ? WEXITSTATUS(status) : wrong_call;
}

void say_job(const Common& common, const ClusterJob& job, const fs::path& script, std::size_t parts) {
  if (common.json)
    return say_json({{"script", script.string()}, {"parts", parts}, {"id", job.ids.empty() ? "" : job.ids.back()}});
  say("{} part{} -> {}\n", parts, parts == 1 ? "" : "s", script.string());
  if (job.ids.empty())
    say("Submit it with: sbatch {}\n", quoted(script.string()));
  else
    say("Submitted as job {}. When it is done: fexel-cli gather {}\n", job.ids.back(), quoted(job.folder.string()));
}

int run_submit(const Common& common, const SubmitWords& words) {
  ClusterJob job;
  job.folder = fs::absolute(words.folder).lexically_normal();
  job.program = fs::read_symlink("/proc/self/exe");
  job.directory = fs::current_path();
  job.command = words.command;
  job.parts = words.parts;
  job.cpus = words.cpus;
  job.options = words.options;
  if (!words.time.empty()) job.options.push_back("--time=" + words.time);
  if (!words.partition.empty()) job.options.push_back("--partition=" + words.partition);
  if (words.memory > 0) job.options.push_back(fmt::format("--mem={:.0f}M", words.memory));
  for (const std::string& option : job.options)
    if (!option.starts_with("--") || option.find('\n') != std::string::npos)
      throw call_error("This is no option of sbatch.", option, "Give it as --name=value.");
  check_job(job);
  std::error_code code;
  if (fs::exists(job.folder / "job.json", code))
    throw call_error("This folder holds a job already.", job.folder.string(),
                     "Gather it, or name another folder with --folder.");
  if (tried(job) == wrong_call) return wrong_call;
  fs::create_directories(job.folder, code);
  if (code) throw call_error("This folder cannot be made.", job.folder.string(), "Choose another one with --folder.");
  std::vector<int> parts(static_cast<std::size_t>(job.parts));
  for (int i = 0; i < job.parts; ++i) parts[static_cast<std::size_t>(i)] = i + 1;
  const fs::path script = job.folder / "job.sh";
  write_text(script, script_of(job, parts), true);
  save_job(job);
  if (words.go) {
    job.ids.push_back(submit_script(script));
    save_job(job);
  }
  say_job(common, job, script, parts.size());
  return all_done;
}

struct GatherWords {
  std::string folder;
  bool go = false;
};

int run_gather(const Common& common, const GatherWords& words) {
  ClusterJob job = load_job(words.folder);
  const std::vector<PartState> states = states_of(job);
  Json lost = Json::array(), waiting = Json::array(), failed = Json::array();
  std::vector<int> again;
  std::map<std::string, std::size_t> counts;
  for (int part = 1; part <= job.parts; ++part) {
    const PartState& state = states[static_cast<std::size_t>(part) - 1];
    if (state.state == PartState::State::under_way) waiting.push_back(part);
    if (state.state == PartState::State::lost) {
      again.push_back(part);
      lost.push_back({{"part", part}, {"why", state.why}});
    }
    if (state.state != PartState::State::done) continue;
    for (const char* key : {"done", "skipped", "failed", "fields", "frames", "measurements"})
      if (const auto at = state.said.find(key); at != state.said.end() && at->is_array()) counts[key] += at->size();
    if (const auto at = state.said.find("failed"); at != state.said.end())
      for (const Json& one : *at) failed.push_back(one);
  }
  Json out{{"parts", job.parts}, {"lost", lost}, {"under_way", waiting}, {"failed", failed}};
  for (const auto& [key, count] : counts) out["counts"][key] = count;
  const fs::path script = job.folder / "again.sh";
  if (!again.empty()) {
    write_text(script, script_of(job, again), true);
    out["again"] = script.string();
    if (words.go) {
      job.ids.push_back(submit_script(script));
      save_job(job);
      out["id"] = job.ids.back();
    }
  } else if (waiting.empty()) {
    for (const fs::path& path : merge_parts(job)) out["written"].push_back(path.string());
  }
  if (common.json) {
    say_json(out);
  } else {
    for (const Json& one : lost)
      say("lost: part {} of {}: {}\n", one["part"].get<int>(), job.parts, one["why"].get<std::string>());
    if (!waiting.empty()) say("{} of {} parts are under way.\n", waiting.size(), job.parts);
    for (const auto& [key, count] : counts) say("{}: {}\n", key, count);
    for (const Json& one : failed)
      if (one.contains("input")) complain(one["input"].get<std::string>() + ": it failed.");
    if (!again.empty() && words.go) say("Submitted again as job {}: {} part(s).\n", job.ids.back(), again.size());
    if (!again.empty() && !words.go) say("Run what was lost again with: sbatch {}\n", quoted(script.string()));
    if (out.contains("written"))
      for (const Json& path : out["written"]) say("-> {}\n", path.get<std::string>());
  }
  return again.empty() && waiting.empty() && failed.empty() ? all_done : inputs_failed;
}

}  // namespace

void add_cluster(CLI::App& app, Common& common, Verbs& verbs) {
  auto words = std::make_shared<SubmitWords>();
  CLI::App* submit =
      app.add_subcommand("submit", "splits apply, measure, motion or align over the tasks of a Slurm array job");
  submit->add_option("COMMAND", words->command, "behind --: the verb and its words")->required();
  submit->add_option("--parts", words->parts, "how many tasks")->required()->check(CLI::Range(1, 100000));
  submit->add_option("--folder", words->folder, "a new folder for the script and what each part says")->required();
  submit->add_option("--cpus", words->cpus, "cores of a task (1)")->check(CLI::Range(1, 4096));
  submit->add_option("--memory", words->memory, "MB of a task; what the cluster gives without it")
      ->check(number_from(1, 1e9));
  submit->add_option("--time", words->time, "longest time of a task, as sbatch takes it: 2:00:00");
  submit->add_option("--partition", words->partition, "of the cluster");
  submit->add_option("--option", words->options, "another option of sbatch, such as --account=lab; may be repeated");
  submit->add_flag("--go", words->go, "give it to sbatch at once");
  add_common(*submit, common);
  verbs.emplace_back(submit, [words, &common] { return run_submit(common, *words); });

  auto of_gather = std::make_shared<GatherWords>();
  CLI::App* gather =
      app.add_subcommand("gather", "tells what became of the parts of a job, and puts together what they made");
  gather->add_option("FOLDER", of_gather->folder, "that submit was given")->required();
  gather->add_flag("--go", of_gather->go, "submit the lost parts again at once");
  add_common(*gather, common);
  verbs.emplace_back(gather, [of_gather, &common] { return run_gather(common, *of_gather); });
}

}  // namespace fexel::cli
