#pragma once
/// Long work beside the window: a thread, progress, a stop, and the result handed over on the window's thread.
#include <QObject>
#include <functional>
#include <optional>
#include <stop_token>
#include <thread>

#include "base/error.h"
#include "base/job.h"

namespace fexel {

/// One piece of work at a time. A new one stops and replaces the running one. The destructor waits for the thread.
class Background : public QObject {
  Q_OBJECT
 public:
  using Finish = std::function<void()>;            ///< runs on the window's thread
  using Work = std::function<Finish(const Job&)>;  ///< runs on the other thread; may raise Error

  explicit Background(QObject* parent = nullptr) : QObject(parent) {}
  ~Background() override;
  void start(const QString& what, Work work, std::function<void(const Error&)> failed);
  void cancel();
  bool running() const { return running_; }

 Q_SIGNALS:
  void started(const QString& what);
  void progressed(double share);
  void finished();

 private:
  std::jthread thread_;
  bool running_ = false;
  quint64 generation_ = 0;
};

}  // namespace fexel
