// Independent pieces of work on all processors.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace arc {

/// Counts pieces of work that several threads finish, and tells how many: one after the other, never fewer than
/// before.
class Tally {
 public:
  template <typename Tell>
  void add(const Tell& tell) {
    const std::scoped_lock lock(guard_);
    tell(++done_);
  }

 private:
  std::mutex guard_;
  int done_ = 0;
};

/// Calls `work(i)` for every i below `count`, in any order and from several threads; returns when all are done. The
/// first exception ends the rest and is thrown here.
template <typename Work>
void parallel_for(std::size_t count, const Work& work) {
  std::atomic<std::size_t> next{0};
  std::exception_ptr failed;
  std::mutex guard;
  const auto take = [&] {
    for (std::size_t i = next++; i < count; i = next++) try {
        work(i);
      } catch (...) {
        const std::scoped_lock lock(guard);
        if (!failed) failed = std::current_exception();
        next = count;
      }
  };
  {
    std::vector<std::jthread> others;
    const std::size_t hands = std::min<std::size_t>(count, std::max(1u, std::thread::hardware_concurrency()));
    for (std::size_t i = 1; i < hands; ++i) others.emplace_back(take);
    take();
  }
  if (failed) std::rethrow_exception(failed);
}

} // namespace arc
