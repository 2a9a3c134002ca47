// Which slots are laid, and what is read of them.
#include "core/surface/maps.h"

#include "core/surface/unlit.h"

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

SurfaceMaps::SurfaceMaps(const std::map<std::string, Field>& slots, const Extent& extent,
                         std::shared_ptr<const SurfaceProgram> over_surface)
    : slots_(slots), extent_(extent), over_surface_(std::move(over_surface)), size_(size_of(slots_)) {
  look_for_glow();
  usual_ = std::make_shared<Usual>(
      planes_of<12>(
          slots_,
          {{"base_colour", 3}, {"normal", 3}, {"roughness", 1}, {"metallic", 1}, {"occlusion", 1}, {"emissive", 3}}),
      Usual::Texel{0.5f, 0.5f, 0.5f, 0, 0, 1, 0.5f, 0, 1, 0, 0, 0}, size_);
  const auto further =
      planes_of<4>(slots_, {{"specular_weight", 1}, {"specular_ior", 1}, {"coat_weight", 1}, {"coat_roughness", 1}});
  if (std::any_of(further.begin(), further.end(), [](const Plane* p) { return p != nullptr; }))
    further_ = std::make_shared<Further>(further, Further::Texel{1, 1.5f, 0, 0}, size_);
  const auto rare = planes_of<8>(slots_, {{"specular_roughness_anisotropy", 1},
                                          {"geometry_tangent", 2},
                                          {"fuzz_weight", 1},
                                          {"fuzz_roughness", 1},
                                          {"fuzz_color", 3}});
  if (std::any_of(rare.begin(), rare.end(), [](const Plane* p) { return p != nullptr; }))
    rare_ = std::make_shared<Rare>(rare, Rare::Texel{0, 1, 0, 0, 0.5f, 1, 1, 1}, size_);
  const auto sheet = planes_of<6>(slots_, {{"geometry_thin_walled", 1},
                                           {"subsurface_weight", 1},
                                           {"subsurface_scatter_anisotropy", 1},
                                           {"subsurface_color", 3}});
  if (std::any_of(sheet.begin(), sheet.end(), [](const Plane* p) { return p != nullptr; }))
    sheet_ = std::make_shared<Sheet>(sheet, Sheet::Texel{0, 0, 0, 0.8f, 0.8f, 0.8f}, size_);
  if (const Field* field = slot_of(slots_, "opacity"); field && range_of(*field->strand[0]).least < 1) {
    opacity_ = std::make_shared<MeanPyramid<1>>(std::array<const Plane*, 1>{field->strand[0].get()},
                                                std::array<float, 1>{1}, size_);
    opacity_->want(0);
  }
}

void SurfaceMaps::want(float footprint) const {
  usual_->want(footprint);
  if (further_) further_->want(footprint);
  if (rare_) rare_->want(footprint);
  if (sheet_) sheet_->want(footprint);
}

std::shared_ptr<const SurfaceMaps> SurfaceMaps::under(std::shared_ptr<const SurfaceProgram> over_surface) const {
  auto maps = std::make_shared<SurfaceMaps>(*this);
  maps->over_surface_ = std::move(over_surface);
  maps->shadings_ = std::make_shared<Shadings>();
  maps->look_for_glow();
  return maps;
}

SurfaceRunner::SurfaceRunner(const SurfaceProgram& p)
    : runner_(p.program, SurfaceStrip::kLongest),
      values_(static_cast<std::size_t>(p.program.outputs) * SurfaceStrip::kLongest) {
  for (std::size_t i = 0; i < values_.size(); i += SurfaceStrip::kLongest) rows_.push_back(&values_[i]);
}

std::span<float* const> SurfaceRunner::run(const SurfaceStrip& strip) {
  attributes_.clear();
  for (const auto& lane : strip.attribute) attributes_.push_back(lane.data());
  for (const auto& lane : strip.measured) attributes_.push_back(lane.data());
  runner_.run(strip.count, attributes_, rows_);
  return rows_;
}

SurfaceMaps::Shading::Shading(const SurfaceProgram& p) : runner(p) {
  for (const auto& out : p.outputs) places.push_back(place_of(out.name));
}

void SurfaceMaps::look_for_glow() {
  glows_ = false;
  if (const Field* field = slot_of(slots_, "emissive"))
    for (std::size_t i = 0; i < 3; ++i) glows_ |= range_of(*field->strand[i]).most > 1;
  if (over_surface_)
    for (const auto& out : over_surface_->outputs) glows_ |= out.name == "emissive";
}

SurfaceMaps::Point SurfaceMaps::read(float u, float v, float footprint) const {
  const Usual::Texel x = usual_->at(u, v, footprint);
  Point p{.base = {x[0], x[1], x[2]},
          .normal = {x[3], x[4], x[5]},
          .emissive = {x[9], x[10], x[11]},
          .roughness = x[6],
          .metallic = x[7],
          .occlusion = x[8]};
  if (further_) {
    const Further::Texel f = further_->at(u, v, footprint);
    p.specular_weight = f[0], p.specular_ior = f[1], p.coat_weight = f[2], p.coat_roughness = f[3];
  }
  if (rare_) {
    const Rare::Texel r = rare_->at(u, v, footprint);
    p.anisotropy = r[0], p.along = {r[1], r[2], 0}, p.fuzz_weight = r[3], p.fuzz_roughness = r[4];
    p.fuzz = {r[5], r[6], r[7]};
  }
  if (sheet_) {
    const Sheet::Texel s = sheet_->at(u, v, footprint);
    p.thin = s[0], p.subsurface = s[1], p.onward = s[2], p.subsurface_colour = {s[3], s[4], s[5]};
  }
  return p;
}

