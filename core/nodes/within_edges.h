// Area operations on a picture that ends at the tile's edge: a single figure, a sheet, a map in polar coordinates.
#pragma once
#include <initializer_list>

#include "core/nodes/node_call.h"

namespace loom {

/// The toggle "ends_at_edge". Off, what leaves the tile comes in at its other side. It acts where `formula` is not 0.
Parameter ends_parameter(const char* column, const char* formula);

/// Evaluates `kernel`; where the toggle is on, on a plane twice as wide on which the tile's edges go on outwards, and
/// keeps the tile of it. `lengths`: the parameters that are shares of the tile. Inputs with a frame of their own and
/// what is not connected stay as they are; regions that come out are told apart anew.
Result<Done> within_edges(AreaCall& call, Result<Done> (*kernel)(AreaCall&),
                          std::initializer_list<const char*> lengths);

}  // namespace loom
