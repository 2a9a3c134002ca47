#include "core/surface/environment_file.h"

#include <cmath>

#include "core/io/image.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

// Means of `by` x `by` pixels, linear.
class Reduced {
 public:
  Reduced(const Image& image, int by)
      : width(image.width / by), height(image.height / by), pixels_(static_cast<std::size_t>(width) * height) {
    for (int y = 0; y < height * by; ++y)
      for (int x = 0; x < width * by; ++x) {
        Vec3& to = pixels_[static_cast<std::size_t>(y / by) * width + x / by];
        to = to + pixel(image, x, y) * (1 / static_cast<float>(by * by));
      }
  }
  Vec3 at(float x, float y) const {
    const int x0 = whole_below(x), y0 = std::clamp(whole_below(y), 0, height - 1), y1 = std::min(y0 + 1, height - 1);
    const float tx = x - static_cast<float>(x0), ty = std::clamp(y - static_cast<float>(y0), 0.0f, 1.0f);
    const auto texel = [&](int i, int j) { return pixels_[static_cast<std::size_t>(j) * width + (i + width) % width]; };
    return mix(mix(texel(x0, y0), texel(x0 + 1, y0), tx), mix(texel(x0, y1), texel(x0 + 1, y1), tx), ty);
  }
  int width, height;
  std::size_t mended = 0;

 private:
  Vec3 pixel(const Image& image, int x, int y) {
    const float* from = image.values.data() +
                        (static_cast<std::size_t>(y) * image.width + x) * static_cast<std::size_t>(image.channels);
    float c[3];
    for (int k = 0; k < 3; ++k) {
      c[k] = from[image.channels >= 3 ? k : 0];
      if (!(c[k] >= 0) || std::isinf(c[k])) c[k] = 0, ++mended;
      if (image.srgb) c[k] = linear_from_srgb(c[k]);
    }
    return {c[0], c[1], c[2]};
  }
  std::vector<Vec3> pixels_;
};

}  // namespace

Result<OwnEnvironment> read_environment(const std::filesystem::path& path) {
  const auto image = read_image(path);
  if (!image) return image.error();
  if (image->width != 2 * image->height || image->height < 32)
    return Error{
        path.string(),
        "is no picture of surroundings: " + std::to_string(image->width) + " x " + std::to_string(image->height),
        "Use one that is twice as wide as high, 64 pixels wide or more"};
  const Reduced picture(*image, (image->width + 1023) / 1024);
  const auto radiance = [&](Vec3 d) {
    const float longitude = std::atan2(d.x, d.z), latitude = std::asin(std::clamp(d.y, -1.0f, 1.0f));
    return picture.at((0.5f - longitude / (2 * kPi)) * static_cast<float>(picture.width) - 0.5f,
                      (0.5f - latitude / kPi) * static_cast<float>(picture.height) - 0.5f);
  };
  return OwnEnvironment{std::make_shared<Environment>(radiance, std::max(64, picture.width / 64 * 64)), picture.mended};
}

}  // namespace loom
