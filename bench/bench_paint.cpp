// Strokes of a hand: all drawn anew, and one more while a hand draws; the same on a ball of half a metre, read at the
// places that a picture of 768 x 768 shows of it: bench_paint [STROKES] [SIZE].
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>

#include "core/nodes/painted_store.h"
#include "core/program/builder.h"
#include "core/program/painted_space.h"

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

// The same strokes, wrapped round a ball.
Strokes on_ball(const Strokes& tile) {
  Strokes all;
  for (const HandStrokePtr& flat : tile.all) {
    HandStroke s = *flat;
    s.on_shape = true;
    for (StrokePoint& p : s.points) {
      const Vec3 n = direction_of(360 * p.x, 180 * p.y - 90);
      p = {0.5f * n.x, 0.5f * n.y, 0.5f * n.z, p.pressure, n.x, n.y, n.z};
    }
    all.all.push_back(kept(std::move(s)));
  }
  return all;
}

// What a picture of the ball asks for, row by row: places, normals, and how wide a pixel is there.
std::array<std::vector<float>, 7> places_of_ball(int size) {
  std::array<std::vector<float>, 7> out;
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x) {
      const float a = 2 * (static_cast<float>(x) + 0.5f) / static_cast<float>(size) - 1,
                  b = 1 - 2 * (static_cast<float>(y) + 0.5f) / static_cast<float>(size), square = 1 - a * a - b * b;
      if (square <= 0) continue;
      const float c = std::sqrt(square);
      const float numbers[] = {0.5f * a, 0.5f * b, 0.5f * c, a, b, c, 1 / static_cast<float>(size)};
      for (std::size_t k = 0; k < 7; ++k) out[k].push_back(numbers[k]);
    }
  return out;
}

void on_shape(const Strokes& strokes, std::size_t strands) {
  std::vector<double> anew, read;
  const auto places = places_of_ball(768);
  const std::size_t count = places[0].size();
  std::vector<std::vector<float>> values(strands + 1, std::vector<float>(count));
  for (int run = 0; run < 5; ++run) {
    const auto start = Clock::now();
    const auto space = std::make_shared<PaintedSpace>(strokes, strands);
    anew.push_back(since(start));
    Builder b(Domain::numbers());
    std::vector<Reg> in;
    for (std::uint32_t k = 0; k < 7; ++k) in.push_back(b.attribute(k));
    const auto found = b.apply(kPaintedSpace, std::span<const Reg>(in), space, static_cast<int>(strands) + 1);
    std::vector<const float*> from;
    std::vector<float*> to;
    for (std::size_t i = 0; i <= strands; ++i) b.store(found[i], static_cast<int>(i)), to.push_back(values[i].data());
    for (const auto& p : places) from.push_back(p.data());
    const Program program = b.build();
    const auto then = Clock::now();
    run_samples(program, count, from, to, Stop{});
    read.push_back(since(then));
    if (run == 0) std::printf("%.1f MiB of boxes\n", static_cast<double>(space->bytes()) / (1 << 20));
  }
  std::printf("%zu strokes on a ball, %s: made anew %.1f ms, read at %zu places %.1f ms\n", strokes.all.size(),
              strands == 1 ? "a number" : "a colour", median(anew), count, median(read));
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
    on_shape(on_ball(first(count)), strands);
  }
}
