#pragma once
/// Several files of a run at a time, within the memory that is allowed.
#include <condition_variable>
#include <functional>
#include <mutex>

#include "run/run.h"

namespace fexel {

/// Holds a run up between files, from any thread.
class Pause {
 public:
  void set(bool paused);
  bool paused() const;
  /// Returns once nothing is held up any more. Raises the cancelled error when the job is stopped.
  void wait(const Job& job);

 private:
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  bool paused_ = false;
};

/// What became of one input: `result` where it was made, `failure` where it was not, neither where it stood already.
struct BatchOutcome {
  std::optional<RunResult> result;
  std::optional<Error> failure;
  double seconds = 0;
};

struct BatchHow {
  int workers = 0;  ///< files at a time at most; 0 for as many as the machine has cores
  Pause* pause = nullptr;
  std::function<void(std::size_t)> begun;  ///< from any thread, as `ended` is; one call at a time
  std::function<void(std::size_t, const BatchOutcome&)> ended;
  /// What is done behind a result while its file is still at work, such as copies beside it; may raise Error. Gets the
  /// outcome so far.
  std::function<void(std::size_t, const BatchOutcome&, const Job&)> after;
};

/// Makes the items with these numbers. An item that fails is told by `ended` and holds up nobody else; one that does
/// not fit into options.memory beside the others waits for them, and one that does not fit alone goes by parts. Raises
/// the cancelled error when the job is stopped: files that were not finished then leave nothing.
void run_batch(const Chain& chain, const std::vector<RunItem>& items, const std::vector<std::size_t>& which,
               const RunOptions& options, const BatchHow& how, const Job& job);

/// What the chain was made on, for comparison.
struct MadeFor {
  std::optional<Size> size;
  bool has_pixel_size = false;
};
/// What may be wrong about an input that can be used, in sentences.
std::vector<std::string> doubts_before(const RunItem& item, const Chain& chain, const MadeFor& made_for);
/// What should be looked at in a result, in sentences.
std::vector<std::string> doubts_after(const RunResult& result);
/// The size of what the chain makes of an item's first page, and of its pixels; nothing where it cannot be used.
std::optional<Station> would_make(const RunItem& item, const Chain& chain);

}  // namespace fexel
