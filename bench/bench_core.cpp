// Our kernels beside OpenCV's nearest equivalent, at 4096 x 4096, in one run; and thirty fused point steps beside the
// plain loops. Each result is checked once before it is timed.
#include <benchmark/benchmark.h>

#include <cmath>
#include <opencv2/imgproc.hpp>
#include <random>

#include <cairo.h>
#include <fftw3.h>
#include <librsvg/rsvg.h>

#include "core/base/parallel.h"
#include "core/io/drawing.h"
#include "core/nodes/drawn.h"
#include "core/plane/filters.h"
#include "core/plane/integrate.h"
#include "core/program/builder.h"

using namespace loom;

namespace {

constexpr int kSize = 4096, kSteps = 30;

const Plane& height() {
  static const Plane kPlane = [] {
    Plane p(kSize);
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x)
        p.at(x, y) = 0.5f + 0.3f * std::sin(0.01f * static_cast<float>(x)) * std::cos(0.013f * static_cast<float>(y));
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
    Builder b(Domain::texels(kSize));
    Reg r = b.add(b.mul(b.u(), 0.7f), b.v());
    for (int i = 0; i < kSteps - 2; ++i)
      r = i % 3 == 0 ? b.mul(r, b.v()) : i % 3 == 1 ? b.add(r, b.u()) : b.max(b.mul(r, 0.5f), b.u());
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
      Builder b(Domain::texels(kSize));
      b.store(make(b), 0);
      auto out = std::make_shared<Plane>(kSize);
      Plane* to = out.get();
      run_texels(b.build(), kSize, {&to, 1}, Stop{});
      return PlanePtr(out);
    };
    const PlanePtr u = each([](Builder&b) { return b.u(); }), v = each([](Builder&b) { return b.v(); });
    PlanePtr r = each([&](Builder& b) { return b.add(b.mul(b.read(u), 0.7f), b.read(v)); });
    for (int i = 0; i < kSteps - 2; ++i)
      r = each([&](Builder& b) {
        const Reg x = b.read(r);
        return i % 3 == 0 ? b.mul(x, b.read(v)) : i % 3 == 1 ? b.add(x, b.read(u)) : b.max(b.mul(x, 0.5f), b.read(u));
      });
    benchmark::DoNotOptimize(r->data());
  }
  report(s);
}
// What a person would write for these thirty steps, unrolled and compiled for the machine's own instruction set.
__attribute__((target_clones("arch=skylake-avx512", "avx2", "default"), optimize("O3"))) void hand_fused_row(
    float v, float* __restrict out) {
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
  for (int i = 0; i < 4000; ++i) {
    const int x = static_cast<int>(chance() % kSize), y = static_cast<int>(chance() % kSize);
    m.at<std::uint8_t>(y, x) = 0;
  }
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
  for (auto _ : s)
    cv::GaussianBlur(as_mat(height()), out, cv::Size(), static_cast<double>(s.range(0)), 0, cv::BORDER_REFLECT_101);
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
  for (int y = 0; y < kSize; ++y)
    for (int x = 0; x < kSize; ++x)
      mx.at<float>(y, x) = static_cast<float>(x) + 0.001f * kSize * du.at(x, y),
                      my.at<float>(y, x) = static_cast<float>(y) + 0.001f * kSize * dv.at(x, y);
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
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x)
      p.at(x, y) = ((x * 32 / size + y * 32 / size) % 2 ? 0.7f : 0.3f) +
                   0.2f * std::sin(0.05f * static_cast<float>(x * 2048 / size));
  return p;
}
void occlusion_ours(benchmark::State& s) {
  const Plane p = relief_at(static_cast<int>(s.range(0)));
  for (auto _ : s) benchmark::DoNotOptimize(occlusion(p, 0.02f, 0.05f, Stop{}).data());
}

