// Motifs are read from a mean pyramid at the level that fits the sample.
#include "core/nodes/stamping.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/parallel.h"
#include "core/nodes/wide_places.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

constexpr const char* kMotifs[] = {"motif_a", "motif_b", "motif_c", "motif_d",
                                   "motif_e", "motif_f", "motif_g", "motif_h"};

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

// How much of each texel a motif covers. Its own pyramid keeps the mask's edge where it is at every size; the finest
// level is the motif itself, which says yes or no where it is read.
std::vector<PlanePtr> coverage(const PlanePtr& motif) {
  if (motif->size() <= kLeastSize) return {motif};
  const int half = motif->size() / 2;
  auto coarser = std::make_shared<Plane>(half);
  for_rows(half, 64, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *a = motif->row(2 * y), *b = motif->row(2 * y + 1);
      for (int x = 0; x < half; ++x) {
        const auto there = [](float value) { return value > kNothing ? 0.25f : 0.0f; };
        coarser->at(x, y) = there(a[2 * x]) + there(a[2 * x + 1]) + there(b[2 * x]) + there(b[2 * x + 1]);
      }
    }
  });
  std::vector<PlanePtr> levels = pyramid(coarser, 13);
  levels.insert(levels.begin(), motif);
  return levels;
}

// The map to avoid at 512 or less, so that the same stamps stay away at every size: a texel counts as soon as any part
// of it does.
Plane most_of(const Plane& map) {
  constexpr int kDecided = 512;
  const int size = std::min(map.size(), kDecided), step = map.size() / size;
  Plane coarse(size);
  for_rows(size, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      float* const to = coarse.row(y);
      std::fill_n(to, size, -std::numeric_limits<float>::infinity());
      for (int j = 0; j < step; ++j) {
        const float* const from = map.row(y * step + j);
        for (int x = 0; x < size; ++x)
          for (int i = 0; i < step; ++i) to[x] = std::max(to[x], from[x * step + i]);
      }
    }
  });
  return coarse;
}

// How far from the middle a motif reaches, in 16 directions of its own frame; 1 is the side of the frame.
std::array<float, 16> extent_of(const Plane& motif) {
  std::array<float, 16> reach{};
  for (int y = 0; y < motif.size(); ++y)
    for (int x = 0; x < motif.size(); ++x) {
      if (motif.at(x, y) <= kNothing) continue;
      const float px = (2 * static_cast<float>(x) + 1) / static_cast<float>(motif.size()) - 1,
                  py = (2 * static_cast<float>(y) + 1) / static_cast<float>(motif.size()) - 1;
      const auto k = static_cast<std::size_t>(std::lround((std::atan2(py, px) + 3.14159265f) * 16 / 6.2831853f)) % 16;
      reach[k] = std::max(reach[k], std::hypot(px, py));
    }
  return reach;
}

}  // namespace

Stamping::Stamping(Emitter& e) {
  Stamps& stamps = laid_->stamps;
  for (const char* peg : kMotifs)
    if (const auto levels = e.sampled(peg, 0); !levels->levels.empty()) stamps.motifs.push_back(levels->levels);
  if (stamps.motifs.empty()) stamps.motifs.push_back(pyramid(round_cap(), 9));
  const auto& words = e.type().parameter("overlap")->options;
  stamps.overlap = static_cast<Overlap>(std::find(words.begin(), words.end(), e.word("overlap")) - words.begin());
  stamps.background = e.real("background");
  const Field* map = e.whole("avoid");
  if (!map) return;
  const Plane coarse = most_of(*map->strand[0]);
  to_avoid_ = distance_to(coarse, 0.5f, Stop{}).distance;
  grown_ = coarse.size() < map->size() ? 0.5f : 0;
  // A coarse level is enough: whatever a motif covers is more than nothing in its means too.
  for (const auto& levels : stamps.motifs)
    extents_.push_back(extent_of(
        **std::find_if(levels.begin(), levels.end() - 1, [](const PlanePtr& level) { return level->size() <= 256; })));
}

// The farthest that the motif reaches must be nearer than the map is.
bool Stamping::clear_of_map(const Stamp& s) const {
  if (!to_avoid_.size()) return true;
  float farthest = 0;
  for (std::size_t k = 0; k < 16; ++k) {
    const float a = 6.2831853f * static_cast<float>(k) / 16 - 3.14159265f;
    farthest = std::max(farthest, extents_[static_cast<std::size_t>(s.motif)][k] *
                                      std::hypot(std::cos(a) * s.half_u, std::sin(a) * s.half_v));
  }
  const auto n = static_cast<float>(to_avoid_.size());
  const int x = static_cast<int>((s.u - std::floor(s.u)) * n), y = static_cast<int>((s.v - std::floor(s.v)) * n);
  return (to_avoid_.at(std::min(x, to_avoid_.size() - 1), std::min(y, to_avoid_.size() - 1)) + grown_) / n > farthest;
}

