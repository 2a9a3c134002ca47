// How area operations move a value by a map of offsets, whatever its kind; point functions do the same by
// Emitter::read_at.
#pragma once
#include "core/nodes/node_call.h"
#include "core/plane/filters.h"

namespace loom {

/// What lies at each texel's place plus the offset (shares of the tile). Numbers, vectors and colours: bilinear.
/// Normals: the same, bent along, so that they are those of the height that is moved the same way. Regions: the nearest
/// texel, as parts of their own with the keys they have. A cord: map by map.
Field moved_by(const Field& source, const Offset& offset, const Stop& stop);

/// Brings every vector of a field of normals back to length 1.
void normalise(Field& normals, const Stop& stop);

/// A field of the kind of `like`, from its strands.
Field field_of(Kind kind, std::vector<Plane> strands);
std::vector<const Plane*> strands_of(const Field& field);

/// Applies `work` to a map, or to every map of a cord.
template <class Work>
Field map_by_map(const Field& source, const Work& work) {
  if (source.kind != Kind::set) return work(source);
  Field out;
  out.kind = Kind::set;
  for (const auto& [name, member] : source.members) out.members.emplace_back(name, map_by_map(member, work));
  return out;
}

}  // namespace loom
