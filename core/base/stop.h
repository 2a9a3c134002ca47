// Cancellation: a shared flag that long work polls.
#pragma once
#include <atomic>
#include <memory>

namespace loom {

/// Copies share one flag. `ask` may be called from any thread; work polls `asked` every few rows.
class Stop {
 public:
  Stop() : flag_(std::make_shared<std::atomic<bool>>(false)) {}
  void ask() const { flag_->store(true, std::memory_order_relaxed); }
  bool asked() const { return flag_->load(std::memory_order_relaxed); }

 private:
  std::shared_ptr<std::atomic<bool>> flag_;
};

}  // namespace loom
