// Values are made Gaussian by their ranks, blended there with unit variance, and taken back.
#include "core/plane/continuous.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/hash.h"
#include "core/base/parallel.h"

namespace loom {
namespace {

constexpr int kBins = 8192, kCodes = 4096;
constexpr float kMean = 0.5f, kSpread = 1.0f / 6;

// The inverse of the normal distribution's sum. Source: Acklam's rational approximation (relative error 1.2e-9), common
// practice.
double normal_quantile(double p) {
  static constexpr double a[] = {-3.969683028665376e+01, 2.209460984245205e+02,  -2.759285104469687e+02,
                                 1.383577518672690e+02,  -3.066479806614716e+01, 2.506628277459239e+00};
  static constexpr double b[] = {-5.447609879822406e+01, 1.615858368580409e+02, -1.556989798598866e+02,
                                 6.680131188771972e+01, -1.328068155288572e+01};
  static constexpr double c[] = {-7.784894002430293e-03, -3.223964580411365e-01, -2.400758277161838e+00,
                                 -2.549732539343734e+00, 4.374664141464968e+00,  2.938163982698783e+00};
  static constexpr double d[] = {7.784695709041462e-03, 3.224671290700398e-01, 2.445134137142996e+00,
                                 3.754408661907416e+00};
  const auto tail = [](double q) {
    return (((((c[0] * q + c[1]) * q + c[2]) * q + c[3]) * q + c[4]) * q + c[5]) /
           ((((d[0] * q + d[1]) * q + d[2]) * q + d[3]) * q + 1);
  };
  if (p < 0.02425) return tail(std::sqrt(-2 * std::log(p)));
  if (p > 1 - 0.02425) return -tail(std::sqrt(-2 * std::log(1 - p)));
  const double q = p - 0.5, r = q * q;
  return (((((a[0] * r + a[1]) * r + a[2]) * r + a[3]) * r + a[4]) * r + a[5]) * q /
         (((((b[0] * r + b[1]) * r + b[2]) * r + b[3]) * r + b[4]) * r + 1);
}

// One channel's way to a Gaussian and back.
class Gaussian {
 public:
  explicit Gaussian(const Plane& plane) {
    const Range range = range_of(plane);
    least_ = range.least;
    span_ = std::max(range.most - range.least, 1e-9f);
    std::vector<std::size_t> count(kBins);
    for (std::size_t i = 0; i < plane.texels(); ++i) ++count[bin(plane.data()[i])];
    std::vector<double> below(kBins + 1);
    for (int i = 0; i < kBins; ++i)
      below[static_cast<std::size_t>(i) + 1] =
          below[static_cast<std::size_t>(i)] +
          static_cast<double>(count[static_cast<std::size_t>(i)]) / static_cast<double>(plane.texels());
    const double edge = 0.5 / static_cast<double>(plane.texels());
    forward_.resize(kBins + 1);
    for (std::size_t i = 0; i <= kBins; ++i)
      forward_[i] = kMean + kSpread * static_cast<float>(normal_quantile(std::clamp(below[i], edge, 1 - edge)));
    back_.resize(kCodes + 1);
    std::size_t k = 0;
    for (std::size_t i = 0; i <= kCodes; ++i) {  // the value whose Gaussian is code i
      const float wanted = static_cast<float>(i) / kCodes;
      while (k + 1 < kBins && forward_[k + 1] < wanted) ++k;
      const float low = forward_[k], high = forward_[k + 1],
                  t = high > low ? std::clamp((wanted - low) / (high - low), 0.0f, 1.0f) : 0.5f;
      back_[i] = least_ + span_ * (static_cast<float>(k) + t) / kBins;
    }
  }
  float to(float value) const {
    const float x = std::clamp((value - least_) / span_ * kBins, 0.0f, static_cast<float>(kBins) - 1e-3f);
    const auto i = static_cast<std::size_t>(x);
    return forward_[i] + (forward_[i + 1] - forward_[i]) * (x - static_cast<float>(i));
  }
  float from(float gaussian) const {
    const float x = std::clamp(gaussian * kCodes, 0.0f, static_cast<float>(kCodes) - 1e-3f);
    const auto i = static_cast<std::size_t>(x);
    return back_[i] + (back_[i + 1] - back_[i]) * (x - static_cast<float>(i));
  }

