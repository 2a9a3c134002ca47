// Pieces grow over neighbours that face the same way, and are laid in shelves from the highest down.
#include "core/surface/charts.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <unordered_map>

#include "core/base/parallel.h"
#include "core/surface/neighbours.h"

namespace loom {
namespace {

using Corner = std::array<float, 2>;

// Texels whose middles lie in a triangle, in texels: `take(x, y, b, c)`.
template <class Take>
void for_texels(const Charts::Corners& p, int width, int height, const Take& take) {
  const float area = (p[1][0] - p[0][0]) * (p[2][1] - p[0][1]) - (p[2][0] - p[0][0]) * (p[1][1] - p[0][1]);
  if (!(std::abs(area) > 1e-12f)) return;
  const auto [left, right] = std::minmax({p[0][0], p[1][0], p[2][0]});
  const auto [top, bottom] = std::minmax({p[0][1], p[1][1], p[2][1]});
  const auto first = [](float at) { return std::max(static_cast<int>(std::ceil(at - 0.5f)), 0); };
  const auto last = [](float at, int most) { return std::min(static_cast<int>(std::floor(at - 0.5f)), most - 1); };
  for (int y = first(top); y <= last(bottom, height); ++y)
    for (int x = first(left); x <= last(right, width); ++x) {
      const float px = static_cast<float>(x) + 0.5f - p[0][0], py = static_cast<float>(y) + 0.5f - p[0][1];
      const float b = (px * (p[2][1] - p[0][1]) - (p[2][0] - p[0][0]) * py) / area,
                  c = ((p[1][0] - p[0][0]) * py - px * (p[1][1] - p[0][1])) / area;
      if (b >= 0 && c >= 0 && b + c <= 1) take(x, y, b, c);
    }
}

Charts::Corners scaled(const Charts::Corners& p, float scale) {
  Charts::Corners out;
  for (std::size_t i = 0; i < 3; ++i) out[i] = {p[i][0] * scale, p[i][1] * scale};
  return out;
}

// Whether nothing of it lies outside of the map, or over something else.
bool usable(const std::vector<Charts::Corners>& all) {
  constexpr int kSize = 512;
  constexpr float kBeyond = 1e-4f;
  std::vector<char> taken(kSize * kSize);
  std::size_t covered = 0, twice = 0;
  for (const auto& corners : all) {
    for (const auto& [u, v] : corners)
      if (u < -kBeyond || v < -kBeyond || u > 1 + kBeyond || v > 1 + kBeyond) return false;
    for_texels(scaled(corners, kSize), kSize, kSize, [&](int x, int y, float b, float c) {
      ++covered;
      // On a side that two triangles share, both have the texel.
      constexpr float kSide = 1e-4f;
      char& t = taken[static_cast<std::size_t>(y * kSize + x)];
      if (b > kSide && c > kSide && b + c < 1 - kSide) twice += t != 0;
      t = 1;
    });
  }
  return covered > 0 && twice * 100 <= covered;
}

// One of six, by what the normal shows most.
std::uint8_t side_of(Vec3 n) {
  const float x = std::abs(n.x), y = std::abs(n.y), z = std::abs(n.z);
  if (x >= y && x >= z) return n.x > 0 ? 0 : 1;
  if (y >= z) return n.y > 0 ? 2 : 3;
  return n.z > 0 ? 4 : 5;
}

// As seen from that side: to the right and down.
Corner seen_from(std::uint8_t side, Vec3 p) {
  switch (side) {
    case 0:
      return {-p.z, -p.y};
    case 1:
      return {p.z, -p.y};
    case 2:
      return {p.x, p.z};
    case 3:
      return {p.x, -p.z};
    case 4:
      return {p.x, -p.y};
    default:
      return {-p.x, -p.y};
  }
}

struct Piece {
  std::vector<std::uint32_t> triangles;
  float left = INFINITY, top = INFINITY, right = -INFINITY, bottom = -INFINITY;  // texels
  bool turned = false;
  float x = 0, y = 0;  // of its corner in the map
  float wide() const { return turned ? bottom - top : right - left; }
  float tall() const { return turned ? right - left : bottom - top; }
  void reach(const Charts::Corners& corners) {
    for (const auto& [u, v] : corners)
      left = std::min(left, u), right = std::max(right, u), top = std::min(top, v), bottom = std::max(bottom, v);
  }
};

class Layout {
 public:
  Layout(const Mesh& mesh, int size, int margin) : mesh_(mesh), neighbours_(mesh), size_(size), margin_(margin) {
    for (const auto& [i, j, k] : mesh.triangle) {
      const Vec3 a = mesh.position[i], n = cross(mesh.position[j] - a, mesh.position[k] - a);
      side_.push_back(side_of(n));
      double seen = 0;
      for (const float x : {n.x, n.y, n.z}) seen = std::max(seen, 0.5 * std::abs(static_cast<double>(x)));
      area_ += seen;
      for (const Vec3& side : {mesh.position[j] - a, mesh.position[k] - a, mesh.position[k] - mesh.position[j]})
        longest_ = std::max(longest_, length(side));
    }
  }

