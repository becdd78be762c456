/// fexel-cli: the work of the window from the command line.
#include <fmt/format.h>

#include <csignal>
#include <thread>

#include "cli/verbs.h"

namespace {

/// Ctrl-C asks the running job to stop; the job then leaves no half file.
std::stop_source& stop_source() {
  static std::stop_source source;
  return source;
}

void listen_for_interrupts() {
  sigset_t signals;
  sigemptyset(&signals);
  sigaddset(&signals, SIGINT);
  sigaddset(&signals, SIGTERM);
  pthread_sigmask(SIG_BLOCK, &signals, nullptr);
  std::thread([signals] {
    int signal = 0;
    sigwait(&signals, &signal);
    stop_source().request_stop();
  }).detach();
}

int report(const fexel::Error& error, bool json) {
  if (json)
    fmt::print("{}\n", fexel::to_text(fexel::Json{{"error", fexel::cli::error_json(error)}}));
  else
    fmt::print(stderr, "fexel-cli: {}\n", error.what());
  return error.kind() == fexel::Error::Kind::call ? fexel::cli::wrong_call : fexel::cli::inputs_failed;
}

}  // namespace

int main(int argc, char** argv) {
  using namespace fexel::cli;
  // A file that grows beyond what the system allows is an error of writing, not the end of the process.
  std::signal(SIGXFSZ, SIG_IGN);
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
    if (error.get_exit_code() == 0) return app.exit(error);
    return report(fexel::call_error(error.what(), "", "See fexel-cli --help."), json);
  }
  listen_for_interrupts();
  common.stop = stop_source().get_token();
  try {
    fexel::use_threads(common.threads);
    for (const auto& [verb, run] : verbs)
      if (verb->parsed()) return run();
  } catch (const fexel::Error& error) {
    return report(error, common.json);
  } catch (const std::bad_alloc&) {
    return report(fexel::input_error("There is not enough memory for this.", "",
                                     "Choose a larger pixel size, or a smaller picture."),
                  common.json);
  } catch (const std::exception& error) {
    return report(fexel::input_error(fmt::format("This went wrong inside Fexel: {}.", error.what())), common.json);
  }
  return wrong_call;
}