// Heights from slopes: by our transform, and the same work by FFTW's real transforms, planned ahead, on one core as it
// comes.
void heights_ours(benchmark::State& s) {
  const int size = static_cast<int>(s.range(0));
  const Plane p = relief_at(size);
  Plane du(size), dv(size);
  slopes(p, du, dv, Stop{});
  for (auto _ : s) benchmark::DoNotOptimize(height_from_slopes(du, dv, Stop{}).data());
}
void heights_fftw(benchmark::State& s) {
  const int size = static_cast<int>(s.range(0)), half = size / 2 + 1;
  Plane du = relief_at(size), dv = relief_at(size), out(size);
  const auto count = static_cast<std::size_t>(size) * static_cast<std::size_t>(half);
  auto *p = fftwf_alloc_complex(count), *q = fftwf_alloc_complex(count);
  const fftwf_plan forward_p = fftwf_plan_dft_r2c_2d(size, size, du.data(), p, FFTW_ESTIMATE),
                   forward_q = fftwf_plan_dft_r2c_2d(size, size, dv.data(), q, FFTW_ESTIMATE),
                   back = fftwf_plan_dft_c2r_2d(size, size, p, out.data(), FFTW_ESTIMATE);
  for (auto _ : s) {
    fftwf_execute(forward_p);
    fftwf_execute(forward_q);
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < half; ++x) {
        const std::size_t i =
            static_cast<std::size_t>(y) * static_cast<std::size_t>(half) + static_cast<std::size_t>(x);
        const float ku = static_cast<float>(x), kv = static_cast<float>(y <= size / 2 ? y : y - size),
                    k2 = ku * ku + kv * kv,
                    scale = k2 > 0 ? 1 / (6.2831853f * k2 * static_cast<float>(size) * static_cast<float>(size)) : 0;
        const float re = (ku * p[i][1] + kv * q[i][1]) * scale, im = -(ku * p[i][0] + kv * q[i][0]) * scale;
        p[i][0] = re, p[i][1] = im;
      }
    fftwf_execute(back);
    benchmark::DoNotOptimize(out.data());
  }
  for (const fftwf_plan plan : {forward_p, forward_q, back}) fftwf_destroy_plan(plan);
  fftwf_free(p);
  fftwf_free(q);
}

// A sheet of a thousand circles, stars and strokes.
std::string crowded_drawing() {
  std::string svg = "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 100 100' width='100' height='100'>";
  for (int i = 0; i < 1000; ++i) {
    const double x = (i * 37) % 100, y = (i * 61) % 100;
    const std::string at = std::to_string(x) + " " + std::to_string(y);
    svg += i % 3 == 0 ? "<circle cx='" + std::to_string(x) + "' cy='" + std::to_string(y) + "' r='2.4' fill='#2e4a78'/>"
           : i % 3 == 1 ? "<path transform='translate(" + at +
                              ")' d='M0 -3 L1.8 2.6 L-2.8 -1 H2.8 L-1.8 2.6 Z' fill='#9e3b33' fill-rule='evenodd'/>"
                        : "<path transform='translate(" + at +
                              ")' d='M-2 0 C-1 -3 1 3 2 0' fill='none' stroke='#1f1b16' stroke-width='0.5' "
                              "stroke-linecap='round'/>";
  }
  return svg + "</svg>";
}
void drawing_ours(benchmark::State& s) {
  const auto drawing = read_svg(crowded_drawing());
  for (auto _ : s)
    benchmark::DoNotOptimize(
        draw(*drawing, placed(*drawing, "stretched", 0), static_cast<int>(s.range(0))).alpha.data());
}
void drawing_librsvg(benchmark::State& s) {
  const std::string svg = crowded_drawing();
  RsvgHandle* handle = rsvg_handle_new_from_data(reinterpret_cast<const guint8*>(svg.data()), svg.size(), nullptr);
  const int size = static_cast<int>(s.range(0));
  cairo_surface_t* surface = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, size, size);
  const RsvgRectangle frame{0, 0, static_cast<double>(size), static_cast<double>(size)};
  for (auto _ : s) {
    cairo_t* cr = cairo_create(surface);
    rsvg_handle_render_document(handle, cr, &frame, nullptr);
    cairo_surface_flush(surface);
    cairo_destroy(cr);
  }
  cairo_surface_destroy(surface);
  g_object_unref(handle);
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
LOOM_BENCH(heights_ours)->Arg(2048)->Arg(4096);
LOOM_BENCH(heights_fftw)->Arg(2048)->Arg(4096);
LOOM_BENCH(drawing_ours)->Arg(2048)->Arg(4096);
LOOM_BENCH(drawing_librsvg)->Arg(2048)->Arg(4096);
BENCHMARK_MAIN();
