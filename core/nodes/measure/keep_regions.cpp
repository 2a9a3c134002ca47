// Keep regions: those whose area, place, chance or map is within bounds.
#include <algorithm>

#include "core/base/hash.h"
#include "core/nodes/laid_outputs.h"

namespace loom {
namespace {

std::vector<float> measured(Emitter& e, const RegionTable& t) {
  std::vector<float> value(t.count());
  if (e.is("by", "area")) {
    float most = 0;
    for (const float a : t.area) most = std::max(most, a);
    for (std::size_t i = 0; i < value.size(); ++i) value[i] = most > 0 ? t.area[i] / most : 0;
  } else if (e.is("by", "place_u")) {
    value = t.centre_u;
  } else if (e.is("by", "place_v")) {
    value = t.centre_v;
  } else if (e.is("by", "chance")) {
    const std::uint32_t stream = fold32(e.seed("keep"));
    for (std::size_t i = 0; i < value.size(); ++i) value[i] = unit_random(stream, t.key[i]);
  } else if (const Field* map = e.whole("map")) {
    const Plane& p = *map->strand[0];
    const auto at = [&](float share) {
      return std::clamp(static_cast<int>(share * static_cast<float>(p.size())), 0, p.size() - 1);
    };
    for (std::size_t i = 0; i < value.size(); ++i) value[i] = p.at(at(t.centre_u[i]), at(t.centre_v[i]));
  }
  return value;
}

void emit_keep_regions(Emitter& e) {
  Builder& b = e.b;
  const Strands in = e.in("regions");
  static const auto kEmpty = std::make_shared<RegionTable>();
  const RegionTable& t = in.regions ? *in.regions : *kEmpty;
  std::vector<float> keep = measured(e, t);
  const float least = e.real("minimum"), most = e.real("maximum");
  for (float& k : keep) k = (k >= least && k <= most) != e.toggle("inverted") ? 1.0f : 0.0f;
  const Reg unit = in.at[0], kept = b.mul(fetch(b, unit, keep), b.apply(Op::less_equal, b.constant(0), unit));
  e.out("mask", kept);
  e.out("regions", Strands{.kind = Kind::regions, .at = {b.select(kept, unit, b.constant(-1))}, .regions = in.regions});
}

}  // namespace

void add_keep_regions(Catalogue& catalogue) {
  const ActsWhen there{"connected(regions)", "There are no regions: connect some."};
  catalogue.add(
      {.id = "keep_regions",
       .label = "Keep regions",
       .rack = Rack::measure,
       .help = "Keeps the regions whose area, place, chance or map lies within bounds.",
       .more = "Area is a share of the largest region's; a place and a map are taken at the region's centre; chance is "
               "one draw a region, the same at every size.",
       .words = "segment islands per region filter select size remove small",
       .inputs = {{"regions", "Regions", Kind::regions}, whole_peg("map", "Map")},
       .outputs = {{"mask", "Mask"}, {"regions", "Regions", Kind::regions}},
       .parameters = {choice("by", "By", {"area", "place_u", "place_v", "chance", "map_at_centre"})
                          .column("Keep")
                          .acts_when(there)
                          .help("What regions are chosen by: their area against the largest one's, where their centre "
                                "lies, chance, or a map read there."),
                      scalar("minimum", "Minimum", 0.5)
                          .share()
                          .limits(-1e4, 1e4)
                          .column("Keep")
                          .acts_when(there)
                          .help("Regions below this go."),
                      scalar("maximum", "Maximum", 1.0)
                          .share()
                          .limits(-1e4, 1e4)
                          .column("Keep")
                          .acts_when(there)
                          .help("Regions above this go."),
                      toggle("inverted", "Inverted")
                          .column("Keep")
                          .acts_when(there)
                          .help("Keeps those that would go, and the other way about."),
                      seed("Chance").acts_when("connected(regions) * (by == chance)", "Nothing is drawn by chance.")},
       .emit = emit_keep_regions,
       .random = true});
}

}  // namespace loom
