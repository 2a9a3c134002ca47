// Numbers for path samples that fill their range evenly in every pixel.
#pragma once
#include <array>
#include <cstdint>

#include "core/base/hash.h"

namespace loom {

/// Pairs of the Sobol sequence, each pair with an order and a shift of its own. Sources: Sobol, USSR Comp. Math. 7,
/// 1967 (its first two dimensions); the order after Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020;
/// the shift of a pixel by exclusive or after Kollig and Keller, "Efficient Multidimensional Sampling", CGF 21(3),
/// 2002.
class Sampler {
 public:
  static constexpr std::size_t kPairs = 8;

  /// The `index`-th sample of all pixels.
  explicit Sampler(std::uint32_t index) {
    for (std::uint32_t k = 0; k < kPairs; ++k) {
      const std::uint32_t i = reversed(scrambled(reversed(index), pcg(k + 0x51ed27u)));
      pairs_[k] = {reversed(i), second(i)};
    }
  }
  struct Pair {
    float a, b;
  };  ///< in [0, 1)
  Pair pair(std::size_t k, std::uint32_t pixel) const {
    const std::uint32_t shift = pcg(pixel + 0x9e3779b9u * (static_cast<std::uint32_t>(k) + 1));
    return {unit(pairs_[k].a ^ shift), unit(pairs_[k].b ^ pcg(shift))};
  }

 private:
  struct Bits {
    std::uint32_t a, b;
  };
  static float unit(std::uint32_t bits) { return static_cast<float>(bits >> 8) * (1.0f / 16777216.0f); }
  static std::uint32_t reversed(std::uint32_t x) {
    x = (x >> 16) | (x << 16);
    x = ((x & 0xff00ff00u) >> 8) | ((x & 0x00ff00ffu) << 8);
    x = ((x & 0xf0f0f0f0u) >> 4) | ((x & 0x0f0f0f0fu) << 4);
    x = ((x & 0xccccccccu) >> 2) | ((x & 0x33333333u) << 2);
    return ((x & 0xaaaaaaaau) >> 1) | ((x & 0x55555555u) << 1);
  }
  // Each bit is turned by those below it. Source: Laine and Karras, "Stratified Sampling for Stochastic Transparency",
  // EGSR 2011.
  static std::uint32_t scrambled(std::uint32_t x, std::uint32_t seed) {
    x += seed;
    x ^= x * 0x6c50b47cu;
    x ^= x * 0xb82f1e52u;
    x ^= x * 0xc7afe638u;
    return x ^ x * 0x8d22f6e6u;
  }
  static std::uint32_t second(std::uint32_t index) {
    std::uint32_t x = 0;
    for (std::uint32_t v = 1u << 31; index; index >>= 1, v ^= v >> 1)
      if (index & 1) x ^= v;
    return x;
  }
  std::array<Bits, kPairs> pairs_;
};

}  // namespace loom
