// What Scatter and Nested scatter share: motifs, stamps that are kept clear of a map, and the outputs that follow.
#pragma once
#include <array>
#include <memory>
#include <vector>

#include "core/nodes/laid_outputs.h"

namespace loom {

/// Collects stamps and makes the tables that the strip program looks them up in.
class Stamping {
 public:
  /// Reads the connected motifs, the map to avoid, the overlap and the background of a node.
  explicit Stamping(Emitter& e);

  int motifs() const { return static_cast<int>(laid_->stamps.motifs.size()); }
  struct Stamp {
    std::uint32_t key;
    float u, v, half_u, half_v, degrees, tone;  ///< places and sizes in shares of the tile
    int motif;
  };
  /// A size of 0 or less stamps nothing, and so does a place that is not clear of the map.
  void add(const Stamp& stamp);
  std::shared_ptr<Laid> finished();

 private:
  using Extent = std::array<float, 16>;
  bool clear_of_map(const Stamp& stamp) const;

  std::shared_ptr<Laid> laid_ = std::make_shared<Laid>();
  Plane to_avoid_;               ///< distance in texels to the map that is avoided; empty: none
  float grown_ = 0;              ///< by how much of a texel it is grown on the average, since it was coarsened
  std::vector<Extent> extents_;  ///< of each motif
};

/// Emits height, mask and the outputs of every laid pattern.
void emit_stamps(Emitter& e, const std::shared_ptr<const Laid>& laid);
/// Stretches the height to 0..1, by its range over the texels of a tile of this size.
void stretch_height(Laid& laid, int size, const Stop& stop);

/// The inputs of both nodes, and what a stamp's overlap and background are.
std::vector<Peg> stamp_inputs();
std::vector<Parameter> overlap_parameters(const std::string& column);

}  // namespace loom
