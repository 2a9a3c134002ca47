// Hashes: the only source of chance, and the keys of the cache.
#pragma once
#include <bit>
#include <cstdint>
#include <string_view>

namespace loom {

/// 32-bit permuted congruential hash. Source: Jarzynski and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020.
constexpr std::uint32_t pcg(std::uint32_t v) {
  const std::uint32_t state = v * 747796405u + 2891336453u;
  const std::uint32_t word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
  return (word >> 22u) ^ word;
}

/// 64-bit finaliser. Source: Steele, Lea and Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014.
constexpr std::uint64_t mix64(std::uint64_t z) {
  z += 0x9e3779b97f4a7c15ull;
  z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ull;
  z = (z ^ (z >> 27)) * 0x94d049bb133111ebull;
  return z ^ (z >> 31);
}

constexpr std::uint64_t combine(std::uint64_t a, std::uint64_t b) {
  return mix64(a ^ (mix64(b) + (a << 6) + (a >> 2)));
}

constexpr std::uint64_t hash_text(std::string_view text) {
  std::uint64_t h = 0xcbf29ce484222325ull;
  for (const char c : text) h = (h ^ static_cast<unsigned char>(c)) * 0x100000001b3ull;
  return mix64(h ^ text.size());
}

inline std::uint64_t hash_number(double v) { return mix64(std::bit_cast<std::uint64_t>(v == 0 ? 0.0 : v)); }

/// Folds a 64-bit key to the 32 bits that kernels use.
constexpr std::uint32_t fold32(std::uint64_t key) { return static_cast<std::uint32_t>(key ^ (key >> 32)); }

/// A number in [0, 1) from a stream (seed and draw) and a unit's key.
constexpr float unit_random(std::uint32_t stream, std::uint32_t key) {
  return static_cast<float>(pcg(key ^ stream) >> 8) * (1.0f / 16777216.0f);
}

}  // namespace loom
