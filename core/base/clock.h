// How long something took.
#pragma once
#include <chrono>

namespace loom {

using Clock = std::chrono::steady_clock;

inline double milliseconds_since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

}  // namespace loom
