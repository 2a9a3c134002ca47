#include "tests/core/alone.h"

#include "core/surface/measured.h"

#include "core/graph/reading.h"

#include <cstring>

namespace loom::test {

PlanePtr shared(Plane p) { return std::make_shared<Plane>(std::move(p)); }

// Three sines over the torus, by sin(a + b) = sin a cos b + cos a sin b: columns and rows apart, since tests ask for
// them by the ten million.
Plane bumpy(int size, int which) {
  struct Wave {
    int u, v;  // times round
    double turn, height;
  };
  constexpr double kTurn = 6.283185307179586;
  const Wave waves[] = {{1 + which % 3, 1, static_cast<double>(which), 0.2},
                        {2, -(1 + which % 2), 2.0 * which + kTurn / 4, 0.17},
                        {1, 3, -static_cast<double>(which), 0.12}};
  const auto n = static_cast<std::size_t>(size);
  std::vector<double> sine[3], cosine[3];
  for (int k = 0; k < 3; ++k)
    for (std::size_t x = 0; x < n; ++x) {
      const double angle = kTurn * waves[k].u * (static_cast<double>(x) + 0.5) / size + waves[k].turn;
      sine[k].push_back(waves[k].height * std::sin(angle));
      cosine[k].push_back(waves[k].height * std::cos(angle));
    }
  Plane p(size);
  for_rows(size, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      double s[3], c[3];
      for (int k = 0; k < 3; ++k) {
        const double angle = kTurn * waves[k].v * (y + 0.5) / size;
        s[k] = std::sin(angle), c[k] = std::cos(angle);
      }
      float* const row = p.row(y);
      for (std::size_t x = 0; x < n; ++x) {
        double sum = 0.5;
        for (int k = 0; k < 3; ++k) sum += sine[k][x] * c[k] + cosine[k][x] * s[k];
        row[x] = static_cast<float>(sum);
      }
    }
  });
  return p;
}

Field field(Kind kind, std::vector<Plane> planes) {
  Field f;
  f.kind = kind;
  for (std::size_t i = 0; i < planes.size(); ++i) f.strand[i] = shared(std::move(planes[i]));
  return f;
}

Plane rolled(const Plane& p, int du, int dv) {
  Plane out(p.size());
  for (int y = 0; y < p.size(); ++y)
    for (int x = 0; x < p.size(); ++x) out.at(wrap(x + du, p.size()), wrap(y + dv, p.size())) = p.at(x, y);
  return out;
}

Field rolled(const Field& f, int du, int dv) {
  Field out = f;
  for (auto& s : out.strand)
    if (s) s = shared(rolled(*s, du, dv));
  for (auto& m : out.members) m.second = rolled(m.second, du, dv);
  return out;
}

Field bumpy_field(Kind kind, int size, int which) {
  if (kind == Kind::any) kind = Kind::scalar;
  if (kind == Kind::regions) {
    // Labelled once on a coarse grid, so that the regions and their table are the same at every size.
    Labels l = label_regions(bumpy(64, which), 0.5f, false, Stop{});
    Field f;
    f.kind = kind;
    f.strand[0] = shared(painted(size, [&](double u, double v) {
      return static_cast<double>(l.index.at(static_cast<int>(u * 64), static_cast<int>(v * 64)));
    }));
    f.regions = std::make_shared<RegionTable>(std::move(l.table));
    return f;
  }
  if (kind == Kind::set) {
    Field f;
    f.kind = kind;
    f.members = {{"base_colour", bumpy_field(Kind::colour, size, which)},
                 {"roughness", bumpy_field(Kind::scalar, size, which + 1)}};
    for (int i = 1; i <= 4; ++i)
      f.members.emplace_back("own_" + std::to_string(i), bumpy_field(Kind::scalar, size, which + i));
    return f;
  }
  std::vector<Plane> planes;
  for (int i = 0; i < strand_count(kind); ++i) planes.push_back(bumpy(size, which + i));
  if (kind == Kind::normal)
    for (std::size_t t = 0; t < planes[0].texels(); ++t) {
      const float x = planes[0].data()[t] - 0.5f, y = planes[1].data()[t] - 0.5f, n = std::sqrt(x * x + y * y + 1);
      planes[0].data()[t] = x / n, planes[1].data()[t] = y / n, planes[2].data()[t] = 1 / n;
    }
  return field(kind, std::move(planes));
}

