// A place is u, v and the footprint there. It keeps its footprint when it is stored, and a Make node gives the same
// wherever its samples come from.
#include <numeric>

#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/places_of_coordinates.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

struct Samples {
  std::vector<float> u, v, footprint;
};

// A Make node over scattered places.
std::map<std::string, std::vector<std::vector<float>>> at_places(const NodeType& type, const Samples& at,
                                                                 int resolution) {
  const Resolved as_it_starts;
  const NodeCall call(type, as_it_starts, 12345, resolution, {1.0, 0.02});
  Builder b(Domain::places(0));
  Emitter e(call, b, {}, {}, [](const auto& make) { return make(); });
  type.emit(e);
  std::map<std::string, std::vector<std::vector<float>>> values;
  std::vector<float*> outputs;
  for (const auto& [id, s] : e.outputs) {
    auto& strands = values[id];
    strands.resize(static_cast<std::size_t>(strand_count(s.kind)), std::vector<float>(at.u.size()));
    for (std::size_t i = 0; i < strands.size(); ++i) {
      b.store(s.at[i], static_cast<int>(outputs.size()));
      outputs.push_back(strands[i].data());
    }
  }
  const float* attributes[] = {at.u.data(), at.v.data(), at.footprint.data()};
  run_samples(b.build(), at.u.size(), attributes, outputs, Stop{});
  return values;
}

// The texels of a tile in a wild order.
Samples texels(int size, std::vector<std::size_t>& order, float footprint) {
  order.resize(static_cast<std::size_t>(size) * static_cast<std::size_t>(size));
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::mt19937 chance(7);
  std::shuffle(order.begin(), order.end(), chance);
  Samples s;
  for (const std::size_t i : order) {
    s.u.push_back((static_cast<float>(i % static_cast<std::size_t>(size)) + 0.5f) / static_cast<float>(size));
    s.v.push_back((static_cast<float>(i / static_cast<std::size_t>(size)) + 0.5f) / static_cast<float>(size));
    s.footprint.push_back(footprint);
  }
  return s;
}

double spread(const std::vector<float>& values) {
  double mean = 0, square = 0;
  for (const float v : values) mean += static_cast<double>(v);
  mean /= static_cast<double>(values.size());
  for (const float v : values) square += std::pow(static_cast<double>(v) - mean, 2);
  return std::sqrt(square / static_cast<double>(values.size()));
}

Material material(const char* text) {
  auto m = read_material(text);
  if (!m) qFatal("%s", m.error().text().c_str());
  return *m;
}

}  // namespace

class TestPlaces : public QObject {
  Q_OBJECT

  static void make_types() {
    QTest::addColumn<const NodeType*>("type");
    for (const NodeType* type : catalogue().all())
      if (type->emit && type->rack == Rack::make && type->input("coordinates")) QTest::newRow(type->id.c_str()) << type;
  }

  static std::vector<Field> woven(const Material& m, const std::vector<std::string>& outputs, int size,
                                  std::size_t budget, bool keep) {
    const auto g = flatten(m, catalogue());
    if (!g) qFatal("%s", g.error().text().c_str());
    std::vector<Want> wants;
    for (const auto& o : outputs) wants.emplace_back(*g->find(o));
    Weaver w(budget);
    WeaveOptions options;
    options.keep = keep;
    return w.weave(*g, wants, size, Stop{}, options)->fields;
  }

 private Q_SLOTS:
  void scatteredPlacesGiveWhatTexelsGive_data() { make_types(); }
  void scatteredPlacesGiveWhatTexelsGive() {
    QFETCH(const NodeType*, type);
    constexpr int kSize = 128;
    const auto texel = weave_alone(*type, kSize, {});
    std::vector<std::size_t> order;
    const Samples at = texels(kSize, order, 1.0f / kSize);
    const auto there = at_places(*type, at, kSize);
    for (const auto& [id, field] : texel) {
      if (field.kind == Kind::set) continue;
      for (std::size_t s = 0; s < static_cast<std::size_t>(strand_count(field.kind)); ++s) {
        std::size_t apart = 0;
        for (std::size_t i = 0; i < order.size(); ++i)
          apart += std::abs(field.strand[s]->data()[order[i]] - there.at(id)[s][i]) > 1e-5f;
        // On an edge the last bit of a coordinate may decide.
        QVERIFY2(apart * 10000 <= order.size(), (id + " " + std::to_string(apart)).c_str());
      }
    }
  }

