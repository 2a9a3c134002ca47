// The light around the drape: a harbour hall that the program paints itself.
#pragma once
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/surface/ggx.h"

namespace loom {

/// A latitude-longitude picture of radiance, y up, with what sampling and the first quick picture need.
class Environment {
 public:
  /// `radiance(direction)` is asked once for every texel. Error: none; building takes some tens of milliseconds.
  template <class F>
  explicit Environment(const F& radiance) {
    texels_.reserve(static_cast<std::size_t>(kWidth * kHeight));
    for (int y = 0; y < kHeight; ++y)
      for (int x = 0; x < kWidth; ++x) texels_.push_back(radiance(towards_texel(x, y)));
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

  static constexpr int kWidth = 256, kHeight = 128;

 private:
  static Vec3 towards_texel(int x, int y);
  static std::pair<float, float> place_of(Vec3 direction);  // texels
  void prepare();
  Vec3 radiance_at(float pu, float pv) const;  // 0..1 each
  float density_at(float pu, float pv, float sine) const;

  static constexpr int kLobes = 7;
  std::vector<Vec3> texels_;
  std::vector<float> row_sum_, column_sum_;  // cumulative, weighted by solid angle
  float total_ = 0;
  std::vector<std::vector<Vec3>> lobes_;
  std::vector<Vec3> diffuse_;
};

/// By name: "north_hall" (daylight through tall windows), "dusk_hall" (lamps), "even" (the same from everywhere).
std::shared_ptr<const Environment> environment(std::string_view name);
const std::vector<std::pair<std::string, std::string>>& environment_names();  ///< identifier and label

}  // namespace loom
