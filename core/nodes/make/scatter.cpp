// Scatter: motifs stamped on a jittered grid.
#include <algorithm>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/laid_outputs.h"
#include "core/nodes/spaced.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

constexpr const char* kMotifs[] = {"motif_a", "motif_b", "motif_c", "motif_d", "motif_e", "motif_f", "motif_g", "motif_h"};

// Stands in while no motif is connected: a round cap.
PlanePtr round_cap() {
  static const PlanePtr kCap = [] {
    auto plane = std::make_shared<Plane>(256);
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x) {
        const float u = (static_cast<float>(x) + 0.5f) / 128 - 1, v = (static_cast<float>(y) + 0.5f) / 128 - 1;
        plane->at(x, y) = std::sqrt(std::max(0.0f, 1 - (u * u + v * v) / 0.98f));
      }
    return plane;
  }();
  return kCap;
}

// Where a motif is more than nothing. Its own pyramid keeps the mask's edge where it is at every size.
PlanePtr coverage(const Plane& motif) {
  auto plane = std::make_shared<Plane>(motif.size());
  for (std::size_t i = 0; i < motif.texels(); ++i) plane->data()[i] = motif.data()[i] > 0.004f ? 1.0f : 0.0f;
  return plane;
}

UnitSamples lay_grid(const Emitter& e, int across, int down) {
  UnitSamples s;
  const float wide = 1.0f / static_cast<float>(across), tall = 1.0f / static_cast<float>(down);
  const std::uint32_t su = fold32(e.seed("jitter u")), sv = fold32(e.seed("jitter v"));
  for (int row = 0; row < down; ++row)
    for (int column = 0; column < across; ++column) {
      const std::uint32_t key = pcg(static_cast<std::uint32_t>(s.count()) + 1);
      const float ju = e.real("jitter_u") * (unit_random(su, key) - 0.5f), jv = e.real("jitter_v") * (unit_random(sv, key) - 0.5f);
      const float stagger = row % 2 ? e.real("stagger") : 0.0f;
      s.add(static_cast<float>(row), static_cast<float>(column), (static_cast<float>(column) + 0.5f + stagger + ju) * wide, (static_cast<float>(row) + 0.5f + jv) * tall, wide, tall, key);
    }
  s.rows = static_cast<float>(down);
  s.columns = static_cast<float>(across);
  return s;
}

// As many cells as points, each as wide as the distance: sizes mean the same in both ways of spacing.
UnitSamples lay_spaced(const Emitter& e) {
  UnitSamples s;
  const float distance = e.real("distance");
  for (const SpacedPoint& p : spaced_points(distance, fold32(e.seed("places")))) s.add(std::floor(p.v / distance), std::floor(p.u / distance), p.u, p.v, distance, distance, p.key);
  s.rows = s.columns = std::ceil(1 / distance);
  return s;
}

// How far from the middle each motif reaches, in 16 directions of its own frame; 1 is the side of the frame.
using Extent = std::array<float, 16>;
Extent extent_of(const Plane& motif) {
  Extent reach{};
  for (int y = 0; y < motif.size(); ++y)
    for (int x = 0; x < motif.size(); ++x) {
      if (motif.at(x, y) <= 0.004f) continue;
      const float px = (2 * static_cast<float>(x) + 1) / static_cast<float>(motif.size()) - 1, py = (2 * static_cast<float>(y) + 1) / static_cast<float>(motif.size()) - 1;
      const auto k = static_cast<std::size_t>(std::lround((std::atan2(py, px) + 3.14159265f) * 16 / 6.2831853f)) % 16;
      reach[k] = std::max(reach[k], std::hypot(px, py));
    }
  return reach;
}

// Keeps whole motifs clear of a map: the farthest that a motif reaches must be nearer than the map is.
class Clear {
 public:
  explicit Clear(Emitter& e) {
    const Field* map = e.whole("avoid");
    if (map) distance_ = distance_to(*map->strand[0], 0.5f, Stop{}).distance;
  }
  void see(const Plane& motif) { if (distance_.size()) extents_.push_back(extent_of(motif)); }
  bool of(float u, float v, float half_u, float half_v, std::size_t motif) const {
    if (!distance_.size()) return true;
    float farthest = 0;
    for (std::size_t k = 0; k < 16; ++k) {
      const float a = 6.2831853f * static_cast<float>(k) / 16 - 3.14159265f;
      farthest = std::max(farthest, extents_[motif][k] * std::hypot(std::cos(a) * half_u, std::sin(a) * half_v));
    }
    const auto n = static_cast<float>(distance_.size());
    const int x = static_cast<int>((u - std::floor(u)) * n), y = static_cast<int>((v - std::floor(v)) * n);
    return distance_.at(std::min(x, distance_.size() - 1), std::min(y, distance_.size() - 1)) / n > farthest;
  }

