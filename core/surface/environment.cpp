// Painting the hall, and the tables for sampling it.
#include "core/surface/environment.h"

#include <algorithm>
#include <map>
#include <mutex>

#include "core/base/parallel.h"

namespace loom {

Vec3 Environment::towards_texel(int x, int y) const {
  const float phi = 2 * kPi * (static_cast<float>(x) + 0.5f) / static_cast<float>(width_),
              theta = kPi * (static_cast<float>(y) + 0.5f) / static_cast<float>(height_);
  return {std::sin(theta) * std::cos(phi), std::cos(theta), std::sin(theta) * std::sin(phi)};
}

std::pair<float, float> Environment::place_of(Vec3 d) {
  float phi = angle_of(d.z, d.x) * (0.5f / kPi);
  if (phi < 0) phi += 1;
  return {phi, angle_of(std::sqrt(d.x * d.x + d.z * d.z), d.y) * (1 / kPi)};
}

namespace {

// Smooth lobes are kept on an octahedron unfolded to a square: no angles are needed to read them, and texels on the
// square's rim lie on the fold itself, so opposite rims agree. Source: Cigolle et al., JCGT 3(2), 2014.
constexpr int kOctahedron = 48;

Vec3 octahedron_direction(int x, int y) {
  const float p = 2 * static_cast<float>(x) / (kOctahedron - 1) - 1,
              q = 2 * static_cast<float>(y) / (kOctahedron - 1) - 1, up = 1 - std::abs(p) - std::abs(q);
  if (up >= 0) return normalised({p, up, q});
  return normalised({std::copysign(1 - std::abs(q), p), up, std::copysign(1 - std::abs(p), q)});
}

Vec3 octahedron_at(const std::vector<Vec3>& map, Vec3 d) {
  const float sum = std::abs(d.x) + std::abs(d.y) + std::abs(d.z);
  float p = d.x / sum, q = d.z / sum;
  if (d.y < 0) {
    const float folded = std::copysign(1 - std::abs(q), p);
    q = std::copysign(1 - std::abs(p), q);
    p = folded;
  }
  const float x = std::clamp((p + 1) * 0.5f, 0.0f, 1.0f) * (kOctahedron - 1),
              y = std::clamp((q + 1) * 0.5f, 0.0f, 1.0f) * (kOctahedron - 1);
  const int x0 = std::min(static_cast<int>(x), kOctahedron - 2), y0 = std::min(static_cast<int>(y), kOctahedron - 2);
  const float tx = x - static_cast<float>(x0), ty = y - static_cast<float>(y0);
  const Vec3* t = map.data() + y0 * kOctahedron + x0;
  return mix(mix(t[0], t[1], tx), mix(t[kOctahedron], t[kOctahedron + 1], tx), ty);
}

}  // namespace

Vec3 Environment::radiance_at(float pu, float pv) const {
  const float x = pu * static_cast<float>(width_) - 0.5f,
              y = std::clamp(pv * static_cast<float>(height_) - 0.5f, 0.0f, static_cast<float>(height_ - 1));
  const int x0 = whole_below(x), y0 = static_cast<int>(y), y1 = std::min(y0 + 1, height_ - 1);
  const float tx = x - static_cast<float>(x0), ty = y - static_cast<float>(y0);
  const int left = x0 < 0 ? x0 + width_ : x0, right = x0 + 1 < width_ ? x0 + 1 : 0;
  const Vec3* up = texels_.data() + static_cast<std::ptrdiff_t>(y0) * width_;
  const Vec3* down = texels_.data() + static_cast<std::ptrdiff_t>(y1) * width_;
  return mix(mix(up[left], up[right], tx), mix(down[left], down[right], tx), ty);
}

Vec3 Environment::radiance(Vec3 d) const {
  const auto [pu, pv] = place_of(d);
  return radiance_at(pu, pv);
}

Environment::Seen Environment::seen(Vec3 d) const {
  const auto [pu, pv] = place_of(d);
  return {radiance_at(pu, pv), density_at(pu, pv, std::sqrt(std::max(1e-6f, 1 - d.y * d.y)))};
}

Vec3 Environment::diffuse(Vec3 n) const { return octahedron_at(diffuse_, n); }

Vec3 Environment::glossy(Vec3 d, float roughness) const {
  const float level = std::clamp(roughness, 0.0f, 1.0f) * (kLobes - 1);
  const int low = std::min(static_cast<int>(level), kLobes - 2);
  const Vec3 a = low == 0 ? radiance(d) : octahedron_at(lobes_[static_cast<std::size_t>(low)], d);
  return mix(a, octahedron_at(lobes_[static_cast<std::size_t>(low) + 1], d), level - static_cast<float>(low));
}

// Of the luminance between texels' middles, over one texel: else what lies half a texel beside a small sun would be
// drawn too seldom and count too much.
float Environment::mean_over(int x, int y) const {
  constexpr float kShare[] = {0.125f, 0.75f, 0.125f};
  float sum = 0;
  for (int j = 0; j < 3; ++j)
    for (int i = 0; i < 3; ++i) {
      const int row = std::clamp(y + j - 1, 0, height_ - 1), column = (x + i - 1 + width_) % width_;
      sum += kShare[i] * kShare[j] * luminance(texels_[static_cast<std::size_t>(row * width_ + column)]);
    }
  return sum;
}

void Environment::prepare() {
  // Lobes are summed over a quarter-size copy: 64 x 32 directions weighted by each lobe.
  constexpr int kLobeWidth = 64, kLobeHeight = 32;
  std::vector<Vec3> small(static_cast<std::size_t>(kLobeWidth * kLobeHeight)), towards(small.size());
  std::vector<float> solid(small.size());
  const int step = width_ / kLobeWidth;
  for (int y = 0; y < kLobeHeight; ++y)
    for (int x = 0; x < kLobeWidth; ++x) {
      Vec3 sum;
      for (int j = 0; j < step; ++j)
        for (int i = 0; i < step; ++i)
          sum = sum + texels_[static_cast<std::size_t>((y * step + j) * width_ + x * step + i)];
      const auto k = static_cast<std::size_t>(y * kLobeWidth + x);
      small[k] = sum * (1.0f / static_cast<float>(step * step));
      const float theta = kPi * (static_cast<float>(y) + 0.5f) / kLobeHeight,
                  phi = 2 * kPi * (static_cast<float>(x) + 0.5f) / kLobeWidth;
      towards[k] = {std::sin(theta) * std::cos(phi), std::cos(theta), std::sin(theta) * std::sin(phi)};
      solid[k] = std::sin(theta);
    }
  const auto lobe = [&](const auto& weight) {
    std::vector<Vec3> out(static_cast<std::size_t>(kOctahedron * kOctahedron));
    for_rows(kOctahedron * kOctahedron, 64, Stop{}, [&](int first, int last) {
      for (int i = first; i < last; ++i) {
        const Vec3 about = octahedron_direction(i % kOctahedron, i / kOctahedron);
        Vec3 sum;
        float all = 0;
        for (std::size_t k = 0; k < small.size(); ++k) {
          const float w = weight(dot(about, towards[k])) * solid[k];
          sum = sum + small[k] * w;
          all += w;
        }
        out[static_cast<std::size_t>(i)] = sum * (1 / std::max(all, 1e-9f));
      }
    });
    return out;
  };
  diffuse_ = lobe([](float c) { return std::max(c, 0.0f); });
  lobes_.resize(kLobes);
  for (int l = 1; l < kLobes; ++l) {
    const float roughness = static_cast<float>(l) / (kLobes - 1), alpha = std::max(roughness * roughness, 0.02f);
    // View along the normal: the half vector stands at half the angle.
    lobes_[static_cast<std::size_t>(l)] =
        lobe([alpha](float c) { return c > 0 ? ggx_density(std::sqrt(0.5f + 0.5f * c), alpha) * c : 0.0f; });
  }
  row_sum_.assign(static_cast<std::size_t>(height_) + 1, 0);
  column_sum_.assign(static_cast<std::size_t>(height_) * static_cast<std::size_t>(width_ + 1), 0);
  double total = 0;
  for (int y = 0; y < height_; ++y) {
    const float sine = std::sin(kPi * (static_cast<float>(y) + 0.5f) / static_cast<float>(height_));
    float* row = column_sum_.data() + static_cast<std::ptrdiff_t>(y) * (width_ + 1);
    double sum = 0;
    for (int x = 0; x < width_; ++x) {
      sum += static_cast<double>((mean_over(x, y) + 1e-4f) * sine);
      row[x + 1] = static_cast<float>(sum);
    }
    row_sum_[static_cast<std::size_t>(y) + 1] = static_cast<float>(total += sum);
  }
  total_ = row_sum_.back();
}

Environment::Sample Environment::sample(float r1, float r2) const {
  const float want = r1 * total_;
  const int y =
      std::clamp(static_cast<int>(std::upper_bound(row_sum_.begin(), row_sum_.end(), want) - row_sum_.begin()) - 1, 0,
                 height_ - 1);
  const float* row = column_sum_.data() + static_cast<std::ptrdiff_t>(y) * (width_ + 1);
  const float along = r2 * row[width_];
  const int x = std::clamp(static_cast<int>(std::upper_bound(row, row + width_ + 1, along) - row) - 1, 0, width_ - 1);
  const float fy = (want - row_sum_[static_cast<std::size_t>(y)]) /
                   std::max(row_sum_[static_cast<std::size_t>(y) + 1] - row_sum_[static_cast<std::size_t>(y)], 1e-12f);
  const float fx = (along - row[x]) / std::max(row[x + 1] - row[x], 1e-12f);
  const float pu = (static_cast<float>(x) + std::min(fx, 0.9999f)) / static_cast<float>(width_),
              pv = (static_cast<float>(y) + std::clamp(fy, 0.0f, 0.9999f)) / static_cast<float>(height_);
  const float phi = 2 * kPi * pu, theta = kPi * pv, sine = std::sin(theta);
  return {{sine * std::cos(phi), std::cos(theta), sine * std::sin(phi)},
          density_at(pu, pv, std::max(sine, 1e-3f)),
          radiance_at(pu, pv)};
}

float Environment::density_at(float pu, float pv, float sine) const {
  const int x = std::clamp(static_cast<int>(pu * static_cast<float>(width_)), 0, width_ - 1),
            y = std::clamp(static_cast<int>(pv * static_cast<float>(height_)), 0, height_ - 1);
  const float* row = column_sum_.data() + static_cast<std::ptrdiff_t>(y) * (width_ + 1);
  return (row[x + 1] - row[x]) / total_ * static_cast<float>(width_) * static_cast<float>(height_) /
         (2 * kPi * kPi * sine);
}

namespace {

float soft_step(float from, float to, float x) {
  const float t = std::clamp((x - from) / (to - from), 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}
float between(float low, float high, float soft, float x) {
  return soft_step(low - soft, low + soft, x) * (1 - soft_step(high - soft, high + soft, x));
}

// A ferry hall: pale walls, tall windows all round (the harbour side is the brighter), a skylight, a stone floor.
Vec3 north_hall(Vec3 d) {
  const float elevation = std::asin(std::clamp(d.y, -1.0f, 1.0f)) * 57.29578f,
              azimuth = std::atan2(d.z, d.x) * 57.29578f;
  const float bay = std::abs(std::fmod(azimuth + 360, 30.0f) - 15);  // 0 in a window's middle
  const float harbour = 0.5f + 0.5f * std::cos((azimuth - 120) * 0.01745329f);
  const Vec3 floor{0.21f, 0.195f, 0.175f}, wall{0.37f, 0.36f, 0.34f}, ceiling{0.42f, 0.42f, 0.42f},
      sky{0.86f, 0.96f, 1.1f};
  Vec3 c = mix(floor, wall, soft_step(-6, 4, elevation));
  c = mix(c, ceiling, soft_step(50, 62, elevation));
  const float bars = std::max(1 - soft_step(0.5f, 0.9f, bay), between(26, 27.5f, 0.5f, elevation));
  const float window = between(6, 46, 1, elevation) * (1 - soft_step(8.5f, 9.5f, bay)) * (1 - 0.85f * bars);
  c = mix(c, sky * (1.3f + 3.4f * harbour * harbour), window);
  c = mix(c, sky * 3.2f, soft_step(74, 78, elevation) * 0.9f);
  return c + Vec3{0.05f, 0.045f, 0.04f} * (harbour * soft_step(-90, -20, -std::abs(elevation + 30)));
}

// A closed sky over the harbour: three times as bright above as at the horizon. Source: the overcast sky of Moon and
// Spencer, "Illumination from a Non-uniform Sky", 1942: 1 + 2 sin(elevation).
Vec3 overcast_quay(Vec3 d) {
  const Vec3 water{0.16f, 0.18f, 0.19f}, stone{0.2f, 0.19f, 0.18f}, sky{0.42f, 0.45f, 0.49f};
  const Vec3 ground = mix(water, stone, 0.5f - 0.5f * d.z);
  return mix(ground, sky * (1 + 2 * std::max(d.y, 0.0f)), soft_step(-0.03f, 0.03f, d.y));
}

constexpr KeyLight kLowSun{62, 14, 3.2f, 1, {1.25f, 0.95f, 0.62f}};
constexpr KeyLight kNightLamp{-48, 46, 1.6f, 8, {1.3f, 0.94f, 0.6f}};

// A clear evening: warm about the sun, which is the key light, and blue on the other side.
Vec3 low_sun(Vec3 d) {
  const float towards = dot(d, direction_of(kLowSun.azimuth, kLowSun.height)), near = std::max(towards, 0.0f);
  const Vec3 blue{0.16f, 0.26f, 0.5f}, pale{0.62f, 0.55f, 0.48f}, warm{1.0f, 0.62f, 0.3f}, ground{0.16f, 0.13f, 0.1f};
  const float low = 1 - std::max(d.y, 0.0f);
  Vec3 sky = mix(blue, pale, low * low * low) + warm * (0.8f * std::pow(near, 8.0f) + 3 * std::pow(near, 120.0f));
  return mix(ground, sky, soft_step(-0.02f, 0.02f, d.y));
}

// Night: one lamp above on the right, which is the key light; the dark hall, and panes with the last of the sky.
Vec3 night_lamp(Vec3 d) {
  const float elevation = std::asin(std::clamp(d.y, -1.0f, 1.0f)) / kDegree, azimuth = std::atan2(d.z, d.x) / kDegree;
  const float bay = std::abs(std::fmod(azimuth + 360, 30.0f) - 15);
  Vec3 c = mix(Vec3{0.035f, 0.028f, 0.022f}, Vec3{0.06f, 0.048f, 0.038f}, soft_step(-6, 40, elevation));
  c = mix(c, Vec3{0.05f, 0.075f, 0.14f}, between(6, 46, 1, elevation) * (1 - soft_step(8.5f, 9.5f, bay)));
  const float towards = dot(d, direction_of(kNightLamp.azimuth, kNightLamp.height));
  return c + Vec3{0.3f, 0.19f, 0.1f} * std::pow(std::max(towards, 0.0f), 12.0f);
}

Vec3 even_light(Vec3) { return {0.6f, 0.6f, 0.6f}; }

struct Place {
  const char *identifier, *label;
  Vec3 (*radiance)(Vec3);
  KeyLight key;
};
constexpr Place kPlaces[] = {{"north_hall", "north hall", north_hall, {}},
                             {"overcast_quay", "overcast quay", overcast_quay, {20, 68, 0.7f, 60}},
                             {"low_sun", "low sun", low_sun, kLowSun},
                             {"night_lamp", "lamp at night", night_lamp, kNightLamp},
                             {"even", "even light", even_light, {}}};

}  // namespace

const std::vector<std::pair<std::string, std::string>>& environment_names() {
  static const std::vector<std::pair<std::string, std::string>> kNames = [] {
    std::vector<std::pair<std::string, std::string>> names;
    for (const Place& p : kPlaces) names.emplace_back(p.identifier, p.label);
    return names;
  }();
  return kNames;
}

namespace {

const Place& place_named(std::string_view name) {
  for (const Place& p : kPlaces)
    if (name == p.identifier) return p;
  return kPlaces[0];
}

}  // namespace

KeyLight key_light_in(std::string_view name) { return place_named(name).key; }

std::shared_ptr<const Environment> environment(std::string_view name) {
  static std::mutex mutex;
  static std::map<std::string, std::shared_ptr<const Environment>, std::less<>> made;
  const Place& place = place_named(name);
  const std::lock_guard lock(mutex);
  auto& e = made[place.identifier];
  if (!e) e = std::make_shared<Environment>(place.radiance, 256, place.key);
  return e;
}

}  // namespace loom