void Stamping::add(const Stamp& s) {
  if (s.half_u < 1e-6f || s.half_v < 1e-6f || !clear_of_map(s)) return;
  const float radians = s.degrees * 0.017453292519943f;
  LaidUnits& u = laid_->stamps.units;
  u.centre_u.push_back(s.u);
  u.centre_v.push_back(s.v);
  u.half_u.push_back(s.half_u);
  u.half_v.push_back(s.half_v);
  u.cosine.push_back(std::cos(radians));
  u.sine.push_back(std::sin(radians));
  u.radius.push_back(0);
  laid_->stamps.tone.push_back(s.tone);
  laid_->stamps.motif.push_back(s.motif);
  laid_->tone.push_back(s.tone);
  laid_->turn.push_back(s.degrees);
  const std::size_t k = laid_->regions->count();
  laid_->regions->resize(k + 1);
  describe_region(*laid_, k, s.key, s.u, s.v, s.half_u, s.half_v, s.degrees);
}

std::shared_ptr<Laid> Stamping::finished() {
  index_units(laid_->stamps.units, 1e-4f);
  Stamps& cover = laid_->cover = laid_->stamps;
  cover.overlap = Overlap::highest;
  cover.background = 0;
  cover.covers = true;
  std::fill(cover.tone.begin(), cover.tone.end(), 1.0f);
  for (auto& levels : cover.motifs) levels = coverage(levels[0]);
  laid_->stamps.covers_of = cover.motifs;
  return laid_;
}

void stretch_height(Laid& laid, int size, const Stop& stop) {
  Builder b(Domain::texels(size));
  const ResourcePtr stamps(ResourcePtr(), &laid.stamps);  // not owned: it outlives the run
  b.store(b.apply(kStamped, {b.u(), b.v(), b.footprint()}, stamps, 4)[3], 0);
  auto plane = std::make_shared<Plane>(size);
  Plane* const out = plane.get();
  run_texels(b.build(), size, {&out, 1}, stop);
  const Range range = range_of(*plane);
  if (stop.asked() || range.most - range.least < 1e-6f) return;
  laid.height_scale = 1 / (range.most - range.least);
  laid.height_shift = -range.least * laid.height_scale;
  laid.height = std::move(plane);
}

namespace {

std::shared_ptr<const Sampled> means_of(const Stamps& stamps) {
  const ResourcePtr table(ResourcePtr(), &stamps);  // not owned: it outlives the run
  return means_over_tile([&](Builder& b, Reg u, Reg v, Reg footprint) {
    return b.apply(kStamped, {u, v, footprint}, table, 4)[3];
  });
}

const Laid::Means& means_of(const Laid& laid) {
  std::call_once(laid.means->made, [&] {
    laid.means->height = means_of(laid.stamps);
    laid.means->mask = means_of(laid.cover);
  });
  return *laid.means;
}

}  // namespace

void emit_stamps(Emitter& e, const std::shared_ptr<const Laid>& laid) {
  Builder& b = e.b;
  const auto at = e.position();
  const auto found = b.apply(kStamped, {at.u, at.v, at.footprint}, ResourcePtr(laid, &laid->stamps), 4);
  const auto wide = [&](Reg near, std::shared_ptr<const Sampled> Laid::Means::*means) {
    return all_narrow(b, at.footprint) ? near : widened(b, near, at.u, at.v, at.footprint, means_of(*laid).*means);
  };
  // What was measured is there already, unless it is asked for elsewhere.
  const Reg height =
      laid->height && !e.connected("coordinates") ? b.read(laid->height) : wide(found[3], &Laid::Means::height);
  const bool stretched = laid->height_scale != 1 || laid->height_shift != 0;
  e.out("height",
        stretched
            ? b.clamp(b.multiply_add(height, b.constant(laid->height_scale), b.constant(laid->height_shift)), 0, 1)
            : height);
  const Reg cover = b.apply(kStamped, {at.u, at.v, at.footprint}, ResourcePtr(laid, &laid->cover), 4)[3];
  e.out("mask", wide(cover, &Laid::Means::mask));
  emit_unit_outputs(e, laid, laid->stamps.units, found[0], found[1], found[2], at.footprint);
}

std::vector<Peg> stamp_inputs() {
  auto inputs = laid_inputs();
  for (const char* peg : kMotifs)
    inputs.push_back(motif_peg(peg, std::string("Motif ") + static_cast<char>(peg[6] - 32)));
  inputs.push_back(whole_peg("avoid", "Avoid"));
  return inputs;
}

std::vector<Parameter> overlap_parameters(const std::string& column) {
  return {choice("overlap", "Overlap", {"highest", "lowest", "newest", "summed"})
              .column(column)
              .help("What counts where stamps lie over each other."),
          scalar("background", "Background", 0.0)
              .limits(-1000, 1000)
              .column(column)
              .help("The value where no stamp lies.")};
}

}  // namespace loom
