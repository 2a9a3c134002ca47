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

PlacesOfCoordinates::Miss PlacesOfCoordinates::miss(float x, float y, float u, float v) const {
  const int size = u_->size(), x0 = static_cast<int>(std::floor(x)), y0 = static_cast<int>(std::floor(y));
  const float fx = x - static_cast<float>(x0), fy = y - static_cast<float>(y0);
  const int left = wrap(x0, size), right = wrap(x0 + 1, size), up = wrap(y0, size), down = wrap(y0 + 1, size);
  const auto of = [&](const Plane& p, float wanted) {
    // Counted on from the corner, so that a seam of the coordinates does not tear the cell.
    const float corner = p.at(left, up), m00 = turned(wanted - corner), m10 = m00 - turned(p.at(right, up) - corner),
                m01 = m00 - turned(p.at(left, down) - corner), m11 = m00 - turned(p.at(right, down) - corner);
    const float upper = m00 + (m10 - m00) * fx, lower = m01 + (m11 - m01) * fx;
    return std::array{upper + (lower - upper) * fy, (m10 - m00) * (1 - fy) + (m11 - m01) * fy, lower - upper};
  };
  const auto along_u = of(*u_, u), along_v = of(*v_, v);
  return {along_u[0], along_v[0], along_u[1], along_u[2], along_v[1], along_v[2]};
}

std::array<float, 2> PlacesOfCoordinates::find(float u, float v) const {
  const auto texels = static_cast<float>(u_->size());
  const Texel start = nearest(u, v);
  float x = static_cast<float>(start.x), y = static_cast<float>(start.y);
  Miss now = miss(x, y, u, v);
  for (int step = 0; step < 12; ++step) {
    const float determinant = now.u_x * now.v_y - now.u_y * now.v_x;
    if (std::abs(determinant) < 1e-12f) break;
    const float dx = (now.v * now.u_y - now.u * now.v_y) / determinant,
                dy = (now.u * now.v_x - now.v * now.u_x) / determinant;
    if (!(std::hypot(dx, dy) < 16)) break;  // a fold, or a seam
    const Miss next = miss(x + dx, y + dy, u, v);
    if (!(next.size() < now.size())) break;
    x += dx, y += dy, now = next;
  }
  const auto share = [&](float at) {
    const float s = (at + 0.5f) / texels - std::floor((at + 0.5f) / texels);
    return s < 1 ? s : 0.0f;
  };
  return {share(x), share(y)};
}

}  // namespace loom
