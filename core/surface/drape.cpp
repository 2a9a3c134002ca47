// The film, the eye and the light.
#include "core/surface/drape.h"

#include <array>
#include <cmath>
#include <tuple>

#include "core/base/parallel.h"
#include "core/plane/colour.h"
#include "core/surface/glow.h"
#include "core/surface/shape_mesh.h"
#include "core/surface/shell_body.h"

namespace loom {
namespace {

constexpr std::size_t kMostPlaces = 3;  // of the surface that a path visits at most
// Pairs of the sampler: three for each place but the last; then the choices there, and what decides at openings.
constexpr std::size_t kChoices = 3 * (kMostPlaces - 1), kChances = kChoices + 1;
static_assert(kMostPlaces == 3 && kChances < Sampler::kPairs);
constexpr float kCutOut = 0.5f;  // opacity up to this is open, where nothing is drawn by chance

// An environment and its key light, as they start, light a white Lambert surface that faces the key with radiance 1, so
// that a grey of 0.18 there shows as 118 of 255.
float scale_of(const Environment& environment) {
  const KeyLight& key = environment.key();
  return 1 / (luminance(environment.diffuse(direction_of(key.azimuth, key.height))) +
              key.strength * luminance(key.colour) / kPi);
}

// Highlights roll off: up to kShoulder radiance is shown as it is, above it nears 1 without reaching it, and the slope
// has no step: y = s + (1 - s) (1 - exp(-(x - s) / (1 - s))).
constexpr float kShoulder = 0.6f;
float rolled_off(float x) {
  if (x <= kShoulder) return x;
  return kShoulder + (1 - kShoulder) * (1 - std::exp(-(x - kShoulder) / (1 - kShoulder)));
}
float rolled_on(float y) {
  if (y <= kShoulder) return y;
  return kShoulder - (1 - kShoulder) * std::log(1 - (std::min(y, 0.999f) - kShoulder) / (1 - kShoulder));
}

// How wide a tile is on the shape.
float tile_on(const DrapeView& view, const Extent& extent) {
  if (view.true_scale) return static_cast<float>(extent.tile_metres);
  const float whole = view.mesh ? view.mesh->tile_metres() : view.shape == ShapeName::tile ? 1 : kPi / 4;
  return whole / std::max(view.repeats, 0.01f);
}

float depth_on(const Shape& shape, const DrapeView& view, const Extent& extent) {
  if (!view.relief) return 0;
  return relief_of(extent, shape.tile()) * view.relief_factor;
}

// A row in strips of places that are taken together.
template <class Take>
void for_strips(int length, const Take& take) {
  constexpr int kLongest = static_cast<int>(SurfaceStrip::kLongest);
  for (int from = 0; from < length; from += kLongest) take(from, std::min(from + kLongest, length));
}

float largest(Vec3 c) { return std::max({c.x, c.y, c.z}); }

}  // namespace

bool is_too_deep(const Worn& worn, const DrapeView& view) {
  if (!view.mesh) return false;
  const float tile = tile_on(view, worn.maps->extent());
  return worn.any([&](const SurfaceMaps& m) { return is_too_deep(*view.mesh, m, tile, view.relief_factor); });
}

std::unique_ptr<const Body> body_of(const Worn& worn, const DrapeView& view) {
  const Extent& extent = worn.maps->extent();
  const float tile = tile_on(view, extent);
  if (view.mesh) return std::make_unique<MeshBody>(view.mesh, worn, tile, view.relief ? view.relief_factor : 0);
  auto shape = Shape::make(view.shape, tile);
  const float depth = depth_on(*shape, view, extent);
  return std::make_unique<ShellBody>(std::move(shape), worn.maps, depth);
}

namespace {

// The eye's own axes.
struct Axes {
  Vec3 forward, right, up;
  explicit Axes(const Camera& c)
      : forward(direction_of(c.azimuth, c.height) * -1),
        right(normalised(cross(forward, {0, 1, 0}))),
        up(cross(right, forward)) {}
};

}  // namespace

Vec3 eye_of(const DrapeView& view, const Body& body) {
  const Camera& c = view.camera;
  const Axes axes(c);
  const float radius = body.radius();
  return body.middle() + axes.right * (-c.aside * radius) + axes.up * (-c.up * radius) -
         axes.forward * (c.distance * radius);
}

Result<std::shared_ptr<const MeasuredMesh>> measured_for(const Worn& worn, const DrapeView& view, const Stop& stop,
                                                         const std::function<void(double)>& progress,
                                                         std::size_t points) {
  const std::set<MeshMeasure> asked = worn.measures();
  if (asked.empty()) return std::shared_ptr<const MeasuredMesh>();
  auto out = std::make_shared<MeasuredMesh>();
  out->mesh = view.mesh ? view.mesh : shape_mesh(view.shape);
  const auto known = [&](const MeshMeasure& what) -> std::shared_ptr<const Measured> {
    if (!view.measured || view.measured->mesh != out->mesh) return nullptr;
    const auto it = view.measured->known.find(what);
    return it != view.measured->known.end() && it->second->is_as_good_as(what, points) ? it->second : nullptr;
  };
  for (const MeshMeasure& what : asked) {
    if (auto before = known(what)) {
      out->known[what] = std::move(before);
      continue;
    }
    const auto made = Measured::make(out->mesh, what, points, stop, progress);
    if (!made) return made.error();
    out->known[what] = *made;
  }
  return std::shared_ptr<const MeasuredMesh>(std::move(out));
}

Drape::Drape(Worn worn, const DrapeView& view)
    : worn_(std::move(worn)),
      view_(view),
      body_(body_of(worn_, view)),
      dresser_(worn_, view.measured, view.mesh, direction_of(view.light_degrees, view.light_height)),
      environment_(view.own ? view.own : environment(view.environment)),
      turn_sine_(std::sin(view.turn * kDegree)),
      turn_cosine_(std::cos(view.turn * kDegree)),
      light_(direction_of(view.light_degrees, view.light_height)),
      about_light_(light_),
      key_radius_(std::tan(view.key_size / 2 * kDegree)) {
  const Axes axes(view.camera);
  forward_ = axes.forward, right_ = axes.right, up_ = axes.up;
  eye_ = eye_of(view, *body_);
  // A picture higher than wide holds in its breadth what a wide one holds in its height.
  const auto width = static_cast<float>(view.width), height = static_cast<float>(view.height);
  pixel_ = 2 * std::tan(Camera::kField / 2 * kDegree) / std::min(width, height);
  light_scale_ = view.own ? 1 : scale_of(*environment_);
  sky_over_floor_ = luminance(environment_->diffuse({0, 1, 0}));
  key_ = environment_->key().colour * (environment_->key().strength * view.key);
  key_on_floor_ = luminance(key_) / kPi * std::max(light_.y, 0.0f);
  // The ground is neither exposed nor rolled off.
  plain_ =
      Vec3{rolled_on(view.ground.x), rolled_on(view.ground.y), rolled_on(view.ground.z)} * std::exp2(-view.exposure);
}

void Drape::lay_film() {
  const std::size_t pixels = static_cast<std::size_t>(view_.width) * static_cast<std::size_t>(view_.height);
  if (sum_.size() == pixels) return;
  booked_ = Booked(pixels * (sizeof(Lit) + sizeof(float)));
  sum_.resize(pixels);
  squares_.resize(pixels);
}

Ray Drape::ray(float px, float py) const {
  const float x = (px - 0.5f * static_cast<float>(view_.width)) * pixel_,
              y = (0.5f * static_cast<float>(view_.height) - py) * pixel_;
  return {eye_, normalised(forward_ + right_ * x + up_ * y)};
}

std::optional<std::array<float, 2>> Drape::shown_at(Vec3 place) const {
  const Vec3 to = place - eye_;
  const float ahead = dot(to, forward_);
  if (!(ahead > 0)) return {};
  const float per = 1 / (ahead * pixel_);
  return std::array{0.5f * static_cast<float>(view_.width) + dot(to, right_) * per,
                    0.5f * static_cast<float>(view_.height) - dot(to, up_) * per};
}

Vec3 Drape::turned(Vec3 d) const {
  return {turn_cosine_ * d.x - turn_sine_ * d.z, d.y, turn_sine_ * d.x + turn_cosine_ * d.z};
}
Vec3 Drape::turned_back(Vec3 d) const {
  return {turn_cosine_ * d.x + turn_sine_ * d.z, d.y, -turn_sine_ * d.x + turn_cosine_ * d.z};
}

// Of a pixel on the tile, in shares of it; seen at a slant between what it is along and across.
float Drape::footprint(const Lane& lane) const {
  const float cosine = std::max(std::abs(dot(lane.hit->facet, lane.ray.towards)), 0.1f);
  return lane.width.at(lane.hit->t) / (lane.hit->tile * std::sqrt(cosine));
}

// The finest that a grid of places asks for; a tenth less, for what lies between them.
void Drape::want_maps(float stride) const {
  constexpr int kGrid = 24;
  float least = 1;
  for (int j = 0; j <= kGrid; ++j)
    for (int i = 0; i <= kGrid; ++i) {
      Lane lane{.ray = ray(static_cast<float>(i * view_.width) / kGrid, static_cast<float>(j * view_.height) / kGrid),
                .width = pixel()};
      lane.hit = body_->first(lane.ray, pixel(), 0);
      if (lane.hit) least = std::min(least, footprint(lane));
    }
  worn_.each([&](const SurfaceMaps& maps) { maps.want(0.9f * least * stride); });
}

// What the materials have where lanes met the body.
void Drape::dress(std::span<Lane> lanes) const {
  std::array<Dresser::Place, SurfaceStrip::kLongest> places;
  std::size_t count = 0;
  for (Lane& lane : lanes) {
    if (!lane.hit) continue;
    const Body::Hit& hit = *lane.hit;
    lane.point = {{}, hit.facet, hit.facet, {}, body_->off(hit), {}};
    lane.point.behind = hit.place * 2 - lane.point.off.place;
    places[count++] = {&hit, lane.ray.towards * -1, footprint(lane), &lane.point.maps};
  }
  dresser_.dress({places.data(), count});
  for (Lane& lane : lanes)
    if (lane.hit) bend_to_eye(lane);
}

void Drape::bend_to_eye(Lane& lane) const {
  Point& p = lane.point;
  SurfaceMaps::settle(p.maps);
  if (!lane.hit->flat_side) {
    Vec3 normal = p.maps.normal;
    if (view_.relief_factor != 1)
      normal = normalised({normal.x * view_.relief_factor, normal.y * view_.relief_factor, normal.z});
    p.normal = worn(*lane.hit, normal);
  }
  if (p.maps.anisotropy > 0) p.along = on_shape(*lane.hit, p.maps.along);
  // A normal that looks away is bent back to the eye.
  const Vec3 v = lane.ray.towards * -1;
  if (const float nv = dot(p.normal, v); nv < 0.02f) p.normal = normalised(p.normal + v * (0.02f - nv));
  if (!view_.occlusion) p.maps.occlusion = 1;
  if (!view_.mesh) p.maps.thin = 0;  // light that enters a closed shape meets its other wall
}

bool Drape::shadowed(const Vec3& from, Vec3 towards, Body::Width width, float chance) const {
  return view_.shadows && body_->blocks({from, towards}, width, chance);
}

// Whether light gets from there to the place, on the side that it comes from.
bool Drape::reaches(const Point& p, const Reflector& r, Vec3 towards, Body::Width width, float chance) const {
  if (dot(p.normal, towards) > 0) return !shadowed(p.off.place, towards, width, chance);
  return r.lets_through() && dot(p.facet, towards) < 0 && !shadowed(p.behind, towards, width, chance);
}

Vec3 Drape::key_light(const Point& p, const Reflector& r, Vec3 towards, Body::Width width, float chance) const {
  if (view_.key <= 0 || !reaches(p, r, towards, width, chance)) return {};
  return r.towards(towards).reflected * key_;
}

std::optional<float> Drape::floor_ahead(const Ray& ray) const {
  if (view_.background != Background::plain || (!view_.mesh && view_.shape == ShapeName::tile) ||
      ray.towards.y > -1e-4f)
    return {};
  const float t = (body_->foot() - ray.from.y) / ray.towards.y;
  if (t <= 0) return {};
  return t;
}

// Of the floor's own light, what the shape leaves: of the sky what the sphere about it does not hide, and of the key
// light all or nothing.
float Drape::floor_shade(Vec3 place, Vec3 to_key) const {
  if (!view_.shadows) return 1;
  const Vec3 to = body_->middle() - place;
  const float d = dot(to, to), radius = body_->radius();
  const float sky = 1 - 0.85f * std::min(to.y / std::sqrt(d) * radius * radius / d, 1.0f);
  const bool key = key_on_floor_ > 0 && !body_->blocks({place + Vec3{0, 1e-4f, 0}, to_key}, {pixel_, 0}, kCutOut);
  return (sky_over_floor_ * sky + (key ? key_on_floor_ : 0)) / (sky_over_floor_ + key_on_floor_);
}

Drape::Lit Drape::background(const Ray& ray) const {
  if (view_.background == Background::none) return {{}, 0};
  if (view_.background == Background::environment && !view_.unlit)
    return {environment_->radiance(turned(ray.towards)) * light_scale_, 1};
  return {plain_, 1};
}

// What a ray sees that passes the shape by.
Drape::Lit Drape::surroundings(const Ray& ray, Vec3 to_key) const {
  Lit lit = background(ray);
  if (view_.unlit) return lit;
  if (const auto t = floor_ahead(ray)) lit.light = lit.light * floor_shade(ray.at(*t), to_key);
  return lit;
}

// The environment by its means, nothing of it hidden.
Vec3 Drape::mirrored(const Reflector& r) const {
  std::array<Vec3, Reflector::kMirrors> from;
  const float roughness = r.mirrors(from);
  Vec3 sum;
  for (const Vec3& m : from) sum = sum + environment_->glossy(turned(m), roughness);
  return sum * (1.0f / Reflector::kMirrors);
}

Vec3 Drape::under_sky(const Point& p, const Reflector& r) const {
  const Vec3 mirror = turned(r.mirror());
  const Vec3 through = r.lets_through() ? r.shines_through(environment_->diffuse(turned(p.normal * -1))) : Vec3{};
  return through + r.under(environment_->diffuse(turned(p.normal)),
                           r.is_even() ? environment_->glossy(mirror, r.roughness()) : mirrored(r),
                           r.has_coat() ? environment_->glossy(mirror, r.coat_roughness()) : Vec3{});
}

Drape::Lane Drape::lane_at(int column, int row, int step) const {
  const auto middle = [&](int i) { return (static_cast<float>(i) + 0.5f) * static_cast<float>(step); };
  return {.ray = ray(middle(column), middle(row)), .width = {0, pixel_ * static_cast<float>(step)}};
}

void Drape::see(std::span<Lane> lanes) const {
  for (Lane& lane : lanes) lane.hit = body_->first(lane.ray, lane.width, kCutOut);
  dress(lanes);
}

void Drape::light(std::span<Lane> lanes) const {
  for (Lane& lane : lanes) {
    if (!lane.hit) {
      lane.lit = surroundings(lane.ray, light_);
      continue;
    }
    const Point& p = lane.point;
    lane.lit = {p.maps.base * std::exp2(-view_.exposure), 1};
    if (view_.unlit) continue;
    const Reflector r(p.maps, p.normal, lane.ray.towards * -1, p.along);
    const Vec3 sky = under_sky(p, r);
    const Vec3 key = key_light(p, r, light_, {lane.width.at(lane.hit->t), 0, lane.hit->level, &p.off.at}, kCutOut);
    lane.lit.light = (sky * p.maps.occlusion + key) * light_scale_ + p.maps.emissive;
  }
}

// Towards a place on the disc of the key light.
Vec3 Drape::within_key(Sampler::Pair pair) const {
  const float wide = key_radius_ * std::sqrt(pair.a), phi = 2 * kPi * pair.b;
  return normalised(light_ + about_light_.t * (wide * std::cos(phi)) + about_light_.b * (wide * std::sin(phi)));
}

// What comes straight from a place of the environment that is drawn by its brightness.
Vec3 Drape::sky_light(const Point& p, const Reflector& r, Sampler::Pair pair, Body::Width width, float chance) const {
  const auto sky = environment_->sample(pair.a, pair.b);
  const Vec3 to_sky = turned_back(sky.direction);
  if (!(sky.density > 0) || !reaches(p, r, to_sky, width, chance)) return {};
  const auto to = r.towards(to_sky);
  return to.reflected * sky.radiance * (1 / (sky.density + to.density));  // balance heuristic
}

void Drape::paths(std::span<Lane> lanes, const Sampler& sampler) const {
  for (Lane& lane : lanes) {
    lane.chance = sampler.pair(kChances, lane.pixel);
    lane.hit = body_->first(lane.ray, lane.width, lane.chance.a);
    if (lane.hit)
      lane.lit = {{}, 1};
    else
      lane.lit = surroundings(lane.ray, within_key(sampler.pair(1, lane.pixel)));
  }
  for (std::size_t place = 0; place < kMostPlaces; ++place) {
    dress(lanes);
    for (Lane& lane : lanes)
      if (lane.hit) go_on(lane, place, sampler);
  }
}

// Gathers the light at a place, and follows the path to the next; where it ends there is no hit any more.
void Drape::go_on(Lane& lane, std::size_t place, const Sampler& sampler) const {
  const Body::Hit hit = *lane.hit;
  lane.hit = std::nullopt;
  const Point& p = lane.point;
  Vec3& sum = lane.lit.light;
  if (view_.unlit) {
    sum = p.maps.base * std::exp2(-view_.exposure);
    return;
  }
  // What the rays themselves find hidden is not hidden once more by the occlusion map.
  const bool traced = view_.shadows && body_->has_relief();
  const float open = traced ? 1 : p.maps.occlusion;
  const Reflector r(p.maps, p.normal, lane.ray.towards * -1, p.along);
  lane.width = {lane.width.at(hit.t), 0, hit.level, &p.off.at};
  sum = sum + lane.through * p.maps.emissive;
  if (place + 1 == kMostPlaces) {  // the last is lit by the means of all light
    sum = sum + lane.through * under_sky(p, r) * (p.maps.occlusion * light_scale_);
    return;
  }
  // Behind the first place the sky comes by the rays that are followed alone: a shadow ray less there.
  const float shadow_chance = lane.chance.b;
  Vec3 straight = key_light(p, r, within_key(sampler.pair(3 * place + 1, lane.pixel)), lane.width, shadow_chance);
  if (place == 0) straight = straight + sky_light(p, r, sampler.pair(0, lane.pixel), lane.width, shadow_chance);
  sum = sum + lane.through * straight * (open * light_scale_);
  const auto [a, b] = sampler.pair(3 * place + 2, lane.pixel);
  const auto choices = sampler.pair(kChoices, lane.pixel);
  const Vec3 l = r.draw(place == 0 ? choices.a : choices.b, a, b);
  const auto [reflected, density] = r.towards(l);
  const bool before = dot(p.facet, l) > 0;
  if (!(density > 0) || before != (dot(p.normal, l) > 0)) return;
  lane.ray = {before ? p.off.place : p.behind, l};
  const auto next = view_.shadows ? body_->first(lane.ray, lane.width, lane.chance.a) : std::nullopt;
  if (!next) {
    const auto sky = environment_->seen(turned(l));
    sum = sum +
          lane.through * reflected * sky.radiance * (open * light_scale_ / (density + (place == 0 ? sky.density : 0)));
    return;
  }
  lane.through = lane.through * reflected * (open / density);
  if (largest(lane.through) >= 0.01f) lane.hit = next;
}

int Drape::quick_step(const DrapeView& view) {
  constexpr double kShaded = 16500;
  return std::max(1, static_cast<int>(std::lround(std::sqrt(static_cast<double>(view.width) * view.height / kShaded))));
}

bool Drape::Sight::holds(const Worn& worn, const DrapeView& view, int step) const {
  const auto of = [](const DrapeView& v) {
    return std::tie(v.shape, v.mesh, v.measured, v.camera, v.width, v.height, v.repeats, v.true_scale, v.relief_factor,
                    v.relief, v.occlusion);
  };
  return worn_ == worn && step_ == step && of(view_) == of(view);
}

void Drape::Sight::make_room(std::size_t places) {
  worn_.reset();
  if (lanes_.size() == places) return;
  booked_ = Booked(places * sizeof(Lane));
  lanes_ = std::vector<Lane>(places);
}

void Drape::first_answer(int step, const Stop& stop, Sight* kept) {
  const int rows = (view_.height + step - 1) / step, columns = (view_.width + step - 1) / step;
  std::vector<Lit> coarse(static_cast<std::size_t>(rows) * static_cast<std::size_t>(columns));
  const bool is_known = kept && kept->holds(worn_, view_, step);
  // Some slots may depend on the light.
  const bool is_dressed = is_known && !worn_.any([](const SurfaceMaps& m) { return m.depends_on_shape(); });
  if (kept && !is_known) kept->make_room(coarse.size());
  lay_film();
  if (!is_known) want_maps(static_cast<float>(step));
  for_rows(rows, 2, stop, [&](int first, int last) {
    std::vector<Lane> own;
    for (int j = first; j < last && !stop.asked(); ++j)
      for_strips(columns, [&](int from, int to) {
        const auto start =
            static_cast<std::size_t>(j) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(from);
        const auto count = static_cast<std::size_t>(to - from);
        if (!kept) own.resize(count);
        const std::span<Lane> lanes = kept ? std::span(kept->lanes_).subspan(start, count) : std::span(own);
        if (!is_known) {
          for (int i = from; i < to; ++i) lanes[static_cast<std::size_t>(i - from)] = lane_at(i, j, step);
          see(lanes);
        } else if (!is_dressed) {
          dress(lanes);
        }
        light(lanes);
        for (std::size_t i = 0; i < count; ++i) coarse[start + i] = lanes[i].lit;
      });
  });
  if (kept && !is_known && !stop.asked()) kept->worn_ = worn_, kept->view_ = view_, kept->step_ = step;
  samples_ = 0;
  if (step == 1)
    sum_.swap(coarse);
  else
    spread(coarse, step, stop);
}

// Over all pixels of the film, between the places of the first answer: down the columns, then along the row.
void Drape::spread(const std::vector<Lit>& coarse, int step, const Stop& stop) {
  const int rows = (view_.height + step - 1) / step, columns = (view_.width + step - 1) / step;
  const auto among = [&](int pixel, int places) {
    return std::clamp((static_cast<float>(pixel) + 0.5f) / static_cast<float>(step) - 0.5f, 0.0f,
                      std::max(static_cast<float>(places) - 1.001f, 0.0f));
  };
  const auto between = [](const Lit& a, const Lit& b, float t) {
    return Lit{mix(a.light, b.light, t), a.alpha + (b.alpha - a.alpha) * t};
  };
  for_rows(view_.height, 16, stop, [&](int first, int last) {
    std::vector<Lit> row(static_cast<std::size_t>(columns));
    for (int y = first; y < last; ++y) {
      const float fy = among(y, rows), down = fy - std::floor(fy);
      const Lit* const above = &coarse[static_cast<std::size_t>(fy) * row.size()];
      const Lit* const below = rows > 1 ? above + columns : above;
      for (std::size_t i = 0; i < row.size(); ++i) row[i] = between(above[i], below[i], down);
      Lit* const to = &sum_[static_cast<std::size_t>(y) * static_cast<std::size_t>(view_.width)];
      for (int x = 0; x < view_.width; ++x) {
        const float fx = among(x, columns);
        const auto i = static_cast<std::size_t>(fx), next = columns > 1 ? i + 1 : i;
        to[x] = between(row[i], row[next], fx - static_cast<float>(i));
      }
    }
  });
}

void Drape::add_sample(const Stop& stop) {
  const auto n = static_cast<std::uint32_t>(samples_);
  if (n == 0) {
    lay_film();
    want_maps(1);
    std::fill(squares_.begin(), squares_.end(), 0.0f);
  }
  const Sampler sampler(n);
  // Pixels are jittered by a sequence that fills the pixel evenly. Source: Roberts' R2 sequence, common practice.
  const float jx = static_cast<float>(std::fmod(0.5 + n * 0.7548776662466927, 1.0)),
              jy = static_cast<float>(std::fmod(0.5 + n * 0.5698402909980532, 1.0));
  for_rows(view_.height, 2, stop, [&](int first, int last) {
    std::vector<Lane> lanes;
    for (int y = first; y < last && !stop.asked(); ++y)
      for_strips(view_.width, [&](int from, int to) {
        lanes.clear();
        const auto start = static_cast<std::uint32_t>(y * view_.width);
        for (int x = from; x < to; ++x)
          lanes.push_back({.ray = ray(static_cast<float>(x) + jx, static_cast<float>(y) + jy),
                           .width = pixel(),
                           .pixel = pcg(start + static_cast<std::uint32_t>(x))});
        paths(lanes, sampler);
        std::size_t i = start + static_cast<std::uint32_t>(from);
        for (const Lane& lane : lanes) {
          const float bright = luminance(lane.lit.light);
          squares_[i] += bright * bright;
          sum_[i] = n == 0 ? lane.lit : Lit{sum_[i].light + lane.lit.light, sum_[i].alpha + lane.lit.alpha};
          ++i;
        }
      });
  });
  ++samples_;
}

std::optional<double> Drape::noise() const {
  if (samples_ < 2) return {};
  const double n = samples_;
  double sum = 0;
  for (std::size_t i = 0; i < sum_.size(); ++i) {
    const double mean = static_cast<double>(luminance(sum_[i].light)) / n,
                 spread = std::max(0.0, static_cast<double>(squares_[i]) / n - mean * mean);
    sum += std::sqrt(spread / (n - 1)) / std::max(mean, 0.02);
  }
  return sum / static_cast<double>(sum_.size());
}

std::optional<Body::Hit> Drape::under(float px, float py) const { return body_->first(ray(px, py), pixel(), kCutOut); }

std::vector<float> Drape::radiance() const {
  const float share = 1 / static_cast<float>(std::max(samples_, 1));
  std::vector<float> out;
  out.reserve(sum_.size() * 4);
  for (const Lit& lit : sum_)
    for (const float c : {lit.light.x, lit.light.y, lit.light.z, lit.alpha}) out.push_back(c * share);
  return out;
}

namespace {

// Radiance up to kMost by a fine table, rolled off and sRGB-encoded; base colours alone are shown as they are.
class Codes {
 public:
  Codes(bool rolled, float gain) : codes_(rolled ? kRolled() : kPlain()), gain_(gain * kSteps / kMost) {}
  std::uint8_t operator()(float radiance) const {
    return codes_[static_cast<std::size_t>(std::clamp(radiance * gain_, 0.0f, kSteps))];
  }

