#pragma once
/// The command line as a process: started, waited for, and what it said.
#include <fcntl.h>
#include <sys/wait.h>

#include <csignal>
#include <cstdlib>
#include <fstream>
#include <thread>

#include "files/picture.h"
#include "tests/support.h"
#include "text/json.h"

namespace fexel::test {

/// The program under test: another build of it where the environment names one.
inline const char* program() {
  const char* other = std::getenv("FEXEL_PROGRAM");
  return other ? other : FEXEL_CLI;
}
/// Whether that is one under sanitizers, which take memory of their own and time.
inline bool sanitized() {
  return std::getenv("FEXEL_PROGRAM") != nullptr;
}

struct Run {
  int code = -1;
  std::string out, err;
  Json json() const { return parse_json(out); }
};

/// Whether a child has become the program, which the forked test is not yet.
inline bool is_the_program(pid_t child) {
  std::error_code code;
  const auto is = std::filesystem::read_symlink("/proc/" + std::to_string(child) + "/exe", code);
  return !code && std::filesystem::equivalent(is, program(), code);
}

/// A fork whose child has no signal handler of the tests': what is sent to it before it is the program ends it.
inline pid_t fork_plain() {
  sigset_t signals, before;
  sigemptyset(&signals);
  sigaddset(&signals, SIGINT);
  sigaddset(&signals, SIGTERM);
  ::sigprocmask(SIG_BLOCK, &signals, &before);
  const pid_t child = ::fork();
  if (child == 0)
    for (const int signal : {SIGINT, SIGTERM}) ::signal(signal, SIG_DFL);
  ::sigprocmask(SIG_SETMASK, &before, nullptr);
  return child;
}

/// Starts the program; standard input comes from a text.
inline pid_t start(const std::vector<std::string>& words, const test::Scratch& scratch, const std::string& input = {}) {
  { std::ofstream(scratch / "in") << input; }
  const pid_t child = fork_plain();
  if (child == 0) {
    const auto point = [&](const char* name, int flags, int descriptor) {
      ::dup2(::open((scratch / name).c_str(), flags, 0644), descriptor);
    };
    point("in", O_RDONLY, 0);
    point("out", O_WRONLY | O_CREAT | O_TRUNC, 1);
    point("err", O_WRONLY | O_CREAT | O_TRUNC, 2);
    std::vector<char*> arguments{const_cast<char*>(program())};
    for (const auto& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
    arguments.push_back(nullptr);
    ::execv(program(), arguments.data());
    ::_exit(127);
  }
  return child;
}

/// Waits until the program has started and takes a Ctrl-C as a wish to stop: before that, the signal just ends it.
inline bool wait_until_it_listens(pid_t child) {
  const std::string status = "/proc/" + std::to_string(child) + "/status";
  for (int tries = 0; tries < 6000; ++tries) {
    std::ifstream in(status);
    for (std::string word; in >> word;)
      if (word == "SigBlk:" && in >> word && word.size() <= 16)
        if (std::stoull(word, nullptr, 16) >> (SIGTERM - 1) & 1 && is_the_program(child)) return true;
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  return false;
}

inline int wait_for(pid_t child) {
  int status = 0;
  ::waitpid(child, &status, 0);
  return WIFEXITED(status) ? WEXITSTATUS(status) : 1000 + WTERMSIG(status);
}

inline Run run(const std::vector<std::string>& words, const std::string& input = {}) {
  const test::Scratch scratch;
  Run result;
  result.code = wait_for(start(words, scratch, input));
  result.out = read_text(scratch / "out");
  result.err = read_text(scratch / "err");
  return result;
}

}  // namespace fexel::test
