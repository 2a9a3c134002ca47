// A shape in closed form that wears a material's relief.
#pragma once
#include "core/surface/body.h"
#include "core/surface/maps.h"

namespace loom {

/// The relief stands in the shell about the shape, true to the outline; a ray that curves through the shell is followed
/// in straight stretches that stray from it by a quarter of a pixel at most.
class ShellBody : public Body {
 public:
  /// `depth` in metres is that of height 1; 0 leaves the shape smooth.
  ShellBody(std::shared_ptr<const Shape> shape, std::shared_ptr<const SurfaceMaps> maps, float depth);

  std::optional<Hit> first(const Ray& ray, Width width, float chance) const override;
  bool blocks(const Ray& ray, Width width, float chance) const override;
  Start off(const Hit& hit) const override;
  bool has_relief() const override { return relief_ != nullptr; }
  Vec3 middle() const override { return {}; }
  float radius() const override { return shape_->radius(); }
  float foot() const override { return shape_->foot(); }
  const Shape& shape() const { return *shape_; }
  float depth() const { return depth_; }

 private:
  struct Crossing {
    float t;
    ShellPlace at;
    Vec3 side;
    int level;
  };
  std::optional<Crossing> crossing(const Ray& ray, Width width) const;
  std::optional<Crossing> along(const Ray& ray, const Shape::Near& near, Width width, float& left) const;
  int level_for(float width) const;
  Hit hit_at(const Ray& ray, const Crossing& crossing) const;
  std::optional<Hit> through(const Ray& ray, float from, float chance) const;

  std::shared_ptr<const Shape> shape_;
  std::shared_ptr<const SurfaceMaps> maps_;
  const ReliefField* relief_;
  float depth_, low_ = 0, high_ = 0;  // metres
};

}  // namespace loom