 private:
  Plane distance_;
  std::vector<Extent> extents_;
};

std::shared_ptr<const Laid> lay(Emitter& e) {
  auto laid = std::make_shared<Laid>();
  Stamps& stamps = laid->stamps;
  for (const char* peg : kMotifs)
    if (const auto levels = e.sampled(peg, 0); !levels->levels.empty()) stamps.motifs.push_back(levels->levels);
  if (stamps.motifs.empty()) stamps.motifs.push_back(pyramid(round_cap(), 9));
  const int across = std::max(1, e.integer("cells_across"));
  int down = e.toggle("linked") ? across : std::max(1, e.integer("cells_down"));
  if (e.number("stagger") != 0) down += down % 2;  // rows in pairs, so that the last meets the first
  const UnitSamples s = e.is("spacing", "distance_apart") ? lay_spaced(e) : lay_grid(e, across, down);
  Clear clear(e);
  for (const auto& levels : stamps.motifs) clear.see(*levels[std::min<std::size_t>(levels.size() - 1, 2)]);
  const auto size_u = e.per_unit("size_u", s), size_v = e.toggle("linked_size") ? size_u : e.per_unit("size_v", s), turn = e.per_unit("turn", s),
             tone = e.per_unit("tone", s), keep = e.per_unit("keep", s), motif = e.per_unit("motif", s);
  LaidUnits& u = stamps.units;
  for (std::size_t i = 0; i < s.count(); ++i) {
    const float half_u = 0.5f * size_u[i] * s.size_u[i], half_v = 0.5f * size_v[i] * s.size_v[i];
    if (keep[i] < 0.5f || half_u < 1e-6f || half_v < 1e-6f) continue;  // a size of 0 or less stamps nothing
    const auto which = static_cast<std::int32_t>(std::clamp(std::floor(motif[i]), 0.0f, static_cast<float>(stamps.motifs.size()) - 1));
    if (!clear.of(s.centre_u[i], s.centre_v[i], half_u, half_v, static_cast<std::size_t>(which))) continue;
    const float radians = turn[i] * 0.017453292519943f;
    u.centre_u.push_back(s.centre_u[i]);
    u.centre_v.push_back(s.centre_v[i]);
    u.half_u.push_back(half_u);
    u.half_v.push_back(half_v);
    u.cosine.push_back(std::cos(radians));
    u.sine.push_back(std::sin(radians));
    u.radius.push_back(0);
    stamps.tone.push_back(tone[i]);
    stamps.motif.push_back(which);
    laid->tone.push_back(tone[i]);
    laid->turn.push_back(turn[i]);
    const std::size_t k = laid->regions->count();
    laid->regions->resize(k + 1);
    describe_region(*laid, k, std::bit_cast<std::uint32_t>(s.key[i]), s.centre_u[i], s.centre_v[i], half_u, half_v, turn[i]);
  }
  const auto& words = e.type().parameter("overlap")->options;
  stamps.overlap = static_cast<Overlap>(std::find(words.begin(), words.end(), e.word("overlap")) - words.begin());
  stamps.background = e.real("background");
  index_units(u, 1e-4f);
  laid->cover = stamps;
  laid->cover.overlap = Overlap::highest;
  laid->cover.background = 0;
  std::fill(laid->cover.tone.begin(), laid->cover.tone.end(), 1.0f);
  for (auto& levels : laid->cover.motifs) levels = pyramid(coverage(*levels[0]), 14);
  return laid;
}

void emit(Emitter& e) {
  Builder& b = e.b;
  const auto laid = e.laid<Laid>([&] { return lay(e); });
  const auto [u, v, footprint] = e.position();
  const auto found = b.apply(Op::stamped, {u, v, footprint}, std::shared_ptr<const Resource>(laid, &laid->stamps), 4);
  e.out("height", found[3]);
  e.out("mask", b.apply(Op::stamped, {u, v, footprint}, std::shared_ptr<const Resource>(laid, &laid->cover), 4)[3]);
  emit_unit_outputs(e, laid, laid->stamps.units, found[0], found[1], found[2]);
}

}  // namespace

