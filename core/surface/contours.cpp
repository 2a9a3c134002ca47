// Pairs of pixels that differ, and the place between them where they do.
#include "core/surface/contours.h"

#include <algorithm>
#include <cmath>
#include <mutex>

#include "core/base/parallel.h"

namespace loom {

const std::vector<std::pair<std::string, std::string>>& contour_kinds() {
  static const std::vector<std::pair<std::string, std::string>> kKinds = {
      {"outline", "Outline"}, {"open", "Open edges"}, {"creases", "Creases"}, {"parts", "Borders of parts"}};
  return kKinds;
}

bool Contours::any() const {
  return std::any_of(of.begin(), of.end(), [](const ContourStyle& s) { return s.on; });
}

bool Contours::take(std::string_view list) {
  while (!list.empty()) {
    const auto end = std::min(list.find(','), list.size());
    const auto& kinds = contour_kinds();
    const auto found =
        std::find_if(kinds.begin(), kinds.end(), [&](const auto& k) { return k.first == list.substr(0, end); });
    if (found == kinds.end()) return false;
    of[static_cast<std::size_t>(found - kinds.begin())].on = true;
    list.remove_prefix(std::min(end + 1, list.size()));
  }
  return true;
}

class ContourLines::Finder {
 public:
  Finder(const Contours& contours, const Sight& sight, const OnRim& on_rim, float pixel)
      : sight_(sight), on_rim_(on_rim), pixel_(pixel), crease_(std::cos(contours.crease_degrees * kDegree)) {}

  using Hit = std::optional<Body::Hit>;
  struct Place {
    float x, y;
    Hit hit;
  };

  // Between two pixels that lie beside each other; nothing where they show the same face.
  std::optional<std::pair<ContourKind, std::array<float, 2>>> between(Place a, Place b) const {
    if (!may_differ(a.hit, b.hit)) return {};
    for (int halving = 0; halving < 5; ++halving) {
      Place middle{0.5f * (a.x + b.x), 0.5f * (a.y + b.y), {}};
      middle.hit = sight_(middle.x, middle.y);
      (is_nearer(a.hit, middle.hit, b.hit) ? a : b) = middle;
    }
    const auto kind = kind_of(a.hit, b.hit);
    if (!kind) return {};
    return std::pair{*kind, std::array{0.5f * (a.x + b.x), 0.5f * (a.y + b.y)}};
  }

 private:
  float wide(const Hit& hit) const { return pixel_ * hit->t; }
  float gap(const Hit& a, const Hit& b) const { return length(a->place - b->place); }
  bool turns(const Hit& a, const Hit& b) const { return dot(a->facet, b->facet) < crease_; }

  bool may_differ(const Hit& a, const Hit& b) const {
    if (!a || !b) return a.has_value() != b.has_value();
    return a->part != b->part || turns(a, b) || gap(a, b) > 2.5f * wide(a);
  }

  // Whether what lies in the middle belongs to `a`.
  bool is_nearer(const Hit& a, const Hit& middle, const Hit& b) const {
    if (!a || !b || !middle) return a.has_value() == middle.has_value();
    if (a->part != b->part && middle->part != b->part) return middle->part == a->part;
    if (a->part != b->part) return false;
    if (turns(a, b)) return dot(middle->facet, a->facet) > dot(middle->facet, b->facet);
    return gap(a, middle) < gap(middle, b);
  }

  // A bend that is seen at a slant is far deeper than it is wide; what jumps leaves the plane of one of both.
  bool jumps(const Hit& a, const Hit& b) const {
    const Vec3 way = b->place - a->place;
    const float off = std::max(std::abs(dot(way, a->facet)), std::abs(dot(way, b->facet)));
    return length(way) > 0.5f * wide(a) && off > 0.25f * wide(a);
  }

  // Of two places that lie a thirtieth of a pixel from each other.
  std::optional<ContourKind> kind_of(const Hit& a, const Hit& b) const {
    const bool both = a && b;
    if (!both || jumps(a, b)) {
      const Hit& front = !b || (both && a->t < b->t) ? a : b;
      return on_rim_(*front, 0.25f * wide(front)) ? ContourKind::open : ContourKind::outline;
    }
    if (a->part != b->part) return ContourKind::parts;
    if (turns(a, b)) return ContourKind::creases;
    return {};
  }

