// The tables that noise, laid units, curves and samplers read.
#pragma once
#include <array>
#include <cstdint>
#include <vector>

#include "core/program/program.h"

namespace loom {

/// Octaves of gradient noise. Period: lattice cells over the tile, so that every octave closes.
struct NoiseTable : Resource {
  struct Octave {
    std::int32_t period_u, period_v;
    std::uint32_t seed;
    float amplitude;
  };
  enum class Basis { gradient, value, facet };         ///< facet: flat triangles between chance heights
  enum class Sum { plain, ridged, billowed, hybrid };  ///< after Musgrave
  Basis basis = Basis::gradient;
  Sum sum = Sum::plain;
  std::vector<Octave> octaves;
  float norm = 1;   ///< the sum is multiplied by it
  float drift = 0;  ///< of chance heights, in whole rounds
  static constexpr int kGradients = 64;
  alignas(64) std::array<float, kGradients> gradient_u{}, gradient_v{};  ///< unit vectors, already turned by the drift
};

extern const Family kGradientNoise;  ///< u, v, footprint -> sum of octaves, about -1..1 (of any basis)
extern const Family kSolidNoise;     ///< x, y, z, footprint -> the same in space

/// Impulses of sparse convolution, a fixed number a cell, in cell units from the cell's corner.
struct SpeckleTable : Resource {
  std::size_t bytes() const override { return 6 * x.size() * sizeof(float); }
  std::int32_t cells_u = 1, cells_v = 1, impulses = 1;     ///< impulses a cell
  std::vector<float> x, y, weight, wave_x, wave_y, phase;  ///< waves in turns a cell width
  float highest = 0, norm = 1;  ///< highest wave, in turns a tile; the sum is multiplied by `norm`
  /// In space, impulses are drawn where they are asked for: a wave of `frequency` turns a cell, about `along` radians
  /// in the plane of x and y.
  std::uint32_t seed = 0;
  float frequency = 0, along = 0, spread = 0, norm_in_space = 1;
};

extern const Family kSpeckle;       ///< u, v, footprint -> sparse convolution, about -1..1
extern const Family kSolidSpeckle;  ///< x, y, z, footprint -> the same in space

/// Rods in space, drawn from the hashes of cells that are no narrower than a rod reaches; lengths in cells, `rods` the
/// mean number a cell.
struct FibreTable : Resource {
  std::uint32_t seed = 0;
  std::int32_t cells = 1;
  float rods = 0, half_length = 0, half_width = 0, length_spread = 0, along = 0, spread = 0;
};

extern const Family kSolidFibres;  ///< x, y, z -> signed distance to the nearest rod, its tone

/// One point a lattice cell, in cell units from the cell's corner; `tone` is a chance value a cell.
struct CellTable : Resource {
  std::size_t bytes() const override { return 3 * tone.size() * sizeof(float); }
  enum class Measure { euclidean, manhattan, chebyshev };
  Measure measure = Measure::euclidean;
  std::uint32_t seed = 0;  ///< of points in space, which are drawn where they are asked for
  float jitter = 1;        ///< of those
  std::int32_t cells_u = 1, cells_v = 1;
  std::vector<float> point_u, point_v, tone;
};

extern const Family kCells;        ///< u, v -> nearest, second, tone
extern const Family kCellBorder;   ///< u, v -> exact distance to the nearest border
extern const Family kSolidCells;   ///< x, y, z -> nearest, second, tone
extern const Family kSolidBorder;  ///< x, y, z -> Euclidean distance to the cell's side

/// y over x: below the first and above the last point it is level. Cubic Hermite pieces.
struct CurveTable : Resource {
  struct Piece {
    float from, to, y0, y1, slope0, slope1;
  };  ///< slopes in y over the whole piece
  std::vector<Piece> pieces;
  float before = 0, after = 1;
};

extern const Family kCurve;  ///< x -> piecewise cubic or linear

struct Column : Resource {
  std::size_t bytes() const override { return 4 * values.size(); }
  std::vector<float> values;
};

extern const Family kFetch;  ///< index -> a table's column, 0 where the index is below 0

/// A plane and its mean pyramid.
struct Sampled : Resource {
  std::vector<PlanePtr> levels;
};

extern const Family kSample;       ///< u, v, footprint -> bilinear, from the pyramid's level that fits the footprint
extern const Family kNearest;      ///< u, v -> the first level's nearest texel
extern const Family kDifferences;  ///< (texels alone) -> the slope of the first level along u and v there

/// Units on the torus with a grid of candidates, found in a few steps from any position.
struct LaidUnits : Resource {
  std::size_t bytes() const override;
  std::vector<float> centre_u, centre_v, half_u, half_v, cosine, sine, radius;
  /// Units that are no boxes: the corners of unit i are outline_first[i] to outline_first[i + 1] - 1, along its own
  /// axes; its edge lies `radius` outside of them. Empty where all are boxes; no corners: a box.
  std::vector<std::int32_t> outline_first;
  std::vector<float> outline_x, outline_y;
  std::vector<float> joint;         ///< half of the joint that each unit keeps to any other; empty: none
  std::int32_t grid = 1;            ///< cells along each side
  std::vector<std::int32_t> first;  ///< grid*grid + 1 offsets into the candidates
  std::vector<std::int32_t> unit;   ///< of each candidate
  std::vector<float> at_u, at_v;    ///< its centre, moved by whole tiles to where the cell sees it
  std::size_t count() const { return centre_u.size(); }
};

extern const Family kLaid;  ///< u, v -> unit, x, y, signed distance

/// A motif is there where its value is above this.
constexpr float kNothing = 0.004f;

/// How stamps that overlap are combined.
enum class Overlap { highest, lowest, newest, summed };

/// Motifs stamped where units lie: unit boxes are 2 * half wide, a motif's frame 0..1 fills the box.
struct Stamps : Resource {
  std::size_t bytes() const override;
  LaidUnits units;
  std::vector<float> tone;                       ///< multiplies the motif's value
  std::vector<std::int32_t> motif;               ///< which of `motifs`, for each unit
  std::vector<std::vector<PlanePtr>> motifs;     ///< pyramids
  std::vector<std::vector<PlanePtr>> covers_of;  ///< how much of each texel each motif covers, pyramids; the finest
                                                 ///< level is the motif itself
  Overlap overlap = Overlap::highest;
  float background = 0;
  bool covers = false;  ///< the value is how much of the sample the motifs cover, their finest
                        ///< level still the motif itself; the unit is not asked for
};

extern const Family kStamped;  ///< u, v, footprint -> unit, x, y, value

/// Fills `grid`, `first`, `unit`, `at_u`, `at_v` from the units' places and sizes; `reach` (tile shares) widens each
/// box.
void index_units(LaidUnits& units, float reach);

}  // namespace loom
