// What a program asks of a mesh at the points of its surface: measures, and what the mesh itself carries.
#pragma once
#include <compare>
#include <cstddef>
#include <cstdint>

namespace loom {

/// What one set of rays finds, and the numbers that it gives, in this order.
enum class MeasureName : std::uint8_t {
  edges,      ///< convex 0..1, concave 0..1, the turn to the faces near by in degrees (convex positive), rounded normal
  openness,   ///< the share of the sky that is open 0..1, the mean direction of what is open
  thickness,  ///< metres
  carried,    ///< no rays: four numbers of an attribute of the mesh's corners, and 1 where it has that attribute
};

constexpr std::size_t kMostNumbersOfMeasure = 6;
/// Where these numbers stand.
constexpr std::size_t kConvex = 0, kConcave = 1, kTurn = 2, kRoundedNormal = 3, kOpen = 0, kBentNormal = 1, kMetres = 0,
                      kIsCarried = 4;
constexpr int kMostRays = 1024;

struct MeshMeasure {
  MeasureName name = MeasureName::edges;
  float radius = 0.04f;    ///< how far rays look, a share of the longest side of the mesh's box
  int rays = 64;           ///< a point
  bool part_only = false;  ///< other parts are not there
  float spread = 0;        ///< of thickness: how wide the cone of rays is, degrees; 0: one ray straight inwards
  std::uint64_t name_of_carried = 0;  ///< hash_text() of the attribute's name
  friend auto operator<=>(const MeshMeasure&, const MeshMeasure&) = default;

  constexpr std::size_t numbers() const {
    constexpr std::size_t kNumbers[] = {6, 4, 1, 5};
    return kNumbers[static_cast<std::size_t>(name)];
  }
  constexpr bool needs_rays() const { return name != MeasureName::carried; }
  /// Whether its last three numbers look the other way on the far side of a sheet.
  constexpr bool ends_in_a_direction() const { return name == MeasureName::edges || name == MeasureName::openness; }
};

}  // namespace loom