  void wherePlacesAreWideTheyAreFiltered_data() { make_types(); }
  void wherePlacesAreWideTheyAreFiltered() {
    QFETCH(const NodeType*, type);
    std::vector<std::size_t> order;
    for (const char* out : {"value", "mask"}) {
      if (!type->output(out) || (type->follows_positions && type->id != "rays")) continue;
      const double fine = spread(at_places(*type, texels(128, order, 1.0f / 128), 128).at(out)[0]),
                   wide = spread(at_places(*type, texels(128, order, 0.5f), 128).at(out)[0]);
      if (fine > 0.01) QVERIFY2(wide < 0.6 * fine, (std::to_string(fine) + " " + std::to_string(wide)).c_str());
    }
  }

  // What the loupe, memory or the cache ask for beside a map must not change it: families of small graphs in which
  // coordinates are stored for another reason.
  void storedCoordinatesKeepTheirFootprint_data() {
    QTest::addColumn<QString>("places");
    QTest::addColumn<QString>("output");
    const char* noise = R"({"id": "n", "type": "gradient_noise", "params": {"scale": 3}},)";
    const std::string bent = std::string(noise) +
                             R"({"id": "j", "type": "join_channels", "params": {"as": "vector2"}},
                                {"id": "c", "type": "coordinates", "params": {}},
                                {"id": "x", "type": "add", "params": {}})";
    QTest::newRow("polar") << R"({"id": "x", "type": "polar", "params": {"turn": 20}})"
                           << "coordinates";
    QTest::newRow("units") << R"({"id": "x", "type": "masonry", "params": {}})"
                           << "unit_coordinates";
    QTest::newRow("stamps") << R"({"id": "x", "type": "scatter", "params": {}})"
                            << "unit_coordinates";
    QTest::newRow("threads") << R"({"id": "x", "type": "woven_cloth", "params": {}})"
                             << "thread_coordinates";
    QTest::newRow("tile") << R"({"id": "x", "type": "coordinates", "params": {}})"
                          << "coordinates";
    QTest::newRow("bent by a noise") << QString::fromStdString(bent) << "result";
  }
  void storedCoordinatesKeepTheirFootprint() {
    QFETCH(QString, places);
    QFETCH(QString, output);
    const std::string x = "x." + output.toStdString();
    const std::string threads = places.contains("join_channels")
                                    ? R"({"from": "n.value", "to": "j.first"}, {"from": "n.value", "to": "j.second"},
                                         {"from": "j.result", "to": "x.a"}, {"from": "c.coordinates", "to": "x.b"},)"
                                    : "";
    const Material m = material(
        (R"({"format": 2, "name": "t", "lanes": [{"id": "relief", "name": "Relief"}], "nodes": [)" +
         places.toStdString() + R"(, {"id": "stripes", "type": "bands", "params": {"count": 40, "softness": 0}},
            {"id": "fine", "type": "gradient_noise", "params": {"scale": 24, "octaves": 6}},
            {"id": "soft", "type": "blur", "params": {}}], "threads": [)" +
         threads + R"({"from": ")" + x + R"(", "to": "stripes.coordinates"}, {"from": ")" + x +
         R"(", "to": "fine.coordinates"}, {"from": ")" + x + R"(", "to": "soft.source"}]})")
            .c_str());
    const auto alone = woven(m, {"stripes.mask", "fine.value"}, 256, 0, false);
    for (const bool keep : {false, true}) {
      const auto among = woven(m, {"stripes.mask", "fine.value", x, "soft.result"}, 256, keep ? 1u << 30 : 0, keep);
      for (std::size_t i = 0; i < 2; ++i) QVERIFY(same_bits(*alone[i].strand[0], *among[i].strand[0]));
    }
  }

  // Bands through a unit's own coordinates are as crisp as through the tile's, scaled down: as wide an edge in units of
  // the footprint, no jagged line, and no wider blur.
  void unitCoordinatesHaveAUnitsFootprint() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "masonry", "relief", 0, 0);
    m = edit::set_param(std::move(m), "masonry", "bond", std::string("stack"));
    m = edit::set_param(std::move(m), "masonry", "units_across", 4.0);
    m = edit::set_param(std::move(m), "masonry", "linked", 0.0);
    m = edit::set_param(std::move(m), "masonry", "courses", 4.0);
    m = edit::add_node(std::move(m), catalogue(), "gradient_noise", "relief", 1, 0);
    m = edit::set_param(std::move(m), "gradient_noise", "scale", 32.0);
    m = edit::set_param(std::move(m), "gradient_noise", "octaves", 1.0);
    m = edit::connect(std::move(m), {"masonry", "unit_coordinates", "gradient_noise", "coordinates"});
    // 128 cells over the tile: two texels each at 256, so the octave must have faded; at 2048 it must be whole.
    const auto at = [&](int size) { return woven(m, {"gradient_noise.value"}, size, 0, false)[0].strand[0]; };
    const auto deviation = [](const Plane& p) { return spread(std::vector<float>(p.data(), p.data() + p.texels())); };
    QVERIFY(deviation(*at(256)) < 0.02);
    QVERIFY(deviation(*at(2048)) > 0.1);
  }

  // Bends whose inverse is known by hand: a shear by a sine goes back by the same sine.
  void placesOfCoordinatesAreFound_data() {
    QTest::addColumn<int>("size");
    QTest::addColumn<double>("bend");
    for (const int size : {64, 256, 1024})
      for (const double bend : {0.0, 0.03, 0.3}) QTest::addRow("%d, %g", size, bend) << size << bend;
  }
  void placesOfCoordinatesAreFound() {
    QFETCH(int, size);
    QFETCH(double, bend);
    constexpr double kTurn = 6.283185307179586;
    const auto shared = [&](const auto& f) { return std::make_shared<Plane>(painted(size, f)); };
    const PlacesOfCoordinates places(shared([&](double u, double v) { return u + bend * std::sin(kTurn * v) + 0.4; }),
                                     shared([&](double, double v) { return v - 0.2; }));
    const auto apart = [](double a, double b) { return std::abs(a - b - std::round(a - b)); };
    double worst = 0;
    for (int i = 0; i < 400; ++i) {
      const double u = 0.618 * i - std::floor(0.618 * i), v = 0.7548 * i - std::floor(0.7548 * i);
      const auto at = places.find(static_cast<float>(u), static_cast<float>(v));
      const double wanted_v = v + 0.2, wanted_u = u - 0.4 - bend * std::sin(kTurn * wanted_v);
      worst =
          std::max({worst, apart(static_cast<double>(at[0]), wanted_u), apart(static_cast<double>(at[1]), wanted_v)});
      QVERIFY(at[0] >= 0 && at[0] < 1 && at[1] >= 0 && at[1] < 1);
    }
    QVERIFY2(worst * size < 0.25, QByteArray::number(worst * size) + " texels");
  }
  // Where coordinates fold or stand still there is no inverse: what is found is as near as any texel, and is found
  // soon.
  void placesOfCoordinatesThatFoldAreTheNearest() {
    constexpr int kSize = 64;
    const auto shared = [](const auto& f) { return std::make_shared<Plane>(painted(kSize, f)); };
    const PlanePtr u = shared([](double x, double) { return 0.2 + 0.1 * std::sin(12.566 * x); }),
                   v = shared([](double x, double y) { return 0.5 + 0.2 * std::sin(6.283 * y) * x; });
    const PlacesOfCoordinates places(u, v);
    const auto apart = [&](int x, int y, float a, float b) {
      const float du = u->at(x, y) - a, dv = v->at(x, y) - b;
      return std::hypot(du - std::round(du), dv - std::round(dv));
    };
    for (int i = 0; i < 200; ++i) {
      const float a = static_cast<float>(i % 20) / 20, b = static_cast<float>(i) / 200;
      const auto at = places.find(a, b);
      float least = 2;
      for (int y = 0; y < kSize; ++y)
        for (int x = 0; x < kSize; ++x) least = std::min(least, apart(x, y, a, b));
      const auto texel = [](float s) { return std::min(static_cast<int>(s * kSize), kSize - 1); };
      QVERIFY(apart(texel(at[0]), texel(at[1]), a, b) <= least + 0.02f);
    }
    const PlacesOfCoordinates still(shared([](double, double) { return 0.3; }),
                                    shared([](double, double) { return 0.7; }));
    const auto at = still.find(0.9f, 0.1f);
    QVERIFY(at[0] >= 0 && at[0] < 1 && at[1] >= 0 && at[1] < 1);
  }
  void derivativesAreThoseOfTheFunctions() {
    // Each by differences of two programs, at a footprint that is small.
    const auto check = [](const char* what, const std::function<Reg(Builder&, Reg u, Reg v)>& f, double bound) {
      Builder b(Domain::texels(64));
      const Reg value = f(b, b.u(), b.v());
      const auto [du, dv] = b.slope(value);
      constexpr float kStep = 1.0f / 4096;
      const std::array<Reg, 4> outs{
          du, dv,
          b.div(b.sub(f(b, b.add(b.u(), kStep), b.v()), f(b, b.add(b.u(), -kStep), b.v())), b.constant(2 * kStep)),
          b.div(b.sub(f(b, b.u(), b.add(b.v(), kStep)), f(b, b.u(), b.add(b.v(), -kStep))), b.constant(2 * kStep))};
      std::array<Plane, 4> planes;
      std::vector<Plane*> to;
      for (std::size_t i = 0; i < 4; ++i) {
        to.push_back(&(planes[i] = Plane(64)));
        b.store(outs[i], static_cast<int>(i));
      }
      run_texels(b.build(), 64, to, Stop{});
      QVERIFY2(furthest(planes[0], planes[2]) < bound,
               (std::string(what) + " u " + std::to_string(furthest(planes[0], planes[2]))).c_str());
      QVERIFY2(furthest(planes[1], planes[3]) < bound,
               (std::string(what) + " v " + std::to_string(furthest(planes[1], planes[3]))).c_str());
    };
    check(
        "sine", [](Builder& b, Reg u, Reg v) { return b.apply(Op::sine, b.mul(b.add(u, v), 5)); }, 0.02);
    check(
        "power", [](Builder& b, Reg u, Reg v) { return b.apply(Op::power, b.add(u, 0.5f), b.add(v, 1)); }, 0.02);
    check(
        "tangent", [](Builder& b, Reg u, Reg) { return b.apply(Op::tangent, u); }, 0.03);
    check(
        "arcsine", [](Builder& b, Reg u, Reg v) { return b.apply(Op::arcsine, b.mul(b.add(u, v), 0.45f)); }, 0.03);
    check(
        "arccosine", [](Builder& b, Reg u, Reg) { return b.apply(Op::arccosine, b.mul(u, 0.9f)); }, 0.03);
    check(
        "smoothstep", [](Builder& b, Reg u, Reg) { return b.smoothstep(b.constant(-0.5f), b.constant(1.5f), u); },
        0.02);
    check(
        "divide", [](Builder& b, Reg u, Reg v) { return b.div(u, b.add(v, 1)); }, 0.02);
    check(
        "angle", [](Builder& b, Reg u, Reg v) { return b.apply(Op::arctangent2, b.add(u, 1), b.add(v, 1)); }, 0.02);
  }
};

QTEST_GUILESS_MAIN(TestPlaces)
#include "tst_places.moc"
