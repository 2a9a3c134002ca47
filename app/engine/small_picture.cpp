#include "app/engine/small_picture.h"

#include <algorithm>
#include <cmath>

namespace loom::app {

QImage shownSmall(const Image& image, int side) {
  QImage small(side, side, QImage::Format_RGB32);
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      const int at = ((2 * y + 1) * image.height / (2 * side)) * image.width + (2 * x + 1) * image.width / (2 * side);
      const float* texel = &image.values[static_cast<std::size_t>(at) * static_cast<std::size_t>(image.channels)];
      const auto lane = [&](int k) {
        const float v = texel[image.channels >= 3 ? k : 0];
        return std::clamp(static_cast<int>(std::lround(v * 255)), 0, 255);
      };
      small.setPixel(x, y, qRgb(lane(0), lane(1), lane(2)));
    }
  return small;
}

QImage smallPictureOf(const std::filesystem::path& file, int side) {
  const auto image = read_image(file);
  return image ? shownSmall(*image, side) : QImage();
}

}  // namespace loom::app
