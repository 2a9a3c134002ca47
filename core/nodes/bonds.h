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

/// Lays the bond that a Masonry node asks for, with quarter turns and the diagonal turn taken.
Places lay_bond(const NodeCall& call);

/// Divides box `place` across its length at `share` into two.
std::array<Place, 2> divided(const Place& place, float share);

/// The corners of an outline moved inwards by half a joint (bed joints lie along u, cross joints along v) and by
/// `radius`. Empty if nothing is left.
std::vector<Corner> inset(const std::vector<Corner>& outline, float bed_joint, float cross_joint, float radius);

}  // namespace loom
