// Gradient noise and cellular noise: lattices with whole periods, so that every octave closes.
#include <algorithm>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/node_call.h"

namespace loom {
namespace {

constexpr double kTau = 6.283185307179586;

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
    const double turn = (g % 2 ? 1 : -1) * kTau * e.number("drift") + kTau * (g + 0.5) / NoiseTable::kGradients;
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
  e.out("value", e.b.multiply_add(sum, e.b.constant(0.5f), e.b.constant(0.5f)));
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
  const float angle = static_cast<float>(kTau * e.number("drift"));
  for (std::size_t i = 0; i < n; ++i) {
    const std::uint32_t key = pcg(static_cast<std::uint32_t>(i));
    const float phase = static_cast<float>(kTau) * unit_random(stream("phase"), key);
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
  const auto [u, v, footprint] = e.position();
  const auto p = solid ? e.position_in_space() : Emitter::PositionInSpace{u, v, u, footprint};
  const auto cells = [&](const Family& on_tile, const Family& in_space, int results) {
    return solid ? e.b.apply(in_space, {p.x, p.y, p.z}, table, results) : e.b.apply(on_tile, {u, v}, table, results);
  };
  const std::array<Reg, 4> found = cells(kCells, kSolidCells, 3);
  e.out("nearest", found[0]);
  e.out("second", found[1]);
  e.out("grey", found[2]);
  if (table->measure != CellTable::Measure::euclidean)
    e.out("border", e.b.mul(e.b.sub(found[1], found[0]), 0.5f));
  else
    e.out("border", cells(kCellBorder, kSolidBorder, 1)[0]);
}

constexpr const char* kSumHelp =
    "Octaves are summed after Musgrave: plain; ridged, sharp crests; billowed, round lumps; hybrid, rough heights over "
    "smooth hollows. Octaves finer than two samples fade out. Connected positions make it solid: a block of the noise, "
    "cut through in space.";

std::vector<Parameter> octave_parameters(double octaves) {
  const ActsWhen several{"octaves > 1", "There is only one octave."};
  std::vector<Parameter> all = {
      {"scale", "Scale", ParameterKind::integer, Unit::times, 4.0, {1, 64}, {1, 1024}, "Lattice"},
      {"aspect", "Aspect", ParameterKind::scalar, Unit::none, 1.0, {0.25, 4}, {0.02, 50}, "Lattice"},
      {"sum",
       "Sum",
       ParameterKind::choice,
       Unit::none,
       std::string("plain"),
       {},
       {},
       "Octaves",
       {"plain", "ridged", "billowed", "hybrid"}},
      {"octaves", "Octaves", ParameterKind::integer, Unit::count, octaves, {1, 10}, {1, 12}, "Octaves"},
      {"gain", "Gain", ParameterKind::scalar, Unit::none, 0.5, {0, 1}, {0, 1}, "Octaves", {}, several},
      {"lacunarity", "Lacunarity", ParameterKind::scalar, Unit::none, 2.0, {1.5, 4}, {1.1, 8}, "Octaves", {}, several}};
  all.push_back({"drift", "Drift", ParameterKind::scalar, Unit::share_of_period, 0.0, {0, 1}, {-64, 64}, "Chance"});
  all.push_back({"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Chance"});
  return all;
}

std::shared_ptr<const SpeckleTable> lay_speckle(const Emitter& e) {
  auto t = std::make_shared<SpeckleTable>();
  t->cells_u = std::max(3, e.integer("scale"));
  t->cells_v = std::max(3, static_cast<int>(std::lround(e.number("scale") * e.number("aspect"))));
  t->impulses = e.integer("density");
  const double frequency = e.number("frequency"), along = e.number("direction") / 360 * kTau,
               spread = e.number("spread") * 0.5 * kTau;
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
       .parameters = {{"scale", "Scale", ParameterKind::integer, Unit::times, 8.0, {1, 64}, {1, 512}, "Lattice"},
                      {"aspect", "Aspect", ParameterKind::scalar, Unit::none, 1.0, {0.25, 4}, {0.02, 16}, "Lattice"},
                      {"jitter", "Jitter", ParameterKind::scalar, Unit::share, 1.0, {0, 1}, {0, 1}, "Lattice"},
                      {"metric",
                       "Metric",
                       ParameterKind::choice,
                       Unit::none,
                       std::string("euclidean"),
                       {},
                       {},
                       "Distance",
                       {"euclidean", "manhattan", "chebyshev"}},
                      {"drift",
                       "Drift",
                       ParameterKind::scalar,
                       Unit::share_of_period,
                       0.0,
                       {0, 1},
                       {-64, 64},
                       "Chance",
                       {},
                       {"(jitter > 0) * (1 - connected(positions))",
                        "The points stand still: jitter is 0, or they stand in space."}},
                      {"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Chance"}},
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
       .parameters = {{"scale", "Scale", ParameterKind::integer, Unit::times, 12.0, {3, 64}, {3, 256}, "Lattice"},
                      {"aspect", "Aspect", ParameterKind::scalar, Unit::none, 1.0, {0.25, 4}, {0.05, 20}, "Lattice"},
                      {"density", "Density", ParameterKind::integer, Unit::count, 5.0, {1, 10}, {1, 24}, "Lattice"},
                      {"frequency",
                       "Waves",
                       ParameterKind::scalar,
                       Unit::times,
                       1.5,
                       {0.5, 4},
                       {0, 16},
                       "Wave",
                       {},
                       {},
                       false,
                       "Waves over the width of a cell."},
                      {"direction",
                       "Direction",
                       ParameterKind::scalar,
                       Unit::degrees,
                       0.0,
                       {0, 180},
                       {-3600, 3600},
                       "Wave",
                       {},
                       {"frequency > 0", "There are no waves."}},
                      {"spread",
                       "Spread",
                       ParameterKind::scalar,
                       Unit::share,
                       1.0,
                       {0, 1},
                       {0, 1},
                       "Wave",
                       {},
                       {"frequency > 0", "There are no waves."}},
                      {"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Chance"}},
       .emit = emit_speckle,
       .random = true,
       .costly = true});
}

}  // namespace loom
