// The light around the drape: places that the program paints itself, or the artist's own picture of one.
#pragma once
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/surface/ggx.h"

namespace loom {

/// The light that casts the shadows, as it starts in a place.
struct KeyLight {
  float azimuth = 42, height = 48;  ///< degrees
  float strength = 2.6f;            ///< irradiance of what faces it, before the environment is scaled
  float size = 3;                   ///< how wide it is seen, degrees
  Vec3 colour{1, 1, 1};             ///< of luminance 1 or near it
};

/// A latitude-longitude picture of radiance, y up, with what sampling and the first quick picture need.
class Environment {
 public:
  /// `radiance(direction)` is asked once for every texel, of which there are `width` by half as many; a multiple of 64.
  /// Error: none; building takes some tens of milliseconds.
  template <class F>
  explicit Environment(const F& radiance, int width = 256, const KeyLight& key = {})
      : width_(width), height_(width / 2), key_(key) {
    texels_.reserve(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
    for (int y = 0; y < height_; ++y)
      for (int x = 0; x < width_; ++x) texels_.push_back(radiance(towards_texel(x, y)));
    prepare();
  }

  Vec3 radiance(Vec3 direction) const;
  /// The mean over a lobe about `direction` for a roughness (prefiltered levels), and over a cosine lobe.
  Vec3 glossy(Vec3 direction, float roughness) const;
  Vec3 diffuse(Vec3 normal) const;

  struct Sample {
    Vec3 direction;
    float density;  ///< over solid angle
    Vec3 radiance;
  };
  Sample sample(float r1, float r2) const;
  /// What is seen in a direction, and how densely sample() draws it.
  struct Seen {
    Vec3 radiance;
    float density;
  };
  Seen seen(Vec3 direction) const;
  const KeyLight& key() const { return key_; }

 private:
  Vec3 towards_texel(int x, int y) const;
  static std::pair<float, float> place_of(Vec3 direction);  // texels
  void prepare();
  float mean_over(int x, int y) const;
  Vec3 radiance_at(float pu, float pv) const;  // 0..1 each
  float density_at(float pu, float pv, float sine) const;

  static constexpr int kLobes = 7;
  int width_, height_;
  KeyLight key_;
  std::vector<Vec3> texels_;
  std::vector<float> row_sum_, column_sum_;  // cumulative, weighted by solid angle
  float total_ = 0;
  std::vector<std::vector<Vec3>> lobes_;
  std::vector<Vec3> diffuse_;
};

/// Those that the program makes, by name; an unknown one is the first. Painted when it is first asked for, which takes
/// some tens of milliseconds; its key light alone is there at once.
std::shared_ptr<const Environment> environment(std::string_view name);
KeyLight key_light_in(std::string_view name);
const std::vector<std::pair<std::string, std::string>>& environment_names();  ///< identifier and label

}  // namespace loom