  std::optional<Charts> fit(const Stop& stop) {
    // No triangle may be larger than the map, however thin all of them are.
    auto scale = std::min(static_cast<float>(size_ * std::sqrt(0.7 / std::max(area_, 1e-12))),
                          static_cast<float>(size_) / std::max(longest_, 1e-12f));
    for (int trial = 0; trial < 40 && !stop.asked(); ++trial, scale *= 0.92f) {
      scale_ = scale;
      grow();
      if (pack()) return charts();
    }
    return {};
  }

 private:
  Charts::Corners flat(std::uint32_t t) const {
    Charts::Corners out;
    for (std::size_t i = 0; i < 3; ++i) {
      const auto [u, v] = seen_from(side_[t], mesh_.position[mesh_.triangle[t][i]]);
      out[i] = {u * scale_, v * scale_};
    }
    return out;
  }

  // Over neighbours of the same side, as long as nothing comes to lie over what the piece has already.
  void grow() {
    pieces_.clear();
    std::vector<char> placed(mesh_.triangle.size());
    for (std::uint32_t seed = 0; seed < placed.size(); ++seed) {
      if (placed[seed]) continue;
      Piece piece;
      std::unordered_map<std::uint64_t, std::uint32_t> taken;
      std::deque<std::uint32_t> next{seed};
      while (!next.empty()) {
        const std::uint32_t t = next.front();
        next.pop_front();
        if (placed[t] || !claim(t, taken)) continue;
        placed[t] = 1;
        piece.triangles.push_back(t);
        piece.reach(flat(t));
        for (const std::uint32_t other : neighbours_.of(t))
          if (other != Neighbours::kNone && !placed[other] && side_[other] == side_[t]) next.push_back(other);
      }
      pieces_.push_back(std::move(piece));
    }
  }

  bool claim(std::uint32_t t, std::unordered_map<std::uint64_t, std::uint32_t>& taken) const {
    constexpr float kOrigin = 1 << 20;  // so that no texel is below 0
    Charts::Corners p = flat(t);
    for (auto& [u, v] : p) u += kOrigin, v += kOrigin;
    std::vector<std::uint64_t> mine;
    bool free = true;
    for_texels(p, 1 << 21, 1 << 21, [&](int x, int y, float b, float c) {
      const auto key = static_cast<std::uint64_t>(x) << 32 | static_cast<std::uint32_t>(y);
      mine.push_back(key);
      const auto it = taken.find(key);
      if (it != taken.end() && b > 1e-3f && c > 1e-3f && b + c < 0.999f) free = false;
    });
    if (!free && !taken.empty()) return false;
    for (const auto key : mine) taken.emplace(key, t);
    return true;
  }

  // Source: the first level that fits, by falling height; Coffman et al., "Performance Bounds for Level-Oriented
  // Two-Dimensional Packing Algorithms", SIAM J. Comput. 9(4), 1980.
  bool pack() {
    for (Piece& p : pieces_) p.turned = p.bottom - p.top > p.right - p.left;
    std::vector<std::size_t> order(pieces_.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return pieces_[a].tall() > pieces_[b].tall(); });
    const auto size = static_cast<float>(size_), gap = static_cast<float>(margin_);
    struct Level {
      float y, tall, x;
    };
    std::vector<Level> levels;
    float bottom = 0.5f * gap;
    std::size_t from = 0;  // levels before it are full
    for (const std::size_t i : order) {
      Piece& p = pieces_[i];
      const float wide = std::ceil(p.wide()) + gap, tall = std::ceil(p.tall()) + gap;
      auto level = std::find_if(levels.begin() + static_cast<std::ptrdiff_t>(from), levels.end(),
                                [&](const Level& l) { return l.x + wide <= size && tall <= l.tall; });
      if (level == levels.end()) {
        if (bottom + tall > size || wide > size) return false;
        level = levels.insert(levels.end(), {bottom, tall, 0.5f * gap});
        bottom += tall;
        if (levels.size() > 64) from = levels.size() - 64;
      }
      p.x = level->x, p.y = level->y;
      level->x += wide;
    }
    return true;
  }

