#include "core/io/quantise.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

#include "core/base/hash.h"
#include "core/io/clones.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

// The codes of sRGB at eight bits: for the upper bits of a float the code where they begin, and for each code the least
// float that gives it. The same as code_of(srgb_from_linear(x), 255), without its power.
class SrgbCodes {
 public:
  SrgbCodes() {
    for (std::uint32_t code = 1; code < 256; ++code) {
      std::uint32_t low = 0, high = std::bit_cast<std::uint32_t>(1.0f);
      while (low < high) {
        const std::uint32_t mid = (low + high) / 2;
        if (code_of(srgb_from_linear(std::bit_cast<float>(mid)), 255) >= code)
          high = mid;
        else
          low = mid + 1;
      }
      least_[code] = std::bit_cast<float>(low);
    }
    least_[256] = 2;
    for (std::size_t i = 0; i < begins_.size(); ++i)
      begins_[i] = static_cast<std::uint8_t>(
          code_of(srgb_from_linear(std::bit_cast<float>(static_cast<std::uint32_t>(i) << kShift)), 255));
  }
  std::uint8_t operator()(float x) const {
    if (!(x > 0)) return 0;
    if (x >= 1) return 255;
    std::uint32_t code = begins_[std::bit_cast<std::uint32_t>(x) >> kShift];
    return static_cast<std::uint8_t>(code + (x >= least_[code + 1]));  // a stretch holds one border at most
  }
  /// Between the codes: straight within each, off by less than 0.002 of a step.
  float between(float x) const {
    if (!(x > 0)) return 0;  // NaN as well
    const std::uint32_t code = (*this)(x);
    const float low = code == 0 ? 0 : least_[code], high = code == 255 ? 1 : least_[code + 1];
    const float from = code == 0 ? 0 : static_cast<float>(code) - 0.5f,
                to = code == 255 ? 255 : static_cast<float>(code) + 0.5f;
    return from + (to - from) * std::clamp((x - low) / (high - low), 0.0f, 1.0f);
  }

 private:
  static constexpr int kShift = 16;
  std::array<float, 257> least_{};
  std::array<std::uint8_t, (0x3f800000u >> kShift) + 1> begins_{};
};

// As code_of, without a branch: halves are rounded up, NaN gives 0.
LOOM_CLONES void rounded(const float* row, int count, float gain, float lift, double most, std::int32_t* codes) {
  for (int i = 0; i < count; ++i) {
    float v = lift + gain * row[i];
    v = v > 0 ? v : 0.0f;
    v = v < 1 ? v : 1.0f;
    codes[i] = static_cast<std::int32_t>(static_cast<double>(v) * most + 0.5);
  }
}

// Where a value lies this near to a code, it is meant to be that code.
constexpr float kSame = 1e-4f;

// Up or down by chance, as often up as it lies near to the upper one.
LOOM_CLONES void by_chance(const float* steps, int count, std::uint32_t stream, std::int32_t* codes) {
  for (int x = 0; x < count; ++x) {
    const float chance = unit_random(stream, static_cast<std::uint32_t>(x)) * (1 - 2 * kSame) + kSame;
    codes[x] = static_cast<std::int32_t>(steps[x] + chance);
  }
}

LOOM_CLONES void in_steps(const float* row, int count, float gain, float lift, float* steps) {
  for (int i = 0; i < count; ++i) {
    float v = lift + gain * row[i];
    v = v > 0 ? v : 0.0f;
    v = v < 1 ? v : 1.0f;
    steps[i] = v * 255;
  }
}

const SrgbCodes& srgb_codes() {
  static const SrgbCodes kCodes;
  return kCodes;
}

}  // namespace

void quantise_row(const Channel& channel, std::size_t index, int y, int bits, bool srgb, bool dither,
                  std::vector<std::int32_t>& codes) {
  const int size = channel.plane->size();
  const float *row = channel.plane->row(y), gain = channel.gain, lift = channel.lift;
  codes.resize(static_cast<std::size_t>(size));
  if (dither && bits == 8) {
    static thread_local std::vector<float> steps;
    steps.resize(codes.size());
    if (srgb)
      for (int x = 0; x < size; ++x) steps[static_cast<std::size_t>(x)] = srgb_codes().between(lift + gain * row[x]);
    else
      in_steps(row, size, gain, lift, steps.data());
    by_chance(steps.data(), size, pcg(static_cast<std::uint32_t>(y) ^ pcg(static_cast<std::uint32_t>(index))),
              codes.data());
  } else if (srgb) {
    for (int x = 0; x < size; ++x) {
      const float v = lift + gain * row[x];
      codes[static_cast<std::size_t>(x)] =
          static_cast<std::int32_t>(bits == 8 ? srgb_codes()(v) : code_of(srgb_from_linear(v), 65535));
    }
  } else {
    rounded(row, size, gain, lift, bits == 8 ? 255 : 65535, codes.data());
  }
}

}  // namespace loom
