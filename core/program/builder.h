// Builds strip programs: folds constants, shares equal steps, drops what feeds nothing, allots registers by liveness.
#pragma once
#include <initializer_list>
#include <unordered_map>

#include "core/program/program.h"
#include "core/program/resources.h"

namespace loom {

/// A value in a program that is being built.
struct Reg {
  std::uint32_t id = 0;
  friend bool operator==(Reg, Reg) = default;
};

struct StrandsMember;

/// The lanes of one typed value; a regions value has its table beside it, a set its named members.
struct Strands {
  Kind kind = Kind::scalar;
  std::array<Reg, 4> at{};
  std::shared_ptr<const RegionTable> regions;
  std::vector<StrandsMember> members;
};

struct StrandsMember {
  StrandsMember(std::string name, Strands value) : first(std::move(name)), second(std::move(value)) {}
  std::string first;
  Strands second;
};

class Builder {
 public:
  /// `footprint`: the width of a sample in shares of the tile (1 / size for texels).
  explicit Builder(float footprint) : footprint_(footprint) {}

  Reg constant(float value);
  Reg attribute(std::uint32_t index);
  Reg u();
  Reg v();
  Reg load(const PlanePtr& plane);

  Reg apply(Op op, Reg a);
  Reg apply(Op op, Reg a, Reg b);
  Reg apply(Op op, Reg a, Reg b, Reg c);
  /// An instruction with a resource; result `i` of it.
  std::array<Reg, 4> apply(Op op, std::initializer_list<Reg> sources, std::shared_ptr<const Resource> resource,
                           int results);
  Reg random(Reg key_bits, std::uint32_t stream);

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

  /// The width of a sample, seen in the coordinates (x, y): the longer of their two gradients times the footprint.
  Reg footprint(Reg x, Reg y);
  Reg footprint() { return constant(footprint_); }
  float texel() const { return footprint_; }

  void store(Reg value, int output);
  Program build();
  /// Steps so far, as a measure of what a node costs.
  std::size_t steps() const { return steps_.size(); }

 private:
  struct Step {
    Op op{};
    std::uint8_t sources = 0, results = 1;
    std::array<Reg, 4> source{};
    std::uint32_t aux = 0;
  };
  Reg put(const Step& step);
  Reg folded(const Step& step);
  Reg simpler(const Step& step, bool& found);
  std::uint32_t resource(std::shared_ptr<const Resource> r);
  std::pair<Reg, Reg> slope(Reg a);  // derivatives along u and v
  std::pair<Reg, Reg> slope_of_step(const Step& step, Reg a);

  float footprint_;
  std::vector<Step> steps_;
  std::vector<float> constants_;
  std::unordered_map<std::uint32_t, Reg> constant_of_;
  std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> same_;
  std::unordered_map<std::uint32_t, std::pair<Reg, Reg>> slopes_;
  std::vector<PlanePtr> planes_;
  std::vector<std::shared_ptr<const Resource>> resources_;
  std::vector<std::pair<Reg, int>> stores_;
};

}  // namespace loom
