// Scatter: motifs stamped on a jittered grid.
#include <algorithm>
#include <bit>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/spaced.h"
#include "core/nodes/stamping.h"
#include "core/nodes/turns.h"

namespace loom {
namespace {

UnitSamples lay_grid(const Emitter& e, int columns, int rows) {
  UnitSamples s;
  const float wide = 1.0f / static_cast<float>(columns), tall = 1.0f / static_cast<float>(rows);
  const float turn = e.real("jitter_direction") / 360 * kTau, way_u = std::cos(turn), way_v = std::sin(turn);
  const std::uint32_t su = fold32(e.seed("jitter u")), sv = fold32(e.seed("jitter v"));
  for (int row = 0; row < rows; ++row)
    for (int column = 0; column < columns; ++column) {
      const std::uint32_t key = pcg(static_cast<std::uint32_t>(s.count()) + 1);
      const float along = e.real("jitter_u") * (unit_random(su, key) - 0.5f),
                  across = e.real("jitter_v") * (unit_random(sv, key) - 0.5f);
      const float ju = way_u * along + way_v * across, jv = way_u * across - way_v * along;
      const float stagger = row % 2 ? e.real("stagger") : 0.0f;
      s.add(static_cast<float>(row), static_cast<float>(column),
            (static_cast<float>(column) + 0.5f + stagger + ju) * wide, (static_cast<float>(row) + 0.5f + jv) * tall,
            wide, tall, key);
    }
  s.rows = static_cast<float>(rows);
  s.columns = static_cast<float>(columns);
  return s;
}

// As many cells as points, each as wide as the distance: sizes mean the same in both ways of spacing.
UnitSamples lay_spaced(const Emitter& e) {
  UnitSamples s;
  const float distance = e.real("distance");
  for (const SpacedPoint& p : spaced_points(distance, fold32(e.seed("places"))))
    s.add(std::floor(p.v / distance), std::floor(p.u / distance), p.u, p.v, distance, distance, p.key);
  s.rows = s.columns = std::ceil(1 / distance);
  return s;
}

std::shared_ptr<const Laid> lay_scatter(Emitter& e) {
  Stamping stamping(e);
  const int across = std::max(1, e.integer("cells_across"));
  int down = e.toggle("linked") ? across : std::max(1, e.integer("cells_down"));
  if (e.number("stagger") != 0) down += down % 2;  // rows in pairs, so that the last meets the first
  const UnitSamples s = e.is("spacing", "distance_apart") ? lay_spaced(e) : lay_grid(e, across, down);
  const auto size_u = e.per_unit("size_u", s), size_v = e.toggle("linked_size") ? size_u : e.per_unit("size_v", s),
             turn = e.per_unit("turn", s), tone = e.per_unit("tone", s), keep = e.per_unit("keep", s),
             motif = e.per_unit("motif", s);
  const auto shift = e.per_unit_vector("shift", s);
  const std::uint32_t kept = fold32(e.seed("share kept"));
  for (std::size_t i = 0; i < s.count(); ++i) {
    const auto key = std::bit_cast<std::uint32_t>(s.key[i]);
    if (keep[i] < 0.5f || unit_random(kept, key) >= e.real("share_kept")) continue;
    const int which = std::clamp(static_cast<int>(std::floor(motif[i])), 0, stamping.motifs() - 1);
    const float u = s.centre_u[i] + shift[0][i] * s.size_u[i], v = s.centre_v[i] + shift[1][i] * s.size_v[i];
    stamping.add({key, u - std::floor(u), v - std::floor(v), 0.5f * size_u[i] * s.size_u[i],
                  0.5f * size_v[i] * s.size_v[i], turn[i], tone[i], which});
  }
  return stamping.finished();
}

void emit_scatter(Emitter& e) {
  emit_stamps(e, e.laid<Laid>([&] { return lay_scatter(e); }));
}

}  // namespace

void add_scatter(Catalogue& catalogue) {
  const ActsWhen grid{"spacing == grid", "The stamps stand a distance apart, not on a grid."};
  Rule chance;
  chance.from.number = 0.4;
  chance.to.number = 1;
  catalogue.add(
      {.id = "scatter",
       .label = "Scatter",
       .rack = Rack::make,
       .help = "Motifs stamped over the tile, each varied by rule.",
       .more = "A jittered grid, or places at a minimum distance, as dense as chance makes them (dart throwing, Cook "
               "1986); a stamp's square is a share of its cell or of the distance. Avoid keeps every motif whole out "
               "of where that map is one half or more. Without a motif a round cap is stamped. Motifs are read from a "
               "mean pyramid at the level that fits the sample.",
       .words = "stamp place distribute strew pebbles particles dots chips",
       .inputs = stamp_inputs(),
       .outputs = laid_outputs(),
       .parameters =
           {choice("spacing", "Spacing", {"grid", "distance_apart"})
                .column("Grid")
                .help("Stamps in the cells of a grid, or at chance places that keep a distance, as close as they will "
                      "go."),
            scalar("distance", "Distance", 0.08)
                .share_of_tile()
                .useful(0.02, 0.3)
                .limits(0.006, 1)
                .column("Grid")
                .acts_when("spacing == distance_apart", "The stamps stand on a grid.")
                .help("How near to each other two stamps' middles may stand."),
            integer("cells_across", "Cells across", 8)
                .count()
                .useful(1, 32)
                .limits(1, 256)
                .column("Grid")
                .acts_when(grid)
                .help("How many cells the grid has across."),
            toggle("linked", "Linked", true).column("Grid").acts_when(grid).help("The second count follows the first."),
            integer("cells_down", "Cells down", 8)
                .count()
                .useful(1, 32)
                .limits(1, 256)
                .column("Grid")
                .acts_when("(linked == 0) * (spacing == grid)",
                           "The cells down follow the cells across, or there is no grid.")
                .help("How many cells the grid has down, where they are not linked."),
            scalar("stagger", "Stagger", 0.0)
                .share()
                .useful(0, 0.5)
                .limits(-1, 1)
                .column("Grid")
                .acts_when(grid)
                .help("Moves every second row; the rows are then snapped to an even count."),
            scalar("jitter_u", "Jitter along u", 0.6)
                .share()
                .limits(0, 4)
                .column("Grid")
                .acts_when(grid)
                .help("How far a stamp leaves the middle of its cell along u, in shares of the cell."),
            scalar("jitter_v", "Jitter along v", 0.6)
                .share()
                .limits(0, 4)
                .column("Grid")
                .acts_when(grid)
                .help("How far a stamp leaves the middle of its cell along v, in shares of the cell."),
            scalar("jitter_direction", "Jitter direction", 0.0)
                .degrees()
                .useful(0, 180)
                .limits(-3600, 3600)
                .column("Grid")
                .acts_when("(spacing == grid) * (jitter_u + jitter_v > 0)", "Nothing strays from a grid.")
                .help("Turns both jitters, anticlockwise: with one of them alone, stamps stray along a line."),
            scalar("motif", "Motif", 0.0)
                .count()
                .useful(0, 7)
                .limits(0, 7.999)
                .column("Stamp")
                .per_unit()
                .help("0 is the first connected motif; a rule from 0 to n deals n of them."),
            scalar("size_u", "Size along u", 0.8)
                .share()
                .useful(0, 2)
                .limits(-4, 4)
                .column("Stamp")
                .per_unit()
                .help("How large a stamp is along u, in shares of its cell or distance."),
            toggle("linked_size", "Sizes linked", true)
                .column("Stamp")
                .help("The size along v follows the one along u."),
            scalar("size_v", "Size along v", 0.8)
                .share()
                .useful(0, 2)
                .limits(-4, 4)
                .column("Stamp")
                .per_unit()
                .acts_when("linked_size == 0", "The size along v follows the one along u: they are linked.")
                .help(
                    "How large a stamp is along v, in shares of its cell or distance, where the sizes are not linked."),
            vector2("shift", "Shift", 0, 0)
                .share()
                .useful(-0.5, 0.5)
                .limits(-8, 8)
                .column("Stamp")
                .per_unit()
                .help("Moves each stamp, in shares of its cell or distance."),
            scalar("turn", "Turn", 0.0)
                .degrees()
                .useful(-180, 180)
                .limits(-3600, 3600)
                .column("Stamp")
                .per_unit()
                .help("Turns each stamp about its middle, anticlockwise."),
            scalar("tone", "Tone", chance)
                .share()
                .limits(-1000, 1000)
                .column("Tone")
                .per_unit()
                .help("Multiplies the value of each stamp, and is its grey at the grey output."),
            scalar("keep", "Keep", 1.0)
                .share()
                .column("Tone")
                .per_unit()
                .help("A stamp is kept where this is 0.5 or more."),
            share_kept("Tone", "stamps"),
            overlap_parameters("Tone")[0],
            overlap_parameters("Tone")[1],
            seed("Tone")},
       .emit = emit_scatter,
       .random = true,
       .costly = true});
}

}  // namespace loom
