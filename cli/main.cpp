/// fexel-cli: the work of the window from the command line.
#include <fmt/format.h>

#include <unistd.h>
#include <chrono>

#include <csignal>
#include <cstdlib>
#include <numeric>
#include <sstream>
#include <thread>

#include "base/crash_note.h"
#include "base/log.h"
#include "base/printable.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/safe_file.h"

namespace {

int report(const fexel::Error& error, bool json) {
  const auto entry = fexel::cli::logged_error(error);
  if (json)
    fexel::cli::say_json({{"error", entry}});
  else
    fexel::cli::complain(std::string("fexel-cli: ") + error.what());
  return error.kind() == fexel::Error::Kind::call ? fexel::cli::wrong_call : fexel::cli::inputs_failed;
}

/// Ctrl-C asks the running job to stop; the job then leaves no half file.
std::stop_source& stop_source() {
  static std::stop_source source;
  return source;
}

/// Work that does not ask whether it should stop, such as reading from a pipe, is given this long.
constexpr auto patience = std::chrono::milliseconds(1200);

void listen_for_interrupts(bool json) {
  sigset_t signals;
  sigemptyset(&signals);
  sigaddset(&signals, SIGINT);
  sigaddset(&signals, SIGTERM);
  pthread_sigmask(SIG_BLOCK, &signals, nullptr);
  std::thread([signals, json] {
    int signal = 0;
    sigwait(&signals, &signal);
    // Should even the ending below be held up, the system ends it.
    ::alarm(3);
    stop_source().request_stop();
    std::this_thread::sleep_for(patience);
    fexel::remove_hidden_files();
    report(fexel::cancelled_error(), json);
    fexel::cli::all_said();
    std::_Exit(fexel::cli::inputs_failed);
  }).detach();
}

/// Letters that have to be changed, put in or taken out to make one word of the other (V. Levenshtein, 1966, "Binary
/// codes capable of correcting deletions, insertions, and reversals").
std::size_t letters_apart(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 0; i < a.size(); ++i) {
    std::size_t corner = row[0];
    row[0] = i + 1;
    for (std::size_t j = 0; j < b.size(); ++j) {
      const std::size_t changed = corner + (a[i] == b[j] ? 0 : 1);
      corner = row[j + 1];
      row[j + 1] = std::min({changed, row[j] + 1, row[j + 1] + 1});
    }
  }
  return row.back();
}

/// Raises a call error where the first word is no verb.
void check_verb(const CLI::App& app, int argc, char** argv) {
  if (argc < 2 || argv[1][0] == '-') return;
  const std::string word = argv[1];
  std::string nearest;
  for (const CLI::App* verb : app.get_subcommands({})) {
    if (verb->get_name() == word) return;
    if (nearest.empty() || letters_apart(word, verb->get_name()) < letters_apart(word, nearest))
      nearest = verb->get_name();
  }
  throw fexel::call_error("There is no verb \"" + fexel::printable(word, 60) + "\".", "",
                          "Did you mean " + nearest + "? fexel-cli --help lists them.");
}

int run(int argc, char** argv);

/// The stack grows now, and not when memory is short: that would be a crash, where a sentence is due.
[[gnu::noinline]] void grow_stack() {
  volatile char room[512 * 1024];
  for (std::size_t i = 0; i < sizeof room; i += 4096) room[i] = 0;
}

}  // namespace

int main(int argc, char** argv) {
  // A file that grows beyond what the system allows is an error of writing, not the end of the process; so is a reader
  // of what is said that has gone.
  std::signal(SIGXFSZ, SIG_IGN);
  std::signal(SIGPIPE, SIG_IGN);
  grow_stack();
  fexel::cli::hold_standard_streams();
  const int code = run(argc, argv);
  if (fexel::cli::all_said()) return code;
  fexel::cli::complain("fexel-cli: Standard output could not be written. Check where it leads.");
  return std::max<int>(code, fexel::cli::inputs_failed);
}

namespace {

int run(int argc, char** argv) {
  using namespace fexel::cli;
  CLI::App app("Fexel: geometry for people who measure in pictures.", "fexel-cli");
  app.set_version_flag("--version", version_text);
  app.require_subcommand(1);
  Common common;
  Verbs verbs;
  add_info(app, common, verbs);
  add_formats(app, common, verbs);
  add_apply(app, common, verbs);
  add_align(app, common, verbs);
  add_fit(app, common, verbs);
  add_measure(app, common, verbs);
  add_motion(app, common, verbs);
  add_cluster(app, common, verbs);
  add_thumbnail(app, common, verbs);
  add_calibrate(app, common, verbs);
  add_stacks(app, common, verbs);
  add_trace(app, common, verbs);
  add_verify(app, common, verbs);
  add_demo(app, common, verbs);
  add_manual(app, common, verbs);
  // A wrong call is answered as JSON too where that was asked for, though the call could not be read.
  const bool json = std::find_if(argv, argv + argc,
                                 [](const char* word) { return std::string_view(word) == "--json"; }) != argv + argc;
  try {
    check_verb(app, argc, argv);
    app.parse(argc, argv);
  } catch (const fexel::Error& error) {
    return report(error, json);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) {
      std::ostringstream text;
      app.exit(error, text, text);
      say(text.str());
      return all_done;
    }
    return report(fexel::call_error(error.what(), "", "See fexel-cli --help."), json);
  }
  fexel::start_log("fexel-cli", common.log_level);
  fexel::log_info(fmt::format("fexel-cli {}: {}", FEXEL_VERSION, fmt::join(argv + 1, argv + argc, " ")));
  fexel::leave_crash_notes("fexel-cli", FEXEL_VERSION);
  listen_for_interrupts(json);
  common.stop = stop_source().get_token();
  try {
    fexel::use_threads(common.threads);
    for (const auto& [verb, run] : verbs)
      if (verb->parsed()) return run();
  } catch (const fexel::Error& error) {
    return report(error, common.json);
  } catch (const std::bad_alloc&) {
    return report(
        fexel::input_error(
            "There is not enough memory for this.", "",
            "Choose a larger pixel size, a smaller picture, or less memory (--max-memory), so that it goes by parts."),
        common.json);
  } catch (const std::exception& error) {
    return report(fexel::input_error(fmt::format("This went wrong inside Fexel: {}.", error.what()), "",
                                     "Try it again; if it stays, tell the makers what was run."),
                  common.json);
  }
  return wrong_call;
}

}  // namespace
