// What a program over the texels of a tile is to give: values, and the planes that hold them.
#pragma once
#include "core/program/builder.h"

namespace loom {

/// Values that one run of a builder's program gives. Equal strands share a plane, and a strand that was loaded is the
/// plane it was loaded from.
class Targets {
 public:
  Targets(Builder& builder, int size) : builder_(builder), size_(size) {}
  /// A value with its planes, which `run` takes from the pool and fills.
  Field field(const Strands& value);
  void run(const Stop& stop);
  /// Of the planes that `run` makes.
  std::size_t bytes() const;

 private:
  PlanePtr plane(Reg value);
  struct Target {
    Reg value;
    std::shared_ptr<Plane> plane;
  };
  Builder& builder_;
  int size_;
  std::vector<Target> made_;
};

}  // namespace loom
