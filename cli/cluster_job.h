#pragma once
/// A call of this program, split over the tasks of an array job: what is kept of it in a folder, and what became of its
/// parts.
#include <filesystem>
#include <string>
#include <vector>

#include "cli/shard.h"
#include "text/json.h"

namespace fexel::cli {

struct ClusterJob {
  std::filesystem::path folder;      ///< of the job: what was asked, the script, what each part said
  std::filesystem::path program;     ///< this one
  std::filesystem::path directory;   ///< that the command's names start at
  std::vector<std::string> command;  ///< the verb and its words
  int parts = 1;
  int cpus = 1;                       ///< of a task
  std::vector<std::string> options;   ///< for sbatch, such as "--time=2:00:00"
  std::vector<std::string> ids = {};  ///< that Slurm gave it, each time that it was submitted from here

  CommandWords words() const { return CommandWords(command); }
  std::filesystem::path file(int part, const std::string& ending) const;
};

/// Raises call errors for a verb without parts, and for words that a part cannot have.
void check_job(const ClusterJob& job);
/// The script of an array job over these parts.
std::string script_of(const ClusterJob& job, const std::vector<int>& parts);
void save_job(const ClusterJob& job);
/// Raises a call error for a folder that holds none.
ClusterJob load_job(const std::filesystem::path& folder);

/// What one part came to.
struct PartState {
  enum class State {
    done,       ///< to its end; inputs may have failed
    under_way,  ///< Slurm says so
    lost        ///< it never ended, was cancelled, or could not begin
  };
  State state = State::lost;
  Json said = {};   ///< what it said with --json
  std::string why;  ///< it is lost
};
std::vector<PartState> states_of(const ClusterJob& job);

/// Puts together what all parts made; returns the files.
std::vector<std::filesystem::path> merge_parts(const ClusterJob& job);

/// Gives a script to sbatch; the number of the job. Raises an input error where it is refused.
std::string submit_script(const std::filesystem::path& script);

}  // namespace fexel::cli
