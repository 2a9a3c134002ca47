// The kinds of data that threads carry.
#pragma once
#include <string_view>

namespace loom {

/// `any` is for pegs that take what comes: their node works on the widest of its inputs.
enum class Kind { scalar, vector2, vector3, normal, colour, colour_alpha, regions, set, any };

/// How many strands a thread of this kind is drawn with, and how many planes it needs. A set has none of its own.
constexpr int strand_count(Kind kind) {
  switch (kind) {
    case Kind::scalar:
    case Kind::regions:
      return 1;
    case Kind::vector2:
      return 2;
    case Kind::vector3:
    case Kind::normal:
    case Kind::colour:
      return 3;
    case Kind::colour_alpha:
      return 4;
    case Kind::set:
    case Kind::any:
      return 0;
  }
  return 0;
}

constexpr std::string_view kind_name(Kind kind) {
  switch (kind) {
    case Kind::scalar:
      return "scalar";
    case Kind::vector2:
      return "vector2";
    case Kind::vector3:
      return "vector3";
    case Kind::normal:
      return "normal";
    case Kind::colour:
      return "colour";
    case Kind::colour_alpha:
      return "colour_alpha";
    case Kind::regions:
      return "regions";
    case Kind::set:
      return "set";
    case Kind::any:
      return "any";
  }
  return "";
}

constexpr Kind kind_from_name(std::string_view name) {
  for (const Kind k : {Kind::scalar, Kind::vector2, Kind::vector3, Kind::normal, Kind::colour, Kind::colour_alpha,
                       Kind::regions, Kind::set})
    if (kind_name(k) == name) return k;
  return Kind::any;
}

/// Whether a thread of kind `from` may end in a peg of kind `to`. The table stands in docs/format.md.
constexpr bool converts(Kind from, Kind to) {
  if (from == to || to == Kind::any) return from != Kind::any;
  if (from == Kind::set || to == Kind::set || to == Kind::regions) return false;
  if (from == Kind::regions) return to == Kind::scalar;
  if (from == Kind::scalar) return to != Kind::normal;
  if (from == Kind::vector2) return to == Kind::vector3;
  if (from == Kind::normal) return to == Kind::vector3 || to == Kind::vector2;
  if (from == Kind::vector3) return to == Kind::vector2 || to == Kind::normal || to == Kind::colour;
  if (from == Kind::colour) return to == Kind::scalar || to == Kind::vector3 || to == Kind::colour_alpha;
  return to == Kind::colour || to == Kind::scalar;  // colour_alpha
}

/// The wider of two kinds, for nodes that work on the widest input. A set is wider than all else.
constexpr Kind wider(Kind a, Kind b) {
  if (a == Kind::set || b == Kind::set) return Kind::set;
  if (a == Kind::any) return b;
  if (b == Kind::any) return a;
  return strand_count(b) > strand_count(a) ? b : a;
}

}  // namespace loom
