// Shading graphs: what a program over the points of a shape gives, against the same formulas by hand, and what is
// refused because it has no meaning there.
#include <random>

#include "core/bolt/delivery.h"
#include "core/graph/json.h"
#include "core/graph/surface_reach.h"
#include "core/graph/validate.h"
#include "core/surface/drape.h"
#include "core/surface/unlit.h"
#include "core/weave/hem_maps.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr std::size_t kPoints = 1000;

// Scattered with attributes of their own, as no shape would have them together.
struct Scattered {
  std::array<std::vector<float>, kSurfaceAttributes> attribute;

  explicit Scattered(float footprint = 1e-4f) {
    std::mt19937 chance(11);
    const auto between = [&](float a, float b) { return std::uniform_real_distribution<float>(a, b)(chance); };
    const auto direction = [&] { return normalised({between(-1, 1), between(-1, 1), between(0.05f, 1)}); };
    for (auto& a : attribute) a.resize(kPoints);
    for (std::size_t i = 0; i < kPoints; ++i) {
      set(i, SurfaceValue::place, {between(-3, 3), between(-3, 3), footprint});
      set(i, SurfaceValue::position, {between(-0.5f, 0.5f), between(-0.5f, 0.5f), between(-0.5f, 0.5f)});
      set(i, SurfaceValue::normal, direction());
      set(i, SurfaceValue::view, direction());
      set(i, SurfaceValue::light, direction());
      set(i, SurfaceValue::along_u, {0.25f, 0, 0});
      set(i, SurfaceValue::along_v, {0, -0.25f, 0});
      set(i, SurfaceValue::part, {part_key(i % 3 ? "post" : "foot"), i % 3 ? 1.0f : 0.0f, 0});
    }
  }
  void set(std::size_t i, SurfaceValue value, Vec3 to) {
    const float lanes[] = {to.x, to.y, to.z};
    for (std::size_t k = 0; k < 3; ++k) attribute[loom::at(value) + k][i] = lanes[k];
  }
  Vec3 get(std::size_t i, SurfaceValue value) const {
    const std::size_t a = loom::at(value);
    return {attribute[a][i], attribute[a + 1][i], attribute[a + 2][i]};
  }
};

std::vector<std::vector<float>> run(const SurfaceProgram& program, const Scattered& points) {
  std::vector<std::vector<float>> values(static_cast<std::size_t>(program.program.outputs),
                                         std::vector<float>(kPoints));
  std::vector<const float*> in;
  std::vector<float*> out;
  for (const auto& a : points.attribute) in.push_back(a.data());
  for (auto& v : values) out.push_back(v.data());
  run_samples(program.program, kPoints, in, out, Stop{});
  return values;
}

NodePtr node(const char* id, const char* type, std::map<std::string, ParamValue> params = {}) {
  auto n = std::make_shared<Node>();
  n->id = id, n->type = type, n->lane = "relief", n->params = std::move(params);
  return n;
}

Material material(std::vector<NodePtr> nodes, std::vector<Thread> threads,
                  std::map<std::string, std::string> hem = {}) {
  Material m = edit::empty_material();
  m.nodes = std::move(nodes);
  m.threads = std::move(threads);
  m.hem = std::move(hem);
  return m;
}

FlatGraph flat(const Material& m) {
  const auto g = flatten(m, catalogue());
  if (!g) qFatal("%s", g.error().text().c_str());
  return *g;
}

// The strands of one output over the points.
std::vector<std::vector<float>> over(const Material& m, const std::string& output, const Scattered& points) {
  const FlatGraph g = flat(m);
  Weaver weaver(std::size_t{64} << 20);
  const auto made = weaver.over_surface(g, {{"shown", Want(*g.find(output))}}, 256, Stop{});
  if (!made) qFatal("%s", made.error().text().c_str());
  return run(made->program, points);
}

