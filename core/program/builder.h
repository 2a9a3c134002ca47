// Builds strip programs: folds constants, shares equal steps, drops what feeds nothing, allots registers by liveness.
#pragma once
#include <functional>
#include <initializer_list>
#include <optional>
#include <unordered_map>

#include "core/program/program.h"
#include "core/program/resources.h"
#include "core/program/surface_points.h"

namespace loom {

/// The samples that a program runs over: where each lies in the tile, and how wide it is there.
class Domain {
 public:
  /// The texels of a tile. Where the surface is asked for, they lie once over a ball, lit from `light`.
  static Domain texels(int size, const Direction& light = kLightAtStart) {
    Domain d{size, 1.0f / static_cast<float>(size)};
    d.light_ = light;
    return d;
  }
  /// Samples whose u, v and footprint (shares of the tile) are three attributes one after another, from `first` on.
  static Domain places(std::uint32_t first) { return {0, 0, first, first + 2}; }
  /// The same, all of one footprint.
  static Domain places(std::uint32_t first, float footprint) { return {0, footprint, first, kNone}; }
  /// Points of a shape's surface, with the attributes of core/program/surface_points.h.
  static Domain surface_points() {
    Domain d = places(at(SurfaceValue::place));
    d.surface_ = true;
    return d;
  }
  /// Samples that lie nowhere: attributes and mathematics alone.
  static Domain numbers() { return {0, 1, kNone, kNone}; }

 private:
  friend class Builder;
  static constexpr std::uint32_t kNone = 0xffffffff;
  Domain(int size, float footprint, std::uint32_t place = kNone, std::uint32_t width = kNone)
      : size_(size), footprint_(footprint), place_(place), width_(width) {}
  int size_;                     // texels a side; 0: scattered samples
  float footprint_;              // of every sample
  std::uint32_t place_, width_;  // attributes
  bool surface_ = false;
  Direction light_ = kLightAtStart;
};

struct StrandsMember;

/// The lanes of one typed value; a regions value has its table beside it, a set its named members.
struct Strands {
  Kind kind = Kind::scalar;
  std::array<Reg, 4> at{};
  std::optional<Reg> footprint{};  ///< of a place: how wide one sample is, seen in these coordinates
  std::shared_ptr<const RegionTable> regions{};
  std::vector<StrandsMember> members;
};

struct StrandsMember {
  StrandsMember(std::string name, Strands value) : first(std::move(name)), second(std::move(value)) {}
  std::string first;
  Strands second;
};

class Builder {
 public:
  explicit Builder(Domain domain) : domain_(domain) {}

  Reg constant(float value);
  Reg attribute(std::uint32_t index);
  /// Where a sample lies in the tile, and its width there.
  Reg u();
  Reg v();
  Reg footprint();
  /// What the surface has at the samples. Where they are not points of a shape, the tile lies once over a ball of 1 m,
  /// seen from straight above.
  std::array<Reg, 3> surface(SurfaceValue what);
  /// The numbers of a measure of the mesh at the samples; of the ball of 1 m where they are not points of a shape.
  std::array<Reg, kMostNumbersOfMeasure> measured(const MeshMeasure& what);
  /// What a plane over the tile holds at the samples: over texels of its own size a load, elsewhere a filtered look-up.
  Reg read(const PlanePtr& plane);
  /// The same of a plane whose pyramid is there already.
  Reg read(const std::shared_ptr<const Sampled>& map);
  /// Labels: over texels of its own size a load, elsewhere the nearest texel at (u, v).
  Reg read_labels(const PlanePtr& plane);
  Reg nearest(const PlanePtr& plane, Reg u, Reg v);
  /// Texels a side where this builds over texels, else 0.
  int texels() const { return domain_.size_; }

  Reg apply(Op op, Reg a);
  Reg apply(Op op, Reg a, Reg b);
  Reg apply(Op op, Reg a, Reg b, Reg c);
  /// An instruction of a family with its table; result `i` of it.
  std::array<Reg, 4> apply(const Family& family, std::initializer_list<Reg> sources, ResourcePtr table, int results) {
    return apply(family, std::span<const Reg>(sources.begin(), sources.size()), std::move(table), results);
  }
  std::array<Reg, 4> apply(const Family& family, std::span<const Reg> sources, ResourcePtr table, int results);
  Reg random(Reg key_bits, std::uint32_t stream);
  /// A draw from the normal distribution about 1/2 with deviation 1/6, kept within 0 and 1. Source: Box and Muller,
  /// "A note on the generation of random normal deviates", Ann. Math. Statist. 29 (1958).
  Reg bell(Reg key_bits, std::uint64_t stream);

