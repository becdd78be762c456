#pragma once
/// The command line as a process: started, waited for, and what it said.
#include <fcntl.h>
#include <sys/wait.h>

#include <csignal>
#include <cstdlib>
#include <fstream>

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
