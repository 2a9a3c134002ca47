// Region shapes: what takes a walk over each region's own texels.
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>

#include "core/base/parallel.h"
#include "core/nodes/node_call.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

struct Sums {
  double area = 0, cos_u = 0, sin_u = 0, cos_v = 0, sin_v = 0;  // the torus's mean place goes by angles
  double uu = 0, uv = 0, vv = 0;                                // second moments about it
  double crossings = 0;                                         // of lines in four directions, each times their spacing
  double map = 0;
};
using Walk = std::vector<Sums>;

// Bands of rows that do not depend on the number of threads, summed in order.
template <class F>
Walk walked(int size, std::size_t count, const Stop& stop, const F& row) {
  constexpr int kBands = 8;
  std::vector<Walk> bands(kBands, Walk(count));
  for_rows(kBands, 1, stop, [&](int first, int last) {
    for (int band = first; band < last; ++band)
      for (int y = band * size / kBands; y < (band + 1) * size / kBands && !stop.asked(); ++y)
        row(y, bands[static_cast<std::size_t>(band)]);
  });
  Walk all(count);
  for (const Walk& band : bands)
    for (std::size_t i = 0; i < count; ++i) {
      Sums& a = all[i];
      const Sums& b = band[i];
      a.area += b.area, a.cos_u += b.cos_u, a.sin_u += b.sin_u, a.cos_v += b.cos_v, a.sin_v += b.sin_v;
      a.uu += b.uu, a.uv += b.uv, a.vv += b.vv, a.crossings += b.crossings, a.map += b.map;
    }
  return all;
}

struct Shape {
  float perimeter = 0, length = 0, direction = 0, neighbours = 0, mean = 0;
};

// Perimeter by Crofton's formula over four directions of lines: pi / 8 of their crossings times their spacing.
// Source: Santalo, "Integral geometry and geometric probability", 1976, chapter 3.
Walk first_walk(const Plane& index, const Plane& map, std::size_t count, const Stop& stop) {
  const int size = index.size();
  std::vector<std::array<double, 2>> turn(static_cast<std::size_t>(size));
  for (int i = 0; i < size; ++i)
    turn[static_cast<std::size_t>(i)] = {std::cos((2 * std::numbers::pi) * (i + 0.5) / size),
                                         std::sin((2 * std::numbers::pi) * (i + 0.5) / size)};
  return walked(size, count, stop, [&](int y, Walk& sums) {
    const float *here = index.row(y), *below = index.row(wrap(y + 1, size)), *values = map.row(y);
    const auto cross = [&](float a, float b, double spacing) {
      if (a == b) return;
      for (const float k : {a, b})
        if (k >= 0) sums[static_cast<std::size_t>(k)].crossings += spacing;
    };
    for (int x = 0; x < size; ++x) {
      const int right = wrap(x + 1, size);
      cross(here[x], here[right], 1);
      cross(here[x], below[x], 1);
      cross(here[x], below[right], std::sqrt(0.5));
      cross(here[right], below[x], std::sqrt(0.5));
      if (here[x] < 0) continue;
      Sums& s = sums[static_cast<std::size_t>(here[x])];
      s.area += 1;
      s.cos_u += turn[static_cast<std::size_t>(x)][0], s.sin_u += turn[static_cast<std::size_t>(x)][1];
      s.cos_v += turn[static_cast<std::size_t>(y)][0], s.sin_v += turn[static_cast<std::size_t>(y)][1];
      s.map += static_cast<double>(values[x]);
    }
  });
}

Walk second_walk(const Plane& index, const Walk& first, const Stop& stop) {
  const int size = index.size();
  std::vector<std::array<double, 2>> centre;
  for (const Sums& s : first)
    centre.push_back(
        {std::atan2(s.sin_u, s.cos_u) / (2 * std::numbers::pi), std::atan2(s.sin_v, s.cos_v) / (2 * std::numbers::pi)});
  return walked(size, first.size(), stop, [&](int y, Walk& sums) {
    for (int x = 0; x < size; ++x) {
      const float k = index.at(x, y);
      if (k < 0) continue;
      const auto& c = centre[static_cast<std::size_t>(k)];
      double du = (x + 0.5) / size - c[0], dv = (y + 0.5) / size - c[1];
      du -= std::round(du), dv -= std::round(dv);
      Sums& s = sums[static_cast<std::size_t>(k)];
      s.uu += du * du, s.uv += du * dv, s.vv += dv * dv;
    }
  });
}

// A border shorter than this share of the side of a square as large as the smaller ground is a corner: where four
// units meet, two of them share one by a texel or two, and which two is chance.
constexpr double kLeastBorder = 0.2;