 private:
  std::size_t bin(float v) const {
    return static_cast<std::size_t>(std::clamp((v - least_) / span_ * kBins, 0.0f, kBins - 1.0f));
  }
  float least_, span_;
  std::vector<float> forward_, back_;
};

using Axes = std::array<std::array<double, 3>, 3>;  // rows: unit vectors

// Eigenvectors of a symmetric matrix by Jacobi's turns.
Axes principal_axes(std::array<std::array<double, 3>, 3> m) {
  Axes axes{{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}};
  for (int sweep = 0; sweep < 24; ++sweep)
    for (std::size_t p = 0; p < 2; ++p)
      for (std::size_t q = p + 1; q < 3; ++q) {
        if (std::abs(m[p][q]) < 1e-15) continue;
        const double theta = 0.5 * std::atan2(2 * m[p][q], m[q][q] - m[p][p]), c = std::cos(theta), s = std::sin(theta);
        for (std::size_t k = 0; k < 3; ++k) {
          const double a = m[k][p], b = m[k][q];
          m[k][p] = c * a - s * b;
          m[k][q] = s * a + c * b;
        }
        for (std::size_t k = 0; k < 3; ++k) {
          const double a = m[p][k], b = m[q][k];
          m[p][k] = c * a - s * b;
          m[q][k] = s * a + c * b;
          const double x = axes[p][k], y = axes[q][k];
          axes[p][k] = c * x - s * y;
          axes[q][k] = s * x + c * y;
        }
      }
  return axes;
}

Axes axes_of(const std::vector<Plane>& channels) {
  std::array<double, 3> mean{};
  std::array<std::array<double, 3>, 3> m{};
  const std::size_t n = channels[0].texels();
  for (std::size_t c = 0; c < 3; ++c) mean[c] = range_of(channels[c]).mean;
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t a = 0; a < 3; ++a)
      for (std::size_t b = a; b < 3; ++b)
        m[a][b] += (channels[a].data()[i] - mean[a]) * (channels[b].data()[i] - mean[b]) / static_cast<double>(n);
  m[1][0] = m[0][1], m[2][0] = m[0][2], m[2][1] = m[1][2];
  return principal_axes(m);
}

std::vector<Plane> along(const std::vector<Plane>& channels, const Axes& axes, bool back) {
  std::vector<Plane> out;
  for (std::size_t c = 0; c < 3; ++c) {
    Plane plane(channels[0].size());
    for (std::size_t i = 0; i < plane.texels(); ++i) {
      double sum = 0;
      for (std::size_t k = 0; k < 3; ++k) sum += (back ? axes[k][c] : axes[c][k]) * channels[k].data()[i];
      plane.data()[i] = static_cast<float>(sum);
    }
    out.push_back(std::move(plane));
  }
  return out;
}

// The corners of the triangle about a place, with their weights.
struct Corner {
  int x, y;
  float weight;
};
std::array<Corner, 3> corners_at(float x, float y) {
  const int ix = static_cast<int>(x), iy = static_cast<int>(y);
  const float fx = x - static_cast<float>(ix), fy = y - static_cast<float>(iy);
  if (fx + fy < 1) return {{{ix, iy, 1 - fx - fy}, {ix + 1, iy, fx}, {ix, iy + 1, fy}}};
  return {{{ix + 1, iy + 1, fx + fy - 1}, {ix + 1, iy, 1 - fy}, {ix, iy + 1, 1 - fx}}};
}

}  // namespace

