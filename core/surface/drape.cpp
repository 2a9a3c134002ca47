// Ball and tile are met exactly; a floor catches the ball's shadow.
#include "core/surface/drape.h"

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

constexpr float kHalfTile = 1.25f;
constexpr float kPictureGrey = 0.181f;  // linear reflectance of the neutral ground

const Field* slot_of(const std::map<std::string, Field>& slots, const char* id) {
  const auto it = slots.find(id);
  return it == slots.end() || !it->second.strand[0] ? nullptr : &it->second;
}

struct Frame {
  Vec3 t, b, n;
};
Frame frame_about(Vec3 n) {  // Source: Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017
  const float sign = n.z >= 0 ? 1.0f : -1.0f, a = -1 / (sign + n.z), b = n.x * n.y * a;
  return {{1 + sign * n.x * n.x * a, sign * b, -sign * n.x}, {b, sign + n.y * n.y * a, -n.y}, n};
}
Vec3 local(const Frame& f, Vec3 v) { return {dot(v, f.t), dot(v, f.b), dot(v, f.n)}; }
Vec3 world(const Frame& f, Vec3 v) { return f.t * v.x + f.b * v.y + f.n * v.z; }

struct Surface {
  Vec3 diffuse, f0;
  float alpha;
};
Surface surface_of(const SurfaceMaps::Point& p) {
  const float roughness = std::clamp(p.roughness, 0.03f, 1.0f);
  return {p.base * (1 - p.metallic), mix(Vec3{0.04f, 0.04f, 0.04f}, p.base, p.metallic), roughness * roughness};
}

// What single scattering loses is given back. Source: Turquin, "Practical multiple scattering compensation", 2019.
Vec3 compensation(const Surface& s, float cos_v) {
  const float e = std::max(ggx_albedo(cos_v, s.alpha).e(), 0.05f);
  return Vec3{1, 1, 1} + s.f0 * (1 / e - 1);
}

Vec3 specular_albedo(const Surface& s, float cos_v) {
  const Albedo a = ggx_albedo(cos_v, s.alpha);
  return s.f0 * a.a + Vec3{a.b, a.b, a.b};
}

// Reflected radiance for unit irradiance from l, times the cosine.
Vec3 reflectance(const Surface& s, Vec3 n, Vec3 v, Vec3 l, Vec3 gain, Vec3 diffuse_share) {
  const float nl = dot(n, l), nv = std::max(dot(n, v), 1e-3f);
  if (nl <= 0) return {};
  const Vec3 h = normalised(v + l);
  const Vec3 f = schlick(s.f0, dot(v, h));
  const float spec = ggx_density(std::max(dot(n, h), 0.0f), s.alpha) * smith_g2(nv, nl, s.alpha) / (4 * nv * nl);
  return (f * spec * gain + s.diffuse * diffuse_share * (1 / kPi)) * nl;
}

}  // namespace

