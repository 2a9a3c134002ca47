// What Masonry and Scatter share: varying laid units by rule, and the outputs that follow from a unit.
#pragma once
#include <memory>
#include <mutex>

#include "core/nodes/node_call.h"
#include "core/program/resources.h"

namespace loom {

/// The units of a pattern after every per-unit parameter was worked out.
struct Laid : Resource {
  std::size_t bytes() const override;
  LaidUnits units;
  Stamps stamps, cover;  ///< of Scatter: its motifs, and where they are more than nothing
  std::shared_ptr<RegionTable> regions = std::make_shared<RegionTable>();
  PlanePtr height;  ///< of stamps: as it was measured to be stretched
  /// Of stamps: the means of height and mask over the tile, made when samples are wide for the first time.
  struct Means {
    std::once_flag made;
    std::shared_ptr<const Sampled> height, mask;
  };
  std::shared_ptr<Means> means = std::make_shared<Means>();
  float height_scale = 1, height_shift = 0;  ///< of stamps: what their height is stretched by
  std::vector<float> tone, turn, rounding, joint, slant_u, slant_v, shape, shape_turn, shape_mirror, shape_angle,
      shape_scale, shape_u, shape_v;
};

/// The columns of the region table for unit `i`, from its box. `degrees` is its turn.
void describe_region(Laid& laid, std::size_t i, std::uint32_t key, float u, float v, float half_u, float half_v,
                     float degrees);

/// A column as a resource, and its value at a unit.
Reg fetch(Builder& b, Reg unit, std::vector<float> column);

/// Emits regions, tone, unit coordinates, unit centre and unit turn for a unit found at (x, y) within it;
/// `footprint` is that of the coordinates in which it was found.
void emit_unit_outputs(Emitter& e, const std::shared_ptr<const Laid>& laid, const LaidUnits& units, Reg unit, Reg x,
                       Reg y, Reg footprint);

/// The parameter "share_kept": of what is laid, this share is kept by chance. `noun`: what it is, for its help.
Parameter share_kept(const char* column, const char* noun);

std::vector<Peg> laid_inputs();
std::vector<Peg> laid_outputs();

}  // namespace loom
