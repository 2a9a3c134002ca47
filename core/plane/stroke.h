// A stroke of a hand as a document keeps it: where it went and what it leaves, never its texels.
#pragma once
#include <array>
#include <memory>
#include <vector>

#include "core/base/key.h"

namespace loom {

struct StrokePoint {
  float x = 0, y = 0, z = 0;  ///< of the tile: u, v and nothing; on a shape: a place in space, metres
  float pressure = 1;         ///< times the radius
  /// On a shape: the way its surface faced there, of length 1; nothing: it is painted whatever way it faces.
  float towards_x = 0, towards_y = 0, towards_z = 0;
  friend bool operator==(const StrokePoint&, const StrokePoint&) = default;
};

struct HandStroke {
  bool on_shape = false;
  float radius = 0.03f;         ///< shares of the tile, or metres
  float softness = 0.5f;        ///< the share of the radius over which it fades
  float strength = 1;           ///< how much of what was there goes
  bool erase = false;           ///< takes away what was painted, and leaves nothing
  std::vector<float> paint{1};  ///< a number, or a colour of linear Rec. 709
  std::vector<StrokePoint> points;
  Key key{};  ///< of all that; set by kept()
};
using HandStrokePtr = std::shared_ptr<const HandStroke>;

/// In the order in which they were drawn. Copying the list copies no stroke.
struct Strokes {
  std::vector<HandStrokePtr> all;
  friend bool operator==(const Strokes& a, const Strokes& b);
};

inline constexpr std::size_t kMostStrokes = 20000, kMostStrokePoints = 20000;
/// What a stroke may be: its widest, in shares of the tile, or on a shape in metres, and its thinnest.
inline constexpr float kWidestStroke = 1, kWidestOnShape = 1000, kThinnestStroke = 1e-5f;

/// A stroke ready to be kept: its numbers rounded as a document writes them, so that what is seen is what is read back.
HandStrokePtr kept(HandStroke stroke);
/// A number as a document writes it: places to 1e-5, directions to 1e-2, all else to 1e-4.
double written_place(float x);
double written_direction(float x);
double written_share(float x);

/// Whether any of them lies on a shape, or any on the tile.
bool any_on(const Strokes& strokes, bool shape);

/// Points that tell nothing are left out: what remains strays from the hand's way by less than `tolerance`.
/// Source: Ramer, "An iterative procedure for the polygonal approximation of plane curves", 1972; Douglas and Peucker,
/// 1973.
std::vector<StrokePoint> thinned(const std::vector<StrokePoint>& points, float tolerance);

}  // namespace loom
