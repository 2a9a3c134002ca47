// Nested scatter: motifs on a grid that is divided again at each level.
#include <algorithm>
#include <bit>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/stamping.h"

namespace loom {
namespace {

constexpr int kMostLevels = 12;
constexpr std::size_t kMostCells = std::size_t{1} << 18;

std::string of_level(const char* name, int level) { return std::string(name) + "_" + std::to_string(level); }

struct Division {
  int across, down;
};
Division division_of(const NodeCall& c, int level) {
  return {std::max(1, c.integer(of_level("across", level))), std::max(1, c.integer(of_level("down", level)))};
}

// How many levels are laid: one that would make too many cells, by itself or with those above, ends the division.
int laid_levels(const NodeCall& c) {
  std::size_t cells = 1, all = 0;
  const int wanted = c.integer("levels");
  for (int level = 1; level <= wanted; ++level) {
    const Division d = division_of(c, level);
    cells *= static_cast<std::size_t>(d.across) * static_cast<std::size_t>(d.down);
    all += cells;
    if (cells > kMostCells || all > 2 * kMostCells) return level - 1;
  }
  return wanted;
}

struct Cell {
  float row, column, u, v, wide, tall;
  std::uint32_t key;
};  // u, v: its middle, moved by the shifts above it

std::vector<Cell> divided(const std::vector<Cell>& cells, Division d) {
  std::vector<Cell> finer;
  finer.reserve(cells.size() * static_cast<std::size_t>(d.across) * static_cast<std::size_t>(d.down));
  for (const Cell& c : cells) {
    const float wide = c.wide / static_cast<float>(d.across), tall = c.tall / static_cast<float>(d.down);
    for (int j = 0; j < d.down; ++j)
      for (int i = 0; i < d.across; ++i)
        finer.push_back({c.row * static_cast<float>(d.down) + static_cast<float>(j),
                         c.column * static_cast<float>(d.across) + static_cast<float>(i),
                         c.u - 0.5f * c.wide + (static_cast<float>(i) + 0.5f) * wide,
                         c.v - 0.5f * c.tall + (static_cast<float>(j) + 0.5f) * tall, wide, tall,
                         pcg(c.key ^ pcg(static_cast<std::uint32_t>(j * d.across + i + 1)))});
  }
  return finer;
}

UnitSamples samples_of(const std::vector<Cell>& cells, int level, float rows, float columns) {
  UnitSamples s;
  for (const Cell& c : cells) s.add(c.row, c.column, c.u, c.v, c.wide, c.tall, c.key);
  std::fill(s.level.begin(), s.level.end(), static_cast<float>(level));
  s.rows = rows;
  s.columns = columns;
  return s;
}

std::shared_ptr<const Laid> lay_nested_scatter(Emitter& e) {
  Stamping stamping(e);
  std::vector<Cell> cells{{0, 0, 0.5f, 0.5f, 1, 1, pcg(1)}};
  float rows = 1, columns = 1;
  const int levels = laid_levels(e);
  for (int level = 1; level <= levels; ++level) {
    const Division d = division_of(e, level);
    cells = divided(cells, d);
    rows *= static_cast<float>(d.down);
    columns *= static_cast<float>(d.across);
    const UnitSamples s = samples_of(cells, level, rows, columns);
    const auto keep = e.per_unit(of_level("keep", level), s), motif = e.per_unit(of_level("motif", level), s),
               turn = e.per_unit(of_level("turn", level), s), tone = e.per_unit(of_level("tone", level), s);
    const auto shift = e.per_unit_vector(of_level("shift", level), s),
               stamp_shift = e.per_unit_vector(of_level("stamp_shift", level), s),
               size = e.per_unit_vector(of_level("size", level), s);
    std::vector<Cell> kept;
    for (std::size_t i = 0; i < cells.size(); ++i) {
      if (keep[i] < 0.5f) continue;
      Cell c = cells[i];
      c.u += shift[0][i] * c.wide;
      c.v += shift[1][i] * c.tall;
      kept.push_back(c);
      const int which = std::min(static_cast<int>(std::floor(motif[i])), stamping.motifs());
      if (which < 1) continue;  // this cell only divides
      const float u = c.u + stamp_shift[0][i] * c.wide, v = c.v + stamp_shift[1][i] * c.tall;
      stamping.add({c.key, u - std::floor(u), v - std::floor(v), 0.5f * size[0][i] * c.wide, 0.5f * size[1][i] * c.tall,
                    turn[i], tone[i], which - 1});
    }
    cells = std::move(kept);
  }
  auto laid = stamping.finished();
  if (e.toggle("full_range")) stretch_height(*laid, e.resolution(), e.stop);
  return laid;
}

void emit_nested_scatter(Emitter& e) {
  emit_stamps(e, e.laid<Laid>([&] { return lay_nested_scatter(e); }));
}

std::string cut_short(const NodeCall& c) {
  const int levels = laid_levels(c);
  return levels == c.integer("levels")
             ? ""
             : "Level " + std::to_string(levels + 1) + " would make more than " + std::to_string(kMostCells) +
                   " cells, or twice as many with those above: "
                   "it is left out. Divide less";
}

// Four levels to begin with, divided unlike one another, a motif only in the last.
std::vector<Parameter> level_parameters(int level) {
  const std::string n = std::to_string(level), column = "Level " + n;
  const ActsWhen there{"levels >= " + n, "There is no level " + n + ": add one."};
  const ActsWhen stamps{"(levels >= " + n + ") * (motif_" + n + " != 0)",
                        "This level stamps nothing: give it a motif."};
  Rule sizes, chance;
  sizes.from.number = 0.4;
  sizes.to.number = 1.1;
  chance.from.number = 0.3;
  chance.to.number = 1;
  // From the seventh on a level stamps again in the cells of the one above.
  const int across = level == 1 ? 3 : level > 6 ? 1 : 2, down = level == 1 ? 3 : level == 3 || level > 6 ? 1 : 2;
  const bool last = level >= 4;
  const auto ours = [&](ParameterBuilder p) { return p.column(column).acts_when(there); };
  const auto of_stamps = [&](ParameterBuilder p) { return p.column(column).acts_when(stamps).per_unit(); };
  return {
      ours(integer("across_" + n, "Divided across", across).count().useful(1, 8).limits(1, 64))
          .help("Into how many columns each cell of the level before is divided."),
      ours(integer("down_" + n, "Divided down", down).count().useful(1, 8).limits(1, 64))
          .help("Into how many rows each cell of the level before is divided."),
      ours(scalar("motif_" + n, "Motif", last ? 1.0 : 0.0).count().useful(0, 8).limits(0, 8.999).per_unit())
          .help("0 stamps nothing, 1 is the first connected motif."),
      ours(scalar("keep_" + n, "Keep", 1.0).share().per_unit())
          .help("A cell below 0.5 stamps nothing and is not divided again."),
      ours(vector2("shift_" + n, "Shift", 0, 0).share().useful(-0.5, 0.5).limits(-8, 8).per_unit())
          .help("In shares of the cell; what is divided from the cell goes along."),
      of_stamps(vector2("stamp_shift_" + n, "Stamp shift", 0, 0).share().useful(-0.5, 0.5).limits(-8, 8))
          .help("In shares of the cell, the stamp alone: what is divided from the cell stays."),
      of_stamps(vector2("size_" + n, "Size", last ? ParamValue(sizes) : ParamValue(Vector{0.8, 0.8}))
                    .share()
                    .useful(0, 2)
                    .limits(-8, 8))
          .help("Of the stamp, in shares of the cell; one number counts for both sides."),
      of_stamps(scalar("turn_" + n, "Turn", 0.0).degrees().useful(-180, 180).limits(-3600, 3600))
          .help("How far it is turned, anticlockwise."),
      of_stamps(scalar("tone_" + n, "Tone", last ? ParamValue(chance) : ParamValue(1.0)).share().limits(-1000, 1000))
          .help("Multiplies the value of each stamp, and is its grey at the grey output.")};
}

}  // namespace

void add_nested_scatter(Catalogue& catalogue) {
  NodeType t{
      .id = "nested_scatter",
      .label = "Nested scatter",
      .rack = Rack::make,
      .help = "Motifs on a grid that is divided again at each level: a noise of one's own.",
      .more =
          "Level 1 divides the tile, each further level divides every cell that the one above kept. A level stamps a "
          "motif in each of its cells, or only divides. Shifts carry along what is divided from a cell; sizes and "
          "turns are the stamp's alone. Formulas know level, index, row and column within the level's whole grid, "
          "centre and size of the cell. Full range stretches the height to 0..1 as it is found at 256 by 256 places.",
      .words = "recursive subdivide fractal own noise",
      .inputs = stamp_inputs(),
      .outputs = laid_outputs()};
  t.parameters = {
      integer("levels", "Levels", 4)
          .count()
          .useful(1, kMostLevels)
          .column("Levels")
          .help(
              "How many times cells are divided and stamped; each level goes on within the cells of the one before.")};
  for (Parameter& p : overlap_parameters("Levels")) t.parameters.push_back(std::move(p));
  t.parameters.push_back(toggle("full_range", "Full range")
                             .column("Levels")
                             .help("Spreads the value out so that its least is 0 and its most 1."));
  t.parameters.push_back(seed("Levels"));
  for (int level = 1; level <= kMostLevels; ++level)
    for (Parameter& p : level_parameters(level)) t.parameters.push_back(std::move(p));
  t.list = ItemList{"levels",
                    "level",
                    kMostLevels,
                    {"across", "down", "motif", "keep", "shift", "stamp_shift", "size", "turn", "tone"},
                    {}};
  t.emit = emit_nested_scatter;
  t.note = cut_short;
  t.random = t.costly = true;
  catalogue.add(t);
}

}  // namespace loom
