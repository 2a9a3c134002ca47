// Rows of an image over all cores. Results never depend on how rows are shared out.
#pragma once
#include <oneapi/tbb/blocked_range.h>
#include <oneapi/tbb/parallel_for.h>

#include "core/base/stop.h"

namespace loom {

/// Calls `work(first, last)` for ranges of rows that cover 0..rows. Skips what is left once `stop` is asked.
template <class Work>
void for_rows(int rows, int grain, const Stop& stop, const Work& work) {
  tbb::parallel_for(tbb::blocked_range<int>(0, rows, static_cast<std::size_t>(grain)),
                    [&](const tbb::blocked_range<int>& r) {
                      if (!stop.asked()) work(r.begin(), r.end());
                    });
}

/// The error of a cancelled call.
inline constexpr const char* kCancelled = "cancelled";

}  // namespace loom
