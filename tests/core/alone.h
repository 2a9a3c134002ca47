// One node evaluated by itself, with given or bumpy inputs: what the property tests over the catalogue share.
#pragma once
#include <QtTest>
#include <cmath>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "core/base/parallel.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/node_call.h"
#include "core/plane/filters.h"
#include "core/program/targets.h"
#include "core/weave/weaver.h"

namespace loom::test {

using Fields = std::map<std::string, Field, std::less<>>;

PlanePtr shared(Plane p);

template <class F>
Plane painted(int size, const F& f) {
  Plane p(size);
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x) p.at(x, y) = static_cast<float>(f((x + 0.5) / size, (y + 0.5) / size));
  return p;
}

/// Smooth, band-limited, periodic; another one for each `which`. Between 0 and 1.
Plane bumpy(int size, int which);

Field field(Kind kind, std::vector<Plane> planes);

/// The same from planes as they are: field_of(Kind::vector2, u, v).
template <class... Planes>
Field field_of(Kind kind, Planes&&... planes) {
  std::vector<Plane> all;
  (all.push_back(std::forward<Planes>(planes)), ...);
  return field(kind, std::move(all));
}

/// Moved by whole texels.
Plane rolled(const Plane& p, int du, int dv);
Field rolled(const Field& f, int du, int dv);

/// A bumpy value of any kind.
Field bumpy_field(Kind kind, int size, int which);

/// A bumpy input on every peg but `coordinates` and those in `except`.
Fields bumpy_inputs(const NodeType& type, int size, const std::set<std::string>& except = {});

/// All outputs of one node, without planner or cache.
std::map<std::string, Field> weave_alone(const NodeType& type, int size, const Fields& inputs,
                                         const Resolved& params = {});

/// Measures that a node asks of a mesh: its outputs, strand by strand, at places of two boxes that stand in each other,
/// each a part; empty where it asks for none.
std::vector<std::vector<float>> over_two_boxes(const NodeType& type, const Resolved& params);

/// Every plane of a field, members included.
std::vector<PlanePtr> planes_of(const Field& f);

double furthest(const Plane& a, const Plane& b);

/// The share of texels that differ by more than `by`.
double share_apart(const Plane& a, const Plane& b, double by);

bool same_bits(const Plane& a, const Plane& b);

}  // namespace loom::test