SurfaceMaps::Place SurfaceMaps::place_of(std::string_view slot) {
  static const std::map<std::string, Place, std::less<>> kPlaces{
      {"base_colour", {&Point::base}},
      {"normal", {&Point::normal}},
      {"emissive", {&Point::emissive}},
      {"roughness", {nullptr, &Point::roughness}},
      {"metallic", {nullptr, &Point::metallic}},
      {"occlusion", {nullptr, &Point::occlusion}},
      {"specular_weight", {nullptr, &Point::specular_weight}},
      {"specular_ior", {nullptr, &Point::specular_ior}},
      {"coat_weight", {nullptr, &Point::coat_weight}},
      {"coat_roughness", {nullptr, &Point::coat_roughness}},
      {"specular_roughness_anisotropy", {nullptr, &Point::anisotropy}},
      {"geometry_tangent", {&Point::along, nullptr, 2}},
      {"fuzz_weight", {nullptr, &Point::fuzz_weight}},
      {"fuzz_roughness", {nullptr, &Point::fuzz_roughness}},
      {"geometry_thin_walled", {nullptr, &Point::thin}},
      {"subsurface_weight", {nullptr, &Point::subsurface}},
      {"subsurface_color", {&Point::subsurface_colour}},
      {"subsurface_scatter_anisotropy", {nullptr, &Point::onward}},
      {"fuzz_color", {&Point::fuzz}}};
  const auto it = kPlaces.find(slot);
  return it == kPlaces.end() ? Place{} : it->second;
}

void SurfaceMaps::shade(const SurfaceStrip& strip, std::span<Point* const> points) const {
  std::optional<Shading>& mine = shadings_->local();
  if (!mine) mine.emplace(*over_surface_);
  const auto rows = mine->runner.run(strip);
  for (std::size_t o = 0; o < over_surface_->outputs.size(); ++o) {
    const auto& out = over_surface_->outputs[o];
    const float* const* const from = &rows[out.first];
    if (out.name.front() == '#') {  // no slot: what the unlit view shows
      const auto strands = static_cast<std::size_t>(strand_count(out.kind));
      std::array<float, 4> value;
      for (std::size_t i = 0; i < strip.count; ++i) {
        for (std::size_t k = 0; k < strands; ++k) value[k] = from[k][i];
        points[i]->base = unlit_colour(out.kind, {value.data(), strands}, out.name == kUnlitAboutZero);
      }
      continue;
    }
    const Place& to = mine->places[o];
    if (to.vector)
      for (std::size_t i = 0; i < strip.count; ++i)
        points[i]->*to.vector = {from[0][i], from[1][i], to.strands > 2 ? from[2][i] : 0};
    if (to.number)
      for (std::size_t i = 0; i < strip.count; ++i) points[i]->*to.number = from[0][i];
  }
}

void SurfaceMaps::settle(Point& p) {
  p.base = {std::max(p.base.x, 0.0f), std::max(p.base.y, 0.0f), std::max(p.base.z, 0.0f)};
  for (float Point::*share :
       {&Point::metallic, &Point::occlusion, &Point::specular_weight, &Point::coat_weight, &Point::anisotropy,
        &Point::fuzz_weight, &Point::fuzz_roughness, &Point::thin, &Point::subsurface})
    p.*share = std::clamp(p.*share, 0.0f, 1.0f);
  p.specular_ior = std::clamp(p.specular_ior, 1.0f, 3.0f);
  p.onward = std::clamp(p.onward, -1.0f, 1.0f);
  for (Vec3* colour : {&p.fuzz, &p.subsurface_colour})
    for (float* x : {&colour->x, &colour->y, &colour->z}) *x = std::clamp(*x, 0.0f, 1.0f);
  // A mean normal is shorter where normals spread: their variance widens the lobes.
  // Source: Toksvig, "Mipmapping Normal Maps", 2005, in the form for alpha^2.
  const float length = std::clamp(std::sqrt(dot(p.normal, p.normal)), 0.05f, 1.0f),
              spread = std::min((1 - length) / length, 1.0f);
  for (float* roughness : {&p.roughness, &p.coat_roughness}) {
    const float rough = std::clamp(*roughness, 0.03f, 1.0f), alpha2 = rough * rough * rough * rough + spread;
    *roughness = std::sqrt(std::sqrt(std::min(alpha2, 1.0f)));
  }
  p.normal = normalised(p.normal);
}

const ReliefField* SurfaceMaps::relief() const {
  std::call_once(relief_->built, [this] {
    const Field* height = slot_of(slots_, "height");
    if (!height) return;
    const Range range = range_of(*height->strand[0]);
    if (range.most - range.least > 1e-6f) relief_->field.emplace(*height->strand[0]);
  });
  return relief_->field ? &*relief_->field : nullptr;
}

}  // namespace loom
