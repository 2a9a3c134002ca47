// The bitmap behind a parameter `file`, as planes of linear values.
#include "core/nodes/picture.h"

#include <algorithm>
#include <cmath>

#include "core/base/hash.h"
#include "core/io/image.h"
#include "core/nodes/recent_files.h"
#include "core/plane/colour.h"
#include "core/plane/continuous.h"

namespace loom {
namespace {

using ImagePtr = std::shared_ptr<const Image>;

// Stands in while no file is chosen: shingle on the beach at Lantern Quay, darker towards one corner, so that its seam
// shows.
ImagePtr sample() {
  constexpr int kWide = 320, kTall = 240;
  static const ImagePtr kSample = [] {
    auto image = std::make_shared<Image>(Image{kWide, kTall, 3, false, std::vector<float>(kWide * kTall * 3, 0.06f)});
    for (std::uint32_t k = 0; k < 900; ++k) {
      const auto draw = [&](std::uint32_t what) { return unit_random(pcg(what), pcg(k + 1)); };
      const float cx = draw(1) * kWide, cy = draw(2) * kTall, r = 4 + 9 * draw(3) * draw(3),
                  flat = 0.6f + 0.4f * draw(4), tone = 0.15f + 0.5f * draw(5), warm = draw(6);
      for (int y = std::max(0, static_cast<int>(cy - r)); y <= std::min(kTall - 1, static_cast<int>(cy + r)); ++y)
        for (int x = std::max(0, static_cast<int>(cx - r)); x <= std::min(kWide - 1, static_cast<int>(cx + r)); ++x) {
          const float dx = (static_cast<float>(x) - cx) / r, dy = (static_cast<float>(y) - cy) / (r * flat),
                      d = dx * dx + dy * dy;
          if (d >= 1) continue;
          const float lit =
              tone * (0.45f + 0.55f * std::sqrt(1 - d)) * (1.1f - 0.3f * static_cast<float>(x + y) / (kWide + kTall));
          float* to = &image->values[static_cast<std::size_t>(y * kWide + x) * 3];
          to[0] = lit * (0.95f + 0.15f * warm), to[1] = lit, to[2] = lit * (1.05f - 0.25f * warm);
        }
    }
    return image;
  }();
  return kSample;
}

Result<ImagePtr> decoded(const FileBytes& file) {
  static RecentFiles<Image> all;
  return all.made(file.key, [&]() -> Result<ImagePtr> {
    auto image = decode_image(file.name, *file.bytes);
    if (!image) return image.error();
    return std::make_shared<const Image>(std::move(image).value());
  });
}

// The part of the picture that is used: all of it stretched to the square, or the middle square.
struct Crop {
  int x = 0, y = 0, width, height;
};
Crop crop_of(const Image& i, bool stretched) {
  if (stretched) return {0, 0, i.width, i.height};
  const int side = std::min(i.width, i.height);
  return {(i.width - side) / 2, (i.height - side) / 2, side, side};
}

// Whole rows of the crop, colours linear.
std::vector<float> linear_values(const Image& i, const Crop& c, bool srgb) {
  const auto n = static_cast<std::size_t>(i.channels);
  const std::size_t colours = n >= 3 ? 3 : 1;
  std::vector<float> out;
  out.reserve(static_cast<std::size_t>(c.width) * static_cast<std::size_t>(c.height) * n);
  for (int y = c.y; y < c.y + c.height; ++y)
    for (int x = c.x; x < c.x + c.width; ++x) {
      const float* from =
          &i.values[(static_cast<std::size_t>(y) * static_cast<std::size_t>(i.width) + static_cast<std::size_t>(x)) *
                    n];
      for (std::size_t k = 0; k < n; ++k) {
        const float v = std::isfinite(from[k]) ? from[k] : 0.0f;
        out.push_back(srgb && k < colours ? linear_from_srgb(v) : v);
      }
    }
  return out;
}

int power_of_two_from(int side) {
  int size = 64;
  while (size < side && size < kMostSize) size *= 2;
  return size;
}

}  // namespace

std::shared_ptr<const DrawnTable> lay_picture(Emitter& e, const PictureUse& use) {
  ImagePtr image = sample();
  if (const auto* file = e.file("file")) {
    const auto read = *file ? decoded(**file) : Result<ImagePtr>(file->error());
    if (read)
      image = *read;
    else
      e.fault = read.error();
  }
  const bool srgb = use.colours == Colours::srgb || (use.colours == Colours::as_said && image->srgb);
  const Crop crop = crop_of(*image, use.stretched);
  const std::vector<float> values = linear_values(*image, crop, srgb);
  const int size = std::max(64, drawn_size(e, power_of_two_from(std::max(crop.width, crop.height))));
  const auto n = static_cast<std::size_t>(image->channels);
  std::vector<Plane> planes;
  for (std::size_t k = 0; k < (n >= 3 ? 3 : 1); ++k)
    planes.push_back(resampled(&values[k], n, crop.width, crop.height, size));
  if (use.patches > 0) {
    planes = made_continuous(planes, use.patches, fold32(e.seed("patches")), e.stop);
  } else if (n == 2 || n >= 4) {
    while (planes.size() < 3) planes.push_back(planes[0].clone());
    planes.push_back(resampled(&values[n == 2 ? 1 : 3], n, crop.width, crop.height, size));
  }
  return drawn_table(std::move(planes));
}

Strands picture_colour(Emitter& e, const std::shared_ptr<const DrawnTable>& table) {
  Strands colour{.kind = Kind::colour};
  for (std::size_t i = 0; i < 3; ++i)
    colour.at[i] = i > 0 && table->planes.size() < 3 ? colour.at[0] : read_drawn(e, table, i);
  return colour;
}

}  // namespace loom
