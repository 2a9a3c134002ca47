// Slots that most materials do not have: four floats a texel.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/surface/maps.h"

namespace loom {
namespace {

constexpr const char* kNames[] = {"specular_weight", "specular_ior", "coat_weight", "coat_roughness"};

}  // namespace

std::unique_ptr<const FurtherMaps> FurtherMaps::of(const std::map<std::string, Field>& slots) {
  constexpr Point kStart;
  constexpr float kDefaults[] = {kStart.specular_weight, kStart.specular_ior, kStart.coat_weight,
                                 kStart.coat_roughness};
  std::array<const Plane*, kChannels> planes{};
  int size = 0;
  for (std::size_t c = 0; c < kChannels; ++c)
    if (const auto it = slots.find(kNames[c]); it != slots.end() && it->second.strand[0])
      planes[c] = it->second.strand[0].get(), size = std::max(size, planes[c]->size());
  if (size == 0) return nullptr;
  auto maps = std::make_unique<FurtherMaps>();
  const auto texels = [](int side) {
    return kChannels * static_cast<std::size_t>(side) * static_cast<std::size_t>(side);
  };
  maps->levels_.push_back({size, pooled<float>(texels(size))});
  float* finest = maps->levels_[0].data.get();
  for_rows(size, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (std::size_t c = 0; c < kChannels; ++c) {
        float* to = finest + kChannels * static_cast<std::size_t>(y) * static_cast<std::size_t>(size) + c;
        for (int x = 0; x < size; ++x, to += kChannels) *to = planes[c] ? planes[c]->at(x, y) : kDefaults[c];
      }
  });
  while (maps->levels_.back().size > 1) {
    const Level& fine = maps->levels_.back();
    const std::size_t half = static_cast<std::size_t>(fine.size) / 2,
                      row = kChannels * static_cast<std::size_t>(fine.size);
    Level coarse{fine.size / 2, pooled<float>(texels(fine.size / 2))};
    for (std::size_t y = 0; y < half; ++y)
      for (std::size_t i = 0; i < half * kChannels; ++i) {
        const float* a = fine.data.get() + 2 * y * row + i / kChannels * 2 * kChannels + i % kChannels;
        coarse.data[y * half * kChannels + i] = 0.25f * (a[0] + a[kChannels] + a[row] + a[row + kChannels]);
      }
    maps->levels_.push_back(std::move(coarse));
  }
  return maps;
}

std::array<float, FurtherMaps::kChannels> FurtherMaps::bilinear(const Level& level, float u, float v) const {
  const float x = fraction(u) * static_cast<float>(level.size) - 0.5f,
              y = fraction(v) * static_cast<float>(level.size) - 0.5f;
  const int x0 = whole_below(x), y0 = whole_below(y);
  const float tx = x - static_cast<float>(x0), ty = y - static_cast<float>(y0);
  const auto texel = [&](int i, int j) {
    return level.data.get() +
           kChannels * (static_cast<std::size_t>(wrap(j, level.size)) * static_cast<std::size_t>(level.size) +
                        static_cast<std::size_t>(wrap(i, level.size)));
  };
  const float *a = texel(x0, y0), *b = texel(x0 + 1, y0), *c = texel(x0, y0 + 1), *d = texel(x0 + 1, y0 + 1);
  std::array<float, kChannels> out;
  for (std::size_t k = 0; k < kChannels; ++k)
    out[k] = (a[k] + (b[k] - a[k]) * tx) * (1 - ty) + (c[k] + (d[k] - c[k]) * tx) * ty;
  return out;
}

FurtherMaps::Point FurtherMaps::at(float u, float v, float footprint) const {
  const float wanted = std::clamp(std::log2(std::max(footprint * static_cast<float>(levels_[0].size), 1.0f)), 0.0f,
                                  static_cast<float>(levels_.size() - 1));
  const auto low = static_cast<std::size_t>(wanted), high = std::min(low + 1, levels_.size() - 1);
  const float t = wanted - static_cast<float>(low);
  auto value = bilinear(levels_[low], u, v);
  const auto coarser = bilinear(levels_[high], u, v);
  for (std::size_t k = 0; k < kChannels; ++k) value[k] += (coarser[k] - value[k]) * t;
  return {std::clamp(value[0], 0.0f, 1.0f), std::clamp(value[1], 1.0f, 3.0f), std::clamp(value[2], 0.0f, 1.0f),
          std::clamp(value[3], 0.0f, 1.0f)};
}

}  // namespace loom
