#include "core/surface/unlit.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/plane/colour.h"

namespace loom {

std::array<std::uint8_t, 3> about_zero(float x) {
  const float size = std::abs(x), t = size / (size + 0.25f),
              line = size - 0.1f * std::floor(size * 10) < 0.006f && size > 0.05f ? 0.86f : 1.0f;
  const auto code = [&](float full) { return static_cast<std::uint8_t>(255 * line * (1 + (full - 1) * t) + 0.5f); };
  if (x < 0) return {code(0.12f), code(0.25f), code(0.62f)};
  return {code(0.66f), code(0.16f), code(0.12f)};
}

std::map<std::string, Field> unlit_slots(const Field& field, bool two_colours, const Field* height) {
  const auto n = static_cast<std::size_t>(strand_count(field.kind));
  if (n == 0 || !field.strand[0]) return {};
  const bool colour = field.kind == Kind::colour || field.kind == Kind::colour_alpha;
  Field shown;
  shown.kind = Kind::colour;
  for (std::size_t c = 0; c < 3; ++c) {
    const PlanePtr& from = field.strand[two_colours ? 0 : std::min(c, n - 1)];
    if (colour && !two_colours) {
      shown.strand[c] = from;
      continue;
    }
    // The view encodes what it shows, so data are decoded here.
    const auto code = [&](float value) {
      if (two_colours) return static_cast<float>(about_zero(value)[c]) / 255;
      return field.kind == Kind::normal ? 0.5f + 0.5f * value : value;
    };
    auto to = std::make_shared<Plane>(from->size());
    for_rows(from->size(), 32, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < from->size(); ++x)
          to->at(x, y) = linear_from_srgb(std::clamp(code(from->at(x, y)), 0.0f, 1.0f));
    });
    shown.strand[c] = std::move(to);
  }
  std::map<std::string, Field> slots{{"base_colour", shown}};
  if (height && height->strand[0]) slots["height"] = *height;
  return slots;
}

}  // namespace loom
