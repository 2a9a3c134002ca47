// Strokes as planes: what they leave, and how much of a texel they cover.
#pragma once
#include <span>
#include <vector>

#include "core/base/stop.h"
#include "core/plane/plane.h"
#include "core/plane/stroke.h"

namespace loom {

/// What was painted so far, over nothing. `paint` holds one plane or three, times `cover`; over a ground it stands as
/// paint + (1 - cover) * ground.
struct Painted {
  Plane cover;
  std::vector<Plane> paint;
};

Painted unpainted(int size, std::size_t strands);

/// Draws strokes of the tile over what was painted, one after another; those on a shape are passed over. What leaves
/// the tile comes in at the other side. A stroke covers a texel as its nearest piece does, so that it does not add up
/// where it meets itself: within the radius whole, fading to the rim by a smooth step over the share of it that is its
/// softness; a hard rim by the share of a texel's breadth that lies within. Where `paint` holds another count than a
/// stroke, its first number counts for all. The same strokes drawn at once or in several calls leave the same bits.
/// Stopped: `painted` is in between.
void paint(Painted& painted, std::span<const HandStrokePtr> strokes, const Stop& stop);

}  // namespace loom
