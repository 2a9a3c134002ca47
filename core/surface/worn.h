// The materials that a body wears.
#pragma once
#include <algorithm>
#include <map>
#include <memory>
#include <set>
#include <span>
#include <string>
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
    each([&](const SurfaceMaps& m) {
      for (const MeshMeasure& what : m.measures())
        if (what.needs_rays()) asked.insert(what);
    });
    return asked;
  }
  /// Whether `holds` is true of any.
  template <class Holds>
  bool any(const Holds& holds) const {
    return holds(*maps) || std::any_of(of_part.begin(), of_part.end(), [&](const auto& m) { return m && holds(*m); });
  }
  friend bool operator==(const Worn&, const Worn&) = default;
};

/// The same before it is known on what: by the names of parts.
struct Outfit {
  Outfit() = default;
  Outfit(std::shared_ptr<const SurfaceMaps> everywhere) : maps(std::move(everywhere)) {}

  std::shared_ptr<const SurfaceMaps> maps;
  std::map<std::string, std::shared_ptr<const SurfaceMaps>> of_part;

  /// On a mesh with these parts, or with none on a shape. There must be maps.
  Worn on(std::span<const std::string> parts) const {
    Worn worn(maps);
    for (std::size_t i = 0; i < parts.size(); ++i)
      if (const auto own = of_part.find(parts[i]); own != of_part.end()) {
        worn.of_part.resize(parts.size());
        worn.of_part[i] = own->second;
      }
    return worn;
  }
  explicit operator bool() const { return maps != nullptr; }
  friend bool operator==(const Outfit&, const Outfit&) = default;
};

}  // namespace loom