double smoothstep(double from, double to, double x) {
  if (from == to) return x < from ? 0 : 1;
  const double t = std::clamp((x - from) / (to - from), 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

}  // namespace

class TestOnSurface : public QObject {
  Q_OBJECT

  static Material sign(double softness) {
    return material(
        {node("facing", "facing"), node("angle", "light_angle"),
         node("zones", "toon_zones",
              {{"zones", Stops{{0, {0, 0.1, 0.2, 1}}, {0.4, {0.3, 0.5, 0.1, 1}}, {0.7, {0.9, 0.8, 0.7, 1}}}},
               {"softness", softness},
               {"low", -1.0},
               {"high", 2.0}})},
        {{"facing", "value", "zones", "number_1"}, {"angle", "value", "zones", "number_2"}},
        {{"base_colour", "zones.colour"}});
  }

 private Q_SLOTS:
  void aPartIsKnownByItsName() {
    const Scattered points;
    const Material m = material({node("part", "part", {{"name", std::string("foot")}})}, {});
    const auto mask = over(m, "part.mask", points), number = over(m, "part.number", points),
               grey = over(m, "part.grey", points);
    for (std::size_t i = 0; i < kPoints; ++i) {
      QCOMPARE(mask[0][i], i % 3 ? 0.0f : 1.0f);
      QCOMPARE(number[0][i], i % 3 ? 1.0f : 0.0f);
      QCOMPARE(grey[0][i], i % 3 ? part_key("post") : part_key("foot"));
    }
    QVERIFY(part_key("foot") != part_key("post") && part_key("foot") >= 0 && part_key("foot") < 1);
  }

  void theGraphIsTheFormulaByHand() {
    const Scattered points;
    const double softness = 0.15;
    const auto got = over(sign(softness), "zones.colour", points);
    const double tones[3][3] = {{0, 0.1, 0.2}, {0.3, 0.5, 0.1}, {0.9, 0.8, 0.7}}, at[] = {0, 0.4, 0.7};
    double worst = 0;
    for (std::size_t i = 0; i < kPoints; ++i) {
      const Vec3 n = points.get(i, SurfaceValue::normal);
      const double facing = std::clamp(static_cast<double>(dot(n, points.get(i, SurfaceValue::view))), 0.0, 1.0),
                   angle = static_cast<double>(dot(n, points.get(i, SurfaceValue::light)));
      const double x = (facing + angle + 1) / 3;
      for (std::size_t c = 0; c < 3; ++c) {
        double want = tones[0][c];
        for (std::size_t z = 1; z < 3; ++z)
          want += (tones[z][c] - want) * smoothstep(at[z] - softness / 2, at[z] + softness / 2, x);
        worst = std::max(worst, std::abs(static_cast<double>(got[c][i]) - want));
      }
    }
    QVERIFY2(worst < 1e-5, std::to_string(worst).c_str());
  }

  // Common practice, no source: hard zones hold nothing but their own tones.
  void hardZonesHoldTheirTonesAlone() {
    const Scattered points;
    const auto red = over(sign(0), "zones.colour", points)[0], zone = over(sign(0), "zones.zone", points)[0];
    std::set<float> tones(red.begin(), red.end()), zones(zone.begin(), zone.end());
    QCOMPARE(tones, (std::set<float>{0, 0.3f, 0.9f}));
    QCOMPARE(zones, (std::set<float>{0, 1, 2}));
  }

  void vectorsComeAsThePointHasThem_data() {
    QTest::addColumn<QString>("output");
    QTest::addColumn<int>("value");
    const std::pair<const char*, SurfaceValue> rows[] = {{"mesh_position.position", SurfaceValue::position},
                                                         {"mesh_normal.normal", SurfaceValue::normal},
                                                         {"view_direction.direction", SurfaceValue::view},
                                                         {"light_direction.direction", SurfaceValue::light},
                                                         {"tile_coordinates.coordinates", SurfaceValue::place}};
    for (const auto& [output, value] : rows) QTest::newRow(output) << output << static_cast<int>(value);
  }
  void vectorsComeAsThePointHasThem() {
    QFETCH(QString, output);
    QFETCH(int, value);
    const Scattered points;
    const std::string type = split_output(output.toStdString()).first;
    const auto got = over(material({node(type.c_str(), type.c_str())}, {}), output.toStdString(), points);
    for (std::size_t k = 0; k < got.size(); ++k)
      QCOMPARE(got[k], points.attribute[loom::at(static_cast<SurfaceValue>(value)) + k]);
  }

  void volumesAreWhatTheyAreByHand_data() {
    QTest::addColumn<QString>("form");
    for (const char* form : {"ball", "box", "wedge"}) QTest::newRow(form) << form;
  }
  void volumesAreWhatTheyAreByHand() {
    QFETCH(QString, form);
    const Scattered points;
    const bool ball = form == QLatin1String("ball");
    const double size[] = {0.5, ball ? 0.5 : 0.4, ball ? 0.5 : 0.7}, centre[] = {0.1, -0.1, 0.05}, fall_off = 0.2,
                 turn = 30;
    const Material m = material({node("volume", "volume_mask",
                                      {{"form", form.toStdString()},
                                       {"size_x", size[0]},
                                       {"size_y", size[1]},
                                       {"size_z", size[2]},
                                       {"centre_x", centre[0]},
                                       {"centre_y", centre[1]},
                                       {"centre_z", centre[2]},
                                       {"turn", turn},
                                       {"fall_off", fall_off}})},
                                {});
    const auto mask = over(m, "volume.mask", points)[0];
    int inside = 0;
    for (std::size_t i = 0; i < kPoints; ++i) {
      const Vec3 p = points.get(i, SurfaceValue::position);
      const double x = static_cast<double>(p.x) - centre[0], y = static_cast<double>(p.y) - centre[1],
                   z = static_cast<double>(p.z) - centre[2], s = std::sin(turn * M_PI / 180),
                   c = std::cos(turn * M_PI / 180);
      const double q[] = {c * x + s * z, y, c * z - s * x};
      double distance = std::hypot(q[0], q[1], q[2]) - size[0] / 2;
      if (!ball) {
        double out[3], most = -1;
        for (int k = 0; k < 3; ++k) out[k] = std::abs(q[k]) - size[k] / 2, most = std::max(most, out[k]);
        distance =
            std::hypot(std::max(out[0], 0.0), std::max(out[1], 0.0), std::max(out[2], 0.0)) + std::min(most, 0.0);
      }
      if (form == QLatin1String("wedge"))
        distance = std::max(distance, (q[0] / size[0] + q[1] / size[1]) / std::hypot(1 / size[0], 1 / size[1]));
      const double want = 1 - smoothstep(0, fall_off, distance);
      inside += want == 1;
      QVERIFY2(std::abs(static_cast<double>(mask[i]) - want) < 2e-4, std::to_string(i).c_str());
    }
    QVERIFY(inside > 10);
  }

  // A map behind a mask that only the shape knows: read between its texels at the point's place.
  void mapsAreReadAtThePoint() {
    const Scattered points;
    const Material m = material({node("noise", "gradient_noise"), node("facing", "facing"), node("both", "multiply")},
                                {{"noise", "value", "both", "a"}, {"facing", "value", "both", "b"}});
    const auto got = over(m, "both.result", points)[0];
    const FlatGraph g = flat(m);
    Weaver weaver(std::size_t{64} << 20);
    const Field map = weaver.weave(g, {Want(*g.find("noise.value"))}, 256, Stop{})->fields[0];
    double worst = 0;
    for (std::size_t i = 0; i < kPoints; ++i) {
      const Vec3 at = points.get(i, SurfaceValue::place);
      const double x = static_cast<double>(at.x) * 256 - 0.5, y = static_cast<double>(at.y) * 256 - 0.5;
      const int x0 = static_cast<int>(std::floor(x)), y0 = static_cast<int>(std::floor(y));
      double between = 0;
      for (int j = 0; j < 2; ++j)
        for (int k = 0; k < 2; ++k)
          between += (k ? x - x0 : 1 - x + x0) * (j ? y - y0 : 1 - y + y0) *
                     static_cast<double>(map.strand[0]->at((x0 + k + 2560) % 256, (y0 + j + 2560) % 256));
      const double facing = std::clamp(
          static_cast<double>(dot(points.get(i, SurfaceValue::normal), points.get(i, SurfaceValue::view))), 0.0, 1.0);
      worst = std::max(worst, std::abs(static_cast<double>(got[i]) - between * facing));
    }
    QVERIFY2(worst < 2e-4, std::to_string(worst).c_str());
  }

  // Solid noise is in the shape's metres, repeats after one, and is filtered as wide as the point is.
  void solidNoiseRepeatsAfterAMetre() {
    const Material m = material({node("at", "mesh_position"), node("noise", "gradient_noise", {{"scale", 6.0}})},
                                {{"at", "position", "noise", "positions"}});
    Scattered points;
    const auto here = over(m, "noise.value", points)[0];
    for (std::size_t i = 0; i < kPoints; ++i)
      points.set(i, SurfaceValue::position, points.get(i, SurfaceValue::position) + Vec3{1, -1, 2});
    const auto there = over(m, "noise.value", points)[0];
    const auto spread = [](const std::vector<float>& values) {
      const auto [least, most] = std::minmax_element(values.begin(), values.end());
      return *most - *least;
    };
    for (std::size_t i = 0; i < kPoints; ++i) QVERIFY(std::abs(here[i] - there[i]) < 1e-4f);
    QVERIFY(spread(here) > 0.4f);
    // A footprint of two tiles of a quarter of a metre is wider than the noise's waves.
    QVERIFY(spread(over(m, "noise.value", Scattered(2))[0]) < 0.3f * spread(here));
  }

  // Over the texels of a tile the surface is a ball's, once round.
  void onTheTileLiesABall() {
    const Material m =
        material({node("at", "mesh_position"), node("facing", "facing"), node("angle", "light_angle")}, {});
    FlatGraph g = flat(m);
    Weaver weaver(std::size_t{64} << 20);
    const auto fields =
        weaver
            .weave(g, {Want(*g.find("at.position")), Want(*g.find("facing.value")), Want(*g.find("angle.value"))}, 64,
                   Stop{})
            ->fields;
    const auto ball = Shape::make(ShapeName::ball, 10);
    for (int y = 1; y < 63; ++y)
      for (int x = 0; x < 64; ++x) {
        const Vec3 p{fields[0].strand[0]->at(x, y), fields[0].strand[1]->at(x, y), fields[0].strand[2]->at(x, y)};
        const ShellPlace place = ball->place(p);
        QVERIFY(std::abs(place.height) < 1e-6f);
        QVERIFY(std::abs(fraction(place.u) - (static_cast<float>(x) + 0.5f) / 64) < 1e-5f);
        QVERIFY(std::abs(place.v - (static_cast<float>(y) + 0.5f) / 64) < 1e-5f);
        QVERIFY(std::abs(fields[1].strand[0]->at(x, y) - 1) < 1e-6f);
        const Vec3 light = direction_of(42, 48);
        QVERIFY(std::abs(fields[2].strand[0]->at(x, y) - dot(normalised(p), light)) < 1e-5f);
      }
    // Another light is another map, whatever is kept.
    const Vec3 other = direction_of(-120, 20);
    g.light = {other.x, other.y, other.z};
    const auto turned = weaver.weave(g, {Want(*g.find("angle.value"))}, 64, Stop{})->fields[0];
    QVERIFY(furthest(*turned.strand[0], *fields[2].strand[0]) > 0.5);
  }

  void whatNeedsNeighboursIsRefused() {
    Material m = material({node("facing", "facing"), node("half", "multiply"), node("soft", "blur")},
                          {{"facing", "value", "half", "a"}});
    const Thread thread{"half", "result", "soft", catalogue().find("blur")->inputs.front().id};
    QVERIFY(
        QString::fromStdString(refusal(m, catalogue(), thread)).contains(QStringLiteral("known only on the points")));
    // The other way round: what is behind is refused as well.
    Material behind = material({node("facing", "facing"), node("half", "multiply"), node("soft", "blur")}, {thread});
    const std::string why = refusal(behind, catalogue(), {"facing", "value", "half", "a"});
    QVERIFY2(why.find("'Blur'") != std::string::npos, why.c_str());
    m.threads.push_back(thread);
    const auto g = flatten(m, catalogue());
    QVERIFY(!g);
    QCOMPARE(g.error().where, "node soft, input " + thread.to_peg);
    QVERIFY(!g.error().mend.empty());
  }

  // What a peg does may hang on the parameters: here a rule over units that reads a map.
  void whatARuleMakesNeedNeighboursIsRefused() {
    Rule by_map;
    by_map.by = "map", by_map.map = "map_a";
    const Thread thread{"tile_coordinates", "coordinates", "laid", "coordinates"};
    for (const bool reads : {false, true}) {
      Material m = material({node("tile_coordinates", "tile_coordinates"), node("laid", "masonry")}, {});
      if (reads) m = edit::set_param(std::move(m), "laid", "tone", by_map);
      QCOMPARE(refusal(m, catalogue(), thread).empty(), !reads);
      m.threads.push_back(thread);
      QCOMPARE(flatten(m, catalogue()).ok(), !reads);
    }
  }

  void whatShapesTheSurfaceCannotFollowIt_data() {
    QTest::addColumn<QString>("slot");
    for (const char* slot : {"height", "opacity"}) QTest::newRow(slot) << slot;
  }
  void whatShapesTheSurfaceCannotFollowIt() {
    QFETCH(QString, slot);
    const Material m = material({node("facing", "facing")}, {}, {{slot.toStdString(), "facing.value"}});
    const auto g = flatten(m, catalogue());
    QVERIFY(!g);
    QCOMPARE(g.error().where, "hem, slot " + slot.toStdString());
  }

  void slotsThatAreNoMapsAreToldAndLeftOut() {
    Material m = sign(0);
    m.nodes.push_back(node("noise", "gradient_noise"));
    m.hem["roughness"] = "noise.value";
    QVERIFY(validate(m, catalogue()).empty());
    QCOMPARE(slots_on_surface(m, catalogue()),
             (std::map<std::string, SurfaceUse>{{"base_colour", SurfaceUse::eye_or_light}}));
    const QTemporaryDir folder;
    DeliveryPlan plan;
    plan.folder = folder.path().toStdString();
    plan.size = 64;
    plan.files = usual_files(m);
    Weaver weaver(std::size_t{64} << 20);
    const auto report = deliver(m, catalogue(), weaver, plan, Stop{});
    QVERIFY(report.ok());
    QCOMPARE(report->left_out, std::vector<std::string>{"base_colour"});
    QCOMPARE(report->files.size(), std::size_t{1});
    QVERIFY(report->warnings.front().find("eye or the light") != std::string::npos);
    m.hem.erase("roughness");
    plan.files = usual_files(m);
    const auto none = deliver(m, catalogue(), weaver, plan, Stop{});
    QVERIFY(!none);
    QVERIFY(none.error().what.find("cannot become a map") != std::string::npos);
  }

  // The picture of a ball, unlit: its own cosines, by the geometry of a sphere seen in perspective.
  void theDrapeShowsTheGraphAtItsPoints() {
    const Material m = material({node("facing", "facing")}, {}, {{"roughness", "facing.value"}});
    const FlatGraph g = flat(m);
    Weaver weaver(std::size_t{64} << 20);
    auto made = weaver.over_surface(g, {{kUnlit, Want(*g.find("facing.value"))}}, 64, Stop{});
    const auto maps = std::make_shared<SurfaceMaps>(std::map<std::string, Field>{}, Extent{},
                                                    std::make_shared<SurfaceProgram>(std::move(made->program)));
    DrapeView view;
    view.width = view.height = 300;  // more than a strip
    view.unlit = true;
    view.background = Background::none;
    Drape drape(maps, view);
    drape.first_answer(1, Stop{});
    const auto rgba = drape.picture_with_alpha();
    int seen = 0;
    for (int y = 0; y < 300; y += 7)
      for (int x = 0; x < 300; x += 7) {
        const Ray ray = drape.ray(static_cast<float>(x) + 0.5f, static_cast<float>(y) + 0.5f);
        const float b = dot(ray.from, ray.towards), inner = b * b - dot(ray.from, ray.from) + 0.25f;
        const std::size_t i = 4 * (static_cast<std::size_t>(y) * 300 + static_cast<std::size_t>(x));
        if (inner < 0.002f) continue;
        const float facing = -dot(normalised(ray.at(-b - std::sqrt(inner))), ray.towards);
        QVERIFY(std::abs(static_cast<float>(rgba[i]) - 255 * facing) < 1.2f);
        ++seen;
      }
    QVERIFY(seen > 300);
  }

  // Slots that are maps and slots that are none are worn together.
  void mapsAndProgramsAreWornTogether() {
    Material m = sign(0);
    m.nodes.push_back(node("tile", "colour", {{"colour", Vector{0.2, 0.4, 0.6}}}));
    m.hem["emissive"] = "tile.colour";
    const FlatGraph g = flat(m);
    Weaver weaver(std::size_t{64} << 20);
    const auto hem = weave_hem(weaver, g, g.hem, 64, Stop{});
    QVERIFY(hem.ok());
    QCOMPARE(hem->slots.size(), std::size_t{1});
    QVERIFY(hem->over_surface != nullptr);
    const SurfaceMaps maps(hem->slots, {}, hem->over_surface);
    SurfaceStrip strip;
    strip.set(0, SurfaceValue::place, {0, 0, 0.01f});
    for (const SurfaceValue value : {SurfaceValue::normal, SurfaceValue::view, SurfaceValue::light})
      strip.set(0, value, {0, 0, 1});
    strip.count = 1;
    SurfaceMaps::Point point = maps.read(0, 0, 0.01f);
    SurfaceMaps::Point* points[] = {&point};
    maps.shade(strip, points);
    QCOMPARE(point.base.x, 0.9f);      // faces eye and light: the last zone
    QCOMPARE(point.emissive.y, 0.4f);  // as the map has it
  }

  // One after the other with what is seen kept from each to the next, and each by itself.
  void whatIsSeenIsKeptForTheSamePictures() {
    Weaver weaver(std::size_t{64} << 20);
    Material even =
        material({node("waves", "gradient_noise")}, {}, {{"height", "waves.value"}, {"roughness", "waves.value"}});
    std::vector<std::shared_ptr<const SurfaceMaps>> all;
    for (const Material& m : {sign(0), even}) {
      const FlatGraph g = flat(m);
      const auto hem = weave_hem(weaver, g, g.hem, 64, Stop{});
      QVERIFY(hem.ok());
      all.push_back(std::make_shared<SurfaceMaps>(hem->slots, Extent{0.5f, 0.05f}, hem->over_surface));
    }
    DrapeView view;
    view.width = 200, view.height = 120;
    view.repeats = 4;
    Drape::Sight sight;
    const auto* maps = &all[0];
    int step = 3;
    const auto is_the_same = [&](const char* after) {
      Drape kept(Worn(*maps), view), alone(Worn(*maps), view);
      kept.first_answer(step, Stop{}, &sight);
      alone.first_answer(step, Stop{});
      if (kept.picture() == alone.picture()) return true;
      qWarning("%s", after);
      return false;
    };
    for (const auto& next : all) {
      maps = &next;
      QVERIFY(is_the_same("other maps"));
      view.light_degrees += 70, view.light_height = 20;
      QVERIFY(is_the_same("the light turned"));
      view.exposure += 0.5f, view.key = 0.6f, view.turn += 40;
      QVERIFY(is_the_same("light of another strength"));
      view.environment = "low_sun", view.background = Background::environment;
      QVERIFY(is_the_same("another environment"));
      view.camera.turn(50, 10);
      QVERIFY(is_the_same("the eye moved"));
      view.relief_factor *= 0.5f;
      QVERIFY(is_the_same("less relief"));
      view.shadows = !view.shadows, view.occlusion = !view.occlusion;
      QVERIFY(is_the_same("without shadows"));
      view.unlit = !view.unlit;
      QVERIFY(is_the_same("unlit"));
      view.unlit = false;
      view.shape = ShapeName::ring;
      QVERIFY(is_the_same("another shape"));
      view.width += 20, ++step;
      QVERIFY(is_the_same("another size"));
      Stop broken;
      broken.ask();
      view.camera.turn(-20, 0);
      Drape(Worn(*maps), view).first_answer(step, broken, &sight);
      QVERIFY(is_the_same("after one that was broken off"));
    }
  }

  // A group hides nothing.
  void groupsCarryTheSurface() {
    Material m = sign(0);
    auto group = std::make_shared<Group>();
    group->id = "rim";
    group->name = "Rim";
    group->nodes = {node("facing", "facing")};
    group->outputs = {{"value", "Value", "scalar", {}, "facing.value"}};
    m.groups = {group};
    auto instance = std::make_shared<Node>();
    instance->id = "rim_1", instance->type = kGroupType, instance->group = "rim", instance->lane = "relief";
    m.nodes.push_back(instance);
    m.nodes.push_back(node("soft", "blur"));
    const Thread thread{"rim_1", "value", "soft", catalogue().find("blur")->inputs.front().id};
    QVERIFY(!refusal(m, catalogue(), thread).empty());
    QVERIFY(surface_use(m, catalogue(), "rim_1") == SurfaceUse::eye_or_light);
    m.hem = {{"roughness", "rim_1.value"}};
    const FlatGraph g = flat(m);
    const auto hem = weave_hem(*std::make_unique<Weaver>(std::size_t{64} << 20), g, g.hem, 64, Stop{});
    QVERIFY(hem.ok() && hem->over_surface && hem->slots.empty());
  }
};

QTEST_GUILESS_MAIN(TestOnSurface)
#include "tst_on_surface.moc"
