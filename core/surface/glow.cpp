#include "core/surface/glow.h"

#include "core/base/parallel.h"

namespace loom {
namespace {

struct Spread {
  float sigma, share;  // of the height; of the light
};
constexpr Spread kSpreads[] = {{0.004f, 0.05f}, {0.016f, 0.025f}, {0.064f, 0.015f}};
constexpr int kSmall = 192;  // rows of the picture that is spread, at most
constexpr float kFine = 3;   // texels of a sigma: what is spread wider is spread on a picture that is smaller

struct Picture {
  int width, height;
  std::vector<Vec3> pixels;
  Picture(int w, int h) : Picture(w, h, std::vector<Vec3>(static_cast<std::size_t>(w) * static_cast<std::size_t>(h))) {}
  Picture(int w, int h, std::vector<Vec3> p) : width(w), height(h), pixels(std::move(p)) {}
  Vec3& at(int x, int y) { return pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + x]; }
  const Vec3& at(int x, int y) const { return const_cast<Picture*>(this)->at(x, y); }
};

Picture reduced(const Picture& from, int by) {
  const int width = from.width, height = from.height;
  Picture small((width + by - 1) / by, (height + by - 1) / by);
  for_rows(small.height, 8, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < small.width; ++x) {
        const int right = std::min((x + 1) * by, width), below = std::min((y + 1) * by, height);
        Vec3 sum;
        for (int j = y * by; j < below; ++j)
          for (int i = x * by; i < right; ++i) sum = sum + from.at(i, j);
        small.at(x, y) = sum * (1 / static_cast<float>((right - x * by) * (below - y * by)));
      }
  });
  return small;
}

// One way; what would come from beyond the border comes from within.
Picture blurred(const Picture& from, float sigma, bool across) {
  const int reach = static_cast<int>(std::ceil(3 * sigma)), most = across ? from.width : from.height;
  std::vector<float> weights;
  for (int k = -reach; k <= reach; ++k) {
    const float d = static_cast<float>(k) / sigma;
    weights.push_back(std::exp(-0.5f * d * d));
  }
  Picture to(from.width, from.height);
  for_rows(from.height, 8, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < from.width; ++x) {
        const int here = across ? x : y;
        Vec3 sum;
        float all = 0;
        for (int k = std::max(-reach, -here); k <= std::min(reach, most - 1 - here); ++k) {
          const float w = weights[static_cast<std::size_t>(k + reach)];
          sum = sum + (across ? from.at(x + k, y) : from.at(x, y + k)) * w;
          all += w;
        }
        to.at(x, y) = sum * (1 / all);
      }
  });
  return to;
}

// `to` keeps that share of itself and gets one of `small`, each of whose pixels is `by` of its own wide.
void add_enlarged(Picture& to, float kept, const Picture& small, int by, float share) {
  const auto place = [by](int pixel, int most) {
    return std::clamp((static_cast<float>(pixel) + 0.5f) / static_cast<float>(by) - 0.5f, 0.0f,
                      static_cast<float>(most - 1));
  };
  for_rows(to.height, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < to.width; ++x) {
        const float px = place(x, small.width), py = place(y, small.height);
        const int x0 = static_cast<int>(px), y0 = static_cast<int>(py), x1 = std::min(x0 + 1, small.width - 1),
                  y1 = std::min(y0 + 1, small.height - 1);
        const float tx = px - static_cast<float>(x0), ty = py - static_cast<float>(y0);
        to.at(x, y) =
            to.at(x, y) * kept +
            mix(mix(small.at(x0, y0), small.at(x1, y0), tx), mix(small.at(x0, y1), small.at(x1, y1), tx), ty) * share;
      }
  });
}

}  // namespace

void add_glow(std::vector<Vec3>& radiance, int width, int height) {
  Picture picture(width, height, std::move(radiance));
  const int by = (height + kSmall - 1) / kSmall;
  const Picture small = reduced(picture, by);
  Picture spread(small.width, small.height);
  float given = 0;
  for (const Spread& s : kSpreads) {
    const float sigma = std::max(s.sigma * static_cast<float>(small.height), 0.3f);
    const int coarser = std::max(1, static_cast<int>(sigma / kFine));
    const float there = sigma / static_cast<float>(coarser);
    const Picture one = blurred(blurred(reduced(small, coarser), there, true), there, false);
    add_enlarged(spread, 1, one, coarser, s.share);
    given += s.share;
  }
  add_enlarged(picture, 1 - given, spread, by, 1);
  radiance = std::move(picture.pixels);
}

}  // namespace loom
