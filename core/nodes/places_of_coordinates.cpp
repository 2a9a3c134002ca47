#include "core/nodes/places_of_coordinates.h"

#include <algorithm>
#include <cmath>

namespace loom {
namespace {

constexpr int kMostAcross = 256;          // texels that are sorted, along each side
constexpr std::size_t kMostInACell = 64;  // that are tried: where more lie in one, they lie close

float turned(float difference) { return difference - std::round(difference); }

}  // namespace

PlacesOfCoordinates::PlacesOfCoordinates(PlanePtr u, PlanePtr v)
    : u_(std::move(u)), v_(std::move(v)), cells_(std::clamp(u_->size() / 4, 4, 64)) {
  const int size = u_->size(), step = std::max(1, size / kMostAcross);
  const auto cell_of = [&](Texel t) {
    const auto along = [&](float c) {
      return std::min(static_cast<int>((c - std::floor(c)) * static_cast<float>(cells_)), cells_ - 1);
    };
    return static_cast<std::size_t>(along(v_->at(t.x, t.y)) * cells_ + along(u_->at(t.x, t.y)));
  };
  first_.assign(static_cast<std::size_t>(cells_ * cells_) + 1, 0);
  for (int y = step / 2; y < size; y += step)
    for (int x = step / 2; x < size; x += step) ++first_[cell_of({x, y}) + 1];
  for (std::size_t c = 1; c < first_.size(); ++c) first_[c] += first_[c - 1];
  texels_.resize(first_.back());
  std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
  for (int y = step / 2; y < size; y += step)
    for (int x = step / 2; x < size; x += step) texels_[next[cell_of({x, y})]++] = {x, y};
}

float PlacesOfCoordinates::apart(Texel t, float u, float v) const {
  return std::hypot(turned(u_->at(t.x, t.y) - u), turned(v_->at(t.x, t.y) - v));
}

PlacesOfCoordinates::Texel PlacesOfCoordinates::nearest(float u, float v) const {
  const int cu = static_cast<int>((u - std::floor(u)) * static_cast<float>(cells_)),
            cv = static_cast<int>((v - std::floor(v)) * static_cast<float>(cells_));
  Texel best = texels_.front();
  float least = 2;
  // Rings of cells, until no farther one can hold a nearer texel.
  for (int r = 0; r <= cells_ / 2 + 1 && static_cast<float>(r - 1) < least * static_cast<float>(cells_); ++r)
    for (int j = -r; j <= r; ++j)
      for (int i = -r; i <= r; i += std::abs(j) == r ? 1 : 2 * r) {  // the ring's rim
        const auto cell = static_cast<std::size_t>(((cv + j) % cells_ + cells_) % cells_ * cells_ +
                                                   ((cu + i) % cells_ + cells_) % cells_);
        const std::size_t step = (first_[cell + 1] - first_[cell] + kMostInACell - 1) / kMostInACell;
        for (std::size_t k = first_[cell]; k < first_[cell + 1]; k += step)
          if (const float d = apart(texels_[k], u, v); d < least) least = d, best = texels_[k];
      }
  return best;
}

std::array<float, 2> PlacesOfCoordinates::find(float u, float v) const {
  const int size = u_->size();
  const auto texels = static_cast<float>(size);
  const Texel start = nearest(u, v);
  float x = static_cast<float>(start.x), y = static_cast<float>(start.y), least = apart(start, u, v);
  float best_x = x, best_y = y;
  for (int step = 0; step < 8; ++step) {
    const Texel t{wrap(static_cast<int>(std::lround(x)), size), wrap(static_cast<int>(std::lround(y)), size)};
    const Texel left{wrap(t.x - 1, size), t.y}, right{wrap(t.x + 1, size), t.y}, up{t.x, wrap(t.y - 1, size)},
        down{t.x, wrap(t.y + 1, size)};
    const auto change = [](const Plane& p, Texel a, Texel b) { return 0.5f * turned(p.at(b.x, b.y) - p.at(a.x, a.y)); };
    const float uu = change(*u_, left, right), uv = change(*u_, up, down), vu = change(*v_, left, right),
                vv = change(*v_, up, down), determinant = uu * vv - uv * vu;
    if (std::abs(determinant) < 1e-12f) break;
    const float off_u = turned(u - u_->at(t.x, t.y)), off_v = turned(v - v_->at(t.x, t.y));
    const float dx = (off_u * vv - off_v * uv) / determinant, dy = (off_v * uu - off_u * vu) / determinant;
    if (!(std::hypot(dx, dy) < 16)) break;  // a fold, or a seam
    x = std::round(x) + dx, y = std::round(y) + dy;
    const Texel there{wrap(static_cast<int>(std::lround(x)), size), wrap(static_cast<int>(std::lround(y)), size)};
    const float now = apart(there, u, v);
    if (now > least) break;
    least = now, best_x = x, best_y = y;
    if (there.x == t.x && there.y == t.y) break;
  }
  const auto share = [&](float at) { return (at + 0.5f) / texels - std::floor((at + 0.5f) / texels); };
  return {share(best_x), share(best_y)};
}

}  // namespace loom
