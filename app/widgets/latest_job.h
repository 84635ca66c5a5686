// Work off the interface thread, the latest request wins: a newer one cancels the one before, whose result is
// dropped.
#pragma once

#include <QFutureWatcher>
#include <QtConcurrent>
#include <atomic>
#include <functional>
#include <memory>

template <typename Result>
class LatestJob {
 public:
  /// `done` is called on the interface thread with each result that was not overtaken.
  explicit LatestJob(std::function<void(const Result&)> done) {
    QObject::connect(&watcher_, &QFutureWatcherBase::finished, &watcher_, [this, done = std::move(done)] {
      if (!*cancelled_ && watcher_.future().resultCount() > 0) done(watcher_.result());
    });
  }
  ~LatestJob() {
    *cancelled_ = true;
    watcher_.waitForFinished();
  }

  void start(std::function<Result(const std::atomic<bool>&)> job) {
    *cancelled_ = true;
    cancelled_ = std::make_shared<std::atomic<bool>>(false);
    watcher_.setFuture(QtConcurrent::run([job = std::move(job), flag = cancelled_] { return job(*flag); }));
  }
  /// The running job's result will be dropped.
  void cancel() { *cancelled_ = true; }
  bool running() const { return watcher_.isRunning(); }

 private:
  QFutureWatcher<Result> watcher_;
  std::shared_ptr<std::atomic<bool>> cancelled_ = std::make_shared<std::atomic<bool>>(false);
};
