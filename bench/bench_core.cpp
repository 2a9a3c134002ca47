// Our kernels beside OpenCV's nearest equivalent, at 4096 x 4096, in one run; and thirty fused point steps beside the plain loops.
// Each result is checked once before it is timed.
#include <benchmark/benchmark.h>

#include <cmath>
#include <opencv2/imgproc.hpp>
#include <random>

#include "core/base/parallel.h"
#include "core/plane/filters.h"
#include "core/program/builder.h"

using namespace loom;

namespace {

constexpr int kSize = 4096, kSteps = 30;

const Plane& height() {
  static const Plane kPlane = [] {
    Plane p(kSize);
    for (int y = 0; y < kSize; ++y) for (int x = 0; x < kSize; ++x) p.at(x, y) = 0.5f + 0.3f * std::sin(0.01f * static_cast<float>(x)) * std::cos(0.013f * static_cast<float>(y));
    return p;
  }();
  return kPlane;
}
// 8192 bricks of 64 x 32 texels with joints.
const Plane& bricks() {
  static const Plane kPlane = [] {
    Plane p(kSize);
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) p.at(x, y) = (x + (y / 32 % 2) * 32) % 64 >= 4 && y % 32 >= 4 ? 1.0f : 0.0f;
    return p;
  }();
  return kPlane;
}
cv::Mat as_mat(const Plane& p) { return cv::Mat(kSize, kSize, CV_32F, const_cast<float*>(p.data())); }
cv::Mat bytes(const Plane& p, bool inverted) {
  cv::Mat m(kSize, kSize, CV_8U);
  for (std::size_t i = 0; i < p.texels(); ++i) m.data[i] = (p.data()[i] >= 0.5f) != inverted ? 255 : 0;
  return m;
}

void report(benchmark::State& s) {
  s.SetItemsProcessed(s.iterations() * kSize * kSize);
  s.SetBytesProcessed(s.iterations() * kSize * kSize * 8);
}

void points_fused(benchmark::State& s) {
  for (auto _ : s) {
    Builder b(1.0f / kSize);
    Reg r = b.add(b.mul(b.u(), 0.7f), b.v());
    for (int i = 0; i < kSteps - 2; ++i) r = i % 3 == 0 ? b.mul(r, b.v()) : i % 3 == 1 ? b.add(r, b.u()) : b.max(b.mul(r, 0.5f), b.u());
    b.store(r, 0);
    Plane out(kSize);
    Plane* to = &out;
    run_texels(b.build(), kSize, {&to, 1}, Stop{});
    benchmark::DoNotOptimize(out.data());
  }
  report(s);
}
void points_node_by_node(benchmark::State& s) {
  for (auto _ : s) {
    const auto each = [](const auto& make) {
      Builder b(1.0f / kSize);
      b.store(make(b), 0);
      auto out = std::make_shared<Plane>(kSize);
      Plane* to = out.get();
      run_texels(b.build(), kSize, {&to, 1}, Stop{});
      return PlanePtr(out);
    };
    const PlanePtr u = each([](Builder& b) { return b.u(); }), v = each([](Builder& b) { return b.v(); });
    PlanePtr r = each([&](Builder& b) { return b.add(b.mul(b.load(u), 0.7f), b.load(v)); });
    for (int i = 0; i < kSteps - 2; ++i)
      r = each([&](Builder& b) { const Reg x = b.load(r); return i % 3 == 0 ? b.mul(x, b.load(v)) : i % 3 == 1 ? b.add(x, b.load(u)) : b.max(b.mul(x, 0.5f), b.load(u)); });
    benchmark::DoNotOptimize(r->data());
  }
  report(s);
}
// What a person would write for these thirty steps, unrolled and compiled for the machine's own instruction set.
__attribute__((target_clones("arch=skylake-avx512", "avx2", "default"), optimize("O3")))
void hand_fused_row(float v, float* __restrict out) {
  for (int x = 0; x < kSize; ++x) {
    const float u = (static_cast<float>(x) + 0.5f) / kSize;
    float r = u * 0.7f + v;
#pragma GCC unroll 10
    for (int i = 0; i < kSteps - 2; i += 3) {
      r = r * v;
      if (i + 1 < kSteps - 2) r = r + u;
      if (i + 2 < kSteps - 2) r = r * 0.5f > u ? r * 0.5f : u;
    }
    out[x] = r;
  }
}
void points_by_hand(benchmark::State& s) {
  for (auto _ : s) {
    Plane out(kSize);
    for_rows(kSize, 16, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y) hand_fused_row((static_cast<float>(y) + 0.5f) / kSize, out.row(y));
    });
    benchmark::DoNotOptimize(out.data());
  }
  report(s);
}

