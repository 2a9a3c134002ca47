// What a point of a shape's surface tells a program.
#pragma once
#include <array>
#include <cstdint>
#include <string_view>

#include "core/base/hash.h"

namespace loom {

using Direction = std::array<float, 3>;  ///< of length 1: x right, y up, z towards the default camera

/// Three numbers each, in this order the attributes of a program over surface points.
enum class SurfaceValue : std::uint32_t {
  place,     ///< u and v in tiles, with the whole tiles that lie before them, and the footprint
  position,  ///< metres, relief included
  normal,    ///< of the shape without its relief, outwards
  view,      ///< towards the eye
  light,     ///< towards the key light
  along_u,   ///< how far one tile leads along u, metres
  along_v,
  part,  ///< its name as part_key() has it, and its place among the parts
  count
};

/// A part's name as a number of 0 to 1, the same wherever it stands: a hash of 24 bits.
constexpr float part_key(std::string_view name) {
  return static_cast<float>(fold32(hash_text(name)) >> 8) * (1.0f / 16777216.0f);
}

constexpr std::uint32_t at(SurfaceValue value) { return 3 * static_cast<std::uint32_t>(value); }
constexpr std::size_t kSurfaceAttributes = at(SurfaceValue::count);

/// The key light where the program starts: azimuth 42, height 48 degrees.
constexpr Direction kLightAtStart{-0.44773576f, 0.74314483f, 0.49726094f};

}  // namespace loom
