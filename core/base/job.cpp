#include "base/job.h"

#include <tbb/global_control.h>
#include <tbb/parallel_for.h>

#include <sys/resource.h>
#include <sys/syscall.h>
#include <tbb/task_scheduler_observer.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <memory>
#include <mutex>
#include <thread>

#include "base/error.h"

namespace fexel {

void Job::check() const {
  if (stop.stop_requested()) throw cancelled_error();
}

Job Job::part(double from, double to) const {
  Job inner{stop, {}};
  if (progress) inner.progress = [outer = progress, from, to](double share) { outer(from + (to - from) * share); };
  return inner;
}

void parallel_for(int count, const Job& job, const std::function<void(int)>& body) {
  job.check();
  std::mutex mutex;
  int done = 0;
  tbb::parallel_for(
      0, count,
      [&](int index) {
        if (job.stop.stop_requested()) return;
        body(index);
        if (!job.progress) return;
        const std::scoped_lock lock(mutex);
        job.progress(static_cast<double>(++done) / count);
      },
      tbb::simple_partitioner());
  job.check();
}

void yield_to_others() {
  // On Linux the nice value belongs to the thread.
  ::setpriority(PRIO_PROCESS, static_cast<id_t>(::syscall(SYS_gettid)), 10);
}

namespace {
std::atomic<bool> yielding = false;
}

bool workers_yield() {
  return yielding;
}

int worker_threads() {
  return static_cast<int>(
      std::min<std::size_t>(tbb::global_control::active_value(tbb::global_control::max_allowed_parallelism),
                            std::max(1U, std::thread::hardware_concurrency())));
}

void use_yielding_workers() {
  yielding = true;
  class Observer : public tbb::task_scheduler_observer {
   public:
    Observer() { observe(true); }
    void on_scheduler_entry(bool worker) override {
      if (worker) yield_to_others();
    }
  };
  static Observer observer;
}

void use_threads(int count) {
  static std::unique_ptr<tbb::global_control> limit;
  limit.reset();
  if (count > 0)
    limit = std::make_unique<tbb::global_control>(tbb::global_control::max_allowed_parallelism,
                                                  static_cast<std::size_t>(count));
}

}  // namespace fexel
