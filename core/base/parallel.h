// Rows of an image over all cores. Results never depend on how rows are shared out.
#pragma once
#include <oneapi/tbb/blocked_range.h>
#include <oneapi/tbb/parallel_for.h>

#include "core/base/stop.h"

#if defined(__has_feature)
#if __has_feature(thread_sanitizer)
#define LOOM_OWN_THREADS
#include <algorithm>
#include <atomic>
#include <future>
#endif
#endif

namespace loom {

/// Calls `work(first, last)` for ranges of rows that cover 0..rows. Skips what is left once `stop` is asked.
template <class Work>
void for_rows(int rows, int grain, const Stop& stop, const Work& work) {
#ifdef LOOM_OWN_THREADS
  // Debian's oneTBB is built without the thread sanitizer, which then does not see how tasks are handed on.
  std::atomic<int> next{0};
  const auto take = [&] {
    for (int first = next.fetch_add(grain); first < rows && !stop.asked(); first = next.fetch_add(grain))
      work(first, std::min(first + grain, rows));
  };
  auto other = std::async(std::launch::async, take);
  take();
  other.get();
#else
  tbb::parallel_for(tbb::blocked_range<int>(0, rows, static_cast<std::size_t>(grain)),
                    [&](const tbb::blocked_range<int>& r) {
                      if (!stop.asked()) work(r.begin(), r.end());
                    });
#endif
}

/// The error of a cancelled call.
inline constexpr const char* kCancelled = "cancelled";

}  // namespace loom
