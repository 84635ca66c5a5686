// Work off the interface thread, one at a time, the latest request wins: a newer one asks the one before to stop
// and starts when it has. Work that throws ends with its reason, never with the program. Each job has a thread of
// its own; all that passes between the two passes through one mutex.
#pragma once

#include "base/log.h"
#include "simulation/power.h"

#include <QCoreApplication>
#include <QEvent>
#include <QObject>
#include <QString>
#include <atomic>
#include <condition_variable>
#include <exception>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <system_error>
#include <thread>

/// Calls a function on its own thread when a QEvent::User reaches it.
class Doorbell : public QObject {
 public:
  explicit Doorbell(std::function<void()> answer) : answer_(std::move(answer)) {}
  /// From any thread.
  void ring() { QCoreApplication::postEvent(this, new QEvent(QEvent::User)); }
  void customEvent(QEvent*) override { answer_(); }

 private:
  std::function<void()> answer_;
};

template <typename Result>
class LatestJob {
 public:
  using Work = std::function<Result(const std::atomic<bool>& cancelled)>;
  /// What becomes of a result that a newer request has overtaken.
  enum class Overtaken { dropped, delivered };

  /// `done` and `failed` are called on the interface thread, at most one of them for each request.
  LatestJob(std::function<void(const Result&)> done, std::function<void(const QString&)> failed,
            Overtaken overtaken = Overtaken::dropped)
      : done_(std::move(done)), failed_(std::move(failed)), overtaken_(overtaken), bell_([this] { finish(); }) {}
  ~LatestJob() {
    if (!thread_.joinable()) return;
    {
      const std::lock_guard lock(mutex_);
      closing_ = true;
      if (cancelled_) *cancelled_ = true;
    }
    changed_.notify_all();
    thread_.join();
  }
  LatestJob(const LatestJob&) = delete;
  LatestJob& operator=(const LatestJob&) = delete;

  void start(Work work) {
    if (running_) {
      *cancelled_ = true;
      next_ = std::move(work);
    } else {
      launch(std::move(work));
    }
  }
  /// The running job is asked to stop, and its result will be dropped.
  void cancel() {
    next_ = nullptr;
    dropped_ = true;
    if (cancelled_) *cancelled_ = true;
  }
  bool running() const { return running_; }
  /// Blocks until nothing runs any more; results are delivered meanwhile.
  void wait() {
    while (running_) {
      {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [this] { return outcome_ != nullptr; });
      }
      finish();
    }
  }

 private:
  struct Outcome {
    std::optional<Result> result;
    std::string problem;
  };

  void launch(Work work) {
    running_ = true;
    dropped_ = false;
    {
      const std::lock_guard lock(mutex_);
      cancelled_ = std::make_shared<std::atomic<bool>>(false);
      work_ = std::move(work);
    }
    if (!thread_.joinable()) try {
        thread_ = std::thread([this] { serve(); });
      } catch (const std::system_error& none) {
        const std::lock_guard lock(mutex_);
        work_ = nullptr;
        outcome_ = std::make_unique<Outcome>();
        outcome_->problem = std::string("the system gives no thread to compute on: ") + none.what();
        bell_.ring();
      }
    changed_.notify_all();
  }

  // On the job's own thread.
  void serve() {
    std::unique_lock lock(mutex_);
    for (;;) {
      changed_.wait(lock, [this] { return work_ || closing_; });
      if (closing_) return;
      auto outcome = std::make_unique<Outcome>();
      {
        const Work work = std::exchange(work_, nullptr);
        const auto cancelled = cancelled_;
        lock.unlock();
        try {
          outcome->result = work(*cancelled);
        } catch (const std::exception& error) {
          outcome->problem = error.what();
          log_error(QString("work in the background failed: %1").arg(error.what()));
        }
      } // the work and what it holds end before its result is told
      lock.lock();
      outcome_ = std::move(outcome);
      changed_.notify_all();
      bell_.ring();
    }
  }

  void finish() {
    std::unique_ptr<Outcome> outcome;
    bool overtaken = false;
    {
      const std::lock_guard lock(mutex_);
      if (!outcome_) return; // wait() has already taken it
      outcome = std::move(outcome_);
      overtaken = *cancelled_;
    }
    running_ = false;
    const bool dropped = dropped_ || (overtaken && overtaken_ == Overtaken::dropped);
    if (next_) launch(std::exchange(next_, nullptr));
    if (dropped) return;
    if (outcome->result)
      done_(*outcome->result);
    else
      failed_(QString::fromStdString(outcome->problem));
  }

  // Of the interface thread.
  std::function<void(const Result&)> done_;
  std::function<void(const QString&)> failed_;
  Overtaken overtaken_;
  Work next_;
  bool running_ = false;
  bool dropped_ = false;
  Doorbell bell_;
  // Shared.
  std::mutex mutex_;
  std::condition_variable changed_;
  Work work_;
  std::unique_ptr<Outcome> outcome_;
  std::shared_ptr<std::atomic<bool>> cancelled_;
  bool closing_ = false;
  std::thread thread_; // last: it uses all of the above
};
