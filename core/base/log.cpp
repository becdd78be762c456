#include "base/log.h"

#include <spdlog/sinks/null_sink.h>
#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/spdlog.h>

#include <cstdlib>

namespace fexel {
namespace {

/// Without start_log() nothing is logged: tests and embedding programs stay silent.
spdlog::logger& logger() {
  static const auto silent = std::make_shared<spdlog::logger>("fexel", std::make_shared<spdlog::sinks::null_sink_mt>());
  static const bool set = (spdlog::set_default_logger(silent), true);
  (void)set;
  return *spdlog::default_logger();
}

}  // namespace

const std::vector<std::string>& log_levels() {
  static const std::vector<std::string> levels{"trace", "debug", "info", "warning", "error", "off"};
  return levels;
}

std::filesystem::path log_folder() {
  if (const char* state = std::getenv("XDG_STATE_HOME"); state && *state) return std::filesystem::path(state) / "fexel";
  const char* home = std::getenv("HOME");
  return std::filesystem::path(home ? home : "/tmp") / ".local" / "state" / "fexel";
}

void start_log(const std::string& program, const std::string& level) {
  constexpr std::size_t largest = 1 << 20, kept = 3;
  logger();
  if (level == "off") return;
  try {
    std::filesystem::create_directories(log_folder());
    auto sink = std::make_shared<spdlog::sinks::rotating_file_sink_mt>((log_folder() / (program + ".log")).string(),
                                                                       largest, kept);
    auto made = std::make_shared<spdlog::logger>(program, sink);
    made->set_pattern("%Y-%m-%dT%H:%M:%S.%e%z %P %l %v");
    made->set_level(spdlog::level::from_str(level));
    made->flush_on(spdlog::level::info);
    made->set_error_handler([](const std::string&) {});  // a full disk is no reason to end the work
    spdlog::set_default_logger(made);
  } catch (const std::exception&) {
    // Work goes on without a log.
  }
}

void log_debug(const std::string& text) {
  logger().debug(text);
}
void log_info(const std::string& text) {
  logger().info(text);
}
void log_warning(const std::string& text) {
  logger().warn(text);
}
void log_error(const std::string& text) {
  logger().error(text);
}

}  // namespace fexel
