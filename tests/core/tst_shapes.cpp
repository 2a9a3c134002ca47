// Shapes and their relief: against steps so small that nothing is missed, and against the shapes' own equations.
#include <oneapi/tbb/global_control.h>

#include <random>
#include <set>

#include "core/surface/drape.h"
#include "core/surface/glow.h"
#include "core/surface/shell_body.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestShapes : public QObject {
  Q_OBJECT
  using Chance = std::mt19937;
  static float between(Chance& chance, float a, float b) { return std::uniform_real_distribution<float>(a, b)(chance); }
  static Vec3 anywhere(Chance& chance) {
    for (;;) {
      const Vec3 v{between(chance, -1, 1), between(chance, -1, 1), between(chance, -1, 1)};
      if (const float n = dot(v, v); n > 0.01f && n < 1) return normalised(v);
    }
  }
  // Waves, upright walls and a plain.
  static Plane hills(int size) {
    Plane p(size);
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x) {
        const float u = static_cast<float>(x) / static_cast<float>(size),
                    v = static_cast<float>(y) / static_cast<float>(size);
        p.at(x, y) = u > 0.3f && u < 0.45f && v > 0.2f && v < 0.7f
                         ? 0.95f
                         : 0.3f + 0.25f * std::sin(2 * kPi * (2 * u + v)) * std::cos(2 * kPi * 3 * v);
      }
    return p;
  }
  static std::shared_ptr<const SurfaceMaps> maps_of(Plane height, std::map<std::string, Field> more = {}) {
    more["height"] = field_of(Kind::scalar, std::move(height));
    return std::make_shared<SurfaceMaps>(more);
  }
  static void rows_of_shapes() {
    QTest::addColumn<int>("shape");
    for (std::size_t i = 0; i < shape_names().size(); ++i)
      QTest::newRow(shape_names()[i].first.c_str()) << static_cast<int>(i);
  }
  static DrapeView view_of(int shape, int side) {
    DrapeView view;
    view.shape = static_cast<ShapeName>(shape);
    view.camera = Camera::start(view.shape);
    view.width = view.height = side;
    return view;
  }
  // Towards the shape from around it.
  static Ray ray_at(Chance& chance, float radius) {
    const Vec3 from = anywhere(chance) * (3 * radius), to = anywhere(chance) * (between(chance, 0, 1) * radius);
    return {from, normalised(to - from)};
  }

 private Q_SLOTS:
  void theWalkMeetsWhatSmallStepsMeet() {
    const ReliefField field(hills(64));
    Chance chance(3);
    int met = 0, missed = 0;
    for (int i = 0; i < 4000; ++i) {
      const float u = between(chance, -2, 2), v = between(chance, -2, 2), far = between(chance, 0, 1.5f),
                  angle = between(chance, 0, 2 * kPi);
      const int level = i % 3;
      const ReliefField::Stretch s{u,
                                   v,
                                   between(chance, 0.5f, 1.1f),
                                   u + far * std::cos(angle),
                                   v + far * std::sin(angle),
                                   between(chance, -0.1f, 1.0f)};
      constexpr int kSteps = 4000;
      std::optional<float> want;
      for (int k = 0; k <= kSteps && !want; ++k) {
        const float t = static_cast<float>(k) / kSteps;
        const auto g = field.ground(s.u0 + (s.u1 - s.u0) * t, s.v0 + (s.v1 - s.v0) * t, level);
        if (s.h0 + (s.h1 - s.h0) * t <= g.height) want = t;
      }
      const auto got = field.meets(s, level);
      if (want) {
        QVERIFY2(got, qPrintable(QString::number(i)));
        QVERIFY2(std::abs(*got - *want) < 2.0f / kSteps, qPrintable(QString::number(*got - *want)));
        ++met;
      } else if (got) {  // it may graze what lies between two steps
        const auto g = field.ground(s.u0 + (s.u1 - s.u0) * *got, s.v0 + (s.v1 - s.v0) * *got, level);
        QVERIFY(std::abs(s.h0 + (s.h1 - s.h0) * *got - g.height) < 1e-3f);
      } else {
        ++missed;
      }
    }
    QVERIFY(met > 1000 && missed > 200);
  }
  void aStretchThatBeginsBelowIsMetAtOnce() {
    const ReliefField field(hills(64));
    QCOMPARE(field.meets({0.4f, 0.5f, 0.5f, 0.9f, 0.5f, 0.5f}, 0), std::optional(0.0f));
    QVERIFY(!field.meets({0.4f, 0.5f, 1.0f, 5.4f, 0.7f, 1.0f}, 0));  // above all
    QVERIFY(field.meets({0.4f, 0.5f, 1.0f, 0.4f, 0.5f, 0.0f}, 0));   // straight down
    QVERIFY(!field.meets({0.4f, 0.5f, 1.0f, 0.4f, 0.5f, 2.0f}, 0));  // straight up
  }
  void heightsThatAreNoNumbersAreLevel() {
    Plane p = Plane::filled(16, 0.5f);
    p.at(3, 3) = std::nanf("");
    p.at(5, 5) = INFINITY;
    const ReliefField field(p);
    QVERIFY(field.lowest() == 0 && field.highest() == 0.5f);
  }

  void anglesAreThoseOfTheLibrary() {
    QVERIFY(angle_of(0, 0) == 0);
    for (int i = 0; i < 20000; ++i) {
      const double angle = (i - 10000) * 3.14159265358979 / 10000;
      const auto x = static_cast<float>(std::cos(angle) * 0.3), y = static_cast<float>(std::sin(angle) * 0.3);
      QVERIFY(std::abs(std::remainder(
                  static_cast<double>(angle_of(y, x)) - std::atan2(static_cast<double>(y), static_cast<double>(x)),
                  2 * 3.14159265358979)) < 3e-6);
    }
  }

  void placesAndFramesAgree_data() { rows_of_shapes(); }
  void placesAndFramesAgree() {
    QFETCH(int, shape);
    const auto s = Shape::make(static_cast<ShapeName>(shape), 0.4f);
    Chance chance(5);
    int tried = 0;
    for (int i = 0; i < 3000; ++i) {
      // A place on the surface: where a ray meets it.
      const Ray ray = ray_at(chance, s->radius());
      const auto near = s->near(ray, 0, 0);
      if (!near || dot(near->side, near->side) > 0) continue;
      const Vec3 p = ray.at(near->from);
      const ShellPlace here = s->place(p);
      const ShellFrame f = s->frame(p);
      QVERIFY(std::abs(here.height) < 1e-4f && std::abs(length(f.normal) - 1) < 1e-5f);
      QVERIFY(std::abs(dot(f.normal, normalised(f.along_u))) < 1e-3f);
      QVERIFY(std::abs(dot(f.normal, normalised(f.along_v))) < 1e-3f);
      QVERIFY2(dot(f.normal, ray.towards) < 1e-3f, "it looks outwards");
      QVERIFY2(dot(cross(f.along_v, f.along_u), f.normal) > 0, "seen from outside, v runs down where u runs right");
      // One way along each axis of the frame, without crossing a seam.
      constexpr float kStep = 1e-3f;
      const ShellPlace u = s->place(p + normalised(f.along_u) * kStep), v = s->place(p + normalised(f.along_v) * kStep),
                       n = s->place(p + f.normal * kStep);
      if (std::abs(u.u - here.u) + std::abs(u.v - here.v) + std::abs(v.u - here.u) + std::abs(v.v - here.v) > 0.05f)
        continue;
      const float along_u = length(f.along_u) / kStep, along_v = length(f.along_v) / kStep;
      QVERIFY2(std::abs((u.u - here.u) * along_u - 1) < 0.03f, qPrintable(QString::number((u.u - here.u) * along_u)));
      QVERIFY2(std::abs((v.v - here.v) * along_v - 1) < 0.03f, qPrintable(QString::number((v.v - here.v) * along_v)));
      QVERIFY(std::abs(u.v - here.v) * along_u < 0.03f && std::abs(v.u - here.u) * along_v < 0.03f);
      QVERIFY(std::abs(n.height - kStep) < 2e-5f);
      ++tried;
    }
    QVERIFY2(tried > 300, qPrintable(QString::number(tried)));
  }
  void raysComeNearWhereSmallStepsDo_data() { rows_of_shapes(); }
  void raysComeNearWhereSmallStepsDo() {
    QFETCH(int, shape);
    const auto s = Shape::make(static_cast<ShapeName>(shape), 0.4f);
    Chance chance(7);
    constexpr float kHigh = 0.03f, kStep = 1e-3f;
    // Pipe, tile and cupola end at flat sides.
    const auto within = [&](Vec3 p) {
      if (s->place(p).height > kHigh) return false;
      switch (static_cast<ShapeName>(shape)) {
        case ShapeName::tile:
          return std::abs(p.x) <= 0.5f && std::abs(p.z) <= 0.5f && p.y >= -1e-4f;
        case ShapeName::pipe:
          return std::abs(p.y) <= 0.5f;
        case ShapeName::cupola:
          return p.y >= s->foot();
        default:
          return true;
      }
    };
    for (int i = 0; i < 400; ++i) {
      const Ray ray = ray_at(chance, s->radius());
      const float far = 6 * s->radius();
      std::optional<float> want;
      for (float t = 0; t < far && !want; t += kStep)
        if (within(ray.at(t))) want = t;
      const auto got = s->near(ray, 0, kHigh);
      if (!want) continue;  // a corner may lie between two steps
      QVERIFY2(got && got->from < *want + kStep, qPrintable(QString::number(i)));
      // Earlier only where it grazes what lies between two steps.
      if (got->from < *want - kStep) QVERIFY(s->place(ray.at(got->from)).height < kHigh + 1e-4f);
      QVERIFY(got->to >= *want - kStep);
    }
  }
  void reliefIsMetWhereSmallStepsMeetIt_data() { rows_of_shapes(); }
  // Outline and place: a ray through every fourth pixel of a picture, in steps of a fortieth of a pixel.
  void reliefIsMetWhereSmallStepsMeetIt() {
    QFETCH(int, shape);
    DrapeView view = view_of(shape, 256);
    view.relief_factor = 3;
    const Drape drape(maps_of(hills(64)), view);
    const auto& body = dynamic_cast<const ShellBody&>(drape.body());
    const Shape& s = body.shape();
    const ReliefField field(hills(64));
    const float pixel = 2 * std::tan(Camera::kField / 2 * kDegree) / 256;
    int hits = 0, outline = 0, elsewhere = 0;
    for (int y = 2; y < 256; y += 8)
      for (int x = 2; x < 256; x += 8) {
        const Ray ray = drape.ray(static_cast<float>(x), static_cast<float>(y));
        const auto got = body.first(ray, {0, pixel}, 0);
        std::optional<float> want;
        const auto near = s.near(ray, 0, field.highest() * body.depth());
        // The finest level is met here: a pixel is narrower than a texel.
        for (float t = near ? near->from + 1e-6f : 1e9f; near && t < near->to && !want; t += pixel / 20) {
          const ShellPlace p = s.place(ray.at(t));
          if (p.height <= field.ground(p.u, p.v, 0).height * body.depth()) want = t;
        }
        if (got.has_value() != want.has_value()) {
          ++outline;
          continue;
        }
        if (!got) continue;
        ++hits;
        if (std::abs(got->t - *want) > 2 * pixel * *want) ++elsewhere;
      }
    QVERIFY2(hits > 150, qPrintable(QString::number(hits)));
    // At the outline, and at crests before something far, half a pixel may decide.
    QVERIFY2(outline <= 2, qPrintable(QString::number(outline)));
    QVERIFY2(elsewhere <= hits / 100 + 1, qPrintable(QStringLiteral("%1 of %2").arg(elsewhere).arg(hits)));
  }
  void aBlockOfReliefCastsItsShadow() {
    // A bar of height 0.1 m on a flat tile, light from the left at 45 degrees: the shadow is as long as the bar is
    // high.
    Plane height = Plane::filled(256, 0.0f);
    for (int y = 0; y < 256; ++y)
      for (int x = 64; x < 96; ++x) height.at(x, y) = 1;
    DrapeView view;
    view.shape = ShapeName::tile;
    std::map<std::string, Field> slots;
    slots["height"] = field_of(Kind::scalar, std::move(height));
    const auto maps = std::make_shared<SurfaceMaps>(slots, Extent{1, 0.1});
    const ShellBody body(Shape::make(ShapeName::tile, 1), maps, 0.1f);
    const Vec3 light = direction_of(90, 45);  // from the left
    QVERIFY(std::abs(light.x + std::sqrt(0.5f)) < 1e-5f && std::abs(light.y - std::sqrt(0.5f)) < 1e-5f);
    const float right = 96.0f / 256 - 0.5f;
    for (const float beyond : {-0.01f, -0.003f, 0.003f, 0.01f}) {
      const Vec3 place{right + 0.1f + beyond, 1e-4f, 0.1f};
      QCOMPARE(body.blocks({place, light}, {1e-3f, 0, 0}, 0), beyond < 0);
    }
  }
  void azimuthsGrowToTheLeft() {
    DrapeView view;
    view.camera = {90, 0, 4};
    const Drape drape(maps_of(hills(64)), view);
    QVERIFY(drape.ray(256, 256).from.x < -1.9f);  // the eye, moved to the left as the default camera sees it
    QVERIFY(drape.ray(256, 256).towards.x > 0.999f);
  }
  void openingsLetRaysAndLightThrough() {
    Plane opacity = Plane::filled(64, 1.0f);
    for (int y = 16; y < 48; ++y)
      for (int x = 16; x < 48; ++x) opacity.at(x, y) = 0;
    std::map<std::string, Field> slots;
    slots["opacity"] = field_of(Kind::scalar, std::move(opacity));
    for (const bool relief : {false, true}) {
      if (relief) slots["height"] = field_of(Kind::scalar, hills(64));
      const auto maps = std::make_shared<SurfaceMaps>(slots);
      const ShellBody tile(Shape::make(ShapeName::tile, 1), maps, 0.02f);
      const Ray down{{0, 1, 0}, {0, -1, 0}}, aside{{0.4f, 1, 0}, {0, -1, 0}};
      QVERIFY(!tile.first(down, {}, 0.5f) && !tile.blocks(down, {}, 0.5f));
      QVERIFY(tile.first(aside, {}, 0.5f) && tile.blocks(aside, {}, 0.5f));
      // Through the front of a ball one sees its far side from within.
      const ShellBody ball(Shape::make(ShapeName::ball, kPi / 4), maps, 0);
      const ShellPlace middle{0.5f, 0.5f, 0};
      const float phi = middle.u / 4 * 2 * kPi, theta = middle.v / 2 * kPi;
      const Vec3 towards{std::sin(theta) * std::sin(phi), std::cos(theta), std::sin(theta) * std::cos(phi)};
      const auto hit =
          ball.first({towards * 2 + Vec3{0.1f, 0, 0}, normalised(towards * -1 + Vec3{0.02f, 0.03f, 0})}, {}, 0.5f);
      if (hit) QVERIFY(hit->inside && dot(hit->facet, towards) > 0);
    }
  }
  void everyShapeInAnEvenRoomKeepsItsWhite_data() { rows_of_shapes(); }
  // The white furnace with relief: whatever is hidden is hidden by something as white. Light that would come after the
  // third place is taken as it is in the mean, so a little may be missing in deep pits.
  void everyShapeInAnEvenRoomKeepsItsWhite() {
    QFETCH(int, shape);
    DrapeView view = view_of(shape, 48);
    view.environment = "even";
    view.key = 0;
    view.background = Background::environment;
    std::map<std::string, Field> slots;
    slots["base_colour"] = field_of(Kind::colour, Plane::filled(64, 1), Plane::filled(64, 1), Plane::filled(64, 1));
    slots["roughness"] = field_of(Kind::scalar, Plane::filled(64, 0.6f));
    const auto shown = [&] {
      Drape d(maps_of(hills(64), slots), view);
      for (int i = 0; i < 128; ++i) d.add_sample(Stop{});
      const auto radiance = d.radiance();
      double sum = 0;
      for (std::size_t i = 0; i < radiance.size(); i += 4) sum += static_cast<double>(radiance[i + 1]);
      return sum / (48 * 48) / (0.6 / (0.6 + 2.6 / 3.14159265358979));
    };
    const double relief = shown();
    view.relief = false;
    const double smooth = shown();
    QVERIFY2(std::abs(smooth - 1) < 0.01, qPrintable(QString::number(smooth)));
    QVERIFY2(std::abs(relief - 1) < 0.02, qPrintable(QString::number(relief)));
  }
  void aPictureHasTheSameBitsWhateverTheThreads() {
    const DrapeView view = view_of(static_cast<int>(ShapeName::ring), 64);
    const auto maps = maps_of(hills(64));
    const auto shown = [&] {
      Drape d(maps, view);
      for (int i = 0; i < 5; ++i) d.add_sample(Stop{});
      return d.radiance();
    };
    const auto first = shown();
    const oneapi::tbb::global_control one(oneapi::tbb::global_control::max_allowed_parallelism, 1);
    QVERIFY(first == shown());
  }
  void aGlowKeepsWhatIsEvenAndMakesNoLight() {
    constexpr int kWide = 400, kHigh = 300;
    std::vector<Vec3> even(kWide * kHigh, Vec3{0.4f, 0.5f, 0.6f});
    add_glow(even, kWide, kHigh);
    for (const Vec3& p : even) QVERIFY(std::abs(p.x - 0.4f) < 1e-5f && std::abs(p.z - 0.6f) < 1e-5f);
    // A bright spot: as much light as before, less in its middle, and falling with the distance.
    std::vector<Vec3> spot(kWide * kHigh);
    const auto at = [&](int x, int y) -> Vec3& { return spot[static_cast<std::size_t>(y * kWide + x)]; };
    for (int y = 148; y < 152; ++y)
      for (int x = 198; x < 202; ++x) at(x, y) = {50, 50, 50};
    add_glow(spot, kWide, kHigh);
    double sum = 0;
    for (const Vec3& p : spot) sum += static_cast<double>(p.y);
    QVERIFY2(std::abs(sum / (16 * 50) - 1) < 0.01, qPrintable(QString::number(sum / 800)));
    QVERIFY(at(200, 150).y < 50 && at(200, 150).y > 45);
    for (int d = 4; d < 40; d += 4) QVERIFY(at(200 + d, 150).y > at(204 + d, 150).y && at(204 + d, 150).y > 0);
  }
  // Fifty times white and five times it are told apart by what they spread, though both are shown as white.
  void brightLightsAreToldApart() {
    const auto around = [](float emissive, bool glow) {
      std::map<std::string, Field> slots;
      Plane spot = Plane::filled(64, 0.0f);
      for (int y = 28; y < 36; ++y)
        for (int x = 28; x < 36; ++x) spot.at(x, y) = emissive;
      slots["emissive"] = field_of(Kind::colour, spot.clone(), spot.clone(), spot.clone());
      DrapeView view;
      view.shape = ShapeName::tile;
      view.camera = {0, 80, 3.2f};
      view.width = view.height = 128;
      view.glow = glow;
      Drape d(std::make_shared<SurfaceMaps>(slots), view);
      d.first_answer(1, Stop{});
      return static_cast<int>(d.picture()[(52 * 128 + 64) * 3]);
    };
    QCOMPARE(around(5, false), around(50, false));
    const int none = around(5, false), five = around(5, true), fifty = around(50, true);
    QVERIFY2(fifty > five + 8 && five > none, qPrintable(QStringLiteral("%1, %2, %3").arg(none).arg(five).arg(fifty)));
  }
  void theNoiseThatIsLeftGrowsSmaller() {
    DrapeView view;
    view.width = view.height = 64;
    Drape d(maps_of(hills(64)), view);
    d.add_sample(Stop{});
    QVERIFY(!d.noise());
    for (int i = 0; i < 15; ++i) d.add_sample(Stop{});
    const double early = *d.noise();
    for (int i = 0; i < 112; ++i) d.add_sample(Stop{});
    // An eighth of the variance; numbers that fill their range evenly do no worse than chance.
    QVERIFY2(*d.noise() < early * 0.45 && *d.noise() > 0,
             qPrintable(QStringLiteral("%1 then %2").arg(early).arg(*d.noise())));
  }
  // A (0, 2)-net in base 2: each box of volume 1/16 holds one of the first 16 pairs, whatever the pixel and the pair.
  // Source: Niederreiter, "Random Number Generation and Quasi-Monte Carlo Methods", 1992, section 4.1.
  void samplesFillTheirRangeEvenly() {
    for (const std::uint32_t pixel : {0u, 17u, 90210u})
      for (std::size_t pair = 0; pair < Sampler::kPairs; ++pair)
        for (int wide = 0; wide <= 4; ++wide) {
          std::set<std::pair<int, int>> boxes;
          for (std::uint32_t i = 0; i < 16; ++i) {
            const auto [a, b] = Sampler(i).pair(pair, pixel);
            QVERIFY(a >= 0 && a < 1 && b >= 0 && b < 1);
            boxes.emplace(static_cast<int>(a * static_cast<float>(1 << wide)),
                          static_cast<int>(b * static_cast<float>(1 << (4 - wide))));
          }
          QCOMPARE(boxes.size(), std::size_t{16});
        }
  }
};

QTEST_GUILESS_MAIN(TestShapes)
#include "tst_shapes.moc"
