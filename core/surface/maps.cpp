// Laying maps side by side, their means, and reading them.
#include "core/surface/maps.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"

namespace loom {
namespace {

const Field* slot_of(const std::map<std::string, Field>& slots, const char* id) {
  const auto it = slots.find(id);
  return it == slots.end() || !it->second.strand[0] ? nullptr : &it->second;
}

constexpr std::size_t kLaid = 12;
constexpr std::array<float, kLaid> kDefaults{0.5f, 0.5f, 0.5f, 0, 0, 1, 0.5f, 0, 1, 0, 0, 0};
using Channels = std::array<const Plane*, kLaid>;

// The planes in the order in which a texel holds them; null where the slot has its default.
Channels channels_of(const std::map<std::string, Field>& slots) {
  Channels channels{};
  std::size_t at = 0;
  for (const auto& [id, strands] : std::initializer_list<std::pair<const char*, std::size_t>>{
           {"base_colour", 3}, {"normal", 3}, {"roughness", 1}, {"metallic", 1}, {"occlusion", 1}, {"emissive", 3}}) {
    const Field* field = slot_of(slots, id);
    for (std::size_t i = 0; i < strands; ++i, ++at) channels[at] = field ? field->strand[i].get() : nullptr;
  }
  return channels;
}

// One row of the finest level, interleaved; two rows and two columns averaged for the next.
void lay_row(const Channels& channels, int y, int size, float* to) {
  for (std::size_t c = 0; c < kLaid; ++c) {
    if (!channels[c]) {
      for (int x = 0; x < size; ++x) to[static_cast<std::size_t>(x) * kLaid + c] = kDefaults[c];
      continue;
    }
    const float* from = channels[c]->row(y);
    for (int x = 0; x < size; ++x) to[static_cast<std::size_t>(x) * kLaid + c] = from[x];
  }
}

void lay_half_row(const Channels& channels, int y, int size, float* to) {
  for (std::size_t c = 0; c < kLaid; ++c) {
    if (!channels[c]) {
      for (int x = 0; x < size; ++x) to[static_cast<std::size_t>(x) * kLaid + c] = kDefaults[c];
      continue;
    }
    const float *a = channels[c]->row(2 * y), *b = channels[c]->row(2 * y + 1);
    for (int x = 0; x < size; ++x)
      to[static_cast<std::size_t>(x) * kLaid + c] = 0.25f * (a[2 * x] + a[2 * x + 1] + b[2 * x] + b[2 * x + 1]);
  }
}

}  // namespace

SurfaceMaps::SurfaceMaps(const std::map<std::string, Field>& slots, const Extent& extent)
    : slots_(slots), extent_(extent), further_(FurtherMaps::of(slots)) {
  static_assert(kLaid == kChannels);
  if (const Field* field = slot_of(slots_, "opacity"))
    if (range_of(*field->strand[0]).least < 1) opacity_ = field->strand[0];
  if (const Field* field = slot_of(slots_, "emissive"))
    for (std::size_t i = 0; i < 3; ++i) glows_ |= range_of(*field->strand[i]).most > 1;
  for (const auto& [id, field] : slots_) size_ = std::max(size_, field.size());
  const Channels channels = channels_of(slots_);
  Level half(size_ / 2);
  for_rows(half.size, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) lay_half_row(channels, y, half.size, half.at(0, y));
  });
  coarser_.push_back(std::move(half));
  while (coarser_.back().size > 1) {
    const Level& fine = coarser_.back();
    Level coarse(fine.size / 2);
    for_rows(coarse.size, 32, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y) {
        const float *a = fine.at(0, 2 * y), *b = fine.at(0, 2 * y + 1);
        float* to = coarse.at(0, y);
        for (int x = 0; x < coarse.size; ++x, a += 2 * kChannels, b += 2 * kChannels, to += kChannels)
          for (std::size_t c = 0; c < kChannels; ++c)
            to[c] = 0.25f * (a[c] + a[kChannels + c] + b[c] + b[kChannels + c]);
      }
    });
    coarser_.push_back(std::move(coarse));
  }
}

void SurfaceMaps::lay_finest() const {
  const Channels channels = channels_of(slots_);
  finest_store_.emplace(size_);
  for_rows(size_, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) lay_row(channels, y, size_, finest_store_->at(0, y));
  });
  finest_.store(&*finest_store_, std::memory_order_release);
}

