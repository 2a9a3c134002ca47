// Normals, curvature, heights from slopes, coordinates and spacing against published values; the rows stand in
// tests/data.
#include "core/nodes/spaced.h"
#include "core/plane/integrate.h"
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

class TestRelief : public QObject {
  Q_OBJECT
  static Field normal_field(const json& n, int size) {
    return field_of(Kind::normal, Plane::filled(size, n[0].get<float>()), Plane::filled(size, n[1].get<float>()),
                    Plane::filled(size, n[2].get<float>()));
  }
  static std::map<std::string, Field> alone(const char* type, int size, const Fields& in, const Resolved& params) {
    return weave_alone(*catalogue().find(type), size, in, params);
  }

 private Q_SLOTS:
  void normalsAreBlendedByReorientation_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"normals.017", "normals.025"}) QTest::newRow(id) << id;
  }
  void normalsAreBlendedByReorientation() {
    QFETCH(QString, id);
    const json row = reference("normals.json", id.toStdString());
    const auto out =
        alone("blend_normals", 16,
              {{"base", normal_field(row["inputs"]["n1"], 16)}, {"detail", normal_field(row["inputs"]["n2"], 16)}}, {});
    for (std::size_t i = 0; i < 3; ++i)
      QVERIFY(std::abs(static_cast<double>(out.at("normal").strand[i]->at(3, 3)) - row["expected"][i].get<double>()) <
              1e-5);
  }
  void aFlatDetailChangesNothingAndAFlatBaseGivesTheDetail() {  // the two rules that the method's authors state
    const json tilted = json::array({0.48, -0.36, 0.8}), flat = json::array({0, 0, 1});
    for (const auto& [base, detail] : {std::pair{tilted, flat}, {flat, tilted}}) {
      const auto out =
          alone("blend_normals", 16, {{"base", normal_field(base, 16)}, {"detail", normal_field(detail, 16)}}, {});
      for (std::size_t i = 0; i < 3; ++i)
        QVERIFY(std::abs(out.at("normal").strand[i]->at(0, 0) - tilted[i].get<float>()) < 1e-5f);
    }
  }
  void flippingGreenTwiceGivesBackTheBits() {
    const Fields in{{"normal", bumpy_field(Kind::normal, 64, 2)}};
    const auto once = alone("flip_green", 64, in, {}),
               twice = alone("flip_green", 64, {{"normal", once.at("normal")}}, {});
    QVERIFY(same_bits(*twice.at("normal").strand[1], *in.at("normal").strand[1]));
    QVERIFY(!same_bits(*once.at("normal").strand[1], *in.at("normal").strand[1]));
  }

  // The surface of normals.036 and normals.037: three waves, 128 texels.
  static double surface(double x, double y) {
    const double a = 6.283185307179586;
    return 0.03 * std::sin(a * (2 * x + y)) + 0.02 * std::cos(a * (3 * x - 5 * y) + 0.7) +
           0.01 * std::sin(a * 9 * y + 0.2);
  }
  void heightComesBackFromItsExactSlopes() {
    const double a = 6.283185307179586;
    const Plane du = painted(128, [&](double x, double y) {
      return 0.03 * 2 * a * std::cos(a * (2 * x + y)) - 0.02 * 3 * a * std::sin(a * (3 * x - 5 * y) + 0.7);
    });
    const Plane dv = painted(128, [&](double x, double y) {
      return 0.03 * a * std::cos(a * (2 * x + y)) + 0.02 * 5 * a * std::sin(a * (3 * x - 5 * y) + 0.7) +
             0.01 * 9 * a * std::cos(a * 9 * y + 0.2);
    });
    const Plane h = height_from_slopes(du, dv, Stop{});
    QVERIFY(furthest(h, painted(128, surface)) <
            1e-6 + reference("normals.json", "normals.036")["expected"].get<double>());
  }
  void heightFromDifferencesIsOffByThePublishedError() {
    const Plane height = painted(128, surface);
    Plane du(128), dv(128);
    slopes(height, du, dv, Stop{});
    const Plane back = height_from_slopes(du, dv, Stop{});
    double sum = 0;
    for (std::size_t i = 0; i < back.texels(); ++i)
      sum += std::pow(static_cast<double>(back.data()[i] - height.data()[i]), 2);
    const double rms = std::sqrt(sum / static_cast<double>(back.texels())),
                 expected = reference("normals.json", "normals.037")["expected"][0].get<double>();
    QVERIFY2(std::abs(rms - expected) < 0.02 * expected, qPrintable(QString::number(rms)));
  }
  void aNormalMapGivesBackTheHeightItWasMadeFrom() {
    const Plane h = bumpy(256, 1);
    const auto n =
        alone("normal_from_height", 256, {{"height", field_of(Kind::scalar, h.clone())}}, {{"strength", 3.0}});
    const auto back = alone("height_from_normal", 256, {{"normal", n.at("normal")}}, {{"strength", 1.0 / 3}});
    const float off = range_of(h).mean - range_of(*back.at("height").strand[0]).mean;
    double most = 0;
    for (std::size_t i = 0; i < h.texels(); ++i)
      most = std::max(most, std::abs(static_cast<double>(back.at("height").strand[0]->data()[i] + off - h.data()[i])));
    QVERIFY2(most < 2e-3, qPrintable(QString::number(most)));
  }

  void curvatureOfASphereAndACylinder() {  // image.083 and image.084; convex is positive here, and a number of radii
    const double radius = 0.02;
    for (const bool sphere : {true, false}) {
      const json row = reference("image.json", sphere ? "image.083" : "image.084");
      const double r = row["inputs"]["R"].get<double>(), expected = -row["expected"][0].get<double>();
      const Plane h = painted(256, [&](double x, double y) {
        return std::sqrt(r * r - (x - 0.5) * (x - 0.5) - (sphere ? (y - 0.5) * (y - 0.5) : 0)) - r;
      });
      // The tests' tile is 1 m wide and its relief 0.02 m: 50 times that makes heights and places alike.
      const auto out = alone("curvature_from_height", 256, {{"height", field_of(Kind::scalar, h.clone())}},
                             {{"strength", 50.0}, {"radius", radius}});
      QVERIFY2(
          std::abs(static_cast<double>(out.at("convex").strand[0]->at(128, 128)) / radius - expected) < 0.02 * expected,
          sphere ? "sphere" : "cylinder");
      QCOMPARE(out.at("concave").strand[0]->at(128, 128), 0.0f);
    }
  }
  void steepnessIsTheAngleOfTheSlope() {
    // A ridge of 45 degrees: a rise of one tile width a tile width.
    const Plane h = painted(256, [](double x, double) { return 0.5 - std::abs(x - 0.5); });
    const auto out =
        alone("slope", 256, {{"height", field_of(Kind::scalar, h.clone())}}, {{"strength", 50.0}, {"radius", 0.0}});
    QVERIFY(std::abs(out.at("steepness").strand[0]->at(64, 9) - 0.5f) < 1e-3f);
    QVERIFY(std::abs(out.at("direction").strand[0]->at(64, 9)) < 1e-3f);          // it rises to the right
    QVERIFY(std::abs(out.at("direction").strand[0]->at(192, 9) - 0.5f) < 1e-3f);  // and beyond the ridge to the left
  }
  // A plane z = a u + b v has the gradient (a, b): its length is the tangent of the steepness.
  void theGradientIsTheRiseAlongUAndV() {
    const Plane h = bumpy(256, 1);
    const auto out = alone("slope", 256, {{"height", field_of(Kind::scalar, h.clone())}}, {{"strength", 3.0}});
    QCOMPARE(out.at("gradient").kind, Kind::vector2);
    const Plane &du = *out.at("gradient").strand[0], &dv = *out.at("gradient").strand[1],
                &steep = *out.at("steepness").strand[0], &way = *out.at("direction").strand[0];
    for (std::size_t i = 0; i < du.texels(); i += 17) {
      const double u = static_cast<double>(du.data()[i]), v = static_cast<double>(dv.data()[i]);
      QVERIFY(std::abs(std::hypot(u, v) - std::tan(static_cast<double>(steep.data()[i]) * 1.5707963)) < 1e-4);
      const double turn = std::atan2(-v, u) / 6.28318531;
      QVERIFY(std::abs(std::remainder(turn - static_cast<double>(way.data()[i]), 1.0)) < 1e-4);
    }
    // v runs down: a height that grows downwards has a gradient along v.
    const Plane ramp = painted(256, [](double, double y) { return 0.5 - std::abs(y - 0.5); });
    const auto down =
        alone("slope", 256, {{"height", field_of(Kind::scalar, ramp.clone())}}, {{"strength", 50.0}, {"radius", 0.0}});
    QVERIFY(std::abs(down.at("gradient").strand[1]->at(9, 64) - 1) < 1e-3f);
  }
  void theStrongestCurvatureFillsTheRange() {
    const Fields in{{"height", field_of(Kind::scalar, bumpy(256, 1))}};
    const auto plain = alone("curvature_from_height", 256, in, {}),
               full = alone("curvature_from_height", 256, in, {{"full_range", 1.0}});
    const Range r = range_of(*full.at("mean").strand[0]);
    QCOMPARE(std::max(r.most, -r.least), 1.0f);
    const float by = full.at("mean").strand[0]->at(7, 9) / plain.at("mean").strand[0]->at(7, 9);
    for (const char* peg : {"mean", "convex", "concave"})
      for (std::size_t i = 0; i < 256 * 256; i += 31)
        QVERIFY(std::abs(full.at(peg).strand[0]->data()[i] - by * plain.at(peg).strand[0]->data()[i]) < 1e-4f);
  }

  void polarCoordinatesAreAngleAndLength_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"image.042", "image.044", "image.045", "image.046", "image.047"}) QTest::newRow(id) << id;
  }
  void polarCoordinatesAreAngleAndLength() {
    QFETCH(QString, id);
    const json row = reference("image.json", id.toStdString());
    const double x = row["inputs"]["x,y"][0], y = row["inputs"]["x,y"][1];
    // Published with y upwards; here v runs down.
    const Fields in{{"coordinates", field_of(Kind::vector2, Plane::filled(16, static_cast<float>(x)),
                                             Plane::filled(16, static_cast<float>(1 - y)))}};
    const auto out = alone("polar", 16, in, {});
    QVERIFY(std::abs(static_cast<double>(out.at("coordinates").strand[0]->at(2, 2)) -
                     row["expected"][0].get<double>()) < 2e-5);
    QVERIFY(std::abs(static_cast<double>(out.at("coordinates").strand[1]->at(2, 2)) -
                     row["expected"][1].get<double>()) < 2e-5);
  }

  void spacedPointsKeepTheirDistanceAndNearlyFillTheTile() {  // noise.059 and noise.rsa
    const float r = reference("noise.json", "noise.059")["inputs"]["r"].get<float>();
    const double saturation = reference("noise.json", "noise.rsa")["expected"][1].get<double>();
    const auto points = spaced_points(r, 7);
    for (std::size_t i = 0; i < points.size(); ++i)
      for (std::size_t j = 0; j < i; ++j) {
        const auto apart = [](float a, float b) { return std::min(std::abs(a - b), 1 - std::abs(a - b)); };
        QVERIFY(std::hypot(apart(points[i].u, points[j].u), apart(points[i].v, points[j].v)) >= r);
      }
    const double filled = static_cast<double>(points.size()) * static_cast<double>(r) * static_cast<double>(r);
    QVERIFY2(filled > 0.95 * saturation && filled < 1.05 * saturation, qPrintable(QString::number(filled)));
    QVERIFY(spaced_points(r, 7).size() == points.size() && spaced_points(r, 8)[0].u != points[0].u);
  }

  void blendingSetsKeepsNormalsUnitLengthAndMixesTheRest() {
    Field lower, upper;
    lower.kind = upper.kind = Kind::set;
    lower.members = {{"base_colour", bumpy_field(Kind::colour, 64, 1)}, {"normal", bumpy_field(Kind::normal, 64, 2)}};
    upper.members = {{"base_colour", bumpy_field(Kind::colour, 64, 4)},
                     {"normal", bumpy_field(Kind::normal, 64, 5)},
                     {"roughness", bumpy_field(Kind::scalar, 64, 3)}};
    const auto out = alone("blend", 64, {{"lower", lower}, {"upper", upper}}, {{"amount", 0.5}}).at("result");
    QCOMPARE(out.members.size(), std::size_t{3});
    for (const auto& [name, f] : out.members) {
      if (name == "normal")
        for (int x = 0; x < 64; ++x)
          QVERIFY(std::abs(std::hypot(f.strand[0]->at(x, 5), f.strand[1]->at(x, 5), f.strand[2]->at(x, 5)) - 1) <
                  1e-5f);
      if (name == "base_colour")
        QVERIFY(std::abs(f.strand[0]->at(9, 9) - 0.5f * (lower.members[0].second.strand[0]->at(9, 9) +
                                                         upper.members[0].second.strand[0]->at(9, 9))) < 1e-6f);
    }
  }
};

QTEST_GUILESS_MAIN(TestRelief)
#include "tst_relief.moc"
