// Each bond is a cell map or a row rule; sources stand beside them. Rows are counted downwards.
#include "core/nodes/bonds.h"
#include "core/base/scalar.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>

#include "core/base/hash.h"

namespace loom {
namespace {

using Counts = BondCounts;

struct BondType {
  std::string word;
  double courses_a_unit;      ///< of linked counts: its own proportions
  int of_across, of_courses;  ///< counts are snapped up to multiples of these
  Places (*lay)(const NodeCall&, Counts);
  bool in_courses = false;  ///< boxes that lie one way: a course is as tall as a unit
  double long_side = 1;     ///< of its longest unit, times the units across
};

Places straight_courses(Counts n, const std::function<float(int row)>& offset) {
  const auto [across, courses] = n;
  Places places;
  const float wide = 1.0f / static_cast<float>(across), tall = 1.0f / static_cast<float>(courses);
  for (int row = 0; row < courses; ++row)
    for (int column = 0; column < across; ++column)
      places.push_back({(static_cast<float>(column) + 0.5f + offset(row)) * wide,
                        (static_cast<float>(row) + 0.5f) * tall, wide, tall, 0});
  return places;
}

Places stack(const NodeCall&, Counts n) {
  return straight_courses(n, [](int) { return 0.0f; });
}
Places running(const NodeCall& c, Counts n) {
  return straight_courses(n, [&](int row) { return row % 2 ? c.real("stagger") : 0.0f; });
}
Places third(const NodeCall&, Counts n) {
  return straight_courses(n, [](int row) { return static_cast<float>(row % 3) / 3.0f; });
}

// Stretcher and header courses in turn; a header's middle lies over a stretcher's quarter, so the lap is a quarter.
Places english(const NodeCall&, Counts n) {
  const auto [across, courses] = n;
  Places places;
  const float wide = 1.0f / static_cast<float>(across), tall = 1.0f / static_cast<float>(courses);
  for (int row = 0; row < courses; ++row) {
    const int units = row % 2 ? 2 * across : across;
    const float length = 1.0f / static_cast<float>(units), offset = row % 2 ? 0.25f * wide : 0;
    for (int k = 0; k < units; ++k)
      places.push_back(
          {(static_cast<float>(k) + 0.5f) * length + offset, (static_cast<float>(row) + 0.5f) * tall, length, tall, 0});
  }
  return places;
}

// Stretcher and header side by side in each course, a header's middle over a stretcher's.
Places flemish(const NodeCall&, Counts n) {
  const auto [across, courses] = n;
  Places places;
  const float period = 1.0f / static_cast<float>(across), tall = 1.0f / static_cast<float>(courses);
  for (int row = 0; row < courses; ++row)
    for (int k = 0; k < across; ++k) {
      const float from = (static_cast<float>(k) + (row % 2 ? 0.5f : 0.0f)) * period,
                  v = (static_cast<float>(row) + 0.5f) * tall;
      places.push_back({from + period / 3, v, 2 * period / 3, tall, 0});
      places.push_back({from + 5 * period / 6, v, period / 3, tall, 0});
    }
  return places;
}

// Stretchers of chance lengths; every course breaks at places of its own.
Places irregular(const NodeCall& c, Counts n) {
  const int across = n.across, courses = n.courses;
  Places places;
  const float wide = 1.0f / static_cast<float>(across), tall = 1.0f / static_cast<float>(courses),
              vary = 0.8f * c.real("variation");
  const std::uint32_t start = fold32(c.seed("course start")), jitter = fold32(c.seed("joint"));
  for (int row = 0; row < courses; ++row) {
    const float from = unit_random(start, pcg(static_cast<std::uint32_t>(row)));
    const auto joint = [&](int k) {
      const auto key = pcg(static_cast<std::uint32_t>(row * 4096 + ((k % across) + across) % across));
      return (static_cast<float>(k) + from + vary * (unit_random(jitter, key) - 0.5f)) * wide;
    };
    for (int k = 0; k < across; ++k) {
      const float left = joint(k), right = joint(k + 1);
      places.push_back({0.5f * (left + right), (static_cast<float>(row) + 0.5f) * tall, right - left, tall, 0});
    }
  }
  return places;
}

// Boxes on a grid of cells that repeats every `repeat`: `each(x, y)` gives what starts in a cell, as cells along u and
// v.
struct Cells {
  int wide = 0, tall = 0;
};
Places on_cells(Counts n, int repeat_u, int repeat_v, const std::function<Cells(int x, int y)>& each) {
  Places places;
  const float cu = 1.0f / static_cast<float>(repeat_u * n.across), cv = 1.0f / static_cast<float>(repeat_v * n.courses);
  for (int y = 0; y < repeat_v * n.courses; ++y)
    for (int x = 0; x < repeat_u * n.across; ++x) {
      const Cells s = each(x, y);
      if (s.wide == 0) continue;
      const float u = (static_cast<float>(x) + 0.5f * static_cast<float>(s.wide)) * cu,
                  v = (static_cast<float>(y) + 0.5f * static_cast<float>(s.tall)) * cv;
      if (s.wide >= s.tall)
        places.push_back({u, v, static_cast<float>(s.wide) * cu, static_cast<float>(s.tall) * cv, 0});
      else
        places.push_back({u, v, static_cast<float>(s.tall) * cv, static_cast<float>(s.wide) * cu, 90});
    }
  return places;
}

int modulo(int a, int n) { return ((a % n) + n) % n; }

// Units of two cells by one step aside in every row: (x - y) mod 4 is 0 where one lies, 3 where one stands.
Places herringbone(const NodeCall&, Counts n) {
  return on_cells(n, 2, 2, [](int x, int y) {
    const int phase = modulo(x - y, 4);
    return phase == 0 ? Cells{2, 1} : phase == 3 ? Cells{1, 2} : Cells{};
  });
}

// The same with pairs of units of four cells by one.
Places double_herringbone(const NodeCall&, Counts n) {
  return on_cells(n, 4, 4, [](int x, int y) {
    const int phase = modulo(x / 2 - y / 2, 4);
    if (phase == 0 && x % 2 == 0) return Cells{4, 1};
    if (phase == 3 && y % 2 == 0) return Cells{1, 4};
    return Cells{};
  });
}

// Blocks of two units, lying and standing in turn.
Places basket_weave(const NodeCall&, Counts n) {
  return on_cells(n, 2, 2, [](int x, int y) {
    const bool standing = (x / 2 + y / 2) % 2;
    if (!standing && x % 2 == 0) return Cells{2, 1};
    if (standing && y % 2 == 0) return Cells{1, 2};
    return Cells{};
  });
}

// Four units of two cells round a filler of one.
Places pinwheel(const NodeCall&, Counts n) {
  return on_cells(n, 3, 3, [](int x, int y) {
    static constexpr Cells kRepeat[3][3] = {{{2, 1}, {}, {1, 2}}, {{1, 2}, {1, 1}, {}}, {{}, {2, 1}, {}}};
    return kRepeat[y % 3][x % 3];
  });
}

// Rectangles of chance sizes on a torus of cells, each as large as its draw allows where it starts: no joint runs
// through.
Places ashlar(const NodeCall& c, Counts n) {
  const auto [across, courses] = n;
  const int nu = 2 * across, nv = courses;
  std::vector<bool> taken(static_cast<std::size_t>(nu * nv), false);
  const auto cell = [&](int x, int y) { return static_cast<std::size_t>(modulo(y, nv) * nu + modulo(x, nu)); };
  static constexpr std::array<Cells, 8> kSizes{{{4, 2}, {3, 2}, {2, 2}, {2, 1}, {3, 1}, {4, 1}, {1, 2}, {1, 1}}};
  const std::uint32_t stream = fold32(c.seed("ashlar"));
  std::map<std::pair<int, int>, Cells> starts;
  for (int y = 0; y < nv; ++y)
    for (int x = 0; x < nu; ++x) {
      if (taken[cell(x, y)]) continue;
      const auto first =
          static_cast<std::size_t>(unit_random(stream, pcg(static_cast<std::uint32_t>(y * nu + x))) * 7.999f);
      // From the drawn size on, the first that fits; a single cell always does.
      for (std::size_t k = 0; k < kSizes.size(); ++k) {
        const Cells s = kSizes[std::min(first + k, kSizes.size() - 1)];
        bool fits = s.wide < nu && s.tall < std::max(nv, 2) && !(s.tall > 1 && nv == 1);
        for (int j = 0; j < s.tall && fits; ++j)
          for (int i = 0; i < s.wide && fits; ++i) fits = !taken[cell(x + i, y + j)];
        if (!fits && !(s.wide == 1 && s.tall == 1)) continue;
        for (int j = 0; j < s.tall; ++j)
          for (int i = 0; i < s.wide; ++i) taken[cell(x + i, y + j)] = true;
        starts[{x, y}] = s;
        break;
      }
    }
  return on_cells({1, 1}, nu, nv, [&](int x, int y) {
    const auto it = starts.find({x, y});
    return it == starts.end() ? Cells{} : it->second;
  });
}

// Points up, flats left and right: rows lie three quarters of a height apart. A square tile cannot hold regular ones
// exactly (root 3 is irrational): they are stretched by what is missing.
Places hexagon(const NodeCall&, Counts n) {
  const auto [across, courses] = n;
  Places places;
  const float wide = 1.0f / static_cast<float>(across), pitch = 1.0f / static_cast<float>(courses), h = 0.5f * wide,
              third = pitch / 3;
  for (int row = 0; row < courses; ++row)
    for (int k = 0; k < across; ++k)
      places.push_back({(static_cast<float>(k) + (row % 2 ? 1.0f : 0.5f)) * wide,
                        (static_cast<float>(row) + 0.5f) * pitch,
                        wide,
                        4 * third,
                        0,
                        {{0, -2 * third}, {h, -third}, {h, third}, {0, 2 * third}, {-h, third}, {-h, -third}}});
  return places;
}

// Octagons on a square grid with a small square in each gap; sides are as long as the octagon's where units are square.
Places octagon_and_dot(const NodeCall&, Counts n) {
  const auto [across, courses] = n;
  Places places;
  const float w = 0.5f / static_cast<float>(across), h = 0.5f / static_cast<float>(courses), t = std::sqrt(2.0f) - 1;
  const float a = w * t, b = h * t;
  for (int row = 0; row < courses; ++row)
    for (int k = 0; k < across; ++k) {
      const float u = (2 * static_cast<float>(k) + 1) * w, v = (2 * static_cast<float>(row) + 1) * h;
      places.push_back(
          {u, v, 2 * w, 2 * h, 0, {{-a, -h}, {a, -h}, {w, -b}, {w, b}, {a, h}, {-a, h}, {-w, b}, {-w, -b}}});
      places.push_back(
          {u + w, v + h, 2 * (w - a), 2 * (h - b), 0, {{0, -(h - b)}, {w - a, 0}, {0, h - b}, {-(w - a), 0}}});
    }
  return places;
}

Places diamond(const NodeCall&, Counts n) {
  const auto [across, courses] = n;
  Places places;
  const float w = 0.5f / static_cast<float>(across), h = 0.5f / static_cast<float>(courses);
  for (int row = 0; row < 2 * courses; ++row)
    for (int k = 0; k < across; ++k)
      places.push_back({(2 * static_cast<float>(k) + (row % 2 ? 2.0f : 1.0f)) * w,
                        (static_cast<float>(row) + 1) * h,
                        2 * w,
                        2 * h,
                        0,
                        {{0, -h}, {w, 0}, {0, h}, {-w, 0}}});
  return places;
}

// Two L of three cells lock into two by three.
Places interlocking(const NodeCall&, Counts n) {
  const auto [across, courses] = n;
  Places places;
  const float cu = 0.5f / static_cast<float>(across), cv = 1.0f / (3.0f * static_cast<float>(courses));
  for (int row = 0; row < courses; ++row)
    for (int k = 0; k < across; ++k) {
      const float u = 2 * static_cast<float>(k) * cu, v = 3 * static_cast<float>(row) * cv;
      // From the inner corner's cell: one lies up and left, the other down and right.
      places.push_back(
          {u + cu, v + cv, 2 * cu, 2 * cv, 0, {{-cu, -cv}, {cu, -cv}, {cu, 0}, {0, 0}, {0, cv}, {-cu, cv}}});
      places.push_back(
          {u + cu, v + 2 * cv, 2 * cu, 2 * cv, 0, {{0, -cv}, {cu, -cv}, {cu, cv}, {-cu, cv}, {-cu, 0}, {0, 0}}});
    }
  return places;
}

const std::vector<BondType>& bonds() {
  static const std::vector<BondType> kBonds = {{"stack", 2, 1, 1, stack, true},
                                               {"running", 2, 1, 2, running, true},
                                               {"third", 2, 1, 3, third, true},
                                               {"english", 3, 1, 2, english, true},
                                               {"flemish", 4.5, 1, 2, flemish, true, 2.0 / 3},
                                               {"irregular", 2, 1, 1, irregular, true},
                                               {"ashlar", 2, 1, 1, ashlar, true},
                                               {"herringbone", 1, 2, 2, herringbone},
                                               {"double_herringbone", 1, 2, 2, double_herringbone},
                                               {"basket_weave", 1, 2, 2, basket_weave},
                                               {"pinwheel", 1, 1, 1, pinwheel, false, 2.0 / 3},
                                               {"hexagon", 2 / std::sqrt(3.0), 1, 2, hexagon},
                                               {"octagon_and_dot", 1, 1, 1, octagon_and_dot},
                                               {"diamond", 1, 1, 1, diamond},
                                               {"interlocking", 2.0 / 3, 1, 1, interlocking}};
  return kBonds;
}

const BondType& bond_of(const NodeCall& c) {
  const auto it = std::find_if(bonds().begin(), bonds().end(), [&](const BondType& b) { return c.is("bond", b.word); });
  return it == bonds().end() ? bonds()[1] : *it;
}

// A quarter turn anticlockwise as seen: (u, v) goes to (v, 1 - u).
void quarter_turn(Place& p) {
  const float u = p.u;
  p.u = p.v;
  p.v = 1 - u;
  if (p.outline.empty()) {
    p.degrees += 90;
    return;
  }
  std::swap(p.long_side, p.short_side);
  for (Corner& c : p.outline) c = {c.v, -c.u};
}

// The box of an outline stands upright about it.
void box_outline(Place& p) {
  p.long_side = p.short_side = 0;
  for (const Corner& c : p.outline)
    p.long_side = std::max(p.long_side, 2 * std::abs(c.u)), p.short_side = std::max(p.short_side, 2 * std::abs(c.v));
}

// A pattern of period 1 is one whose places are whole steps apart; turned and shrunk by (p, q), the steps of the tile
// are p^2 + q^2 of its own, and as many copies of a place come to lie within it.
std::vector<Place> turned(const std::vector<Place>& places, LatticeTurn t) {
  std::vector<Place> out;
  const auto n = static_cast<float>(t.copies()), p = static_cast<float>(t.p), q = static_cast<float>(t.q);
  const auto back = [&](float x, float y) { return Corner{(p * x + q * y) / n, (p * y - q * x) / n}; };
  // Steps (i, j) with the same i p' + j q' mod n are the same step of the tile: of each, the first.
  std::vector<std::pair<int, int>> steps;
  std::vector<bool> taken(static_cast<std::size_t>(t.copies()) * static_cast<std::size_t>(t.copies()), false);
  for (int j = 0; j < t.copies() && static_cast<int>(steps.size()) < t.copies(); ++j)
    for (int i = 0; i < t.copies() && static_cast<int>(steps.size()) < t.copies(); ++i) {
      const auto at = static_cast<std::size_t>(modulo(t.p * i + t.q * j, t.copies()) * t.copies() +
                                               modulo(t.p * j - t.q * i, t.copies()));
      if (!taken[at]) steps.emplace_back(i, j);
      taken[at] = true;
    }
  const float shrink = 1 / std::sqrt(n), degrees = static_cast<float>(t.degrees());
  for (const Place& one : places)
    for (const auto& [i, j] : steps) {
      const Corner at = back(one.u + static_cast<float>(i), one.v + static_cast<float>(j));
      Place copy{at.u, at.v, shrink * one.long_side, shrink * one.short_side, one.degrees + degrees};
      for (const Corner& c : one.outline) copy.outline.push_back(back(c.u, c.v));
      if (!copy.outline.empty()) copy.degrees = one.degrees, box_outline(copy);
      out.push_back(std::move(copy));
    }
  return out;
}

int greatest_common(int a, int b) { return b == 0 ? a : greatest_common(b, a % b); }

}  // namespace

const std::vector<std::string>& bond_words() {
  static const std::vector<std::string> kWords = [] {
    std::vector<std::string> w;
    for (const BondType& b : bonds()) w.push_back(b.word);
    return w;
  }();
  return kWords;
}

double LatticeTurn::degrees() const { return std::atan2(q, p) * 57.29577951308232; }

LatticeTurn whole_turn(const NodeCall& c) {
  // Right angles are whole by themselves: what lies between them is looked for, the fewest copies first.
  const double wanted = std::remainder(c.number("whole_turn"), 90.0);
  LatticeTurn best;
  double least = std::abs(wanted);
  for (int n = 2; n <= kMostCopies; ++n)
    for (int p = 1; p * p <= n; ++p)
      for (int q = -p; q <= p; ++q) {
        const LatticeTurn t{p, q};
        if (t.copies() != n || greatest_common(p, std::abs(q)) != 1) continue;
        const double off = std::abs(t.degrees() - wanted);
        if (off < least - 1e-9) least = off, best = t;
      }
  const int quarters = modulo(static_cast<int>(std::lround((c.number("whole_turn") - wanted) / 90)), 4);
  for (int k = 0; k < quarters; ++k) best = {-best.q, best.p};
  return best;
}

BondCounts bond_counts(const NodeCall& c) {
  const BondType& type = bond_of(c);
  const bool size_kept = c.toggle("size_kept");
  // A turned bond stands several times in the tile: it is counted so that units keep about their size.
  const double shrink = std::sqrt(whole_turn(c).copies()), times = c.integer("multiplier") / shrink,
               wished = c.integer("units_across") * times * (size_kept ? type.long_side : 1);
  const int most = static_cast<int>(kMostUnitsAcross / shrink);
  const int across = up_to_multiple(std::clamp(static_cast<int>(std::lround(wished)), 1, most), type.of_across);
  double courses = c.toggle("linked") ? across * type.courses_a_unit : c.integer("courses") * times;
  if (size_kept)
    courses = !type.in_courses     ? across * type.courses_a_unit
              : c.toggle("linked") ? 2 * c.integer("units_across") * times
                                   : c.integer("courses") * times;
  return {across, up_to_multiple(std::clamp(static_cast<int>(std::lround(courses)), 1, 2 * most), type.of_courses)};
}

Places lay_bond(const NodeCall& c) {
  Places places = bond_of(c).lay(c, bond_counts(c));
  const int turns = modulo(c.integer("quarter_turns"), 4);
  for (Place& p : places)
    for (int k = 0; k < turns; ++k) quarter_turn(p);
  if (c.toggle("diagonal")) places = turned(places, {1, 1});
  if (const LatticeTurn turn = whole_turn(c); turn.p != 1 || turn.q != 0) places = turned(places, turn);
  const Vector offset = c.vector("offset");
  for (Place& p : places) {
    p.u += static_cast<float>(offset[0]), p.v += static_cast<float>(offset[1]);
    p.u -= std::floor(p.u), p.v -= std::floor(p.v);
  }
  std::stable_sort(places.begin(), places.end(), [](const Place& a, const Place& b) { return a.v < b.v - 1e-5f; });
  return places;
}

std::array<Place, 2> divided(const Place& p, float share) {
  const float radians = p.degrees * 0.017453292519943f, c = std::cos(radians), s = -std::sin(radians);
  const auto part = [&](float from, float to) {
    const float middle = (0.5f * (from + to) - 0.5f) * p.long_side;
    return Place{p.u + middle * c, p.v + middle * s, (to - from) * p.long_side, p.short_side, p.degrees};
  };
  return {part(0, share), part(share, 1)};
}

std::vector<Place> divided(const Place& p, int along, int across) {
  const float radians = p.degrees * 0.017453292519943f, c = std::cos(radians), s = -std::sin(radians);
  const float wide = p.long_side / static_cast<float>(along), tall = p.short_side / static_cast<float>(across);
  std::vector<Place> parts;
  for (int j = 0; j < across; ++j)
    for (int i = 0; i < along; ++i) {
      const float x = (static_cast<float>(i) + 0.5f) * wide - 0.5f * p.long_side,
                  y = (static_cast<float>(j) + 0.5f) * tall - 0.5f * p.short_side;
      parts.push_back({p.u + x * c - y * s, p.v + x * s + y * c, wide, tall, p.degrees});
    }
  return parts;
}

std::vector<Corner> inset(const std::vector<Corner>& outline, float bed_joint, float cross_joint, float radius) {
  const std::size_t n = outline.size();
  struct Line {
    float nu, nv, d;
  };  // inside where nu u + nv v >= d
  std::vector<Line> lines;
  float area = 0;
  for (std::size_t i = 0; i < n; ++i)
    area += outline[i].u * outline[(i + 1) % n].v - outline[(i + 1) % n].u * outline[i].v;
  const float sign = area >= 0 ? 1.0f : -1.0f;
  for (std::size_t i = 0; i < n; ++i) {
    const Corner a = outline[i], b = outline[(i + 1) % n];
    const float eu = b.u - a.u, ev = b.v - a.v, length = std::max(std::hypot(eu, ev), 1e-9f), nu = -sign * ev / length,
                nv = sign * eu / length;
    // A slanting edge takes its share of both joints.
    lines.push_back({nu, nv, nu * a.u + nv * a.v + 0.5f * std::hypot(nv * bed_joint, nu * cross_joint) + radius});
  }
  std::vector<Corner> out;
  for (std::size_t i = 0; i < n; ++i) {
    const Line &p = lines[(i + n - 1) % n], &q = lines[i];
    const float det = p.nu * q.nv - q.nu * p.nv;
    if (std::abs(det) < 1e-6f) return {};
    out.push_back({(p.d * q.nv - q.d * p.nv) / det, (p.nu * q.d - q.nu * p.d) / det});
  }
  // Where an edge has turned round, the joint has eaten the unit.
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t k = (i + 1) % n;
    if ((out[k].u - out[i].u) * (outline[k].u - outline[i].u) + (out[k].v - out[i].v) * (outline[k].v - outline[i].v) <=
        0)
      return {};
  }
  return out;
}

}  // namespace loom
