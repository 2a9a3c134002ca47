// Targets: finds what is there already, stores the rest.
#include "core/program/targets.h"

#include <algorithm>

namespace loom {

PlanePtr Targets::plane(Reg value) {
  if (const PlanePtr* source = builder_.loaded(value); source && (*source)->size() == size_) return *source;
  if (const auto it = std::find_if(made_.begin(), made_.end(), [&](const Target& t) { return t.value == value; });
      it != made_.end())
    return it->plane;
  made_.push_back({value, std::make_shared<Plane>()});
  return made_.back().plane;
}

Field Targets::field(const Strands& value) {
  Field f;
  f.kind = value.kind;
  f.regions = value.regions;
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(value.kind)); ++i) f.strand[i] = plane(value.at[i]);
  if (value.footprint) f.footprint = plane(*value.footprint);
  for (const auto& [name, member] : value.members) f.members.emplace_back(name, field(member));
  return f;
}

void Targets::run(const Stop& stop) {
  if (made_.empty()) return;
  std::vector<Plane*> outputs;
  for (std::size_t i = 0; i < made_.size(); ++i) {
    builder_.store(made_[i].value, static_cast<int>(i));
    *made_[i].plane = Plane(size_);
    outputs.push_back(made_[i].plane.get());
  }
  run_texels(builder_.build(), size_, outputs, stop);
}

std::size_t Targets::bytes() const {
  return made_.size() * static_cast<std::size_t>(size_) * static_cast<std::size_t>(size_) * sizeof(float);
}

}  // namespace loom
