// Gradient noise and cellular noise: lattices with whole periods, so that every octave closes.
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/hash.h"
#include "core/nodes/clip.h"

namespace loom {
namespace {

std::shared_ptr<const NoiseTable> lay_noise(const Emitter& e) {
  auto table = std::make_shared<NoiseTable>();
  const int octaves = e.integer("octaves");
  double scale = e.number("scale"), amplitude = 1, power = 0;
  for (int i = 0; i < octaves && scale <= 8192; ++i) {
    const double tall = scale * e.number("aspect");
    const auto period = [](double p) { return static_cast<std::int32_t>(std::clamp(std::round(p), 1.0, 16384.0)); };
    table->octaves.push_back({period(scale), period(tall),
                              fold32(combine(e.seed("lattice"), static_cast<std::uint64_t>(i))),
                              static_cast<float>(amplitude)});
    power += amplitude * amplitude;
    amplitude *= e.number("gain");
    scale *= e.number("lacunarity");
  }
  table->sum = e.is("sum", "ridged")     ? NoiseTable::Sum::ridged
               : e.is("sum", "billowed") ? NoiseTable::Sum::billowed
               : e.is("sum", "hybrid")   ? NoiseTable::Sum::hybrid
                                         : NoiseTable::Sum::plain;
  table->drift = static_cast<float>(e.number("drift") - std::floor(e.number("drift")));
  if (e.type().id != "gradient_noise") {
    table->basis = e.type().id == "facet_noise" ? NoiseTable::Basis::facet : NoiseTable::Basis::value;
    table->norm = static_cast<float>(1.0 / std::sqrt(std::max(power, 1e-12)));
    return table;
  }
  // Unit gradients reach 1/sqrt 2 at a cell's middle; the sum is brought to a like spread for any number of octaves.
  table->norm = static_cast<float>(1.0 / (0.70710678 * 1.25 * std::sqrt(std::max(power, 1e-12))));
  // The drift turns half of the gradients one way and half the other: after one whole drift all stand where they began.
  for (int g = 0; g < NoiseTable::kGradients; ++g) {
    const double turn = (g % 2 ? 1 : -1) * (2 * std::numbers::pi) * e.number("drift") +
                        (2 * std::numbers::pi) * (g + 0.5) / NoiseTable::kGradients;
    table->gradient_u[static_cast<std::size_t>(g)] = static_cast<float>(std::cos(turn));
    table->gradient_v[static_cast<std::size_t>(g)] = static_cast<float>(std::sin(turn));
  }
  return table;
}

// A noise of about -1..1 brought to 0..1: on the torus, or in space where positions are connected.
void emit_noise(Emitter& e, const Family& flat, const Family& solid, const ResourcePtr& table) {
  Reg sum;
  if (e.connected("positions")) {
    const auto p = e.position_in_space();
    sum = e.b.apply(solid, {p.x, p.y, p.z, p.footprint}, table, 1)[0];
  } else {
    const auto [u, v, footprint] = e.position();
    sum = e.b.apply(flat, {u, v, footprint}, table, 1)[0];
  }
  e.out("value", clipped(e, e.b.multiply_add(sum, e.b.constant(0.5f), e.b.constant(0.5f))));
}

void emit_gradient(Emitter& e) {
  emit_noise(e, kGradientNoise, kSolidNoise, e.laid<NoiseTable>([&] { return lay_noise(e); }));
}

std::shared_ptr<const CellTable> lay_cells(const Emitter& e) {
  auto table = std::make_shared<CellTable>();
  table->cells_u = std::max(1, e.integer("scale"));
  table->cells_v = std::max(1, static_cast<int>(std::lround(e.number("scale") * e.number("aspect"))));
  const auto n = static_cast<std::size_t>(table->cells_u) * static_cast<std::size_t>(table->cells_v);
  const auto stream = [&](const char* draw) { return fold32(e.seed(draw)); };
  const std::uint32_t su = stream("u"), sv = stream("v"), st = stream("tone");
  const float jitter = e.real("jitter");
  table->measure = e.is("metric", "manhattan")   ? CellTable::Measure::manhattan
                   : e.is("metric", "chebyshev") ? CellTable::Measure::chebyshev
                                                 : CellTable::Measure::euclidean;
  table->seed = stream("space");
  table->jitter = jitter;
  // The drift leads every point round a circle about its place, once for a whole drift.
  const float angle = static_cast<float>((2 * std::numbers::pi) * e.number("drift"));
  for (std::size_t i = 0; i < n; ++i) {
    const std::uint32_t key = pcg(static_cast<std::uint32_t>(i));
    const float phase = static_cast<float>((2 * std::numbers::pi)) * unit_random(stream("phase"), key);
    const float swing_u = 0.25f * (std::cos(phase + angle) - std::cos(phase)),
                swing_v = 0.25f * (std::sin(phase + angle) - std::sin(phase));
    table->point_u.push_back(0.5f + jitter * (std::clamp(unit_random(su, key) + swing_u, 0.0f, 1.0f) - 0.5f));
    table->point_v.push_back(0.5f + jitter * (std::clamp(unit_random(sv, key) + swing_v, 0.0f, 1.0f) - 0.5f));
    table->tone.push_back(unit_random(st, key));
  }
  return table;
}

void emit_cellular(Emitter& e) {
  const auto table = e.laid<CellTable>([&] { return lay_cells(e); });
  const bool solid = e.connected("positions");
  const auto at = e.position();
  const auto p = solid ? e.position_in_space() : Emitter::PositionInSpace{at.u, at.v, at.u, at.footprint};
  const auto cells = [&](const Family& on_tile, const Family& in_space, int results) {
    return solid ? e.b.apply(in_space, {p.x, p.y, p.z}, table, results)
                 : e.b.apply(on_tile, {at.u, at.v}, table, results);
  };
  const std::array<Reg, 4> found = cells(kCells, kSolidCells, 3);
  e.out("nearest", clipped(e, found[0]));
  e.out("second", clipped(e, found[1]));
  e.out("grey", found[2]);
  const Reg border = table->measure != CellTable::Measure::euclidean ? e.b.mul(e.b.sub(found[1], found[0]), 0.5f)
                                                                     : cells(kCellBorder, kSolidBorder, 1)[0];
  e.out("border", clipped(e, border));
}

constexpr const char* kSumHelp =
    "Octaves are summed after Musgrave: plain; ridged, sharp crests; billowed, round lumps; hybrid, rough heights over "
    "smooth hollows. Octaves finer than two samples fade out. Connected positions make it solid: a block of the noise, "
    "cut through in space.";

std::vector<Parameter> octave_parameters(int octaves) {
  const ActsWhen several{"octaves > 1", "There is only one octave."};
  std::vector<Parameter> all = {
      integer("scale", "Scale", 4)
          .times()
          .useful(1, 64)
          .limits(1, 1024)
          .column("Lattice")
          .help("How many cells lie across the tile; snapped to whole ones so that it closes."),
      scalar("aspect", "Aspect", 1.0)
          .useful(0.25, 4)
          .limits(0.02, 50)
          .column("Lattice")
          .help("How many times as wide as tall a cell is."),
      choice("sum", "Sum", {"plain", "ridged", "billowed", "hybrid"})
          .column("Octaves")
          .help("How the octaves are added up: plain is even, ridged has sharp crests, billowed round lumps, hybrid is "
                "rough on high ground only."),
      integer("octaves", "Octaves", octaves)
          .count()
          .useful(1, 10)
          .limits(1, 12)
          .column("Octaves")
          .help("How many layers are added up, each finer than the one before."),
      scalar("gain", "Gain", 0.5)
          .column("Octaves")
          .acts_when(several)
          .help("How much weaker each octave is than the one before: low is smooth, high is rough."),
      scalar("lacunarity", "Lacunarity", 2.0)
          .useful(1.5, 4)
          .limits(1.1, 8)
          .column("Octaves")
          .acts_when(several)
          .help("How many times finer each octave is than the one before.")};
  all.push_back(scalar("drift", "Drift", 0.0)
                    .share_of_period()
                    .limits(-64, 64)
                    .column("Chance")
                    .help("Lets the pattern flow; after one whole period it is as it was, so that it can loop."));
  all.push_back(seed("Chance"));
  for (Parameter& p : clip_parameters()) all.push_back(std::move(p));
  return all;
}

std::shared_ptr<const SpeckleTable> lay_speckle(const Emitter& e) {
  auto t = std::make_shared<SpeckleTable>();
  t->cells_u = std::max(3, e.integer("scale"));
  t->cells_v = std::max(3, static_cast<int>(std::lround(e.number("scale") * e.number("aspect"))));
  t->impulses = e.integer("density");
  const double frequency = e.number("frequency"), along = e.number("direction") / 360 * (2 * std::numbers::pi),
               spread = e.number("spread") * 0.5 * (2 * std::numbers::pi);
  const auto stream = [&](const char* draw) { return fold32(e.seed(draw)); };
  const std::uint32_t sx = stream("x"), sy = stream("y"), sw = stream("weight"), sa = stream("angle"),
                      sp = stream("phase");
  const auto count = static_cast<std::size_t>(t->cells_u) * static_cast<std::size_t>(t->cells_v) *
                     static_cast<std::size_t>(t->impulses);
  for (std::size_t i = 0; i < count; ++i) {
    const std::uint32_t key = pcg(static_cast<std::uint32_t>(i));
    const auto draw = [&](std::uint32_t s) { return unit_random(s, key); };
    const double angle = along + spread * (2 * static_cast<double>(draw(sa)) - 1);
    t->x.push_back(draw(sx));
    t->y.push_back(draw(sy));
    t->weight.push_back(2 * draw(sw) - 1);
    t->wave_x.push_back(static_cast<float>(frequency * std::cos(angle)));
    t->wave_y.push_back(static_cast<float>(-frequency * std::sin(angle)));
    t->phase.push_back(draw(sp));
  }
  t->highest = static_cast<float>(frequency * std::max(t->cells_u, t->cells_v));
  // Variance: impulses a cell, weights 1/3, waves 1/2, and the window's square over its disc, pi / 7.
  t->norm = static_cast<float>(1 / (2.5 * std::sqrt(std::max(1, t->impulses) / 6.0 * 3.14159265 / 7)));
  t->seed = stream("space");
  t->frequency = static_cast<float>(frequency), t->along = static_cast<float>(along), t->spread = e.real("spread");
  t->norm_in_space = static_cast<float>(
      1 / (2.5 * std::sqrt(std::max(1, t->impulses) / 6.0 * 0.285671)));  // the window's square over its ball
  return t;
}

void emit_speckle(Emitter& e) {
  emit_noise(e, kSpeckle, kSolidSpeckle, e.laid<SpeckleTable>([&] { return lay_speckle(e); }));
}

}  // namespace

void add_noise(Catalogue& catalogue) {
  catalogue.add(
      {.id = "gradient_noise",
       .label = "Gradient noise",
       .rack = Rack::make,
       .help = "Soft clouds from slopes on a lattice, summed over octaves.",
       .more = "Quintic fade and 64 unit gradients (Perlin, SIGGRAPH 2002), octaves summed after Musgrave: ridged has "
               "sharp crests, billowed round lumps, hybrid rough heights over smooth hollows. Octaves finer than two "
               "samples fade out. Connected positions make it solid: a block of the noise, cut through in space.",
       .words = "perlin clouds fractal fbm turbulence smoke",
       .inputs = {place_peg("coordinates", "Coordinates"), positions_peg()},
       .outputs = {{"value", "Value"}},
       .parameters = octave_parameters(5),
       .emit = emit_gradient,
       .random = true,
       .costly = true});
  catalogue.add(
      {.id = "cellular_noise",
       .label = "Cellular noise",
       .rack = Rack::make,
       .help = "Cells about scattered points: distances, borders and a grey for each cell.",
       .more = "One jittered point a cell; nearest and second distance in cell widths (Worley, SIGGRAPH 1996), border "
               "by exact bisectors, on the tile and in space; by the other metrics half of the difference.",
       .words = "worley voronoi cells stones cracks scales",
       .inputs = {place_peg("coordinates", "Coordinates"), positions_peg()},
       .outputs = {{"nearest", "Nearest"}, {"second", "Second"}, {"border", "Border"}, {"grey", "Cell grey"}},
       .parameters = {integer("scale", "Scale", 8)
                          .times()
                          .useful(1, 64)
                          .limits(1, 512)
                          .column("Lattice")
                          .help("How many cells lie across the tile; snapped to whole ones so that it closes."),
                      scalar("aspect", "Aspect", 1.0)
                          .useful(0.25, 4)
                          .limits(0.02, 16)
                          .column("Lattice")
                          .help("How many times as wide as tall a cell is."),
                      scalar("jitter", "Jitter", 1.0)
                          .share()
                          .column("Lattice")
                          .help("How far the points leave their lattice: 0 is a grid, 1 is full disorder."),
                      choice("metric", "Metric", {"euclidean", "manhattan", "chebyshev"})
                          .column("Distance")
                          .help("How distance is taken: round cells, diamonds or squares."),
                      scalar("drift", "Drift", 0.0)
                          .share_of_period()
                          .limits(-64, 64)
                          .column("Chance")
                          .acts_when("(jitter > 0) * (1 - connected(positions))",
                                     "The points stand still: jitter is 0, or they stand in space.")
                          .help("Lets the pattern flow; after one whole period it is as it was, so that it can loop."),
                      seed("Chance"), clip_parameters()[0], clip_parameters()[1], clip_parameters()[2]},
       .emit = emit_cellular,
       .random = true,
       .costly = true});
  catalogue.add({.id = "value_noise",
                 .label = "Value noise",
                 .rack = Rack::make,
                 .help = "Soft lumps between chance heights on a lattice.",
                 .more = std::string("Quintic fade between the heights of a cell's corners. ") + kSumHelp,
                 .words = "random clouds fractal blotches patches",
                 .inputs = {place_peg("coordinates", "Coordinates"), positions_peg()},
                 .outputs = {{"value", "Value"}},
                 .parameters = octave_parameters(4),
                 .emit = emit_gradient,
                 .random = true,
                 .costly = true});
  catalogue.add({.id = "facet_noise",
                 .label = "Facet noise",
                 .rack = Rack::make,
                 .help = "Flat facets between chance heights, as of broken stone.",
                 .more = std::string("Two plane triangles a cell. ") + kSumHelp,
                 .words = "crystal low poly broken stone chipped triangles",
                 .inputs = {place_peg("coordinates", "Coordinates"), positions_peg()},
                 .outputs = {{"value", "Value"}},
                 .parameters = octave_parameters(2),
                 .emit = emit_gradient,
                 .random = true,
                 .costly = true});
  catalogue.add(
      {.id = "speckle",
       .label = "Speckle",
       .rack = Rack::make,
       .help = "A grain with a wavelength and a direction of its own.",
       .more = "Sparse convolution with Gabor kernels (Lagae et al. 2009): chance impulses in each cell, a wave under "
               "the window (1 - r^2)^3. A full spread has no direction; none gives a brushed grain. Density is "
               "impulses a cell. Connected positions make it solid.",
       .words = "gabor grain brushed sparse convolution anisotropic spots",
       .inputs = {place_peg("coordinates", "Coordinates"), positions_peg()},
       .outputs = {{"value", "Value"}},
       .parameters = {integer("scale", "Scale", 12)
                          .times()
                          .useful(3, 64)
                          .limits(3, 256)
                          .column("Lattice")
                          .help("How many cells lie across the tile; snapped to whole ones so that it closes."),
                      scalar("aspect", "Aspect", 1.0)
                          .useful(0.25, 4)
                          .limits(0.05, 20)
                          .column("Lattice")
                          .help("How many times as wide as tall a cell is."),
                      integer("density", "Density", 5)
                          .count()
                          .useful(1, 10)
                          .limits(1, 24)
                          .column("Lattice")
                          .help("How many impulses fall into a cell: more are smoother and take longer."),
                      scalar("frequency", "Waves", 1.5)
                          .times()
                          .useful(0.5, 4)
                          .limits(0, 16)
                          .column("Wave")
                          .help("Waves over the width of a cell."),
                      scalar("direction", "Direction", 0.0)
                          .degrees()
                          .useful(0, 180)
                          .limits(-3600, 3600)
                          .column("Wave")
                          .acts_when("frequency > 0", "There are no waves.")
                          .help("Which way it runs, in degrees anticlockwise from the right."),
                      scalar("spread", "Spread", 1.0)
                          .share()
                          .column("Wave")
                          .acts_when("frequency > 0", "There are no waves.")
                          .help(
                              "How far the waves stray from the direction: 0 is a brushed grain, 1 has no direction."),
                      seed("Chance"), clip_parameters()[0], clip_parameters()[1], clip_parameters()[2]},
       .emit = emit_speckle,
       .random = true,
       .costly = true});
}

}  // namespace loom
