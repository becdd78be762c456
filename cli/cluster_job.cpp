#include "cli/cluster_job.h"

#include <fmt/format.h>
#include <sys/wait.h>

#include <cstdio>
#include <memory>
#include <set>
#include <sstream>

#include "base/error.h"
#include "batch/journal.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "run/measure_run.h"
#include "text/reader.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

constexpr int file_version = 1;

/// What a program says on its standard output, and how it ended; -1 where it could not be started.
std::pair<std::string, int> output_of(const std::string& command) {
  const auto close = [](FILE* file) { ::pclose(file); };
  std::unique_ptr<FILE, decltype(close)> pipe(::popen(command.c_str(), "re"), close);
  if (!pipe) return {{}, -1};
  std::string out;
  char block[4096];
  for (std::size_t n = 0; (n = std::fread(block, 1, sizeof block, pipe.get())) > 0;) out.append(block, n);
  const int status = ::pclose(pipe.release());
  return {out, WIFEXITED(status) ? WEXITSTATUS(status) : -1};
}

std::string trimmed(std::string text) {
  while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back()))) text.pop_back();
  return text;
}

/// The numbers that Slurm gave the job: when it was submitted here, and as its tasks said when they began.
std::set<std::string> ids_of(const ClusterJob& job) {
  std::set<std::string> out(job.ids.begin(), job.ids.end());
  for (int part = 1; part <= job.parts; ++part) {
    std::error_code code;
    if (const fs::path said = job.file(part, ".job"); fs::exists(said, code)) out.insert(trimmed(read_text(said, 100)));
  }
  out.erase("");
  return out;
}

/// The parts of a job that Slurm still has; empty where it has none, or cannot be asked.
std::set<int> under_way(const ClusterJob& job) {
  std::set<int> out;
  for (const std::string& id : ids_of(job)) {
    // One that has ended long ago is an error to it.
    const auto [text, code] = output_of("squeue --noheader --array --format=%K --jobs=" + quoted(id) + " 2>/dev/null");
    if (code != 0) continue;
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);)
      if (const auto number = number_in(line)) out.insert(static_cast<int>(*number));
  }
  return out;
}

}  // namespace

fs::path ClusterJob::file(int part, const std::string& ending) const {
  return folder / fmt::format("part-{}{}", part, ending);
}

void check_job(const ClusterJob& job) {
  // A line of the script ends where a name would break it.
  for (const std::string& name : {job.folder.string(), job.directory.string(), job.program.string()})
    if (name.find('\n') != std::string::npos)
      throw call_error("A name with a line's end cannot stand in a script.", name, "Rename it, or use another folder.");
  static const std::set<std::string> verbs{"apply", "measure", "motion", "align"};
  if (job.command.empty() || !verbs.contains(job.command.front()))
    throw call_error("This has no parts.", job.command.empty() ? "submit" : job.command.front(),
                     "Give apply, measure, motion or align behind --, such as: submit --parts 8 --folder job -- apply "
                     "chain.fexel.json photos --out results");
  const CommandWords words = job.words();
  for (const char* option : {"--shard", "--threads", "--json", "--dry-run", "--report"})
    if (words.has(option)) throw call_error("Each part is given this by itself.", option, "Leave it out behind --.");
  if (std::ranges::find(job.command, "-") != job.command.end())
    throw call_error("A part has no standard input.", "-", "Name a file behind --.");
  if (!words.value("--out") && words.verb() != "motion")
    throw call_error("Nothing says where the results go.", "--out", "Give it behind --.");
  if (words.verb() == "motion") {
    for (const char* option : {"--maps", "--mean", "--merge", "--trial", "--suggest", "--still"})
      if (words.has(option))
        throw call_error("What goes over all fields has no parts.", option, "Leave it out, or measure on one machine.");
    if (!words.value("--out"))
      throw call_error("Nothing says where the table goes.", "--out", "Give a CSV file behind --.");
  }
}

