#include "cli/output.h"

#include <fcntl.h>
#include <unistd.h>

#include <cstdio>

#include "base/printable.h"

namespace fexel::cli {
namespace {

bool failed = false;

void write_out(const std::string& text) {
  if (std::fwrite(text.data(), 1, text.size(), stdout) != text.size()) failed = true;
}

}  // namespace

void say(const std::string& text) {
  std::size_t from = 0;
  for (std::size_t end = text.find('\n'); from < text.size(); end = text.find('\n', from)) {
    write_out(printable(std::string_view(text).substr(from, end - from), 1 << 20));
    if (end == std::string::npos) break;
    write_out("\n");
    from = end + 1;
  }
}

void say_json(const Json& value) {
  write_out(to_text(value) + "\n");
}

void complain(const std::string& line) {
  const std::string text = printable(line, 1 << 16) + "\n";
  std::fwrite(text.data(), 1, text.size(), stderr);
  std::fflush(stderr);
}

bool all_said() {
  if (std::fflush(stdout) != 0) failed = true;
  return !failed;
}

void hold_standard_streams() {
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
    if (::fcntl(stream, F_GETFD) == -1) {
      // Opened for reading, so that writing to what was closed still fails.
      const int opened = ::open("/dev/null", O_RDONLY);
      if (opened != stream && opened >= 0) ::dup2(opened, stream);
    }
}

}  // namespace fexel::cli
