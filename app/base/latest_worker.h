// A thread that works on the latest wish: a new one asks the work under way to stop.
#pragma once
#include <condition_variable>
#include <functional>
#include <mutex>
#include <new>
#include <optional>
#include <thread>

#include "core/base/stop.h"

namespace loom::app {

/// Puts the calling thread behind the interface thread, however many cores there are; the same for the workers of
/// oneTBB.
void giveWay();

/// Work is given up where memory runs out: the next wish tries again. `short_of_memory` is then called, on the worker.
/// Declare it last in its owner: the thread uses what stands above it, and ends first.
template <class Job>
class LatestWorker {
 public:
  explicit LatestWorker(std::function<void(const Job&, const Stop&)> work, std::function<void()> short_of_memory = {})
      : work_(std::move(work)), short_of_memory_(std::move(short_of_memory)), thread_([this] {
          giveWay();
          run();
        }) {}
  ~LatestWorker() {
    {
      const std::lock_guard lock(mutex_);
      ending_ = true;
      stop_.ask();
    }
    wake_.notify_one();
    thread_.join();
  }
  void ask(Job job) {
    {
      const std::lock_guard lock(mutex_);
      wanted_ = std::move(job);
      stop_.ask();
    }
    wake_.notify_one();
  }
  bool isIdle() const {
    const std::lock_guard lock(mutex_);
    return !wanted_ && !working_;
  }

 private:
  void run() {
    std::unique_lock lock(mutex_);
    while (true) {
      working_ = false;
      wake_.wait(lock, [this] { return ending_ || wanted_; });
      if (ending_) return;
      working_ = true;
      const Job job = std::move(*wanted_);
      wanted_.reset();
      const Stop stop = stop_ = Stop();
      lock.unlock();
      try {
        work_(job, stop);
      } catch (const std::bad_alloc&) {
        if (short_of_memory_) short_of_memory_();
      }
      lock.lock();
    }
  }

  std::function<void(const Job&, const Stop&)> work_;
  std::function<void()> short_of_memory_;
  mutable std::mutex mutex_;
  std::condition_variable wake_;
  std::optional<Job> wanted_;
  Stop stop_;
  bool ending_ = false, working_ = false;
  std::thread thread_;
};

}  // namespace loom::app