void add_scatter(Catalogue& catalogue) {
  auto inputs = laid_inputs();
  for (const char* peg : kMotifs) inputs.push_back({peg, std::string("Motif ") + static_cast<char>(peg[6] - 32), Kind::scalar, true, true});
  inputs.push_back({"avoid", "Avoid", Kind::scalar, true});
  const ActsWhen grid{"spacing == grid", "The stamps stand a distance apart, not on a grid."};
  Rule chance;
  chance.from.number = 0.4;
  chance.to.number = 1;
  catalogue.add({.id = "scatter", .label = "Scatter", .rack = Rack::make, .help = "Motifs stamped over the tile, each varied by rule.",
    .more = "A jittered grid, or places at a minimum distance, as dense as chance makes them (dart throwing, Cook 1986); a stamp's square is a share of its cell or of the distance. Avoid keeps every motif whole out of where that map is one half or more. Without a motif a round cap is stamped. Motifs are read from a mean pyramid at the level that fits the sample.",
    .words = "splatter stamp pebbles particles tile sampler dots chips",
    .inputs = std::move(inputs), .outputs = laid_outputs(),
    .parameters = {
      {"spacing", "Spacing", ParameterKind::choice, Unit::none, std::string("grid"), {}, {}, "Grid", {"grid", "distance_apart"}},
      {"distance", "Distance", ParameterKind::scalar, Unit::share_of_tile, 0.08, {0.02, 0.3}, {0.006, 1}, "Grid", {}, {"spacing == distance_apart", "The stamps stand on a grid."}},
      {"cells_across", "Cells across", ParameterKind::integer, Unit::count, 8.0, {1, 32}, {1, 256}, "Grid", {}, grid},
      {"linked", "Linked", ParameterKind::toggle, Unit::none, 1.0, {0, 1}, {0, 1}, "Grid", {}, grid},
      {"cells_down", "Cells down", ParameterKind::integer, Unit::count, 8.0, {1, 32}, {1, 256}, "Grid", {}, {"(linked == 0) * (spacing == grid)", "The cells down follow the cells across, or there is no grid."}},
      {"stagger", "Stagger", ParameterKind::scalar, Unit::share, 0.0, {0, 0.5}, {-1, 1}, "Grid", {}, grid, false, "Moves every second row; the rows are then snapped to an even count."},
      {"jitter_u", "Jitter along u", ParameterKind::scalar, Unit::share, 0.6, {0, 1}, {0, 4}, "Grid", {}, grid},
      {"jitter_v", "Jitter along v", ParameterKind::scalar, Unit::share, 0.6, {0, 1}, {0, 4}, "Grid", {}, grid},
      per_unit("motif", "Motif", Unit::count, 0.0, {0, 7}, {0, 7.999}, "Stamp", "0 is the first connected motif; a rule from 0 to n deals n of them."),
      per_unit("size_u", "Size along u", Unit::share, 0.8, {0, 2}, {-4, 4}, "Stamp"),
      {"linked_size", "Sizes linked", ParameterKind::toggle, Unit::none, 1.0, {0, 1}, {0, 1}, "Stamp"},
      {"size_v", "Size along v", ParameterKind::scalar, Unit::share, 0.8, {0, 2}, {-4, 4}, "Stamp", {}, {"linked_size == 0", "The size along v follows the one along u: they are linked."}, true},
      per_unit("turn", "Turn", Unit::degrees, 0.0, {-180, 180}, {-3600, 3600}, "Stamp"),
      per_unit("tone", "Tone", Unit::share, chance, {0, 1}, {-1000, 1000}, "Tone"),
      per_unit("keep", "Keep", Unit::share, 1.0, {0, 1}, {0, 1}, "Tone", "A stamp is kept where this is 0.5 or more."),
      {"overlap", "Overlap", ParameterKind::choice, Unit::none, std::string("highest"), {}, {}, "Tone", {"highest", "lowest", "newest", "summed"}},
      {"background", "Background", ParameterKind::scalar, Unit::none, 0.0, {0, 1}, {-1000, 1000}, "Tone"},
      {"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Tone"}},
    .emit = emit, .random = true, .costly = true});
}

}  // namespace loom
