#include "batch/batch.h"

#include <fmt/format.h>

#include <atomic>
#include <chrono>
#include <system_error>
#include <thread>

#include "base/error.h"
#include "chain/calibrations.h"

namespace fexel {
namespace {

/// Bytes that files at work take together.
class Budget {
 public:
  explicit Budget(double bytes) : free_(bytes), all_(bytes) {}
  /// Waits until so many are free; all of them where it asks for more than there are.
  double take(double bytes, const std::stop_token& stop) {
    bytes = std::min(bytes, all_);
    std::unique_lock lock(mutex_);
    changed_.wait(lock, stop, [&] { return free_ >= bytes; });
    if (stop.stop_requested()) throw cancelled_error();
    free_ -= bytes;
    return bytes;
  }
  void give(double bytes) {
    {
      const std::scoped_lock lock(mutex_);
      free_ += bytes;
    }
    changed_.notify_all();
  }

 private:
  std::mutex mutex_;
  std::condition_variable_any changed_;
  double free_, all_;
};

/// The progress of all from that of each.
class Shares {
 public:
  Shares(std::size_t count, const Job& job) : shares_(count, 0.0), job_(job) {}
  void set(std::size_t i, double share) {
    if (!job_.progress) return;
    const std::scoped_lock lock(mutex_);
    sum_ += share - shares_[i];
    shares_[i] = share;
    job_.progress(std::clamp(sum_ / static_cast<double>(shares_.size()), 0.0, 1.0));
  }

 private:
  std::vector<double> shares_;
  double sum_ = 0;
  const Job& job_;
  std::mutex mutex_;
};

/// What an item takes; nothing of one that turns out not to fit its chain, which fails where it is made.
double bytes_for(const RunItem& item, const Chain& chain, const RunOptions& options) {
  try {
    return memory_for(item, chain, options);
  } catch (const Error&) {
    return 0;
  }
}

BatchOutcome made(const Chain& chain, const RunItem& item, const RunOptions& options, std::size_t index,
                  const BatchHow& how, const Job& job) {
  BatchOutcome out;
  const auto begun = std::chrono::steady_clock::now();
  try {
    if (!item.skip || item.failure) out.result = run_one(chain, item, options, job);
    if (how.after) how.after(index, out, job);
  } catch (const std::bad_alloc&) {
    out.failure = input_error("There is not enough memory for this picture.", item.input.string(),
                              "Give less (--max-memory), so that it goes by parts, or a smaller picture.");
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    out.failure = error;
  } catch (const std::exception& error) {
    out.failure = input_error(fmt::format("This went wrong inside Fexel: {}.", error.what()), item.input.string(),
                              "Try it again; if it stays, tell the makers what was done.");
  }
  if (out.failure) out.result.reset();
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
  return out;
}

}  // namespace

void Pause::set(bool paused) {
  {
    const std::scoped_lock lock(mutex_);
    paused_ = paused;
  }
  changed_.notify_all();
}

bool Pause::paused() const {
  const std::scoped_lock lock(mutex_);
  return paused_;
}

void Pause::wait(const Job& job) {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, job.stop, [this] { return !paused_; });
  job.check();
}