// How many neighbours each region has. Two are neighbours where the ground between them is divided along a border, not
// in a corner: joints do not part them, however wide. Units of a stack bond have four.
std::vector<int> neighbours_of(const Plane& index, std::size_t count, const Stop& stop) {
  const int size = index.size();
  const auto n = static_cast<std::size_t>(size);
  const DistanceField nearest = distance_to(index, -0.5f, stop);
  std::vector<int> out(count);
  if (stop.asked() || !nearest.nearest) return out;
  const auto own = [&](int y, std::vector<int>& row) {
    for (std::size_t x = 0; x < n; ++x) {
      const std::int32_t i = nearest.nearest[static_cast<std::size_t>(wrap(y, size)) * n + x];
      row[x] = i < 0 ? -1 : static_cast<int>(index.data()[i]);
    }
  };
  constexpr int kBands = 16;
  struct Band {
    std::map<std::pair<int, int>, int> border;  // in sides of texels
    std::vector<int> ground;
  };
  std::array<Band, kBands> bands;
  for_rows(kBands, 1, stop, [&](int first, int last) {
    std::vector<int> here(n), below(n);
    for (int band = first; band < last; ++band) {
      Band& mine = bands[static_cast<std::size_t>(band)];
      mine.ground.assign(count, 0);
      std::pair<int, int> latest{-1, -1};
      int* length = nullptr;
      const auto meet = [&](int a, int b) {
        if (a == b || a < 0 || b < 0) return;
        const std::pair<int, int> met = std::minmax(a, b);
        if (met != latest) length = &mine.border[latest = met];
        ++*length;
      };
      own(band * size / kBands, below);
      for (int y = band * size / kBands; y < (band + 1) * size / kBands && !stop.asked(); ++y) {
        std::swap(here, below);
        own(y + 1, below);
        for (std::size_t x = 0; x < n; ++x) {
          meet(here[x], here[x + 1 < n ? x + 1 : 0]);
          meet(here[x], below[x]);
          if (here[x] >= 0) ++mine.ground[static_cast<std::size_t>(here[x])];
        }
      }
    }
  });
  std::map<std::pair<int, int>, int> border;
  std::vector<double> ground(count, 0);
  for (const Band& band : bands) {
    for (const auto& [pair, length] : band.border) border[pair] += length;
    for (std::size_t i = 0; i < band.ground.size(); ++i) ground[i] += band.ground[i];
  }
  for (const auto& [pair, length] : border) {
    const auto a = static_cast<std::size_t>(pair.first), b = static_cast<std::size_t>(pair.second);
    if (length < kLeastBorder * std::sqrt(std::min(ground[a], ground[b]))) continue;
    ++out[a], ++out[b];
  }
  return out;
}

Result<Done> evaluate_region_shapes(AreaCall& call) {
  static const auto kNone = std::make_shared<RegionTable>();
  const Field* regions = call.in("regions");
  const PlanePtr map = call.plane("map");
  const int size = call.size();
  const Plane none = Plane::filled(size, -1);
  const Plane& index = regions && regions->strand[0] ? *regions->strand[0] : none;
  const std::size_t count = regions && regions->regions ? regions->regions->count() : kNone->count();
  const Walk first = first_walk(index, *map, count, call.stop), second = second_walk(index, first, call.stop);
  const auto near = call.wanted("neighbours") ? neighbours_of(index, count, call.stop) : std::vector<int>(count);
  std::vector<Shape> shapes(count);
  for (std::size_t i = 0; i < count; ++i) {
    if (first[i].area == 0) continue;
    const double n = first[i].area, uu = second[i].uu / n, uv = second[i].uv / n, vv = second[i].vv / n;
    const double most = 0.5 * (uu + vv) + std::sqrt(0.25 * (uu - vv) * (uu - vv) + uv * uv);
    // A strip of length l has the variance l^2 / 12 along it. Directions of an axis repeat after half a turn; v runs
    // down.
    const double along = 0.5 * std::atan2(-2 * uv, uu - vv) / (0.5 * (2 * std::numbers::pi));
    shapes[i] = {static_cast<float>((2 * std::numbers::pi) / 16 * first[i].crossings / size),
                 static_cast<float>(std::sqrt(12 * most)), static_cast<float>(along - std::floor(along)),
                 static_cast<float>(near[i]), static_cast<float>(first[i].map / n)};
  }
  const auto spread = [&](const char* peg, float Shape::*value) {
    if (!call.wanted(peg)) return;
    Plane out(size);
    for_rows(size, 32, call.stop, [&](int from, int to) {
      for (int y = from; y < to; ++y)
        for (int x = 0; x < size; ++x)
          out.at(x, y) = index.at(x, y) < 0 ? 0 : shapes[static_cast<std::size_t>(index.at(x, y))].*value;
    });
    call.out(peg, std::move(out));
  };
  spread("perimeter", &Shape::perimeter);
  spread("longest_axis", &Shape::length);
  spread("direction", &Shape::direction);
  spread("neighbours", &Shape::neighbours);
  spread("mean", &Shape::mean);
  return call.done();
}

}  // namespace

void add_region_shapes(Catalogue& catalogue) {
  catalogue.add({.id = "region_shapes",
                 .label = "Region shapes",
                 .rack = Rack::measure,
                 .help = "Perimeter, longest axis, neighbours of each region, and a map's mean over it.",
                 .more = "Perimeter and longest axis are lengths in shares of the tile: Crofton's formula over four "
                         "directions; the side of a strip with the same second moment. The axis's direction is a share "
                         "of half a turn. Neighbours meet where the ground between regions is divided, so joints do "
                         "not part them. A region that reaches more than half round the tile has no true axis.",
                 .words = "area perimeter orientation elongation neighbour count average per region",
                 .inputs = {whole_peg("regions", "Regions", Kind::regions), whole_peg("map", "Map")},
                 .outputs = {{"perimeter", "Perimeter"},
                             {"longest_axis", "Longest axis"},
                             {"direction", "Direction"},
                             {"neighbours", "Neighbours"},
                             {"mean", "Mean of the map"}},
                 .parameters = {scalar("map", "Map", 0.0)
                                    .limits(-1e6, 1e6)
                                    .column("Input")
                                    .stands_in("connected(regions) * (1 - connected(map))",
                                               "It comes in at its peg, or there are no regions.")},
                 .evaluate = evaluate_region_shapes});
}

}  // namespace loom
