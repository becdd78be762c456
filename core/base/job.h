#pragma once
/// How long work is run: on all cores, with progress and a stop.
#include <functional>
#include <stop_token>

namespace fexel {

/// What a caller gives to long work. Both members may be left empty.
struct Job {
  std::stop_token stop;                  ///< asked between pieces of work; a stop raises Error::Kind::cancelled
  std::function<void(double)> progress;  ///< called with the share done, 0 to 1, one call at a time, from any thread

  /// Raises the cancelled error when a stop was requested.
  void check() const;
  /// A job that reports its own 0..1 as `from`..`to` of this one.
  Job part(double from, double to) const;
};

/// Runs body(0) ... body(count - 1), in any order, on the threads that the process may use. The body must be safe to
/// run concurrently with itself. Raises what a body raised, or the cancelled error; then some bodies have not run.
void parallel_for(int count, const Job& job, const std::function<void(int)>& body);

/// Lets the threads that parallel_for() runs on give way to the rest of the process, such as a window. The calling
/// thread keeps its own priority; yield_to_others() lowers that.
void use_yielding_workers();
void yield_to_others();
/// Whether use_yielding_workers() was called.
bool workers_yield();

/// Limits the threads of the process; 0 means all cores. Holds for as long as the process runs.
void use_threads(int count);
/// The threads that parallel_for() runs on at most.
int worker_threads();

}  // namespace fexel