namespace {

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

SurfaceMaps::SurfaceMaps(const std::map<std::string, Field>& slots) : slots_(slots) {
  static_assert(kLaid == kChannels);
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
  const int x0 = static_cast<int>(std::floor(x)), y0 = static_cast<int>(std::floor(y));
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
  u -= std::floor(u);
  v -= std::floor(v);
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
  return p;
}

namespace {

// An environment and its key light, as they start, light a white Lambert surface that faces the key with radiance 1, so
// that a grey of 0.18 there shows as 118 of 255.
float scale_of(const Environment& environment) {
  const DrapeView start;
  const float a = start.light_degrees * 0.01745329f, h = start.light_height * 0.01745329f;
  const Vec3 facing = environment.diffuse({std::cos(h) * std::sin(-a), std::sin(h), std::cos(h) * std::cos(a)});
  return 1 / (0.2126f * facing.x + 0.7152f * facing.y + 0.0722f * facing.z + start.key / kPi);
}

// Highlights roll off: up to kShoulder radiance is shown as it is, above it nears 1 without reaching it, and the slope
// has no step: y = s + (1 - s) (1 - exp(-(x - s) / (1 - s))).
constexpr float kShoulder = 0.6f;
float rolled_off(float x) {
  if (x <= kShoulder) return x;
  return kShoulder + (1 - kShoulder) * (1 - std::exp(-(x - kShoulder) / (1 - kShoulder)));
}

}  // namespace

Drape::Drape(std::shared_ptr<const SurfaceMaps> maps, const DrapeView& view)
    : maps_(std::move(maps)),
      view_(view),
      environment_(environment(view.environment)),
      sum_(static_cast<std::size_t>(view.width) * static_cast<std::size_t>(view.height)) {
  const bool ball = view.shape == Shape::ball;
  eye_ = ball ? Vec3{0, 0.65f, 4.6f} : Vec3{0, 4.2f, 3.2f};
  const Vec3 target = ball ? Vec3{0, -0.03f, 0} : Vec3{0, 0, 0.12f};
  forward_ = normalised(target - eye_);
  right_ = normalised(cross(forward_, {0, 1, 0}));
  up_ = cross(right_, forward_);
  const float tall = std::max(1.0f, static_cast<float>(view.height) / static_cast<float>(view.width));
  zoom_ = ball ? 0.262f * tall : zoom_to_fit_tile();
  const float a = view.light_degrees * 0.01745329f, h = view.light_height * 0.01745329f;
  light_ = {std::cos(h) * std::sin(-a), std::sin(h), std::cos(h) * std::cos(a)};
  light_scale_ = scale_of(*environment_);
}

// The tangent of half the angle of view at which the tile's corners lie within the picture, with a little room.
float Drape::zoom_to_fit_tile() const {
  float most = 0;
  for (const float x : {-kHalfTile, kHalfTile})
    for (const float z : {-kHalfTile, kHalfTile}) {
      const Vec3 to = Vec3{x, 0, z} - eye_;
      const float depth = dot(to, forward_);
      most = std::max(
          {most, std::abs(dot(to, up_)) / depth,
           std::abs(dot(to, right_)) / depth * static_cast<float>(view_.height) / static_cast<float>(view_.width)});
    }
  return most * 1.06f;
}

Drape::Hit Drape::trace(float px, float py, Vec3& towards_eye) const {
  const float scale = 2 * zoom_ / static_cast<float>(view_.height);
  const Vec3 ray = normalised(forward_ + right_ * ((px - 0.5f * static_cast<float>(view_.width)) * scale) +
                              up_ * ((0.5f * static_cast<float>(view_.height) - py) * scale));
  towards_eye = ray * -1;
  Hit hit;
  if (view_.shape == Shape::ball) {
    const float b = dot(eye_, ray), c = dot(eye_, eye_) - 1, root = b * b - c;
    if (root > 0) {
      const float t = -b - std::sqrt(root);
      hit.surface = true;
      hit.place = hit.normal = eye_ + ray * t;
      const float around = std::sqrt(std::max(1e-6f, hit.place.x * hit.place.x + hit.place.z * hit.place.z));
      hit.tangent = {hit.place.z / around, 0, -hit.place.x / around};
      const float times = view_.repeats;
      hit.u = std::atan2(hit.place.x, hit.place.z) / (2 * kPi) * 4 * times;
      hit.v = std::acos(std::clamp(hit.place.y, -1.0f, 1.0f)) / kPi * 2 * times;
      const float pixel = t * scale / std::max(dot(hit.normal, towards_eye), 0.15f);
      hit.footprint = pixel * 2 * times / (kPi * std::max(around, 0.3f));
      return hit;
    }
    const float t = ray.y < -1e-4f ? (-1 - eye_.y) / ray.y : -1;
    if (t > 0) hit.floor = true, hit.place = eye_ + ray * t;
    return hit;
  }
  const float t = ray.y < -1e-4f ? -eye_.y / ray.y : -1;
  const Vec3 place = eye_ + ray * t;
  if (t > 0 && std::abs(place.x) <= kHalfTile && std::abs(place.z) <= kHalfTile) {
    hit.surface = true;
    hit.place = place;
    hit.normal = {0, 1, 0};
    hit.tangent = {1, 0, 0};
    hit.u = (place.x / (2 * kHalfTile) + 0.5f) * view_.repeats;
    hit.v = (place.z / (2 * kHalfTile) + 0.5f) * view_.repeats;
    hit.footprint = t * scale / (2 * kHalfTile) * view_.repeats / std::max(std::sqrt(-ray.y), 0.3f);
  }
  return hit;
}

// Over a grid of places; a tenth less, for what lies between them.
float Drape::least_footprint() const {
  constexpr int kGrid = 24;
  float least = 1;
  for (int j = 0; j <= kGrid; ++j)
    for (int i = 0; i <= kGrid; ++i) {
      Vec3 v;
      const Hit hit =
          trace(static_cast<float>(i * view_.width) / kGrid, static_cast<float>(j * view_.height) / kGrid, v);
      if (hit.surface) least = std::min(least, hit.footprint);
    }
  return 0.9f * least;
}

Vec3 Drape::background(const Hit& hit) const {
  float shade = 1;
  if (hit.floor) {  // how much of the floor's sky the ball hides, seen from there
    const Vec3 to = hit.place * -1;
    const float d2 = dot(to, to), cosine = std::max(to.y / std::sqrt(d2), 0.0f);
    shade = 1 - 0.85f * std::min(cosine / d2, 1.0f);
  }
  return Vec3{kPictureGrey, kPictureGrey, kPictureGrey} *
         (shade * std::exp2(-view_.exposure));  // the ground itself is not exposed
}

Vec3 Drape::shading_normal(const Hit& hit, const SurfaceMaps::Point& p, Vec3 v) const {
  const Vec3 bitangent = cross(hit.normal, hit.tangent);  // up in the picture of the tile
  Vec3 n = normalised(hit.tangent * p.normal.x + bitangent * p.normal.y + hit.normal * p.normal.z);
  const float nv = dot(n, v);
  if (nv < 0.02f) n = normalised(n + v * (0.02f - nv));  // a normal that looks away is bent back to the eye
  return n;
}

Vec3 Drape::key_light(const SurfaceMaps::Point& p, Vec3 n, Vec3 v) const {
  const Surface s = surface_of(p);
  const float nv = std::max(dot(n, v), 1e-3f);
  const Vec3 through = Vec3{1, 1, 1} - specular_albedo(s, nv);
  return reflectance(s, n, v, light_, compensation(s, nv), through) * view_.key;
}

Vec3 Drape::quick(const Hit& hit, Vec3 v) const {
  const SurfaceMaps::Point p = maps_->at(hit.u, hit.v, hit.footprint);
  if (view_.unlit) return p.base * std::exp2(-view_.exposure);
  const Vec3 n = shading_normal(hit, p, v);
  const Surface s = surface_of(p);
  const float nv = std::max(dot(n, v), 1e-3f);
  const Vec3 spec = specular_albedo(s, nv), r = n * (2 * dot(n, v)) - v;
  const Vec3 light = environment_->diffuse(n) * s.diffuse * (Vec3{1, 1, 1} - spec) +
                     environment_->glossy(r, std::sqrt(s.alpha)) * spec * compensation(s, nv);
  const float facing = dot(hit.normal, light_) > 0 ? 1.0f : 0.0f;
  return (light * p.occlusion + key_light(p, n, v) * facing) * light_scale_ + p.emissive;
}

Vec3 Drape::path(const Hit& hit, Vec3 v, std::uint32_t seed) const {
  if (view_.unlit) return quick(hit, v);
  const SurfaceMaps::Point p = maps_->at(hit.u, hit.v, hit.footprint);
  const Vec3 n = shading_normal(hit, p, v);
  const Surface s = surface_of(p);
  const float nv = std::max(dot(n, v), 1e-3f);
  const Vec3 gain = compensation(s, nv), spec = specular_albedo(s, nv), through = Vec3{1, 1, 1} - spec;
  const auto draw = [&](std::uint32_t k) { return unit_random(0x51ed27u * (k + 1), seed); };
  const float bright_spec = spec.x + spec.y + spec.z, bright_diffuse = s.diffuse.x + s.diffuse.y + s.diffuse.z;
  const float chance =
      std::clamp(bright_spec / std::max(bright_spec + bright_diffuse, 1e-6f), 0.15f, 0.95f);  // of following the lobe
  const Frame f = frame_about(n);
  const Vec3 lv = local(f, v);
  const auto surface_density = [&](Vec3 l) {
    const float nl = dot(n, l);
    if (nl <= 0) return 0.0f;
    const Vec3 h = normalised(v + l);
    const float lobe = ggx_density(std::max(dot(n, h), 0.0f), s.alpha) * smith_g1(nv, s.alpha) / (4 * nv);
    return chance * lobe + (1 - chance) * nl / kPi;
  };
  // Light below the shape's own horizon is hidden by the shape.
  const auto arrives = [&](Vec3 l) { return dot(hit.normal, l) > 0; };
  Vec3 sum;
  const auto lit = environment_->sample(draw(0), draw(1));
  if (lit.density > 0 && arrives(lit.direction)) {
    const float weight = 1 / (lit.density + surface_density(lit.direction));  // balance heuristic
    sum = sum + reflectance(s, n, v, lit.direction, gain, through) * environment_->radiance(lit.direction) * weight;
  }
  Vec3 l;
  if (draw(2) < chance) {
    const Vec3 h = world(f, sample_visible_half({lv.x, lv.y, std::max(lv.z, 1e-3f)}, s.alpha, draw(3), draw(4)));
    l = h * (2 * dot(v, h)) - v;
  } else {
    const float r = std::sqrt(draw(3)), phi = 2 * kPi * draw(4);
    l = world(f, {r * std::cos(phi), r * std::sin(phi), std::sqrt(std::max(0.0f, 1 - r * r))});
  }
  if (const float d = surface_density(l); d > 0 && arrives(l)) {
    const float weight = 1 / (d + environment_->density(l));
    sum = sum + reflectance(s, n, v, l, gain, through) * environment_->radiance(l) * weight;
  }
  const float facing = dot(hit.normal, light_) > 0 ? 1.0f : 0.0f;
  return (sum * p.occlusion + key_light(p, n, v) * facing) * light_scale_ + p.emissive;
}

int Drape::quick_step(const DrapeView& view) {
  constexpr double kPlaces = 16500;
  return std::max(1, static_cast<int>(std::lround(std::sqrt(static_cast<double>(view.width) * view.height / kPlaces))));
}

void Drape::first_answer(int step, const Stop& stop) {
  const int rows = (view_.height + step - 1) / step, columns = (view_.width + step - 1) / step;
  maps_->want(least_footprint() * static_cast<float>(step));
  std::vector<Vec3> coarse(static_cast<std::size_t>(rows) * static_cast<std::size_t>(columns));
  for_rows(rows, 2, stop, [&](int first, int last) {
    for (int j = first; j < last && !stop.asked(); ++j)
      for (int i = 0; i < columns; ++i) {
        Vec3 v;
        Hit hit = trace((static_cast<float>(i) + 0.5f) * static_cast<float>(step),
                        (static_cast<float>(j) + 0.5f) * static_cast<float>(step), v);
        hit.footprint *= static_cast<float>(step);
        coarse[static_cast<std::size_t>(j) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(i)] =
            hit.surface ? quick(hit, v) : background(hit);
      }
  });
  samples_ = 0;
  if (step == 1) return sum_.swap(coarse);
  for_rows(view_.height, 16, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float fy = std::clamp((static_cast<float>(y) + 0.5f) / static_cast<float>(step) - 0.5f, 0.0f,
                                  static_cast<float>(rows) - 1.001f);
      const Vec3* above = &coarse[static_cast<std::size_t>(fy) * static_cast<std::size_t>(columns)];
      const Vec3* below = rows > 1 ? above + columns : above;
      const float ty = fy - std::floor(fy);
      for (int x = 0; x < view_.width; ++x) {
        const float fx = std::clamp((static_cast<float>(x) + 0.5f) / static_cast<float>(step) - 0.5f, 0.0f,
                                    static_cast<float>(columns) - 1.001f);
        const auto i = static_cast<std::size_t>(fx), k = columns > 1 ? i + 1 : i;
        const float tx = fx - static_cast<float>(i);
        sum_[static_cast<std::size_t>(y) * static_cast<std::size_t>(view_.width) + static_cast<std::size_t>(x)] =
            (above[i] * (1 - tx) + above[k] * tx) * (1 - ty) + (below[i] * (1 - tx) + below[k] * tx) * ty;
      }
    }
  });
}

