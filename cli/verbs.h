#pragma once
/// The verbs of the command line.
#include <CLI/CLI.hpp>
#include <functional>
#include <stop_token>

#include "base/error.h"
#include "base/job.h"
#include "files/picture.h"
#include "files/protected.h"
#include "text/json.h"

namespace fexel::cli {

/// Exit codes: all done; some or all inputs failed; the call, a table or the chain is wrong and nothing was done.
enum ExitCode { all_done = 0, inputs_failed = 1, wrong_call = 2 };

/// What every verb takes.
struct Common {
  bool json = false;
  bool quiet = false;
  int threads = 0;
  std::string log_level = "info";
  std::stop_token stop;
};

/// A job whose progress goes to standard error: a bar on a terminal, plain lines elsewhere.
Job job_of(const Common& common, const std::string& what);
/// Ends the line of a bar.
void end_progress(const Common& common);
/// Notes the error in the log; gives it as the JSON object that --json promises.
Json logged_error(const Error& error);

/// The numbers of a text, one character apart; nothing where something else is in it.
std::optional<std::vector<double>> numbers_in(const std::string& text, char apart);
/// A number from `low` to `high`, and no other: not "nan", which compares with nothing.
CLI::Validator number_from(double low, double high);
/// Raises a call error when a report may not be written there: checked before the work.
void check_report(const std::filesystem::path& path, bool replace, const ProtectedPaths& keep);

/// Puts the tables of parts of a movement together: one head, frames in their order.
/// Returns how many frames they have.
std::size_t merge_motion_tables(const std::vector<std::string>& tables, const std::string& out, bool replace);
int merge_motion(const Common& common, const std::vector<std::string>& tables, const std::string& out, bool replace);

/// Each verb adds itself and gives back what runs when it was called: the exit code.
using Verb = std::function<int()>;
using Verbs = std::vector<std::pair<CLI::App*, Verb>>;
void add_common(CLI::App& verb, Common& common);
/// --alpha mask|band: what an alpha band of the inputs is.
void add_alpha(CLI::App& verb, std::string& alpha);
/// What it says, or else what the limits say.
Limits with_alpha(const std::string& alpha, Limits limits);
void add_info(CLI::App& app, Common& common, Verbs& verbs);
void add_formats(CLI::App& app, Common& common, Verbs& verbs);
/// The version, and the libraries that this build reads pictures by.
std::string version_text();
void add_manual(CLI::App& app, Common& common, Verbs& verbs);
void add_apply(CLI::App& app, Common& common, Verbs& verbs);
void add_align(CLI::App& app, Common& common, Verbs& verbs);
void add_calibrate(CLI::App& app, Common& common, Verbs& verbs);
void add_fit(CLI::App& app, Common& common, Verbs& verbs);
void add_motion(CLI::App& app, Common& common, Verbs& verbs);
void add_measure(CLI::App& app, Common& common, Verbs& verbs);
void add_stacks(CLI::App& app, Common& common, Verbs& verbs);
void add_trace(CLI::App& app, Common& common, Verbs& verbs);
void add_thumbnail(CLI::App& app, Common& common, Verbs& verbs);
void add_verify(CLI::App& app, Common& common, Verbs& verbs);
void add_cluster(CLI::App& app, Common& common, Verbs& verbs);
void add_demo(CLI::App& app, Common& common, Verbs& verbs);

}  // namespace fexel::cli