Fields bumpy_inputs(const NodeType& type, int size, const std::set<std::string>& except) {
  Fields inputs;
  int which = 1;
  for (const Peg& p : type.inputs) {
    if (p.id != "coordinates" && !except.count(p.id)) inputs[p.id] = bumpy_field(p.kind, size, which);
    // Places in space that change no faster than the tile's own: what is eight texels wide there stays so.
    if (p.id == "positions" && !except.count(p.id))
      for (PlanePtr& strand : inputs[p.id].strand) {
        if (!strand) continue;
        Plane gentle = strand->clone();
        for (std::size_t i = 0; i < gentle.texels(); ++i) gentle.data()[i] *= 0.15f;
        strand = shared(std::move(gentle));
      }
    which += 3;
  }
  return inputs;
}

std::map<std::string, Field> weave_alone(const NodeType& type, int size, const Fields& inputs, const Resolved& params) {
  const NodeCall call(type, params, 12345, size, {1.0, 0.02});
  if (type.evaluate) {
    std::set<std::string, std::less<>> wanted;
    for (const Peg& p : type.outputs) wanted.insert(p.id);
    AreaCall area(call, inputs, wanted, Stop{});
    const auto done = type.evaluate(area);
    if (!done) qFatal("%s", done.error().text().c_str());
    return std::move(area.outputs);
  }
  Builder b(Domain::texels(size));
  std::map<std::string, Strands, std::less<>> point;
  Fields whole;
  for (const Peg& p : type.inputs)
    if (const auto it = inputs.find(p.id); it != inputs.end()) {
      if (reads_whole(type, params, p))
        whole[p.id] = it->second;
      else
        point[p.id] = convert(b, loaded(b, it->second), p.kind);
    }
  Emitter e(call, b, std::move(point), std::move(whole), [](const auto& make) { return make(); });
  type.emit(e);
  if (e.fault) qFatal("%s", e.fault->text().c_str());
  std::map<std::string, Field> fields;
  Targets targets(b, size);
  for (const auto& [id, s] : e.outputs) fields[id] = targets.field(s);
  targets.run(Stop{});
  return fields;
}

namespace {

const MeshShape& two_boxes() {
  static const MeshShape* const kBoxes = [] {
    Mesh m;
    m.parts = {"left", "right"};
    for (const std::uint16_t part : {std::uint16_t{0}, std::uint16_t{1}})
      for (int axis = 0; axis < 3; ++axis)
        for (const float side : {-1.0f, 1.0f}) {
          const auto first = static_cast<std::uint32_t>(m.position.size());
          for (const auto& [x, y] : {std::pair{-1.0f, -1.0f}, {1.0f, -1.0f}, {1.0f, 1.0f}, {-1.0f, 1.0f}}) {
            const std::array<float, 3> at{side, side * x, y};
            const auto k = static_cast<std::size_t>(axis);
            const Vec3 p{at[(3 - k) % 3], at[(4 - k) % 3], at[(5 - k) % 3]};
            m.position.push_back(part ? p * 0.15f + Vec3{0.12f, -0.1f, 0} : p * 0.25f + Vec3{-0.26f, 0, 0});
          }
          m.triangle.push_back({first, first + 1, first + 2});
          m.triangle.push_back({first, first + 2, first + 3});
          m.part_of.insert(m.part_of.end(), {part, part});
        }
    m.normal.resize(m.position.size(), {0, 1, 0});
    MeshAttribute& colour = m.attributes.emplace_back();
    colour.name = "COLOR_0";
    colour.numbers = 4;
    for (const Vec3& p : m.position) colour.at.push_back({p.x + 0.5f, p.y + 0.5f, p.z + 0.5f, 1});
    for (std::size_t i = 0; i < m.position.size(); ++i) colour.given.push_back(i < m.position.size() / 2);
    return new MeshShape(std::move(m));
  }();
  return *kBoxes;
}

}  // namespace

