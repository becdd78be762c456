#include <fmt/format.h>
#include <unistd.h>

#include <memory>

#include "cli/verbs.h"

namespace fexel::cli {

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
      fmt::print(stderr, "\r{} [{}{}] {:3} %", what, std::string(filled, '='), std::string(25 - filled, ' '), percent);
    } else {
      fmt::print(stderr, "{}: {} %\n", what, percent);
    }
  };
  return job;
}

void end_progress(const Common& common) {
  if (!common.quiet && ::isatty(STDERR_FILENO) == 1) fmt::print(stderr, "\n");
}

Json error_json(const Error& error) {
  return {{"message", error.message()}, {"where", error.where()}, {"remedy", error.remedy()}};
}

}  // namespace fexel::cli
