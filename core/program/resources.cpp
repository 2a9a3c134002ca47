// The grid of candidates over laid units.
#include "core/program/resources.h"

#include <algorithm>
#include <cmath>

namespace loom {

std::size_t LaidUnits::bytes() const {
  return (9 * count() + 2 * outline_x.size() + first.size() + 3 * unit.size()) * 4;
}

std::size_t Stamps::bytes() const { return units.bytes() + 8 * tone.size(); }
namespace {

struct Box {
  int u0, u1, v0, v1;
};

Box cells_of(const LaidUnits& units, std::size_t i, float reach) {
  const float c = std::abs(units.cosine[i]), s = std::abs(units.sine[i]);
  const float wide = c * units.half_u[i] + s * units.half_v[i] + reach;
  const float tall = s * units.half_u[i] + c * units.half_v[i] + reach;
  const auto cell = [&](float x) { return static_cast<int>(std::floor(x * static_cast<float>(units.grid))); };
  return {cell(units.centre_u[i] - wide), cell(units.centre_u[i] + wide), cell(units.centre_v[i] - tall),
          cell(units.centre_v[i] + tall)};
}

}  // namespace

void index_units(LaidUnits& units, float reach) {
  const auto n = static_cast<double>(std::max<std::size_t>(units.count(), 1));
  // About four cells along a unit's side: few candidates a cell, and the table stays small.
  units.grid = std::clamp(static_cast<int>(std::ceil(4.0 * std::sqrt(n))), 4, 512);
  const int g = units.grid;
  const auto slot = [&](int u, int v) {
    return static_cast<std::size_t>(((v % g) + g) % g) * static_cast<std::size_t>(g) +
           static_cast<std::size_t>(((u % g) + g) % g);
  };
  const auto each = [&](const auto& visit) {
    for (std::size_t i = 0; i < units.count(); ++i) {
      const Box b = cells_of(units, i, reach);
      for (int v = b.v0; v <= b.v1; ++v)
        for (int u = b.u0; u <= b.u1; ++u)
          visit(i, slot(u, v), -std::floor(static_cast<float>(u) / static_cast<float>(g)),
                -std::floor(static_cast<float>(v) / static_cast<float>(g)));
    }
  };
  units.first.assign(static_cast<std::size_t>(g) * static_cast<std::size_t>(g) + 1, 0);
  each([&](std::size_t, std::size_t cell, float, float) { ++units.first[cell + 1]; });
  for (std::size_t c = 1; c < units.first.size(); ++c) units.first[c] += units.first[c - 1];
  const auto total = static_cast<std::size_t>(units.first.back());
  units.unit.resize(total);
  units.at_u.resize(total);
  units.at_v.resize(total);
  std::vector<std::int32_t> next(units.first.begin(), units.first.end() - 1);
  each([&](std::size_t i, std::size_t cell, float shift_u, float shift_v) {
    const auto k = static_cast<std::size_t>(next[cell]++);
    units.unit[k] = static_cast<std::int32_t>(i);
    units.at_u[k] = units.centre_u[i] + shift_u;
    units.at_v[k] = units.centre_v[i] + shift_v;
  });
}

}  // namespace loom