void Drape::add_sample(const Stop& stop) {
  const auto n = static_cast<std::uint32_t>(samples_);
  maps_->want(least_footprint());
  // Pixels are jittered by a sequence that fills the pixel evenly. Source: Roberts' R2 sequence, common practice.
  const float jx = static_cast<float>(std::fmod(0.5 + n * 0.7548776662466927, 1.0)),
              jy = static_cast<float>(std::fmod(0.5 + n * 0.5698402909980532, 1.0));
  for_rows(view_.height, 2, stop, [&](int first, int last) {
    for (int y = first; y < last && !stop.asked(); ++y)
      for (int x = 0; x < view_.width; ++x) {
        Vec3 v;
        const Hit hit = trace(static_cast<float>(x) + jx, static_cast<float>(y) + jy, v);
        const auto i = static_cast<std::uint32_t>(y * view_.width + x);
        const Vec3 c = hit.surface ? path(hit, v, pcg(i ^ pcg(n + 1))) : background(hit);
        sum_[i] = n == 0 ? c : sum_[i] + c;
      }
  });
  ++samples_;
}

std::optional<std::array<float, 2>> Drape::place_under(float px, float py) const {
  Vec3 towards_eye;
  const Hit hit = trace(px, py, towards_eye);
  if (!hit.surface) return {};
  return std::array{hit.u - std::floor(hit.u), hit.v - std::floor(hit.v)};
}

