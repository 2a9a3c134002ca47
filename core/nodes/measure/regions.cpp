// Label regions finds them; Region values tells what is known of them.
#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/nodes/laid_outputs.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

// Each region here takes the key of the region at the working size that it overlaps most.
void inherit_keys(Labels& labels, const Field& working, const Stop& stop) {
  const Plane& own = labels.index;
  const Plane& other = *working.strand[0];
  const double scale = static_cast<double>(other.size()) / own.size();
  std::vector<std::map<int, int>> overlap(labels.table.count());
  const int step = std::max(1, own.size() / 2048);  // enough votes; each region of eight texels has many
  for (int y = 0; y < own.size() && !stop.asked(); y += step)
    for (int x = 0; x < own.size(); x += step) {
      const float index = own.at(x, y);
      if (index < 0) continue;
      const float there = other.at(std::min(static_cast<int>((x + 0.5) * scale), other.size() - 1),
                                   std::min(static_cast<int>((y + 0.5) * scale), other.size() - 1));
      if (there >= 0) ++overlap[static_cast<std::size_t>(index)][static_cast<int>(there)];
    }
  for (std::size_t i = 0; i < overlap.size(); ++i) {
    const auto most = std::max_element(overlap[i].begin(), overlap[i].end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    if (most != overlap[i].end()) labels.table.key[i] = working.regions->key[static_cast<std::size_t>(most->first)];
  }
}

Result<Done> label(AreaCall& call) {
  Labels labels = label_regions(*call.plane("mask"), call.real("level"), call.toggle("corners"), call.stop);
  if (const auto it = call.at_working_size.find("regions"); it != call.at_working_size.end())
    inherit_keys(labels, it->second, call.stop);
  Field out;
  out.kind = Kind::regions;
  out.strand[0] = std::make_shared<Plane>(std::move(labels.index));
  out.regions = std::make_shared<RegionTable>(std::move(labels.table));
  call.out("regions", std::move(out));
  return call.done();
}

// The nearest region of every texel, so that values go on under the joints.
struct ReachTable : Resource {
  PlanePtr unit;
};
std::shared_ptr<const ReachTable> nearest_units(const Field& regions) {
  const Plane& index = *regions.strand[0];
  const DistanceField nearest = distance_to(index, -0.5f, Stop{});
  auto unit = std::make_shared<Plane>(index.size());
  for (std::size_t i = 0; i < index.texels(); ++i)
    unit->data()[i] = nearest.nearest[i] >= 0 ? index.data()[nearest.nearest[i]] : -1;
  auto table = std::make_shared<ReachTable>();
  table->unit = std::move(unit);
  return table;
}

// For rules and formulas. Courses and columns: how many centres lie above, and how many to the left.
UnitSamples units_of(const RegionTable& t) {
  const std::size_t n = t.count();
  const auto ranks = [n](const std::vector<float>& centre) {
    std::vector<std::size_t> order(n);
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t i, std::size_t j) { return centre[i] < centre[j]; });
    std::vector<float> rank(n);
    for (std::size_t k = 0; k < n; ++k) rank[order[k]] = static_cast<float>(k);
    return rank;
  };
  const auto row = ranks(t.centre_v), column = ranks(t.centre_u);
  UnitSamples units;
  for (std::size_t i = 0; i < n; ++i)
    units.add(row[i], column[i], t.centre_u[i], t.centre_v[i], t.size_u[i], t.size_v[i], t.key[i]);
  units.rows = units.columns = static_cast<float>(n);
  return units;
}

