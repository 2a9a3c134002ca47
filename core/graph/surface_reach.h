// Which outputs rest on the shape that wears a material, and where that has no meaning.
#pragma once
#include <map>
#include <optional>
#include <string>
#include <string_view>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// Of a peg that reads its map away from its texel, where the surface comes in: it is known at its points alone.
Error needs_neighbours();
/// Of a slot that cannot follow the surface; nothing where it can.
std::optional<Error> surface_refusal(std::string_view slot);

/// What a node of the material's own graph rests on; a group is taken as a whole.
SurfaceUse surface_use(const Material& material, const Catalogue& catalogue, const std::string& node);

/// The slots of the hem that rest on the surface: they are no maps.
std::map<std::string, SurfaceUse> slots_on_surface(const Material& material, const Catalogue& catalogue);

/// Why a thread may not carry what rests on the surface to where it leads, with the mend; nothing where it may.
std::optional<Error> surface_refusal(const Material& material, const Catalogue& catalogue, const Thread& thread);

}  // namespace loom