void SurfaceMaps::want(float footprint) const {
  if (footprint * static_cast<float>(size_) < 2) std::call_once(finest_laid_, [this] { lay_finest(); });
}

SurfaceMaps::Texel SurfaceMaps::bilinear(const Level& level, float u, float v) const {
  const float size = static_cast<float>(level.size);
  const float x = u * size - 0.5f, y = v * size - 0.5f;
  const int x0 = whole_below(x), y0 = whole_below(y);
  const float tx = x - static_cast<float>(x0), ty = y - static_cast<float>(y0);
  const int x1 = wrap(x0 + 1, level.size), y1 = wrap(y0 + 1, level.size);
  const float *a = level.at(wrap(x0, level.size), wrap(y0, level.size)), *b = level.at(x1, wrap(y0, level.size)),
              *c = level.at(wrap(x0, level.size), y1), *d = level.at(x1, y1);
  const float wa = (1 - tx) * (1 - ty), wb = tx * (1 - ty), wc = (1 - tx) * ty, wd = tx * ty;
  Texel out;
  for (std::size_t k = 0; k < kChannels; ++k) out.v[k] = wa * a[k] + wb * b[k] + wc * c[k] + wd * d[k];
  return out;
}

SurfaceMaps::Point SurfaceMaps::at(float u, float v, float footprint) const {
  u = fraction(u);
  v = fraction(v);
  const Level* const finest = finest_.load(std::memory_order_acquire);
  const auto level = [&](std::size_t i) -> const Level& { return i > 0 ? coarser_[i - 1] : *finest; };
  const float wanted = std::clamp(std::log2(std::max(footprint * static_cast<float>(size_), 1.0f)),
                                  finest ? 0.0f : 1.0f, static_cast<float>(coarser_.size()));
  const auto low = static_cast<std::size_t>(wanted);
  const float t = wanted - static_cast<float>(low);
  Texel x = bilinear(level(low), u, v);
  if (t > 0.01f && low < coarser_.size()) {
    const Texel y = bilinear(level(low + 1), u, v);
    for (int k = 0; k < 12; ++k) x.v[k] += (y.v[k] - x.v[k]) * t;
  }
  Point p{{x.v[0], x.v[1], x.v[2]}, {x.v[3], x.v[4], x.v[5]}, {x.v[9], x.v[10], x.v[11]}, x.v[6], x.v[7], x.v[8]};
  p.base = {std::max(p.base.x, 0.0f), std::max(p.base.y, 0.0f), std::max(p.base.z, 0.0f)};
  p.metallic = std::clamp(p.metallic, 0.0f, 1.0f);
  p.occlusion = std::clamp(p.occlusion, 0.0f, 1.0f);
  // A mean normal is shorter where normals spread: their variance widens the lobe.
  // Source: Toksvig, "Mipmapping Normal Maps", 2005, in the form for alpha^2.
  const float length = std::clamp(std::sqrt(dot(p.normal, p.normal)), 0.05f, 1.0f);
  const float rough = std::clamp(p.roughness, 0.03f, 1.0f),
              alpha2 = rough * rough * rough * rough + std::min((1 - length) / length, 1.0f);
  p.roughness = std::sqrt(std::sqrt(std::min(alpha2, 1.0f)));
  p.normal = normalised(p.normal);
  if (further_) p.further = further_->at(u, v, footprint);
  return p;
}

const ReliefField* SurfaceMaps::relief() const {
  std::call_once(relief_built_, [this] {
    const Field* height = slot_of(slots_, "height");
    if (!height) return;
    const Range range = range_of(*height->strand[0]);
    if (range.most - range.least > 1e-6f) relief_.emplace(*height->strand[0]);
  });
  return relief_ ? &*relief_ : nullptr;
}

float SurfaceMaps::opacity(float u, float v) const {
  if (!opacity_) return 1;
  const int size = opacity_->size();
  const float x = fraction(u) * static_cast<float>(size) - 0.5f, y = fraction(v) * static_cast<float>(size) - 0.5f;
  const int x0 = whole_below(x), y0 = whole_below(y);
  const float tx = x - static_cast<float>(x0), ty = y - static_cast<float>(y0);
  const float *a = opacity_->row(wrap(y0, size)), *b = opacity_->row(wrap(y0 + 1, size));
  const int l = wrap(x0, size), r = wrap(x0 + 1, size);
  return (a[l] + (a[r] - a[l]) * tx) * (1 - ty) + (b[l] + (b[r] - b[l]) * tx) * ty;
}

}  // namespace loom
