// thumbnail: a small picture of a material or a bolt, as file managers ask for it.
#include <iostream>

#include "cli/call.h"
#include "core/bolt/lit_pictures.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/io/image.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

struct Thumbnail {
  std::string file, out;
  int size = 256;
};

// No larger than `side`, every pixel the mean of those that it covers.
Result<Done> write_small(const Image& image, int side, const std::string& out) {
  const int longest = std::max(image.width, image.height);
  const auto scaled = [&](int x) { return longest <= side ? x : std::max(1, x * side / longest); };
  const int width = scaled(image.width), height = scaled(image.height);
  std::vector<std::uint8_t> rgb;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      for (int c = 0; c < 3; ++c) {
        const int x0 = x * image.width / width, x1 = std::max((x + 1) * image.width / width, x0 + 1);
        const int y0 = y * image.height / height, y1 = std::max((y + 1) * image.height / height, y0 + 1);
        float sum = 0;
        for (int v = y0; v < y1; ++v)
          for (int u = x0; u < x1; ++u)
            sum += image.values[static_cast<std::size_t>((v * image.width + u) * image.channels +
                                                         std::min(c, image.channels - 1))];
        rgb.push_back(static_cast<std::uint8_t>(code_of(sum / static_cast<float>((x1 - x0) * (y1 - y0)), 255)));
      }
  const auto png = encode_picture(width, height, rgb);
  if (!png) return png.error();
  return write_file(out, *png);
}

// A bolt brings one; else the material is lit.
int run(const Thumbnail& t) {
  if (std::filesystem::path(t.file).extension() == ".bolt") {
    const auto cover = read_cover(t.file);
    if (!cover) return fail(t.file, cover.error());
    if (!cover->picture.empty()) {
      const auto image = decode_image("picture.png", cover->picture);
      if (!image) return fail(t.file, image.error());
      const auto written = write_small(*image, t.size, t.out);
      return written ? kDone : fail(t.out, written.error(), kWriting);
    }
  }
  const auto material = checked(t.file);
  if (!material) return fail(t.file, material.error());
  const auto rgb = LitPictures(t.size).make(*material, Stop{});
  if (!rgb) return fail(t.file, rgb.error());
  const auto png = encode_picture(t.size, t.size, *rgb);
  if (!png) return fail(t.out, png.error(), kWriting);
  const auto written = write_file(t.out, *png);
  return written ? kDone : fail(t.out, written.error(), kWriting);
}

}  // namespace

std::function<int(const Common&)> thumbnail_call(CLI::App* call) {
  const auto t = std::make_shared<Thumbnail>();
  call->add_option("FILE", t->file, "a document or a bolt")->required();
  call->add_option("--out", t->out, "the PNG file")->required();
  call->add_option("--size", t->size, "pixels a side at most; 256")->check(CLI::Range(16, 1024));
  return [t](const Common&) { return run(*t); };
}

}  // namespace loom