std::vector<Plane> made_continuous(const std::vector<Plane>& channels, int cells, std::uint32_t seed,
                                   const Stop& stop) {
  const bool colour = channels.size() == 3;
  const Axes axes = colour ? axes_of(channels) : Axes{};
  std::vector<Plane> source;
  if (colour)
    source = along(channels, axes, false);
  else
    for (const Plane& c : channels) source.push_back(c.clone());
  const int size = channels[0].size();
  // Where each corner's patch begins, in steps of a 64th of the picture: whole texels at every size.
  std::vector<std::array<int, 2>> start(static_cast<std::size_t>(cells * cells));
  const int margin = (64 + cells - 1) / cells, room = 64 - 2 * margin;
  for (std::size_t i = 0; i < start.size(); ++i)
    for (std::size_t k = 0; k < 2; ++k)
      start[i][k] = (margin + static_cast<int>(unit_random(seed + static_cast<std::uint32_t>(k),
                                                           pcg(static_cast<std::uint32_t>(i))) *
                                               static_cast<float>(room + 1))) *
                    size / 64;
  std::vector<Plane> out;
  for (Plane& s : source) {
    if (stop.asked()) break;
    const Gaussian gaussian(s);
    for (std::size_t i = 0; i < s.texels(); ++i) s.data()[i] = gaussian.to(s.data()[i]) - kMean;
    Plane plane(size);
    for_rows(size, 16, stop, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < size; ++x) {
          const float scale = static_cast<float>(cells) / static_cast<float>(size);
          float sum = 0, squares = 0;
          for (const Corner& c :
               corners_at((static_cast<float>(x) + 0.5f) * scale, (static_cast<float>(y) + 0.5f) * scale)) {
            const auto& from = start[static_cast<std::size_t>((c.y % cells) * cells + c.x % cells)];
            const int px = from[0] + x - c.x * size / cells, py = from[1] + y - c.y * size / cells;
            sum += c.weight * s.at(std::clamp(px, 0, size - 1), std::clamp(py, 0, size - 1));
            squares += c.weight * c.weight;
          }
          plane.at(x, y) = gaussian.from(kMean + sum / std::sqrt(squares));
        }
    });
    out.push_back(std::move(plane));
  }
  while (out.size() < channels.size()) out.push_back(Plane::filled(size, 0));  // broken off
  return colour ? along(out, axes, true) : std::move(out);
}

Plane resampled(const float* values, std::size_t step, int width, int height, int size) {
  // Weights of one axis: for every texel the first source sample and the weights from it on.
  struct Taps {
    int first;
    std::vector<float> weight;
  };
  const auto taps_of = [size](int from) {
    std::vector<Taps> taps;
    const double scale = static_cast<double>(from) / size, reach = std::max(1.0, scale);
    for (int i = 0; i < size; ++i) {
      const double middle = (i + 0.5) * scale - 0.5;
      Taps t{static_cast<int>(std::floor(middle - reach)) + 1, {}};
      double sum = 0;
      for (int k = t.first; k < middle + reach; ++k) {
        t.weight.push_back(static_cast<float>(1 - std::abs(k - middle) / reach));
        sum += t.weight.back();
      }
      for (float& w : t.weight) w = static_cast<float>(w / sum);
      taps.push_back(std::move(t));
    }
    return taps;
  };
  const auto across = taps_of(width), down = taps_of(height);
  std::vector<float> rows(static_cast<std::size_t>(height) * static_cast<std::size_t>(size));
  for_rows(height, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        const Taps& t = across[static_cast<std::size_t>(x)];
        float sum = 0;
        for (std::size_t k = 0; k < t.weight.size(); ++k)
          sum +=
              t.weight[k] * values[(static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                                    static_cast<std::size_t>(std::clamp(t.first + static_cast<int>(k), 0, width - 1))) *
                                   step];
        rows[static_cast<std::size_t>(y) * static_cast<std::size_t>(size) + static_cast<std::size_t>(x)] = sum;
      }
  });
  Plane out(size);
  for_rows(size, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const Taps& t = down[static_cast<std::size_t>(y)];
      float* to = out.row(y);
      std::fill_n(to, size, 0.0f);
      for (std::size_t k = 0; k < t.weight.size(); ++k) {
        const float* from =
            rows.data() + static_cast<std::size_t>(std::clamp(t.first + static_cast<int>(k), 0, height - 1)) *
                              static_cast<std::size_t>(size);
        for (int x = 0; x < size; ++x) to[x] += t.weight[k] * from[x];
      }
    }
  });
  return out;
}

}  // namespace loom
