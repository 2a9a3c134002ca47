// Which slots are laid, and what is read of them.
#include "core/surface/maps.h"

namespace loom {
namespace {

const Field* slot_of(const std::map<std::string, Field>& slots, const char* id) {
  const auto it = slots.find(id);
  return it == slots.end() || !it->second.strand[0] ? nullptr : &it->second;
}

struct Laid {
  const char* slot;
  std::size_t strands;
};

// The planes in the order in which a texel holds them; null where the slot has its default.
template <std::size_t N>
std::array<const Plane*, N> planes_of(const std::map<std::string, Field>& slots, std::initializer_list<Laid> laid) {
  std::array<const Plane*, N> planes{};
  std::size_t at = 0;
  for (const auto& [id, strands] : laid) {
    const Field* field = slot_of(slots, id);
    for (std::size_t i = 0; i < strands; ++i, ++at) planes[at] = field ? field->strand[i].get() : nullptr;
  }
  return planes;
}

int size_of(const std::map<std::string, Field>& slots) {
  int size = kLeastSize;
  for (const auto& [id, field] : slots) size = std::max(size, field.size());
  return size;
}

}  // namespace

SurfaceMaps::SurfaceMaps(const std::map<std::string, Field>& slots, const Extent& extent)
    : slots_(slots), extent_(extent), size_(size_of(slots_)) {
  if (const Field* field = slot_of(slots_, "emissive"))
    for (std::size_t i = 0; i < 3; ++i) glows_ |= range_of(*field->strand[i]).most > 1;
  usual_ = std::make_unique<Usual>(
      planes_of<12>(
          slots_,
          {{"base_colour", 3}, {"normal", 3}, {"roughness", 1}, {"metallic", 1}, {"occlusion", 1}, {"emissive", 3}}),
      Usual::Texel{0.5f, 0.5f, 0.5f, 0, 0, 1, 0.5f, 0, 1, 0, 0, 0}, size_);
  const auto further =
      planes_of<4>(slots_, {{"specular_weight", 1}, {"specular_ior", 1}, {"coat_weight", 1}, {"coat_roughness", 1}});
  if (std::any_of(further.begin(), further.end(), [](const Plane* p) { return p != nullptr; }))
    further_ = std::make_unique<Further>(further, Further::Texel{1, 1.5f, 0, 0}, size_);
  if (const Field* field = slot_of(slots_, "opacity"); field && range_of(*field->strand[0]).least < 1) {
    opacity_ = std::make_unique<MeanPyramid<1>>(std::array<const Plane*, 1>{field->strand[0].get()},
                                                std::array<float, 1>{1}, size_);
    opacity_->want(0);
  }
}

void SurfaceMaps::want(float footprint) const {
  usual_->want(footprint);
  if (further_) further_->want(footprint);
}

SurfaceMaps::Point SurfaceMaps::at(float u, float v, float footprint) const {
  const Usual::Texel x = usual_->at(u, v, footprint);
  Point p{.base = {std::max(x[0], 0.0f), std::max(x[1], 0.0f), std::max(x[2], 0.0f)},
          .normal = {x[3], x[4], x[5]},
          .emissive = {x[9], x[10], x[11]},
          .roughness = x[6],
          .metallic = std::clamp(x[7], 0.0f, 1.0f),
          .occlusion = std::clamp(x[8], 0.0f, 1.0f)};
  if (further_) {
    const Further::Texel f = further_->at(u, v, footprint);
    p.specular_weight = std::clamp(f[0], 0.0f, 1.0f);
    p.specular_ior = std::clamp(f[1], 1.0f, 3.0f);
    p.coat_weight = std::clamp(f[2], 0.0f, 1.0f);
    p.coat_roughness = f[3];
  }
  // A mean normal is shorter where normals spread: their variance widens the lobes.
  // Source: Toksvig, "Mipmapping Normal Maps", 2005, in the form for alpha^2.
  const float length = std::clamp(std::sqrt(dot(p.normal, p.normal)), 0.05f, 1.0f),
              spread = std::min((1 - length) / length, 1.0f);
  for (float* roughness : {&p.roughness, &p.coat_roughness}) {
    const float rough = std::clamp(*roughness, 0.03f, 1.0f), alpha2 = rough * rough * rough * rough + spread;
    *roughness = std::sqrt(std::sqrt(std::min(alpha2, 1.0f)));
  }
  p.normal = normalised(p.normal);
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

}  // namespace loom
