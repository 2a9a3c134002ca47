#include "core/proof/likeness.h"

#include <fftw3.h>
#include <oneapi/tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/base/parallel.h"
#include "core/nodes/oklab.h"

namespace loom {
namespace {

constexpr int kN = kLikenessSize, kHalf = kN / 2 + 1;
constexpr std::size_t kPixels = static_cast<std::size_t>(kN) * kN;
// How far apart is plainly seen: of colours in Oklab, of powers in logarithms, of correlations, of slopes a pixel.
constexpr float kColour = 0.05f, kPower = 0.7f, kCorrelation = 0.1f, kSlope = 0.01f;
constexpr int kQuantiles = 17;

using Strand = std::vector<float>;

// Plans are made once, one at a time; they run at the same time over any memory of their alignment.
struct Transforms {
  fftwf_plan forth, back;
};
const Transforms& transforms() {
  static const Transforms kPlans = [] {
    auto* real = fftwf_alloc_real(kPixels);
    auto* wave = fftwf_alloc_complex(static_cast<std::size_t>(kN) * kHalf);
    const Transforms t{fftwf_plan_dft_r2c_2d(kN, kN, real, wave, FFTW_ESTIMATE),
                       fftwf_plan_dft_c2r_2d(kN, kN, wave, real, FFTW_ESTIMATE)};
    fftwf_free(real), fftwf_free(wave);
    return t;
  }();
  return kPlans;
}

template <class T>
struct Freed {
  void operator()(T* p) const { fftwf_free(p); }
};
using Reals = std::unique_ptr<float[], Freed<float>>;
using Waves = std::unique_ptr<fftwf_complex[], Freed<fftwf_complex>>;

std::array<Strand, 3> in_oklab(const std::array<const Plane*, 3>& linear) {
  std::array<Strand, 3> lab;
  for (Strand& s : lab) s.resize(kPixels);
  for_rows(kN, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < kN; ++x) {
        std::array<double, 3> rgb{};
        for (std::size_t c = 0; c < 3; ++c) rgb[c] = std::clamp(static_cast<double>(linear[c]->at(x, y)), 0.0, 4.0);
        const auto v = oklab_from_linear(rgb);
        for (std::size_t c = 0; c < 3; ++c)
          lab[c][static_cast<std::size_t>(y) * kN + static_cast<std::size_t>(x)] = static_cast<float>(v[c]);
      }
  });
  return lab;
}

// By counting: of some ten thousand numbers in four thousand cells the place within a cell does not matter.
void add_quantiles(const Strand& values, float least, float most, int count, float unit, Strand& to) {
  constexpr int kCells = 4096;
  std::array<int, kCells> cells{};
  const float scale = kCells / (most - least);
  for (const float x : values) ++cells[static_cast<std::size_t>(std::clamp((x - least) * scale, 0.0f, kCells - 1.0f))];
  double below = 0;
  int cell = 0;
  for (int i = 0; i < count; ++i) {
    const double at = (i + 0.5) / count * static_cast<double>(values.size());
    while (cell < kCells - 1 && below + cells[static_cast<std::size_t>(cell)] < at)
      below += cells[static_cast<std::size_t>(cell++)];
    const double within = (at - below) / std::max(cells[static_cast<std::size_t>(cell)], 1);
    to.push_back((least + static_cast<float>(cell + within) / scale) / unit);
  }
}

double mean_of(const Strand& s) {
  double sum = 0;
  for (const float x : s) sum += static_cast<double>(x);
  return sum / static_cast<double>(s.size());
}

Strand colours_of(const std::array<Strand, 3>& lab) {
  Strand out;
  for (std::size_t c = 0; c < 3; ++c)
    add_quantiles(lab[c], c == 0 ? 0.0f : -0.5f, c == 0 ? 1.6f : 0.5f, kQuantiles, kColour, out);
  for (std::size_t a = 0; a < 3; ++a)
    for (std::size_t b = a + 1; b < 3; ++b) {
      const double ma = mean_of(lab[a]), mb = mean_of(lab[b]);
      double sum = 0;
      for (std::size_t i = 0; i < kPixels; ++i)
        sum += (static_cast<double>(lab[a][i]) - ma) * (static_cast<double>(lab[b][i]) - mb);
      sum /= static_cast<double>(kPixels);
      out.push_back(static_cast<float>(std::copysign(std::sqrt(std::abs(sum)), sum)) / kColour);
    }
  return out;
}

// The wave numbers of a row or a column run up to the half and then come back from below.
int signed_wave(int k) { return k <= kN / 2 ? k : k - kN; }