void values(Emitter& e) {
  Builder& b = e.b;
  const Strands in = e.in("regions");
  static const auto kEmpty = std::make_shared<RegionTable>();
  const RegionTable& t = in.regions ? *in.regions : *kEmpty;
  const Reg unit = e.toggle("reach") && e.whole("regions")
                       ? b.read(e.laid<ReachTable>([&] { return nearest_units(*e.whole("regions")); })->unit)
                       : in.at[0],
            zero = b.constant(0);
  const std::size_t n = t.count();
  const UnitSamples units = units_of(t);
  const auto draw = [&](const char* name) {
    std::vector<float> column(n);
    const std::uint32_t stream = fold32(e.seed(name));
    for (std::size_t i = 0; i < n; ++i) column[i] = unit_random(stream, t.key[i]);
    return column;
  };
  e.out("grey", fetch(b, unit, e.per_unit("tone", units)));
  e.out("colour",
        Strands{.kind = Kind::colour,
                .at = {fetch(b, unit, draw("red")), fetch(b, unit, draw("green")), fetch(b, unit, draw("blue"))}});
  float most = 0;
  for (const float a : t.area) most = std::max(most, a);
  std::vector<float> area(n), order(n);
  for (std::size_t i = 0; i < n; ++i)
    area[i] = most > 0 ? t.area[i] / most : 0, order[i] = n > 1 ? static_cast<float>(i) / static_cast<float>(n - 1) : 0;
  e.out("area", fetch(b, unit, area));
  e.out("order", fetch(b, unit, order));
  e.out("centre", Strands{.kind = Kind::vector2, .at = {fetch(b, unit, t.centre_u), fetch(b, unit, t.centre_v)}});
  e.out("box", Strands{.kind = Kind::vector2, .at = {fetch(b, unit, t.size_u), fetch(b, unit, t.size_v)}});
  // Coordinates within the box: from its corner along its own axes.
  const auto offset = [&](Reg at, const std::vector<float>& corner) {
    return b.fract(b.add(b.sub(at, fetch(b, unit, corner)), 1e-6f));
  };
  Reg x = offset(b.u(), t.box_u), y = offset(b.v(), t.box_v);
  const bool turned = std::any_of(t.sine.begin(), t.sine.end(), [](float s) { return std::abs(s) > 1e-6f; });
  if (turned) {  // from the centre, the nearest whole tile, then along the turned axes
    const auto from_centre = [&](Reg at, const std::vector<float>& centre) {
      return b.add(b.fract(b.add(b.sub(at, fetch(b, unit, centre)), 0.5f)), -0.5f);
    };
    const Reg du = from_centre(b.u(), t.centre_u), dv = from_centre(b.v(), t.centre_v), c = fetch(b, unit, t.cosine),
              s = fetch(b, unit, t.sine);
    x = b.multiply_add(fetch(b, unit, t.size_u), b.constant(0.5f), b.sub(b.mul(du, c), b.mul(dv, s)));
    y = b.multiply_add(fetch(b, unit, t.size_v), b.constant(0.5f), b.add(b.mul(du, s), b.mul(dv, c)));
  }
  const Reg there = b.apply(Op::less_equal, zero, unit);
  const auto share = [&](Reg at, const std::vector<float>& size) {
    return b.select(there, b.clamp(b.div(at, fetch(b, unit, size)), 0, 1), zero);
  };
  const Reg px = share(x, t.size_u), py = share(y, t.size_v);
  const Reg wide = b.div(b.footprint(), b.min(fetch(b, unit, t.size_u), fetch(b, unit, t.size_v)));
  e.out_place("coordinates", px, py, b.select(there, wide, b.footprint()));
  // A plane tilted by chance: its slope along both axes of the box, 0.5 in the middle.
  const std::vector<float> tilt = e.per_unit("tilt", units);
  std::vector<float> along = draw("along"), across = draw("across");
  for (auto* column : {&along, &across})
    for (std::size_t i = 0; i < n; ++i) (*column)[i] = tilt[i] * (2 * (*column)[i] - 1);
  const Reg slope =
      b.multiply_add(b.add(px, -0.5f), fetch(b, unit, along), b.mul(b.add(py, -0.5f), fetch(b, unit, across)));
  e.out("plane", b.select(there, b.add(slope, 0.5f), zero));
}

}  // namespace

void add_regions(Catalogue& catalogue) {
  catalogue.add({.id = "label_regions",
                 .label = "Label regions",
                 .rack = Rack::measure,
                 .help = "Finds the connected white parts of a mask and tells them apart.",
                 .more = "Runs along rows, joined on the torus: a region across the tile's edge is one, one that runs "
                         "round the tile too. Labelled at the working size; other sizes inherit by largest overlap, so "
                         "chance by region is the same at every size.",
                 .words = "segment connected components islands id",
                 .inputs = {{"mask", "Mask"}},
                 .outputs = {{"regions", "Regions", Kind::regions}},
                 .parameters = {scalar("mask", "Mask", 0.0).column("Input").stands_in(),
                                scalar("level", "Level", 0.5)
                                    .useful(0.05, 0.95)
                                    .limits(-1e4, 1e4)
                                    .column("Regions")
                                    .acts_when("connected(mask)", "There is nothing to label: connect a mask.")
                                    .help("From this value up the mask counts."),
                                toggle("corners", "Corners touch")
                                    .column("Regions")
                                    .acts_when("connected(mask)", "There is nothing to label: connect a mask.")
                                    .help("Texels that touch at a corner only belong to one region.")},
                 .evaluate = label,
                 .at_working_size = true});
  const ActsWhen there{"connected(regions)", "There are no regions: connect some."};
  Rule chance;
  chance.to.number = 1;
  std::vector<Peg> inputs = laid_inputs();  // the maps that rules and formulas read
  inputs.front() = {.id = "regions", .label = "Regions", .kind = Kind::regions, .whole_when = "reach"};
  catalogue.add(
      {.id = "region_values",
       .label = "Region values",
       .rack = Rack::measure,
       .help = "What is known of each region, or drawn for it by chance.",
       .more = "Area is a share of the largest region's; the box lies along the unit's own axes. Rules and formulas "
               "take a region's rank from the top as its course and its rank from the left as its column.",
       .words = "segment islands per region random id box gradient",
       .inputs = inputs,
       .outputs = {{"grey", "Grey"},
                   {"colour", "Random colour", Kind::colour},
                   {"plane", "Tilted plane"},
                   {"area", "Area"},
                   {"order", "Order"},
                   {"centre", "Centre", Kind::vector2},
                   {"box", "Box", Kind::vector2},
                   place_peg("coordinates", "Coordinates")},
       .parameters = {toggle("reach", "Reach under joints")
                          .column("Regions")
                          .acts_when(there)
                          .help("Where there is no region the nearest one counts."),
                      scalar("tone", "Tone", chance)
                          .limits(-1000, 1000)
                          .column("Each region")
                          .per_unit()
                          .acts_when(there)
                          .help("The grey of each unit at the grey output."),
                      scalar("tilt", "Tilt", 0.5)
                          .limits(-100, 100)
                          .column("Each region")
                          .per_unit()
                          .acts_when(there)
                          .help("How far each region's plane is tilted by a chance of its own."),
                      seed("Chance").acts_when(there)},
       .emit = values,
       .random = true});
}

}  // namespace loom