  const Sight& sight_;
  const OnRim& on_rim_;
  float pixel_, crease_;
};

ContourLines::ContourLines(int width, int height, float pixel, const Contours& contours, const Sight& sight,
                           const OnRim& on_rim, const Stop& stop)
    : width_(width), height_(height), contours_(contours) {
  const Finder finder(contours, sight, on_rim, pixel);
  const auto row = [&](int y) {
    std::vector<std::optional<Body::Hit>> hits;
    for (int x = 0; x < width; ++x) hits.push_back(sight(static_cast<float>(x) + 0.5f, static_cast<float>(y) + 0.5f));
    return hits;
  };
  std::vector<std::array<std::vector<std::array<float, 2>>, 4>> found(static_cast<std::size_t>(height));
  constexpr int kBand = 16;
  for_rows((height + kBand - 1) / kBand, 1, stop, [&](int first, int last) {
    for (int band = first; band < last && !stop.asked(); ++band) {
      auto above = row(band * kBand);
      for (int y = band * kBand; y < std::min((band + 1) * kBand, height); ++y) {
        const auto below = y + 1 < height ? row(y + 1) : above;
        for (int x = 0; x < width; ++x) {
          const auto px = static_cast<float>(x) + 0.5f, py = static_cast<float>(y) + 0.5f;
          const auto take = [&](float qx, float qy, const std::optional<Body::Hit>& other) {
            const auto line = finder.between({px, py, above[static_cast<std::size_t>(x)]}, {qx, qy, other});
            if (line && contours.of[static_cast<std::size_t>(line->first)].on)
              found[static_cast<std::size_t>(y)][static_cast<std::size_t>(line->first)].push_back(line->second);
          };
          if (x + 1 < width) take(px + 1, py, above[static_cast<std::size_t>(x) + 1]);
          if (y + 1 < height) take(px, py + 1, below[static_cast<std::size_t>(x)]);
        }
        above = below;
      }
    }
  });
  for (auto& of_row : found)
    for (std::size_t k = 0; k < 4; ++k) places_[k].insert(places_[k].end(), of_row[k].begin(), of_row[k].end());
}

void ContourLines::draw(std::vector<std::uint8_t>& codes, int channels) const {
  std::vector<float> cover(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
  for (std::size_t k = places_.size(); k-- > 0;) {  // the outline last, over all others
    if (places_[k].empty()) continue;
    const ContourStyle& style = contours_.of[k];
    const float half = 0.5f * std::max(style.width, 1.0f), reach = half + 0.5f;
    std::fill(cover.begin(), cover.end(), 0.0f);
    for (const auto& [px, py] : places_[k])
      for (int y = std::max(static_cast<int>(py - reach), 0); y <= std::min(static_cast<int>(py + reach), height_ - 1);
           ++y)
        for (int x = std::max(static_cast<int>(px - reach), 0); x <= std::min(static_cast<int>(px + reach), width_ - 1);
             ++x) {
          const float away = std::hypot(static_cast<float>(x) + 0.5f - px, static_cast<float>(y) + 0.5f - py);
          float& c =
              cover[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)];
          c = std::max(c, std::clamp(reach - away, 0.0f, 1.0f));
        }
    for (std::size_t i = 0; i < cover.size(); ++i) {
      if (cover[i] == 0) continue;
      std::uint8_t* to = &codes[i * static_cast<std::size_t>(channels)];
      for (std::size_t c = 0; c < 3; ++c)
        to[c] = static_cast<std::uint8_t>(static_cast<float>(to[c]) * (1 - cover[i]) +
                                          static_cast<float>(style.colour[c]) * cover[i] + 0.5f);
      if (channels == 4) to[3] = static_cast<std::uint8_t>(std::max(static_cast<float>(to[3]), 255 * cover[i] + 0.5f));
    }
  }
}

}  // namespace loom
