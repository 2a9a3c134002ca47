// The bonds of Masonry: where every unit lies before rules vary it.
#pragma once
#include <array>
#include <string>
#include <vector>

#include "core/nodes/node_call.h"

namespace loom {

/// A corner, from its unit's centre, in shares of the tile.
struct Corner {
  float u, v;
};

/// A unit with its joints still in it. `outline` runs round once in the tile's own directions; empty: a box along
/// `degrees`.
struct Place {
  float u, v, long_side, short_side, degrees;
  std::vector<Corner> outline{};
};

using Places = std::vector<Place>;

/// Units across and courses as snapped, so that the bond closes.
struct BondCounts {
  int across, courses;
};

/// The words of the parameter "bond", in the order in which they are offered.
const std::vector<std::string>& bond_words();

/// The counts that a Masonry node asks for, snapped.
BondCounts bond_counts(const NodeCall& call);

/// A whole lattice vector (p, q): the pattern turned by its angle and smaller by its length closes on the tile, where
/// it then stands p^2 + q^2 times.
struct LatticeTurn {
  int p = 1, q = 0;
  int copies() const { return p * p + q * q; }
  double degrees() const;  ///< anticlockwise
};

/// The turn of the whole bond that a Masonry node asks for, at the nearest angle that closes with no more than
/// kMostCopies copies.
LatticeTurn whole_turn(const NodeCall& call);
inline constexpr int kMostCopies = 65;
/// More are not laid: a careless product must not fill the memory.
inline constexpr int kMostUnitsAcross = 512, kMostUnits = 2 * kMostUnitsAcross * kMostUnitsAcross;

/// Lays the bond that a Masonry node asks for, with its turns taken and its offset.
Places lay_bond(const NodeCall& call);

/// Divides box `place` across its length at `share` into two.
std::array<Place, 2> divided(const Place& place, float share);
/// Divides it into equal parts, along its length and across it.
std::vector<Place> divided(const Place& place, int along, int across);

/// The corners of an outline moved inwards by half a joint (bed joints lie along u, cross joints along v) and by
/// `radius`. Empty if nothing is left.
std::vector<Corner> inset(const std::vector<Corner>& outline, float bed_joint, float cross_joint, float radius);

}  // namespace loom
