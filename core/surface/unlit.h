// An output as it is, without light: on the shape, and where the loupe shows it.
#pragma once
#include <array>
#include <cstdint>
#include <map>
#include <span>
#include <string>

#include "core/base/vec3.h"
#include "core/plane/plane.h"

namespace loom {

/// sRGB codes: blue below 0, white at it, red above; a level line at every tenth keeps shapes readable where both ends
/// are saturated.
std::array<std::uint8_t, 3> about_zero(float value);

/// A value as the unlit view shows it, linear: colours as they are, normals from -1..1, all other numbers as greys of
/// 0..1, or in two colours about zero. `strands` has as many values as the kind.
Vec3 unlit_colour(Kind kind, std::span<const float> strands, bool two_colours);

/// What an output over the points of a shape is called that the unlit view shows so.
inline constexpr const char *kUnlit = "#unlit", *kUnlitAboutZero = "#unlit_about_zero";

/// Slots by which the drape's unlit view shows `field`: colours as they are, normals from -1..1, all other numbers as
/// greys of 0..1, or in two colours about zero. With the height, if there is one, it lies on the relief. Empty for what
/// has no planes of numbers.
std::map<std::string, Field> unlit_slots(const Field& field, bool two_colours, const Field* height);

}  // namespace loom