std::vector<std::uint8_t> Drape::picture() const {
  // Radiance up to kMost by a fine table, rolled off and sRGB-encoded; base colours alone are shown as they are.
  constexpr float kMost = 8, kSteps = 131072;
  static const auto table_of = [](bool rolled) {
    std::vector<std::uint8_t> t(static_cast<std::size_t>(kSteps) + 1);
    for (std::size_t i = 0; i < t.size(); ++i) {
      const float x = static_cast<float>(i) * kMost / kSteps;
      t[i] = static_cast<std::uint8_t>(code_of(srgb_from_linear(rolled ? rolled_off(x) : std::min(x, 1.0f)), 255));
    }
    return t;
  };
  static const std::vector<std::uint8_t> kRolled = table_of(true), kPlain = table_of(false);
  const std::vector<std::uint8_t>& codes = view_.unlit ? kPlain : kRolled;
  const float gain = std::exp2(view_.exposure) / static_cast<float>(std::max(samples_, 1)) * kSteps / kMost;
  std::vector<std::uint8_t> out(sum_.size() * 3);
  for (std::size_t i = 0; i < sum_.size(); ++i) {
    const float c[3] = {sum_[i].x, sum_[i].y, sum_[i].z};
    for (std::size_t k = 0; k < 3; ++k)
      out[i * 3 + k] = codes[static_cast<std::size_t>(std::clamp(c[k] * gain, 0.0f, kSteps))];
  }
  return out;
}

}  // namespace loom