 private:
  static constexpr float kMost = 8, kSteps = 131072;
  using Table = std::vector<std::uint8_t>;
  static Table table_of(bool rolled) {
    Table t(static_cast<std::size_t>(kSteps) + 1);
    for (std::size_t i = 0; i < t.size(); ++i) {
      const float x = static_cast<float>(i) * kMost / kSteps;
      t[i] = static_cast<std::uint8_t>(code_of(srgb_from_linear(rolled ? rolled_off(x) : std::min(x, 1.0f)), 255));
    }
    return t;
  }
  static const Table& kRolled() {
    static const Table kTable = table_of(true);
    return kTable;
  }
  static const Table& kPlain() {
    static const Table kTable = table_of(false);
    return kTable;
  }
  const Table& codes_;
  float gain_;
};

}  // namespace

std::vector<Vec3> Drape::shown() const {
  const float share = 1 / static_cast<float>(std::max(samples_, 1));
  std::vector<Vec3> light;
  light.reserve(sum_.size());
  for (const Lit& lit : sum_) light.push_back(lit.light * share);
  if (view_.glow && !view_.unlit && worn_.any([](const SurfaceMaps& m) { return m.glows(); }))
    add_glow(light, view_.width, view_.height);
  return light;
}

void Drape::find_contours(const Stop& stop) {
  contours_.reset();
  if (!view_.contours.any()) return;
  const auto sight = [&](float px, float py) { return body_->first(ray(px, py), pixel(), kCutOut); };
  const auto on_rim = [&](const Body::Hit& hit, float within) {
    return view_.mesh && view_.mesh->on_rim(hit.triangle, hit.place, within);
  };
  ContourLines lines(view_.width, view_.height, pixel_, view_.contours, sight, on_rim, stop);
  if (!stop.asked()) contours_.emplace(std::move(lines));
}

std::vector<std::uint8_t> Drape::picture() const {
  const Codes code(!view_.unlit, std::exp2(view_.exposure));
  std::vector<std::uint8_t> out;
  out.reserve(sum_.size() * 3);
  for (const Vec3& light : shown())
    for (const float c : {light.x, light.y, light.z}) out.push_back(code(c));
  if (contours_) contours_->draw(out, 3);
  return out;
}

std::vector<std::uint8_t> Drape::picture_with_alpha() const {
  const Codes code(!view_.unlit, std::exp2(view_.exposure));
  const std::vector<Vec3> light = shown();
  std::vector<std::uint8_t> out;
  out.reserve(sum_.size() * 4);
  for (std::size_t i = 0; i < light.size(); ++i) {
    const float alpha = sum_[i].alpha / static_cast<float>(std::max(samples_, 1));
    const Vec3 straight = light[i] * (1 / std::max(alpha, 1e-6f));
    for (const float c : {straight.x, straight.y, straight.z}) out.push_back(code(c));
    out.push_back(static_cast<std::uint8_t>(code_of(alpha, 255)));
  }
  if (contours_) contours_->draw(out, 4);
  return out;
}

}  // namespace loom
