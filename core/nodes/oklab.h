// Oklab on registers and on numbers. Source: Ottosson, "A perceptual color space for image processing", 2020; his
// matrices for linear Rec. 709.
#pragma once
#include <array>
#include <cmath>

#include "core/program/builder.h"

namespace loom {

using Three = std::array<Reg, 3>;

namespace oklab {

using Matrix = std::array<std::array<float, 3>, 3>;
constexpr Matrix kToCone{{{0.4122214708f, 0.5363325363f, 0.0514459929f},
                          {0.2119034982f, 0.6806995451f, 0.1073969566f},
                          {0.0883024619f, 0.2817188376f, 0.6299787005f}}};
constexpr Matrix kToLab{{{0.2104542553f, 0.7936177850f, -0.0040720468f},
                         {1.9779984951f, -2.4285922050f, 0.4505937099f},
                         {0.0259040371f, 0.7827717662f, -0.8086757660f}}};
constexpr Matrix kFromLab{
    {{1, 0.3963377774f, 0.2158037573f}, {1, -0.1055613458f, -0.0638541728f}, {1, -0.0894841775f, -1.2914855480f}}};
constexpr Matrix kFromCone{{{4.0767416621f, -3.3077115913f, 0.2309699292f},
                            {-1.2684380046f, 2.6097574011f, -0.3413193965f},
                            {-0.0041960863f, -0.7034186147f, 1.7076147010f}}};

inline Three times(Builder& b, const Matrix& m, const Three& x) {
  Three out;
  for (std::size_t i = 0; i < 3; ++i)
    out[i] = b.multiply_add(x[0], b.constant(m[i][0]), b.multiply_add(x[1], b.constant(m[i][1]), b.mul(x[2], m[i][2])));
  return out;
}
inline std::array<double, 3> times(const Matrix& m, const std::array<double, 3>& x) {
  std::array<double, 3> out{};
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t k = 0; k < 3; ++k) out[i] += static_cast<double>(m[i][k]) * x[k];
  return out;
}

}  // namespace oklab

inline Three oklab_from_linear(Builder& b, const Three& rgb) {
  Three cone = oklab::times(b, oklab::kToCone, rgb);
  for (Reg& c : cone) c = b.mul(b.apply(Op::sign, c), b.apply(Op::power, b.abs(c), b.constant(1.0f / 3)));
  return oklab::times(b, oklab::kToLab, cone);
}

inline Three linear_from_oklab(Builder& b, const Three& lab) {
  Three cone = oklab::times(b, oklab::kFromLab, lab);
  for (Reg& x : cone) x = b.mul(b.mul(x, x), x);
  return oklab::times(b, oklab::kFromCone, cone);
}

inline std::array<double, 3> oklab_from_linear(const std::array<double, 3>& rgb) {
  auto cone = oklab::times(oklab::kToCone, rgb);
  for (double& c : cone) c = std::cbrt(c);
  return oklab::times(oklab::kToLab, cone);
}

inline std::array<double, 3> linear_from_oklab(const std::array<double, 3>& lab) {
  auto cone = oklab::times(oklab::kFromLab, lab);
  for (double& x : cone) x = x * x * x;
  return oklab::times(oklab::kFromCone, cone);
}

}  // namespace loom
