// The colours that nodes hold, turned together.
#pragma once
#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// In Oklch: turned round by `hue` degrees, its chroma times `chroma`, `lightness` added to its lightness of 0 to 1.
struct ColourShift {
  double hue = 0, chroma = 1, lightness = 0;
};
/// Linear Rec. 709. What leaves the range of the screen loses chroma, at the same lightness and hue, until it fits.
std::array<double, 3> shifted(const std::array<double, 3>& colour, const ColourShift& by);

/// The different colours that `recolour` would shift, in their order; at most 24.
std::vector<std::array<double, 3>> colours_of(const Material& m, const Catalogue& catalogue,
                                              const std::vector<std::string>& nodes);
/// Every colour and every colour of a list of stops that the nodes have set, and those that they show unset. A colour
/// that follows a value stays: others may follow it, too.
Material recolour(Material m, const Catalogue& catalogue, const std::vector<std::string>& nodes, const ColourShift& by);

}  // namespace loom
