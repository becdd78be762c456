#include "base/crash_note.h"

#include <cxxabi.h>
#include <execinfo.h>
#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <exception>
#include <vector>

#include "base/log.h"

namespace fexel {
namespace {

constexpr std::size_t path_size = 1024, head_size = 256, why_size = 512;
constexpr int frames = 96, kept = 8;
/// All that the handler needs, made before: a handler may allocate nothing.
std::array<char, path_size> note_path;
std::array<char, head_size> note_head;
std::array<char, why_size> note_why;
std::atomic_flag writing = ATOMIC_FLAG_INIT;
constexpr std::array deadly{SIGSEGV, SIGBUS, SIGILL, SIGFPE, SIGABRT};

void put(int file, const char* text) {
  [[maybe_unused]] const auto done = ::write(file, text, std::strlen(text));
}

const char* name_of_signal(int signal) {
  switch (signal) {
    case SIGSEGV:
      return "a bad address (SIGSEGV)";
    case SIGBUS:
      return "a bad address, or a file that was cut while it was read (SIGBUS)";
    case SIGILL:
      return "an instruction that this machine does not have (SIGILL)";
    case SIGFPE:
      return "a division of whole numbers by zero (SIGFPE)";
    default:
      return "an abort (SIGABRT)";
  }
}

void write_note(const char* why) {
  if (writing.test_and_set()) return;
  const int file = ::open(note_path.data(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
  if (file < 0) return;
  put(file, note_head.data());
  put(file, "ended by: ");
  put(file, note_why[0] != '\0' ? note_why.data() : why);
  put(file, "\nthe stack, the newest call first:\n");
  std::array<void*, frames> stack{};
  const int count = ::backtrace(stack.data(), frames);
  ::backtrace_symbols_fd(stack.data(), count, file);
  ::close(file);
}

void on_signal(int signal) {
  write_note(name_of_signal(signal));
  // As it would have ended.
  ::signal(signal, SIG_DFL);
  ::raise(signal);
}

[[noreturn]] void on_terminate() {
  if (const auto current = std::current_exception()) {
    std::string why = "an exception that nobody took";
    try {
      std::rethrow_exception(current);
    } catch (const std::exception& error) {
      why += std::string(": ") + error.what();
    } catch (...) {
      why += " of an unknown kind";
    }
    const std::size_t length = std::min(why.size(), note_why.size() - 1);
    std::copy_n(why.begin(), length, note_why.begin());
    note_why[length] = '\0';
  }
  std::abort();
}

bool copied(const std::string& text, char* to, std::size_t size) {
  if (text.size() >= size) return false;
  std::copy_n(text.c_str(), text.size() + 1, to);
  return true;
}

std::filesystem::path told_file(const std::string& program) {
  return log_folder() / (program + "-crash.told");
}

}  // namespace

void leave_crash_notes(const std::string& program, const std::string& version) {
#if defined(__SANITIZE_ADDRESS__)
  // Sanitizers tell more.
  (void)program, (void)version;
  (void)on_signal, (void)on_terminate, (void)copied, (void)deadly;
#else
  std::error_code code;
  std::filesystem::create_directories(log_folder(), code);
  const std::time_t now = std::time(nullptr);
  std::array<char, 64> when{};
  std::tm parts{};
  ::gmtime_r(&now, &parts);
  std::strftime(when.data(), when.size(), "%Y-%m-%dT%H:%M:%SZ", &parts);
  const std::string name =
      program + "-crash-" + std::to_string(static_cast<long long>(now)) + "-" + std::to_string(::getpid()) + ".txt";
  if (!copied((log_folder() / name).string(), note_path.data(), note_path.size()) ||
      !copied(program + " " + version + ", begun at " + when.data() + "\n", note_head.data(), note_head.size()))
    return;
  // The first call loads what it needs, which a handler may not.
  std::array<void*, 2> warm{};
  ::backtrace(warm.data(), 2);
  // A stack of its own: the usual one may be what ran out.
  static std::vector<char> stack(1 << 16);
  stack_t own{};
  own.ss_sp = stack.data();
  own.ss_size = stack.size();
  ::sigaltstack(&own, nullptr);
  struct sigaction action {};
  action.sa_handler = on_signal;
  action.sa_flags = SA_ONSTACK;
  for (const int signal : deadly) ::sigaction(signal, &action, nullptr);
  std::set_terminate(on_terminate);
#endif
}

std::optional<std::filesystem::path> untold_crash_note(const std::string& program) {
  namespace fs = std::filesystem;
  std::vector<std::pair<fs::file_time_type, fs::path>> notes;
  std::error_code code;
  for (const auto& entry : fs::directory_iterator(log_folder(), code)) {
    const std::string name = entry.path().filename().string();
    if (name.starts_with(program + "-crash-") && name.ends_with(".txt"))
      notes.emplace_back(fs::last_write_time(entry.path(), code), entry.path());
  }
  if (notes.empty()) return std::nullopt;
  std::ranges::sort(notes, std::greater());
  for (std::size_t i = kept; i < notes.size(); ++i) fs::remove(notes[i].second, code);
  const auto told = fs::last_write_time(told_file(program), code);
  if (!code && told >= notes.front().first) return std::nullopt;
  // The time of this file is when notes were told last.
  if (const int file = ::open(told_file(program).c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0600); file >= 0) {
    put(file, "told\n");
    ::close(file);
  }
  return notes.front().second;
}

}  // namespace fexel