void run_batch(const Chain& chain, const std::vector<RunItem>& items, const std::vector<std::size_t>& which,
               const RunOptions& options, const BatchHow& how, const Job& job) {
  if (which.empty()) return;
  const int cores = how.workers > 0 ? how.workers : worker_threads();
  const auto count = static_cast<int>(std::min<std::size_t>(static_cast<std::size_t>(cores), which.size()));
  Budget budget(static_cast<double>(options.memory));
  Shares shares(which.size(), job);
  std::atomic<std::size_t> next = 0;
  std::mutex told;
  std::exception_ptr trouble;
  // A stop of one's own: what a callback raises ends the others, too.
  std::stop_source ended;
  const std::stop_callback outer(job.stop, [&] { ended.request_stop(); });
  const Job own{ended.get_token(), {}};
  const auto work = [&] {
    try {
      for (std::size_t k = next++; k < which.size(); k = next++) {
        if (how.pause) how.pause->wait(own);
        own.check();
        const std::size_t index = which[k];
        const RunItem& item = items[index];
        const double taken = budget.take(item.skip || count == 1 ? 0 : bytes_for(item, chain, options), own.stop);
        const auto give_back = [&](const double* bytes) { budget.give(*bytes); };
        const std::unique_ptr<const double, decltype(give_back)> held(&taken, give_back);
        if (how.begun) {
          const std::scoped_lock lock(told);
          how.begun(index);
        }
        const BatchOutcome outcome =
            made(chain, item, options, index, how, Job{own.stop, [&](double share) { shares.set(k, share); }});
        shares.set(k, 1);
        if (how.ended) {
          const std::scoped_lock lock(told);
          how.ended(index, outcome);
        }
      }
    } catch (...) {
      const std::scoped_lock lock(told);
      // The first one is why the others were stopped.
      if (!trouble) trouble = std::current_exception();
      ended.request_stop();
    }
  };
  {
    std::vector<std::jthread> others;
    try {
      for (int i = 1; i < count; ++i)
        others.emplace_back([&] {
          if (workers_yield()) yield_to_others();
          work();
        });
    } catch (const std::system_error&) {
      // Without room for another thread fewer do it.
    }
    work();
  }
  if (trouble) std::rethrow_exception(trouble);
}

std::vector<std::string> doubts_before(const RunItem& item, const Chain& chain, const MadeFor& made_for) {
  std::vector<std::string> out;
  if (item.failure || item.frames.empty() || !item.frames.front().info) return out;
  const FileInfo& info = *item.frames.front().info;
  if (made_for.size && (made_for.size->width != info.width || made_for.size->height != info.height))
    out.push_back(fmt::format("It has {} x {} px; the chain was made on {} x {} px.", info.width, info.height,
                              made_for.size->width, made_for.size->height));
  if (chain.calibration) {
    if (const auto unfit = unfit_for(*chain.calibration, {info.width, info.height})) out.push_back(*unfit);
  } else if (made_for.has_pixel_size && !info.pixel_size) {
    out.emplace_back("It says no pixel size, and the picture that the chain was made on does.");
  }
  // What a film says of itself.
  out.insert(out.end(), info.notes.begin(), info.notes.end());
  for (const FrameFile& page : item.frames)
    if (!page.info) {
      out.push_back(fmt::format("Page {} cannot be read: {}", page.page, page.trouble));
      break;
    }
  return out;
}

std::vector<std::string> doubts_after(const RunResult& result) {
  std::vector<std::string> out;
  if (result.empty_share >= 0.5)
    out.push_back(fmt::format("{:.0f} % of the result is empty.", 100 * result.empty_share));
  // Kernels overshoot a little at bright edges; a share that shows is something else.
  constexpr double shows = 1e-3;
  const double pixels = static_cast<double>(result.width) * result.height *
                        static_cast<double>(std::max<std::size_t>(1, result.frames.size()));
  if (static_cast<double>(result.clamped) > shows * pixels)
    out.push_back(fmt::format("{} samples were clamped to the depth's range.", result.clamped));
  for (const FrameOutcome& frame : result.frames)
    if (frame.status != MatchStatus::ok) {
      out.push_back(fmt::format("Page {} is {}: {}", frame.page, name_of(frame.status), frame.reason));
      break;
    }
  return out;
}

std::optional<Station> would_make(const RunItem& item, const Chain& chain) {
  if (item.failure || item.frames.empty() || !item.frames.front().info) return std::nullopt;
  const FileInfo& info = *item.frames.front().info;
  try {
    return lay_out(chain, {{info.width, info.height}, info.bands, info.depth, info.pixel_size, {}, item.first_frame})
        .result();
  } catch (const Error&) {
    return std::nullopt;
  }
}

}  // namespace fexel
