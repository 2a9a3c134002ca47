// A cell's side is at most distance / root 2, so that a cell holds one point at most and its neighbours three cells
// away matter. The grid is laid out with a border in which the far side is seen again, so that nothing is wrapped
// later.
#include "core/nodes/spaced.h"

#include <algorithm>
#include <cmath>

#include "core/base/hash.h"

namespace loom {
namespace {

constexpr int kThrows = 200;
constexpr int kReach = 3;        // cells
constexpr float kNobody = 1e3f;  // where no point is

class Thrown {
 public:
  explicit Thrown(float distance)
      : squared_(distance * distance),
        side_(std::max(1, static_cast<int>(std::ceil(std::sqrt(2.0f) / distance)))),
        stride_(side_ + 2 * kReach + 1),  // eight cells from any on
        u_(static_cast<std::size_t>(stride_) * static_cast<std::size_t>(side_ + 2 * kReach), kNobody),
        v_(u_),
        covered_(cells()) {}

  int side() const { return side_; }
  std::size_t cells() const { return static_cast<std::size_t>(side_) * static_cast<std::size_t>(side_); }
  /// All within lies nearer to one point than the distance: there is no room left, whatever is thrown.
  bool is_covered(std::uint32_t cell) const { return covered_[cell] != 0; }

  // The rows nearest to the middle first: there is most often somebody.
  bool has_room(float u, float v, int cx, int cy) const {
    for (const int row : {3, 2, 4, 1, 5, 0, 6}) {
      const std::size_t from =
          static_cast<std::size_t>(cy + row) * static_cast<std::size_t>(stride_) + static_cast<std::size_t>(cx);
      int near = 0;
      for (std::size_t i = from; i < from + 8; ++i) {
        const float du = u_[i] - u, dv = v_[i] - v;
        near |= du * du + dv * dv < squared_;
      }
      if (near) return false;
    }
    return true;
  }

  void place(float u, float v, int cx, int cy) {
    for (int y = first(cy); y < side_ + 2 * kReach; y += side_)
      for (int x = first(cx); x < side_ + 2 * kReach; x += side_) {
        const std::size_t at =
            static_cast<std::size_t>(y) * static_cast<std::size_t>(stride_) + static_cast<std::size_t>(x);
        u_[at] = u + static_cast<float>((x - kReach - cx) / side_);
        v_[at] = v + static_cast<float>((y - kReach - cy) / side_);
      }
    const float cell = 1.0f / static_cast<float>(side_);
    for (int y = cy - kReach; y <= cy + kReach; ++y)
      for (int x = cx - kReach; x <= cx + kReach; ++x) {
        const auto from = [&](float at, int corner) {  // to the farther of the cell's two sides
          const float low = static_cast<float>(corner) * cell - at;
          return std::max(low * low, (low + cell) * (low + cell));
        };
        if (from(u, x) + from(v, y) < squared_) covered_[index(x, y)] = 1;
      }
  }

 private:
  // The first place in the bordered grid that is this cell.
  int first(int cell) const { return (cell + kReach) % side_; }
  std::size_t index(int x, int y) const {
    const auto wrapped = [&](int i) { return static_cast<std::size_t>(((i % side_) + side_) % side_); };
    return wrapped(y) * static_cast<std::size_t>(side_) + wrapped(x);
  }
  float squared_;
  int side_, stride_;
  std::vector<float> u_, v_;
  std::vector<std::uint8_t> covered_;
};

// All cells, as chance has them.
std::vector<std::uint32_t> drawn_order(std::size_t cells, std::uint32_t seed) {
  std::vector<std::pair<std::uint32_t, std::uint32_t>> drawn(cells);
  for (std::uint32_t i = 0; i < cells; ++i) drawn[i] = {pcg(i ^ seed), i};
  std::sort(drawn.begin(), drawn.end());
  std::vector<std::uint32_t> order(cells);
  std::ranges::transform(drawn, order.begin(), [](const auto& one) { return one.second; });
  return order;
}

}  // namespace

std::vector<SpacedPoint> spaced_points(float distance, std::uint32_t seed) {
  Thrown thrown(std::clamp(distance, 0.004f, 1.0f));
  const int side = thrown.side();
  const float cell = 1.0f / static_cast<float>(side);
  std::vector<std::uint32_t> order = drawn_order(thrown.cells(), seed);
  std::vector<SpacedPoint> held(thrown.cells(), {-1, -1, 0});
  for (int k = 0; k < kThrows && !order.empty(); ++k) {
    std::size_t open = 0;
    for (const std::uint32_t c : order) {
      if (thrown.is_covered(c)) continue;
      const int cx = static_cast<int>(c) % side, cy = static_cast<int>(c) / side;
      const std::uint32_t key = pcg(c + 1);
      const auto at = [&](int i, int turn) {
        return (static_cast<float>(i) + unit_random(seed + static_cast<std::uint32_t>(turn) * 7919u, key)) * cell;
      };
      const float u = at(cx, 2 * k), v = at(cy, 2 * k + 1);
      if (thrown.has_room(u, v, cx, cy)) {
        held[c] = {u, v, key};
        thrown.place(u, v, cx, cy);
      } else {
        order[open++] = c;
      }
    }
    order.resize(open);
  }
  std::erase_if(held, [](const SpacedPoint& p) { return p.u < 0; });
  return held;
}

}  // namespace loom
