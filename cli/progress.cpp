#include <fmt/format.h>
#include <unistd.h>

#include <charconv>
#include <cmath>
#include <memory>

#include "base/log.h"
#include "base/printable.h"
#include "cli/verbs.h"
#include "files/picture.h"

namespace fexel::cli {
namespace {

/// Whoever reads progress may have gone.
void put(const std::string& text) {
  std::fwrite(text.data(), 1, text.size(), stderr);
}

}  // namespace

Job job_of(const Common& common, const std::string& what) {
  Job job{common.stop, {}};
  if (common.quiet) return job;
  const bool terminal = ::isatty(STDERR_FILENO) == 1;
  auto last = std::make_shared<int>(-1);
  job.progress = [terminal, what, last](double share) {
    const int percent = static_cast<int>(share * 100);
    if (percent <= *last || (!terminal && percent < 100 && percent < *last + 25)) return;
    *last = percent;
    if (terminal) {
      const auto filled = static_cast<std::size_t>(percent / 4);
      put(fmt::format("\r{} [{}{}] {:3} %", printable(what, 60), std::string(filled, '='),
                      std::string(25 - filled, ' '), percent));
    } else {
      put(fmt::format("{}: {} %\n", printable(what, 60), percent));
    }
  };
  return job;
}

void end_progress(const Common& common) {
  if (!common.quiet && ::isatty(STDERR_FILENO) == 1) put("\n");
}

Json logged_error(const Error& error) {
  log_error(error.what());
  return {{"message", error.message()}, {"where", error.where()}, {"remedy", error.remedy()}};
}

std::optional<std::vector<double>> numbers_in(const std::string& text, char apart) {
  std::vector<double> out;
  for (const char *at = text.data(), *const end = at + text.size();; ++at) {
    double value = 0;
    const auto [behind, code] = std::from_chars(at, end, value);
    if (code != std::errc() || !std::isfinite(value)) return std::nullopt;
    out.push_back(value);
    at = behind;
    if (at == end) return out;
    if (*at != apart) return std::nullopt;
  }
}

CLI::Validator number_from(double low, double high) {
  const std::string range = fmt::format("a number from {} to {}", low, high);
  return {[=](std::string& text) {
            double value = 0;
            const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
            const bool whole = code == std::errc() && end == text.data() + text.size();
            return whole && value >= low && value <= high ? std::string() : "\"" + text + "\" is not " + range;
          },
          range};
}

void check_report(const std::filesystem::path& path, bool replace, const ProtectedPaths& keep) {
  if (path.empty()) return;
  WriteOptions checks;
  checks.replace = replace;
  checks.keep = std::make_shared<const ProtectedPaths>(keep);
  check_target(path, checks);
  std::error_code code;
  const auto folder = path.parent_path().empty() ? std::filesystem::path(".") : path.parent_path();
  if (!std::filesystem::is_directory(folder, code))
    throw call_error("This folder does not exist.", folder.string(), "Make it, or choose another one for --report.");
}

}  // namespace fexel::cli
