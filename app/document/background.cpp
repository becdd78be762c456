#include "app/document/background.h"

namespace fexel {

Background::~Background() {
  thread_.request_stop();
}

void Background::cancel() {
  thread_.request_stop();
}

void Background::start(const QString& what, Work work, std::function<void(const Error&)> failed) {
  thread_.request_stop();
  std::jthread before = std::move(thread_);
  const quint64 generation = ++generation_;
  running_ = true;
  Q_EMIT started(what);
  thread_ = std::jthread([this, generation, work = std::move(work), failed = std::move(failed),
                          before = std::move(before)](std::stop_token stop) mutable {
    yield_to_others();
    if (before.joinable()) before.join();
    const auto hand_over = [&](std::function<void()> body) {
      QMetaObject::invokeMethod(
          this,
          [this, generation, body = std::move(body)] {
            if (generation != generation_) return;  // newer work was started meanwhile
            running_ = false;
            Q_EMIT finished();
            body();
          },
          Qt::QueuedConnection);
    };
    int last = -1;
    const Job job{stop, [this, generation, &last](double share) {
                    const int percent = static_cast<int>(share * 100);
                    if (percent == last) return;
                    last = percent;
                    QMetaObject::invokeMethod(
                        this,
                        [this, generation, share] {
                          if (generation == generation_) Q_EMIT progressed(share);
                        },
                        Qt::QueuedConnection);
                  }};
    try {
      hand_over(work(job));
    } catch (const Error& error) {
      hand_over([failed, error] { failed(error); });
    } catch (const std::bad_alloc&) {
      hand_over(
          [failed] { failed(input_error("There is not enough memory for this.", {}, "Choose a larger pixel size.")); });
    } catch (const std::exception& error) {
      hand_over([failed, text = std::string(error.what())] {
        failed(input_error("This went wrong inside Fexel: " + text + ".", {},
                           "Try it again; if it stays, tell the makers what was done."));
      });
    }
  });
}

}  // namespace fexel
