// Outputs that follow from a unit's table.
#include "core/nodes/laid_outputs.h"

#include <cmath>

namespace loom {

std::size_t Laid::bytes() const {
  return units.bytes() + stamps.bytes() + cover.bytes() + 4 * 24 * tone.size();  // with the regions' columns
}

void describe_region(Laid& laid, std::size_t i, std::uint32_t key, float u, float v, float half_u, float half_v,
                     float degrees) {
  RegionTable& t = *laid.regions;
  const float radians = degrees * 0.017453292519943f, c = std::cos(radians), s = std::sin(radians);
  const auto fraction = [](float x) { return x - std::floor(x); };
  t.key[i] = key;
  t.centre_u[i] = fraction(u);
  t.centre_v[i] = fraction(v);
  // The box's own axes: along (c, -s) and across (s, c), since v runs down and turns are anticlockwise.
  t.box_u[i] = fraction(u - c * half_u - s * half_v);
  t.box_v[i] = fraction(v + s * half_u - c * half_v);
  t.size_u[i] = 2 * half_u;
  t.size_v[i] = 2 * half_v;
  t.cosine[i] = c;
  t.sine[i] = s;
  t.area[i] = 4 * half_u * half_v;
}

Reg fetch(Builder& b, Reg unit, std::vector<float> column) {
  auto resource = std::make_shared<Column>();
  resource->values = std::move(column);
  return b.apply(kFetch, {unit}, resource, 1)[0];
}

void emit_unit_outputs(Emitter& e, const std::shared_ptr<const Laid>& laid, const LaidUnits& units, Reg unit, Reg x,
                       Reg y, Reg footprint) {
  Builder& b = e.b;
  e.out("grey", fetch(b, unit, laid->tone));
  e.out("regions", Strands{.kind = Kind::regions, .at = {unit}, .regions = laid->regions});
  const Reg half_u = fetch(b, unit, units.half_u), half_v = fetch(b, unit, units.half_v);
  const Reg there = b.apply(Op::less_equal, b.constant(0), unit), zero = b.constant(0);
  const auto along = [&](Reg at, Reg half) {
    return b.select(there, b.multiply_add(b.div(at, half), b.constant(0.5f), b.constant(0.5f)), zero);
  };
  // As wide as a sample is beside the unit's shorter side; where there is none, as in the tile.
  const Reg wide = b.select(there, b.div(footprint, b.mul(b.min(half_u, half_v), 2)), footprint);
  e.out_place("unit_coordinates", along(x, half_u), along(y, half_v), wide);
  e.out("unit_centre",
        Strands{.kind = Kind::vector2,
                .at = {fetch(b, unit, laid->regions->centre_u), fetch(b, unit, laid->regions->centre_v)}});
  std::vector<float> share;
  for (const float degrees : laid->turn) share.push_back(degrees / 360 - std::floor(degrees / 360));
  e.out("unit_turn", fetch(b, unit, share));
}

Parameter share_kept(const char* column, const char* noun) {
  return scalar("share_kept", "Share kept", 1.0)
      .share()
      .column(column)
      .help(std::string("Of all ") + noun + ", this share is kept, by chance.");
}

std::vector<Peg> laid_inputs() {
  Peg coordinates = place_peg("coordinates", "Coordinates");
  coordinates.whole_for_maps = true;
  return {std::move(coordinates), whole_peg("map_a", "Map A"), whole_peg("map_b", "Map B"), whole_peg("map_c", "Map C"),
          whole_peg("map_d", "Map D")};
}

std::vector<Peg> laid_outputs() {
  return {{"mask", "Mask"},
          {"height", "Height"},
          {"grey", "Grey"},
          {"regions", "Regions", Kind::regions},
          place_peg("unit_coordinates", "Unit coordinates"),
          {"unit_centre", "Unit centre", Kind::vector2},
          {"unit_turn", "Unit turn"}};
}

}  // namespace loom