  Reg add(Reg a, Reg b) { return apply(Op::add, a, b); }
  Reg sub(Reg a, Reg b) { return apply(Op::subtract, a, b); }
  Reg mul(Reg a, Reg b) { return apply(Op::multiply, a, b); }
  Reg div(Reg a, Reg b) { return apply(Op::divide, a, b); }
  Reg min(Reg a, Reg b) { return apply(Op::minimum, a, b); }
  Reg max(Reg a, Reg b) { return apply(Op::maximum, a, b); }
  Reg abs(Reg a) { return apply(Op::absolute, a); }
  Reg neg(Reg a) { return apply(Op::negate, a); }
  Reg fract(Reg a) { return apply(Op::fraction, a); }
  Reg floor(Reg a) { return apply(Op::floor, a); }
  Reg root(Reg a) { return apply(Op::root, a); }
  Reg less(Reg a, Reg b) { return apply(Op::less, a, b); }
  Reg select(Reg condition, Reg yes, Reg no) { return apply(Op::select, condition, yes, no); }
  Reg multiply_add(Reg a, Reg b, Reg c) { return apply(Op::multiply_add, a, b, c); }
  /// 0 at `from`, 1 at `to` (which may lie below it); equal edges give a step.
  Reg smoothstep(Reg from, Reg to, Reg x) { return apply(Op::smoothstep, from, to, x); }
  Reg mix(Reg a, Reg b, Reg t) { return multiply_add(sub(b, a), t, a); }
  Reg clamp(Reg x, float least, float most) { return min(max(x, constant(least)), constant(most)); }
  Reg length(Reg x, Reg y) { return root(multiply_add(x, x, mul(y, y))); }
  Reg add(Reg a, float b) { return add(a, constant(b)); }
  Reg sub(float a, Reg b) { return sub(constant(a), b); }
  Reg mul(Reg a, float b) { return mul(a, constant(b)); }

  /// The value if `a` is a constant.
  const float* known(Reg a) const;
  /// The plane if `a` is one that was loaded.
  const PlanePtr* loaded(Reg a) const;

  /// The same value, of which nothing more is known here: no constant to fold, no texel's own place. What stands at a
  /// border where values may be stored goes through this, so that a stored and a computed one give the same program.
  Reg opaque(Reg a);
  /// A place as a node takes it: of how it changes, its footprint alone is known, the same along u and v. Thus it does
  /// not matter whether the place was stored.
  std::pair<Reg, Reg> placed(Reg u, Reg v, Reg footprint);

  /// The width of a sample, seen in the coordinates (x, y): the longer of their two gradients times the footprint.
  Reg footprint(Reg x, Reg y);
  /// The derivatives of a value along the tile's u and v, by forward differentiation over the steps that give it.
  Slopes slope(Reg a);

  void store(Reg value, int output);
  Program build();
  /// Steps so far, as a measure of what a node costs.
  std::size_t steps() const { return steps_.size(); }
  /// Whose steps come next: the program then tells of each instruction for whom it was made first.
  void set_origin(int origin) { origin_ = origin; }
  /// Whether there is a step of one of these kinds among those from `first` on.
  bool has_step(std::size_t first, const std::function<bool(Op op, const Family* family)>& wanted) const;

 private:
  struct Step {
    Op op{};
    const Family* family = nullptr;
    std::uint8_t sources = 0, results = 1;
    std::array<Reg, kMostSources> source{};
    std::uint32_t aux = 0;
    int origin = -1;
  };
  Reg put(const Step& step);
  Reg folded(const Step& step);
  Reg simpler(const Step& step, bool& found);
  std::uint32_t resource(ResourcePtr r);
  Reg load(const PlanePtr& plane);
  std::array<Reg, 3> on_the_ball();  // the outward normal at the samples
  Reg behind(Reg a) const;           // what `opaque` hides
  Slopes slope_of_step(const Step& step, Reg a);
  Slopes slope_of_plane(std::uint32_t plane);
  Slopes slope_by_differences(const Step& step, Reg a);

  Domain domain_;
  int origin_ = -1;
  std::vector<Step> steps_;
  std::vector<float> constants_;
  std::unordered_map<std::uint32_t, Reg> constant_of_;
  std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> same_;
  std::unordered_map<std::uint32_t, Slopes> slopes_;
  std::vector<PlanePtr> planes_;
  std::vector<ResourcePtr> resources_;
  std::unordered_map<const Plane*, ResourcePtr> pyramids_;  // of planes that are read elsewhere
  std::vector<std::pair<Reg, int>> stores_;
  std::vector<MeshMeasure> measures_;
};

}  // namespace loom
