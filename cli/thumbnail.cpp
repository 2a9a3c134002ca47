// thumbnail: a small picture of a material or a bolt, as file managers ask for it.
#include <iostream>

#include "cli/call.h"
#include "core/bolt/lit_pictures.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/io/middle_square.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

struct Thumbnail {
  std::string file, out;
  int size = 256;
};

// Its middle square, no larger than `side`.
Result<Done> write_small(const Image& image, int side, const std::string& out) {
  const int size = std::min({side, image.width, image.height});
  const auto planes = middle_square(image, size);
  std::vector<std::uint8_t> rgb;
  for (std::size_t i = 0; i < planes[0].texels(); ++i)
    for (const Plane& p : planes)
      rgb.push_back(static_cast<std::uint8_t>(code_of(srgb_from_linear(std::max(0.0f, p.data()[i])), 255)));
  return write_picture(out, size, size, rgb);
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
  const auto written = write_picture(t.out, t.size, t.size, *rgb);
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
