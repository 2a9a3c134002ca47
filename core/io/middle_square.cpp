#include "core/io/middle_square.h"

#include <algorithm>
#include <numeric>
#include <vector>

#include "core/base/parallel.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

// What a pixel of the square lies over: the first of the picture's, and the share of each from there on.
struct Covered {
  int first;
  std::vector<float> share;
};

std::vector<Covered> covered(int side, int size) {
  const double step = static_cast<double>(side) / size;
  std::vector<Covered> all;
  for (int i = 0; i < size; ++i) {
    const double from = i * step, to = from + step;
    Covered c{std::min(static_cast<int>(from), side - 1), {}};
    for (int k = c.first; k < side && (k < to || k == c.first); ++k)
      c.share.push_back(static_cast<float>((std::min(to, k + 1.0) - std::max(from, static_cast<double>(k))) / step));
    all.push_back(std::move(c));
  }
  return all;
}

}  // namespace

std::array<Plane, 3> middle_square(const Image& image, int size) {
  const int side = std::min(image.width, image.height);
  const auto left = static_cast<std::size_t>((image.width - side) / 2),
             top = static_cast<std::size_t>((image.height - side) / 2);
  const auto n = static_cast<std::size_t>(image.channels), row = static_cast<std::size_t>(image.width) * n;
  const std::vector<Covered> pixels = covered(side, size);
  std::array<Plane, 3> out{Plane(size), Plane(size), Plane(size)};
  for_rows(size, 8, Stop{}, [&](int begin, int end) {
    std::vector<float> line(static_cast<std::size_t>(side));
    for (int y = begin; y < end; ++y)
      for (std::size_t c = 0; c < 3; ++c) {
        std::fill(line.begin(), line.end(), 0.0f);
        const Covered& down = pixels[static_cast<std::size_t>(y)];
        const float* from =
            &image.values[(top + static_cast<std::size_t>(down.first)) * row + left * n + (n >= 3 ? c : 0)];
        for (const float share : down.share) {
          for (std::size_t x = 0; x < line.size(); ++x)
            line[x] += share * (image.srgb ? linear_from_srgb(from[x * n]) : from[x * n]);
          from += row;
        }
        for (int x = 0; x < size; ++x) {
          const Covered& along = pixels[static_cast<std::size_t>(x)];
          out[c].at(x, y) = std::inner_product(along.share.begin(), along.share.end(),
                                               &line[static_cast<std::size_t>(along.first)], 0.0f);
        }
      }
  });
  return out;
}

}  // namespace loom