std::vector<std::vector<float>> over_two_boxes(const NodeType& type, const Resolved& params) {
  const NodeCall call(type, params, 12345, 64, {1.0, 0.02});
  if (type.rack != Rack::mesh || !type.emit) return {};
  Builder b(Domain::surface_points());
  Emitter e(call, b, {}, {}, [](const auto& make) { return make(); });
  type.emit(e);
  int stored = 0;
  for (const auto& [id, s] : e.outputs)
    for (int i = 0; i < strand_count(s.kind); ++i) b.store(s.at[static_cast<std::size_t>(i)], stored++);
  const Program program = b.build();
  if (program.measures.empty()) return {};
  constexpr std::pair<float, float> kOnTriangle[] = {{0.03f, 0.03f}, {0.2f, 0.2f}, {0.45f, 0.45f},
                                                     {0.1f, 0.8f},   {0.8f, 0.1f}, {0.6f, 0.2f}};
  constexpr std::size_t kPoints = 24 * std::size(kOnTriangle);
  const MeshShape& mesh = two_boxes();
  std::vector<std::vector<float>> attributes(kSurfaceAttributes, std::vector<float>(kPoints, 0.5f));
  for (const MeshMeasure& what : program.measures) {
    const std::size_t first = attributes.size();
    attributes.resize(first + what.numbers(), std::vector<float>(kPoints));
    for (std::uint32_t i = 0; i < kPoints; ++i) {
      const auto t = i / static_cast<std::uint32_t>(std::size(kOnTriangle));
      const auto& [b_share, c_share] = kOnTriangle[i % std::size(kOnTriangle)];
      const MeasuredPoint point{mesh.position({0, t, b_share, c_share}), mesh.flat(t), mesh.mesh().part_of[t]};
      const MeshAttribute* const carried = mesh.carried(what.name_of_carried);
      const auto found = carried ? mesh.carried(*carried, t, b_share, c_share) : measured_at(mesh, what, point);
      for (std::size_t k = 0; k < what.numbers(); ++k) attributes[first + k][i] = found[k];
    }
  }
  std::vector<std::vector<float>> values(static_cast<std::size_t>(stored), std::vector<float>(kPoints));
  std::vector<const float*> in;
  std::vector<float*> out;
  for (const auto& a : attributes) in.push_back(a.data());
  for (auto& v : values) out.push_back(v.data());
  run_samples(program, kPoints, in, out, Stop{});
  return values;
}

std::vector<PlanePtr> planes_of(const Field& f) {
  std::vector<PlanePtr> all;
  for (int i = 0; i < strand_count(f.kind); ++i) all.push_back(f.strand[static_cast<std::size_t>(i)]);
  for (const auto& [name, m] : f.members)
    for (const auto& p : planes_of(m)) all.push_back(p);
  return all;
}

double furthest(const Plane& a, const Plane& b) {
  double most = 0;
  for (std::size_t i = 0; i < a.texels(); ++i)
    most = std::max(most, std::abs(static_cast<double>(a.data()[i]) - static_cast<double>(b.data()[i])));
  return most;
}

double share_apart(const Plane& a, const Plane& b, double by) {
  std::size_t n = 0;
  for (std::size_t i = 0; i < a.texels(); ++i)
    n += std::abs(static_cast<double>(a.data()[i]) - static_cast<double>(b.data()[i])) > by;
  return static_cast<double>(n) / static_cast<double>(a.texels());
}

bool same_bits(const Plane& a, const Plane& b) {
  return a.size() == b.size() && std::memcmp(a.data(), b.data(), a.bytes()) == 0;
}

}  // namespace loom::test
