// sRGB encoding and rounding to whole codes.
#pragma once
#include <cmath>
#include <cstdint>

namespace loom {

/// Source: IEC 61966-2-1:1999. Values outside 0..1 are kept by the linear part and the power's odd extension.
inline float srgb_from_linear(float x) {
  if (x <= 0.0031308f) return 12.92f * x;
  return 1.055f * std::pow(x, 1.0f / 2.4f) - 0.055f;
}
inline float linear_from_srgb(float x) {
  if (x <= 0.04045f) return x / 12.92f;
  return std::pow((x + 0.055f) / 1.055f, 2.4f);
}
/// 0..1 to 0..most, clamped, halves rounded up. NaN gives 0.
inline std::uint32_t code_of(float x, std::uint32_t most) {
  if (!(x > 0)) return 0;
  if (x >= 1) return most;
  return static_cast<std::uint32_t>(std::floor(static_cast<double>(x) * most + 0.5));
}

}  // namespace loom