  Charts charts() const {
    Charts out;
    out.of.resize(mesh_.triangle.size());
    const float per_map = 1 / static_cast<float>(size_);
    for (const Piece& p : pieces_)
      for (const std::uint32_t t : p.triangles) {
        Charts::Corners corners = flat(t);
        for (auto& [u, v] : corners) {
          const float right = u - p.left, down = v - p.top;
          u = (p.x + (p.turned ? down : right)) * per_map;
          v = (p.y + (p.turned ? p.right - p.left - right : down)) * per_map;
        }
        out.of[t] = corners;
      }
    return out;
  }

  const Mesh& mesh_;
  Neighbours neighbours_;
  int size_, margin_;
  std::vector<std::uint8_t> side_;
  double area_ = 0;
  float longest_ = 0;  // side of a triangle
  float scale_ = 1;    // texels a metre
  std::vector<Piece> pieces_;
};

}  // namespace

Result<Charts> charts_of(const Mesh& mesh, int size, int margin, const Stop& stop) {
  if (!mesh.tile.empty()) {
    Charts own{{}, true};
    for (const auto& [i, j, k] : mesh.triangle) own.of.push_back({mesh.tile[i], mesh.tile[j], mesh.tile[k]});
    if (usable(own.of)) return own;
  }
  if (auto made = Layout(mesh, size, margin).fit(stop)) return std::move(*made);
  if (stop.asked()) return Error{"", kCancelled, ""};
  return Error{"the mesh", "falls into so many pieces that they find no room in a map of " + std::to_string(size),
               "Take a larger size, or give the mesh coordinates of its own"};
}

ChartFrame chart_frame(const Mesh& mesh, const Charts& charts, std::uint32_t triangle) {
  const auto& [i, j, k] = mesh.triangle[triangle];
  const auto& c = charts.of[triangle];
  const Vec3 p = mesh.position[j] - mesh.position[i], q = mesh.position[k] - mesh.position[i];
  const float pu = c[1][0] - c[0][0], pv = c[1][1] - c[0][1], qu = c[2][0] - c[0][0], qv = c[2][1] - c[0][1];
  const float area = pu * qv - pv * qu;
  if (!(std::abs(area) > 1e-20f)) return {p, q};
  return {(p * qv - q * pv) * (1 / area), (q * pu - p * qu) * (1 / area)};
}

Atlas::Atlas(const Charts& charts, int size, int reach)
    : size_(size), texels_(static_cast<std::size_t>(size) * static_cast<std::size_t>(size)) {
  for (std::uint32_t t = 0; t < charts.of.size(); ++t)
    for_texels(scaled(charts.of[t], static_cast<float>(size)), size, size, [&](int x, int y, float b, float c) {
      Texel& to = texels_[index(x, y)];
      if (to.triangle == Texel::kNone) to = {t, b, c};
    });
  widen(reach);
}

// Ring by ring, each from the texels that the one before has covered.
void Atlas::widen(int reach) {
  std::vector<std::array<int, 2>> ring;
  const auto uncovered = [&](int x, int y) {
    return x >= 0 && y >= 0 && x < size_ && y < size_ && at(x, y).triangle == Texel::kNone;
  };
  constexpr std::array<std::array<int, 2>, 8> kAround{
      {{-1, 0}, {1, 0}, {0, -1}, {0, 1}, {-1, -1}, {1, -1}, {-1, 1}, {1, 1}}};
  for (int y = 0; y < size_; ++y)
    for (int x = 0; x < size_; ++x)
      if (at(x, y).triangle != Texel::kNone &&
          std::any_of(kAround.begin(), kAround.end(), [&](const auto& d) { return uncovered(x + d[0], y + d[1]); }))
        ring.push_back({x, y});
  for (int i = 0; i < reach; ++i) {
    std::vector<std::array<int, 2>> next;
    for (const auto& [x, y] : ring)
      for (const auto& [dx, dy] : kAround) {
        if (!uncovered(x + dx, y + dy)) continue;
        texels_[index(x + dx, y + dy)] = at(x, y);
        next.push_back({x + dx, y + dy});
      }
    ring = std::move(next);
  }
}

}  // namespace loom
