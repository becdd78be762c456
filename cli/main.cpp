/// fexel-cli: the work of the window from the command line.
#include <fmt/format.h>

#include <unistd.h>
#include <chrono>

#include <csignal>
#include <cstdlib>
#include <sstream>
#include <thread>

#include "cli/output.h"
#include "cli/verbs.h"
#include "files/safe_file.h"

namespace {

int report(const fexel::Error& error, bool json) {
  if (json)
    fexel::cli::say_json({{"error", fexel::cli::error_json(error)}});
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

int run(int argc, char** argv);

}  // namespace

int main(int argc, char** argv) {
  // A file that grows beyond what the system allows is an error of writing, not the end of the process; so is a reader
  // of what is said that has gone.
  std::signal(SIGXFSZ, SIG_IGN);
  std::signal(SIGPIPE, SIG_IGN);
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
  app.set_version_flag("--version", "fexel-cli " FEXEL_VERSION);
  app.require_subcommand(1);
  Common common;
  Verbs verbs;
  add_info(app, common, verbs);
  add_apply(app, common, verbs);
  add_align(app, common, verbs);
  add_trace(app, common, verbs);
  add_verify(app, common, verbs);
  add_demo(app, common, verbs);
  // A wrong call is answered as JSON too where that was asked for, though the call could not be read.
  const bool json = std::find_if(argv, argv + argc,
                                 [](const char* word) { return std::string_view(word) == "--json"; }) != argv + argc;
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) {
      std::ostringstream text;
      app.exit(error, text, text);
      say(text.str());
      return all_done;
    }
    return report(fexel::call_error(error.what(), "", "See fexel-cli --help."), json);
  }
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
