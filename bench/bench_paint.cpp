// Strokes of a hand: all drawn anew, and one more while a hand draws: bench_paint [STROKES] [SIZE].
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>

#include "core/nodes/painted_store.h"

using namespace loom;

namespace {

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

// As a hand leaves them: some forty points over a fifth of the tile, thinned as the program does, a brush of 2 to
// 8 % of it.
Strokes scribbles(int count) {
  std::mt19937 chance(7);
  std::uniform_real_distribution<float> share(0, 1);
  Strokes all;
  std::size_t points = 0;
  for (int i = 0; i < count; ++i) {
    HandStroke s;
    s.radius = 0.01f + 0.03f * share(chance), s.softness = share(chance);
    float x = share(chance), y = share(chance), way = 6.3f * share(chance);
    for (int k = 0; k < 40; ++k) {
      s.points.push_back({x, y, 0, 1});
      way += 0.4f * (share(chance) - 0.5f);
      x += 0.005f * std::cos(way), y += 0.005f * std::sin(way);
    }
    s.points = thinned(s.points, 0.02f * s.radius);
    points += s.points.size();
    all.all.push_back(kept(std::move(s)));
  }
  std::printf("%.1f points a stroke\n", static_cast<double>(points) / count);
  return all;
}

double median(std::vector<double> times) {
  std::nth_element(times.begin(), times.begin() + static_cast<std::ptrdiff_t>(times.size() / 2), times.end());
  return times[times.size() / 2];
}

}  // namespace

int main(int argc, char** argv) {
  const int count = argc > 1 ? std::atoi(argv[1]) : 2000, size = argc > 2 ? std::atoi(argv[2]) : 1024;
  const Strokes all = scribbles(count + 20);
  const auto first = [&](int n) {
    Strokes some;
    some.all.assign(all.all.begin(), all.all.begin() + n);
    return some;
  };
  for (const std::size_t strands : {std::size_t{1}, std::size_t{3}}) {
    std::vector<double> anew, more;
    for (int run = 0; run < 5; ++run) {
      Painted painted = unpainted(size, strands);
      const auto start = Clock::now();
      paint(painted, first(count).all, Stop{});
      anew.push_back(since(start));
    }
    PaintedStore store;
    for (int k = 0; k < 20; ++k) {
      const Strokes now = first(count + k);
      const auto start = Clock::now();
      (void)store.paint(now, size, strands, Stop{});
      if (k > 0) more.push_back(since(start));
    }
    std::printf("%d strokes at %d, %s: drawn anew %.1f ms, one more %.1f ms\n", count, size,
                strands == 1 ? "a number" : "a colour", median(anew), median(more));
  }
}
