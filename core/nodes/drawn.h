// Pictures and drawings as tables: read texel by texel while the coordinates are free, else looked up at any place.
#pragma once
#include <vector>

#include "core/io/drawing.h"
#include "core/nodes/node_call.h"

namespace loom {

/// Planes of one size, 1 (a mask) to 4 (colour and alpha), and their mean pyramids where places are looked up.
struct DrawnTable : Resource {
  std::vector<PlanePtr> planes;
  std::vector<std::shared_ptr<const Sampled>> sampled;
};

/// The size at which a table is made: the wanted one, or twice that where it is looked up; never above `most`.
int drawn_size(const Emitter& e, int most);

std::shared_ptr<DrawnTable> drawn_table(std::vector<Plane> planes);

/// The values of plane `i` at the node's coordinates.
Reg read_drawn(Emitter& e, const std::shared_ptr<const DrawnTable>& table, std::size_t i);

/// Takes a drawing's frame into the tile. `fit`: whole, stretched or cover; `margin` is a share of the tile at each
/// side.
Affine placed(const Drawing& drawing, std::string_view fit, double margin);
const std::vector<std::string>& fit_words();

}  // namespace loom