// Power and its transform back: the spectrum and the autocorrelation.
void spectrum_of(const Strand& light, Likeness& out) {
  static const Strand kWindow = [] {
    Strand w(kN);
    for (int i = 0; i < kN; ++i)
      w[static_cast<std::size_t>(i)] = static_cast<float>(0.5 - 0.5 * std::cos(2 * std::numbers::pi * (i + 0.5) / kN));
    return w;
  }();
  const Reals real(fftwf_alloc_real(kPixels));
  const Waves wave(fftwf_alloc_complex(static_cast<std::size_t>(kN) * kHalf));
  const auto mean = static_cast<float>(mean_of(light));
  for (std::size_t y = 0; y < kN; ++y)
    for (std::size_t x = 0; x < kN; ++x) real[y * kN + x] = (light[y * kN + x] - mean) * kWindow[y] * kWindow[x];
  fftwf_execute_dft_r2c(transforms().forth, real.get(), wave.get());

  constexpr int kRings = 12, kSectors = 6;  // half octaves from two waves on
  std::array<double, kRings * kSectors> power{}, count{};
  for (int y = 0; y < kN; ++y)
    for (int x = 0; x < kHalf; ++x) {
      auto& w = wave[static_cast<std::size_t>(y) * kHalf + static_cast<std::size_t>(x)];
      const float p = w[0] * w[0] + w[1] * w[1];
      w[0] = p, w[1] = 0;
      const int v = signed_wave(y);
      const double r = std::hypot(x, v);
      if (r < 2) continue;
      const int ring = std::min(static_cast<int>(2 * std::log2(r / 2)), kRings - 1);
      const double turn = std::atan2(v, x) / std::numbers::pi + 0.5;  // 0 to 1 over half a round
      const int sector = static_cast<int>(turn * kSectors) % kSectors;
      const auto at = static_cast<std::size_t>(ring * kSectors + sector);
      power[at] += static_cast<double>(p), count[at] += 1;
    }
  constexpr double kFloor = 1e-3;  // below it there is nothing to be seen
  for (std::size_t i = 0; i < power.size(); ++i)
    out.spectrum.push_back(static_cast<float>(std::log(kFloor + power[i] / std::max(count[i], 1.0))) / kPower);

  fftwf_execute_dft_c2r(transforms().back, wave.get(), real.get());
  const float all = std::max(real[0], 1e-9f);
  constexpr int kDirections = 8;
  for (int d = 0; d < kDirections; ++d)
    for (int lag = 2; lag < kN / 2; lag += 1 + lag / 8) {
      const double angle = std::numbers::pi * d / kDirections;
      const auto along = [&](double f) {
        return static_cast<std::size_t>((static_cast<int>(std::lround(lag * f)) + kN) % kN);
      };
      out.repeats.push_back(real[along(std::sin(angle)) * kN + along(std::cos(angle))] / all / kCorrelation);
    }
}

Strand gradients_of(const Strand& light, int width) {
  Strand out, steep;
  std::array<double, 8> ways{};
  double sum = 1e-9;
  const auto at = [&](int x, int y) { return light[static_cast<std::size_t>(y) * kN + static_cast<std::size_t>(x)]; };
  for (int y = width; y + width < kN; ++y)
    for (int x = width; x + width < kN; ++x) {
      const float gx = at(x + width, y) - at(x - width, y), gy = at(x, y + width) - at(x, y - width);
      const float g = std::sqrt(gx * gx + gy * gy);
      steep.push_back(g);
      // Which eighth of the round, by its signs and which of the two is greater.
      const bool steeper = std::abs(gy) > std::abs(gx);
      const std::size_t way = (gx < 0 ? 4u : 0u) + (gy < 0 ? 2u : 0u) + (steeper ? 1u : 0u);
      ways[way] += static_cast<double>(g);
      sum += static_cast<double>(g);
    }
  add_quantiles(steep, 0, 1, 12, kSlope * static_cast<float>(width), out);
  for (const double w : ways) out.push_back(static_cast<float>(w / sum) / kCorrelation);
  return out;
}

double apart(const Strand& a, const Strand& b) {
  double sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += std::pow(static_cast<double>(a[i]) - static_cast<double>(b[i]), 2);
  return sum / static_cast<double>(std::max<std::size_t>(a.size(), 1));
}

}  // namespace

Likeness likeness_of(const std::array<const Plane*, 3>& linear) {
  const auto lab = in_oklab(linear);
  Likeness out;
  std::array<Strand, 3> gradients;
  tbb::parallel_invoke([&] { out.colours = colours_of(lab); }, [&] { spectrum_of(lab[0], out); },
                       [&] { gradients[0] = gradients_of(lab[0], 1); }, [&] { gradients[1] = gradients_of(lab[0], 2); },
                       [&] { gradients[2] = gradients_of(lab[0], 4); });
  for (const Strand& g : gradients) out.gradients.insert(out.gradients.end(), g.begin(), g.end());
  return out;
}

double unlikeness(const Likeness& a, const Likeness& b) {
  return std::sqrt((apart(a.colours, b.colours) + apart(a.spectrum, b.spectrum) + apart(a.repeats, b.repeats) +
                    apart(a.gradients, b.gradients)) /
                   4);
}

}  // namespace loom
