#include "core/io/middle_square.h"

#include <algorithm>

#include "core/plane/colour.h"
#include "core/plane/continuous.h"

namespace loom {

std::array<Plane, 3> middle_square(const Image& image, int size) {
  const int side = std::min(image.width, image.height);
  const int left = (image.width - side) / 2, top = (image.height - side) / 2;
  const auto n = static_cast<std::size_t>(image.channels), row = static_cast<std::size_t>(image.width) * n;
  std::vector<float> values;
  values.reserve(static_cast<std::size_t>(side) * static_cast<std::size_t>(side) * 3);
  for (int y = top; y < top + side; ++y)
    for (int x = left; x < left + side; ++x) {
      const float* texel = &image.values[static_cast<std::size_t>(y) * row + static_cast<std::size_t>(x) * n];
      for (std::size_t c = 0; c < 3; ++c) {
        const float code = texel[n >= 3 ? c : 0];
        values.push_back(image.srgb ? linear_from_srgb(code) : code);
      }
    }
  return {resampled(&values[0], 3, side, side, size), resampled(&values[1], 3, side, side, size),
          resampled(&values[2], 3, side, side, size)};
}

}  // namespace loom