std::string script_of(const ClusterJob& job, const std::vector<int>& parts) {
  CommandWords words = job.words();
  const std::string part = "part-$part";
  std::string line = quoted(job.program.string());
  const std::string verb = words.verb();
  const bool table = verb == "measure" || verb == "motion";
  if (table) {
    words.drop("--out");
    if (!words.has("--replace")) words.add("--replace");  // a part is the job's own file
  }
  if (verb == "apply") {
    words.drop("--journal");
    if (!words.has("--replace") && !words.has("--resume")) words.add("--resume");
  }
  for (const std::string& word : words.all()) line += " " + quoted(word);
  if (table) line += fmt::format(" --out \"$job/{}.csv\"", part);
  if (verb == "apply") line += fmt::format(" --journal \"$job/{}.run.jsonl\"", part);
  line += fmt::format(" --shard \"$part/{}\" --threads \"${{SLURM_CPUS_PER_TASK:-{}}}\" --json --quiet", job.parts,
                      job.cpus);
  std::string list;
  for (const int one : parts) list += (list.empty() ? "" : ",") + std::to_string(one);
  if (static_cast<int>(parts.size()) == job.parts) list = fmt::format("1-{}", job.parts);
  std::string out = fmt::format(
      "#!/bin/bash\n#SBATCH --job-name=fexel-{}\n#SBATCH --array={}\n#SBATCH --cpus-per-task={}\n"
      "#SBATCH --output={}\n#SBATCH --open-mode=append\n#SBATCH --no-requeue\n",
      verb, list, job.cpus, quoted((job.folder / "log-%a.txt").string()));
  for (const std::string& option : job.options) out += "#SBATCH " + option + "\n";
  out += fmt::format(
      "# Written by fexel-cli submit. Each task does one of {} parts; \"fexel-cli gather {}\" tells what became of\n"
      "# them, and puts together what they made.\n"
      "part=${{SLURM_ARRAY_TASK_ID:?run it by sbatch, or give the number of a part}}\n"
      "job={}\ncd {} || exit 2\nrm -f \"$job/{}.code\"\n"
      "echo \"${{SLURM_ARRAY_JOB_ID:-}}\" > \"$job/{}.job\"\n"
      "{} > \"$job/{}.json\"\ncode=$?\n"
      "echo $code > \"$job/{}.code.new\" && mv \"$job/{}.code.new\" \"$job/{}.code\"\nexit $code\n",
      job.parts, job.folder.string(), quoted(job.folder.string()), quoted(job.directory.string()), part, part, line,
      part, part, part, part);
  return out;
}

void save_job(const ClusterJob& job) {
  const Json json{{"fexel_job", file_version},
                  {"program", job.program.string()},
                  {"directory", job.directory.string()},
                  {"command", job.command},
                  {"parts", job.parts},
                  {"cpus", job.cpus},
                  {"options", job.options},
                  {"ids", job.ids}};
  write_text(job.folder / "job.json", to_text(json, 2) + "\n", true);
}

ClusterJob load_job(const fs::path& folder) {
  const fs::path file = folder / "job.json";
  std::error_code code;
  if (!fs::exists(file, code))
    throw call_error("This folder holds no job.", folder.string(), "Name the folder that submit was given.");
  try {
    const Json json = parse_json(read_text(file, 16 << 20));
    const JsonReader in(json, "", {"fexel_job", "program", "directory", "command", "parts", "cpus", "options", "ids"});
    if (in.whole("fexel_job", 1, 1000000) > file_version)
      throw call_error("This job is from a newer Fexel.", "/fexel_job", "Version 1 can be read.");
    ClusterJob out;
    out.folder = fs::absolute(folder).lexically_normal();
    out.program = in.text("program");
    out.directory = in.text("directory");
    const auto texts = [&](const char* key) {
      std::vector<std::string> list;
      for (const Json& one : in.array(key)) {
        if (!one.is_string()) JsonReader::refuse(one, in.path(key), "words");
        list.push_back(one.get<std::string>());
      }
      return list;
    };
    out.command = texts("command");
    out.parts = in.whole("parts", 1, 100000);
    out.cpus = in.whole("cpus", 1, 100000);
    out.options = texts("options");
    out.ids = texts("ids");
    check_job(out);
    return out;
  } catch (const Error& error) {
    throw call_error(error.message(), file.string() + (error.where().empty() ? "" : ": " + error.where()),
                     error.remedy());
  }
}

