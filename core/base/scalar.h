// Numbers that are asked for so often that the library's way to them would show.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>

namespace loom {

/// The largest whole number that is at most x; |x| below 2^31.
inline int whole_below(float x) {
  const int i = static_cast<int>(x);
  return i - (x < static_cast<float>(i));
}
inline float fraction(float x) { return x - static_cast<float>(whole_below(x)); }

/// The arctangent of 0 to 1, over its argument: a polynomial in the argument's square, highest power first, within
/// 2e-6.
inline constexpr std::array<float, 6> kArctangent{-0.01172120f, 0.05265332f,  -0.11643287f,
                                                  0.19354346f,  -0.33262347f, 0.99997726f};

/// The angle of (x, y), -pi to pi, within 3e-6; 0 for (0, 0).
inline float angle_of(float y, float x) {
  constexpr float kHalfTurn = 3.14159265358979f;
  const float ax = std::abs(x), ay = std::abs(y), low = std::min(ax, ay), high = std::max(ax, ay);
  const float z = low / std::max(high, 1e-30f), s = z * z;
  float p = 0;
  for (const float c : kArctangent) p = p * s + c;
  p *= z;
  if (ay > ax) p = kHalfTurn / 2 - p;
  if (x < 0) p = kHalfTurn - p;
  return y < 0 ? -p : p;
}

/// The least multiple of `of` that is at least `n` and at least one of them.
inline int up_to_multiple(int n, int of) { return std::max(of, (n + of - 1) / of * of); }

}  // namespace loom