void distance_ours(benchmark::State& s) {
  for (auto _ : s) benchmark::DoNotOptimize(distance_to(bricks(), 0.5f, Stop{}).distance.data());
  report(s);
}
void distance_opencv(benchmark::State& s) {
  const cv::Mat m = bytes(bricks(), true);
  cv::Mat d;
  for (auto _ : s) cv::distanceTransform(m, d, cv::DIST_L2, cv::DIST_MASK_PRECISE);
  report(s);
}
void distance_sparse_ours(benchmark::State& s) {
  std::mt19937 chance(1);
  Plane p = Plane::filled(kSize, 0);
  for (int i = 0; i < 4000; ++i) p.at(static_cast<int>(chance() % kSize), static_cast<int>(chance() % kSize)) = 1;
  for (auto _ : s) benchmark::DoNotOptimize(distance_to(p, 0.5f, Stop{}).distance.data());
  report(s);
}
void distance_sparse_opencv(benchmark::State& s) {
  std::mt19937 chance(1);
  cv::Mat m(kSize, kSize, CV_8U, cv::Scalar(255)), d;
  for (int i = 0; i < 4000; ++i) { const int x = static_cast<int>(chance() % kSize), y = static_cast<int>(chance() % kSize); m.at<std::uint8_t>(y, x) = 0; }
  for (auto _ : s) cv::distanceTransform(m, d, cv::DIST_L2, cv::DIST_MASK_PRECISE);
  report(s);
}
void label_ours(benchmark::State& s) {
  if (label_regions(bricks(), 0.5f, false, Stop{}).table.count() != 8192) return s.SkipWithError("not 8192 bricks");
  for (auto _ : s) benchmark::DoNotOptimize(label_regions(bricks(), 0.5f, false, Stop{}).table.count());
  report(s);
}
void label_opencv(benchmark::State& s) {
  const cv::Mat m = bytes(bricks(), false);
  cv::Mat l, stats, centres;
  for (auto _ : s) benchmark::DoNotOptimize(cv::connectedComponentsWithStats(m, l, stats, centres, 4));
  report(s);
}
void blur_ours(benchmark::State& s) {
  for (auto _ : s) benchmark::DoNotOptimize(blurred(height(), static_cast<float>(s.range(0)) / kSize, Stop{}).data());
  report(s);
}
void blur_opencv(benchmark::State& s) {
  cv::Mat out;
  for (auto _ : s) cv::GaussianBlur(as_mat(height()), out, cv::Size(), static_cast<double>(s.range(0)), 0, cv::BORDER_REFLECT_101);
  report(s);
}
void warp_ours(benchmark::State& s) {
  Plane du(kSize), dv(kSize);
  slopes(height(), du, dv, Stop{});
  for (std::size_t i = 0; i < du.texels(); ++i) du.data()[i] *= 0.001f, dv.data()[i] *= 0.001f;
  for (auto _ : s) benchmark::DoNotOptimize(warped(height(), du, dv, Stop{}).data());
  report(s);
}
void warp_opencv(benchmark::State& s) {
  Plane du(kSize), dv(kSize);
  slopes(height(), du, dv, Stop{});
  cv::Mat mx(kSize, kSize, CV_32F), my(kSize, kSize, CV_32F), out;
  for (int y = 0; y < kSize; ++y) for (int x = 0; x < kSize; ++x) mx.at<float>(y, x) = static_cast<float>(x) + 0.001f * kSize * du.at(x, y), my.at<float>(y, x) = static_cast<float>(y) + 0.001f * kSize * dv.at(x, y);
  for (auto _ : s) cv::remap(as_mat(height()), out, mx, my, cv::INTER_LINEAR, cv::BORDER_WRAP);
  report(s);
}
void normals_ours(benchmark::State& s) {
  for (auto _ : s) benchmark::DoNotOptimize(normals(height(), 0.02f, Stop{})[0].data());
  report(s);
}
void two_sobels_opencv(benchmark::State& s) {
  cv::Mat x, y;
  for (auto _ : s) {
    cv::Sobel(as_mat(height()), x, CV_32F, 1, 0);
    cv::Sobel(as_mat(height()), y, CV_32F, 0, 1);
  }
  report(s);
}

Plane relief_at(int size) {
  Plane p(size);
  for (int y = 0; y < size; ++y) for (int x = 0; x < size; ++x) p.at(x, y) = ((x * 32 / size + y * 32 / size) % 2 ? 0.7f : 0.3f) + 0.2f * std::sin(0.05f * static_cast<float>(x * 2048 / size));
  return p;
}
void occlusion_ours(benchmark::State& s) {
  const Plane p = relief_at(static_cast<int>(s.range(0)));
  for (auto _ : s) benchmark::DoNotOptimize(occlusion(p, 0.02f, 0.05f, Stop{}).data());
}

}  // namespace

#define LOOM_BENCH(f) BENCHMARK(f)->Unit(benchmark::kMillisecond)->UseRealTime()->MinTime(0.5)
LOOM_BENCH(points_fused);
LOOM_BENCH(points_node_by_node);
LOOM_BENCH(points_by_hand);
LOOM_BENCH(distance_ours);
LOOM_BENCH(distance_opencv);
LOOM_BENCH(distance_sparse_ours);
LOOM_BENCH(distance_sparse_opencv);
LOOM_BENCH(label_ours);
LOOM_BENCH(label_opencv);
LOOM_BENCH(blur_ours)->Arg(2)->Arg(16)->Arg(128);
LOOM_BENCH(blur_opencv)->Arg(2)->Arg(16)->Arg(128);
LOOM_BENCH(warp_ours);
LOOM_BENCH(warp_opencv);
LOOM_BENCH(normals_ours);
LOOM_BENCH(two_sobels_opencv);
LOOM_BENCH(occlusion_ours)->Arg(1024)->Arg(2048)->Arg(4096);
BENCHMARK_MAIN();