std::vector<PartState> states_of(const ClusterJob& job) {
  const std::set<int> at_work = under_way(job);
  std::vector<PartState> out;
  for (int part = 1; part <= job.parts; ++part) {
    PartState state;
    std::error_code code;
    if (!fs::exists(job.file(part, ".code"), code)) {
      state.state = at_work.contains(part) ? PartState::State::under_way : PartState::State::lost;
      state.why = fs::exists(job.file(part, ".json"), code) ? "it was ended before it was done" : "it has not begun";
      out.push_back(std::move(state));
      continue;
    }
    const std::string ended = trimmed(read_text(job.file(part, ".code"), 100));
    try {
      state.said = parse_json(read_text(job.file(part, ".json")));
    } catch (const Error&) {
      state.said = Json();
    }
    if (ended != "0" && ended != "1") {
      state.why =
          fmt::format("it ended with {}; see {}", ended, (job.folder / fmt::format("log-{}.txt", part)).string());
    } else if (!state.said.is_object()) {
      state.why = "what it said is cut short";
    } else if (state.said.value("cancelled", false)) {
      state.why = "it was cancelled";
    } else {
      state.state = PartState::State::done;
    }
    out.push_back(std::move(state));
  }
  return out;
}

std::vector<fs::path> merge_parts(const ClusterJob& job) {
  const CommandWords words = job.words();
  const bool replace = words.has("--replace");
  const auto absolute = [&](const std::string& name) { return (job.directory / name).lexically_normal(); };
  if (words.verb() == "align") return {};
  if (words.verb() == "measure" || words.verb() == "motion") {
    const fs::path out = absolute(*words.value("--out"));
    if (words.verb() == "measure") {
      std::vector<std::string> tables;
      for (int part = 1; part <= job.parts; ++part)
        tables.push_back(read_text(job.file(part, ".csv"), std::int64_t{1} << 34));
      write_text(out, joined_measurements(tables), replace);
    } else {
      std::vector<std::string> tables;
      for (int part = 1; part <= job.parts; ++part) tables.push_back(job.file(part, ".csv").string());
      merge_motion_tables(tables, out.string(), replace);
    }
    return {out};
  }
  std::optional<Journal> all;
  for (int part = 1; part <= job.parts; ++part) {
    Journal own = load_journal(job.file(part, ".run.jsonl"));
    if (!all) {
      all = std::move(own);
      continue;
    }
    all->entries.insert(own.entries.begin(), own.entries.end());
    for (const auto& [input, chain] : own.options.own)
      if (chain.chain) all->options.own[input] = chain;
  }
  const auto named = words.value("--journal");
  const fs::path out =
      named ? absolute(*named) : journal_path(absolute(*words.value("--out")), all->options.chain_name);
  // As a run keeps it: one of another chain that is there stays beside it.
  JournalWriter(out, std::move(*all)).tidy();
  return {out};
}

std::string submit_script(const fs::path& script) {
  const auto [text, code] = output_of("sbatch --parsable " + quoted(script.string()));
  const std::string id = trimmed(text.substr(0, text.find(';')));
  if (code != 0 || id.empty())
    throw input_error("Slurm did not take the job.", script.string(),
                      code == 127 || code == -1
                          ? "Run this where sbatch is, or leave --go out and give the script to it there."
                          : "See what sbatch says above.");
  return id;
}

}  // namespace fexel::cli
