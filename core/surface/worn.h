// The materials that a body wears.
#pragma once
#include <algorithm>
#include <memory>
#include <set>
#include <vector>

#include "core/surface/maps.h"

namespace loom {

struct Worn {
  template <class Maps>
  Worn(std::shared_ptr<Maps> everywhere) : maps(std::move(everywhere)) {}
  Worn(std::shared_ptr<const SurfaceMaps> everywhere, std::vector<std::shared_ptr<const SurfaceMaps>> by_part)
      : maps(std::move(everywhere)), of_part(std::move(by_part)) {}

  std::shared_ptr<const SurfaceMaps> maps;                  ///< of all that has none of its own
  std::vector<std::shared_ptr<const SurfaceMaps>> of_part;  ///< by a mesh's part; null or beyond: `maps`

  const SurfaceMaps& at(std::size_t part) const {
    return part < of_part.size() && of_part[part] ? *of_part[part] : *maps;
  }
  template <class Take>
  void each(const Take& take) const {
    take(*maps);
    for (const auto& m : of_part)
      if (m) take(*m);
  }
  /// What they ask of the mesh, together.
  std::set<MeshMeasure> measures() const {
    std::set<MeshMeasure> asked;
    each([&](const SurfaceMaps& m) { asked.insert(m.measures().begin(), m.measures().end()); });
    return asked;
  }
  /// Whether `holds` is true of any.
  template <class Holds>
  bool any(const Holds& holds) const {
    return holds(*maps) || std::any_of(of_part.begin(), of_part.end(), [&](const auto& m) { return m && holds(*m); });
  }
};

}  // namespace loom
