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

Vec3 unlit_colour(Kind kind, std::span<const float> strands, bool two_colours) {
  const bool colour = kind == Kind::colour || kind == Kind::colour_alpha;
  const auto code = two_colours ? about_zero(strands[0]) : std::array<std::uint8_t, 3>{};
  std::array<float, 3> shown;
  for (std::size_t c = 0; c < 3; ++c) {
    const float value = strands[std::min(c, strands.size() - 1)];
    if (colour && !two_colours) {
      shown[c] = value;
      continue;
    }
    // The view encodes what it shows, so data are decoded here.
    const float as_shown = two_colours            ? static_cast<float>(code[c]) / 255
                           : kind == Kind::normal ? 0.5f + 0.5f * value
                                                  : value;
    shown[c] = linear_from_srgb(std::clamp(as_shown, 0.0f, 1.0f));
  }
  return {shown[0], shown[1], shown[2]};
}

std::map<std::string, Field> unlit_slots(const Field& field, bool two_colours, const Field* height) {
  const auto n = static_cast<std::size_t>(strand_count(field.kind));
  if (n == 0 || !field.strand[0]) return {};
  const int size = field.size();
  Field shown;
  shown.kind = Kind::colour;
  if (!two_colours && (field.kind == Kind::colour || field.kind == Kind::colour_alpha)) {
    std::copy_n(field.strand.begin(), 3, shown.strand.begin());
  } else {
    std::array<std::shared_ptr<Plane>, 3> to;
    for (std::size_t c = 0; c < 3; ++c) shown.strand[c] = to[c] = std::make_shared<Plane>(size);
    for_rows(size, 32, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < size; ++x) {
          std::array<float, 4> value;
          for (std::size_t k = 0; k < n; ++k) value[k] = field.strand[k]->at(x, y);
          const Vec3 seen = unlit_colour(field.kind, {value.data(), n}, two_colours);
          to[0]->at(x, y) = seen.x, to[1]->at(x, y) = seen.y, to[2]->at(x, y) = seen.z;
        }
    });
  }
  std::map<std::string, Field> slots{{"base_colour", shown}};
  if (height && height->strand[0]) slots["height"] = *height;
  return slots;
}

}  // namespace loom
