// Occlusion of pits, cliffs and grooves against their configuration factors, normals in whole codes, and two small
// facts of the torus: the rows stand in tests/data with their sources.
#include "core/plane/colour.h"
#include "core/plane/filters.h"
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

class TestOpenness : public QObject {
  Q_OBJECT
  static constexpr int kSize = 1024;
  // Two routes each: the algebra of form factors, and 2e6 rays by Monte Carlo. A wall is found up to half a step late,
  // and on the coarser levels of a mean pyramid its place in a texel of theirs is guessed. Joints narrower than 20
  // texels come out farther off.
  static constexpr double kNear = 0.025, kSlope = 0.004, kJoint = 0.019, kNarrowJoint = 0.029;
  static double expected(const char* id) { return reference("image.json", id)["expected"].get<double>(); }
  // Heights in tile widths; the relief is one tile width deep, so that they count as they are.
  static double open_at(const std::function<double(double, double)>& height, int x, int y, float reach = 0.3f) {
    return static_cast<double>(occlusion(painted(kSize, height), 1, reach, Stop{}).at(x, y));
  }
  static QByteArray apart(double seen, double wanted) {
    return QStringLiteral("seen %1, reference %2").arg(seen).arg(wanted).toUtf8();
  }

 private Q_SLOTS:
  void theFloorBesideACliff_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"image.069", "image.070"}) QTest::newRow(id) << id;
  }
  void theFloorBesideACliff() {
    QFETCH(QString, id);
    const json row = reference("image.json", id.toStdString());
    // So small that the cliff's other side, round the tile, is as good as away.
    const double unit = 20.5 / kSize / row["inputs"]["x"].get<double>(), high = unit * row["inputs"]["H"].get<double>();
    const double seen = open_at([&](double x, double) { return x < 0.5 ? high : 0.0; }, kSize / 2 + 20, 300);
    QVERIFY2(std::abs(seen - row["expected"].get<double>()) < kNear,
             apart(seen, row["expected"].get<double>()).constData());
  }
  void theFloorOfASquarePit() {
    const double half = 60.0 / kSize;
    const double seen =
        open_at([&](double x, double y) { return std::max(std::abs(x - 0.5), std::abs(y - 0.5)) < half ? 0.0 : half; },
                kSize / 2, kSize / 2);
    QVERIFY2(std::abs(seen - expected("image.064")) < kNear, apart(seen, expected("image.064")).constData());
  }
  void theFloorOfASphericalPit() {
    const json in = reference("image.json", "image.068")["inputs"];
    const double unit = 0.06, radius = unit * in["R"].get<double>(), deep = unit * in["d"].get<double>(),
                 rim = std::sqrt(radius * radius - (radius - deep) * (radius - deep));
    const double seen = open_at(
        [&](double x, double y) {
          const double r = std::hypot(x - 0.5, y - 0.5);
          return r < rim ? deep - (std::sqrt(radius * radius - r * r) - (radius - deep)) : deep;
        },
        kSize / 2, kSize / 2);
    QVERIFY2(std::abs(seen - expected("image.068")) < kNear, apart(seen, expected("image.068")).constData());
  }
  void theBottomOfAGroove() {
    const double angle = reference("image.json", "image.072")["inputs"]["gamma_deg"].get<double>() * 3.141592653589793 /
                         360,
                 wide = 0.1;
    const double bottom = (kSize / 2 + 0.5) / kSize;
    const double seen =
        open_at([&](double x, double) { return std::min(std::abs(x - bottom), wide) / std::tan(angle); }, kSize / 2,
                400, 0.45f);
    QVERIFY2(std::abs(seen - expected("image.072")) < kSlope, apart(seen, expected("image.072")).constData());
  }
  // The middle of an endless joint of given width between walls: 1 / sqrt(1 + (2 depth / width)^2), the form factor of
  // a strip to the sky over two parallel walls (Siegel and Howell, Thermal Radiation Heat Transfer, appendix C, from
  // memory; the integral of cos^2 of the horizon over all directions gives the same).
  void theMiddleOfALongJoint_data() {
    QTest::addColumn<int>("along_u");
    QTest::addColumn<int>("along_v");
    QTest::addColumn<double>("texels");
    QTest::addColumn<double>("share");
    for (const auto& [u, v] : {std::pair{1, 0}, {0, 1}, {1, 1}, {2, 1}, {5, 1}, {1, 3}, {-5, 2}, {5, 4}, {7, 3}})
      for (const double texels : {9.0, 13.0, 21.0, 33.0, 65.0})
        for (const double share : {0.5, 0.25, 0.125})
          QTest::addRow("%d:%d, %g texels, %g of its depth", u, v, texels, share) << u << v << texels << share;
  }
  void theMiddleOfALongJoint() {
    QFETCH(int, along_u);
    QFETCH(int, along_v);
    QFETCH(double, texels);
    QFETCH(double, share);
    const double length = std::hypot(along_u, along_v), half = 0.5 * texels / kSize, deep = 2 * half / share;
    const double mid = (kSize / 2 + 0.5) / kSize;
    const double seen = open_at(
        [&](double x, double y) {
          const double phase = (x - mid) * along_v - (y - mid) * along_u, near = phase - std::round(phase);
          // The wall's coverage of the texel, as a mask of it would be drawn.
          return deep * std::clamp((std::abs(near) / length - half) * kSize + 0.5, 0.0, 1.0);
        },
        kSize / 2, kSize / 2);
    const double wanted = 1 / std::hypot(1, 2 / share);
    QVERIFY2(std::abs(seen - wanted) < (texels < 20 ? kNarrowJoint : kJoint), apart(seen, wanted).constData());
  }
  // Ground without a closed form: the integral of cos^2 of the horizon over all directions by brute force, a hundred
  // and eighty of them in steps of a quarter of a texel over heights that run straight from texel to texel.
  static double open_by_force(const Plane& h, int x, int y, double reach) {
    constexpr int kDirections = 180;
    const int size = h.size();
    const auto height = [&](double u, double v) {
      const int x0 = static_cast<int>(std::floor(u)), y0 = static_cast<int>(std::floor(v));
      const double fx = u - x0, fy = v - y0;
      const auto at = [&](int i, int j) { return static_cast<double>(h.at(wrap(x0 + i, size), wrap(y0 + j, size))); };
      return (at(0, 0) * (1 - fx) + at(1, 0) * fx) * (1 - fy) + (at(0, 1) * (1 - fx) + at(1, 1) * fx) * fy;
    };
    double sum = 0;
    for (int k = 0; k < kDirections; ++k) {
      const double angle = 6.283185307179586 * (k + 0.5) / kDirections;
      double steepest = 0;
      for (double d = 0.25; d < reach * size; d += 0.25)
        steepest = std::max(
            steepest,
            (height(x + d * std::cos(angle), y + d * std::sin(angle)) - static_cast<double>(h.at(x, y))) / (d / size));
      sum += 1 / (1 + steepest * steepest);
    }
    return sum / kDirections;
  }
  void groundIsAsOpenAsTheEyeFindsIt_data() {
    QTest::addColumn<QString>("type");
    QTest::addColumn<double>("scale");
    QTest::addColumn<double>("deep");
    for (const auto& [type, scale] :
         {std::pair{"gradient_noise", 3.0}, {"gradient_noise", 12.0}, {"cellular_noise", 8.0}})
      for (const double deep : {0.02, 0.1}) QTest::addRow("%s %g, %g deep", type, scale, deep) << type << scale << deep;
  }
  void groundIsAsOpenAsTheEyeFindsIt() {
    QFETCH(QString, type);
    QFETCH(double, scale);
    QFETCH(double, deep);
    constexpr int kGround = 256;
    constexpr float kReach = 0.2f;  // one octave: what goes up and down from texel to texel has no one horizon
    const NodeType& t = *catalogue().find(type.toStdString());
    Plane h(kGround);
    const auto out = weave_alone(t, kGround, {}, {{"scale", scale}, {"octaves", 1.0}});
    const Plane& made = *out.at(t.outputs.front().id).strand[0];
    for (std::size_t i = 0; i < h.texels(); ++i) h.data()[i] = made.data()[i] * static_cast<float>(deep);
    const Plane open = occlusion(h, 1, kReach, Stop{});
    double sum = 0, most = 0;
    constexpr int kPlaces = 150;
    for (int i = 0; i < kPlaces; ++i) {
      const int x = (i * 101) % kGround, y = (i * 37 + 11) % kGround;
      const double apart =
          std::abs(static_cast<double>(open.at(x, y)) - open_by_force(h, x, y, static_cast<double>(kReach)));
      sum += apart, most = std::max(most, apart);
    }
    QVERIFY2(sum / kPlaces < 0.006 && most < 0.03,
             QStringLiteral("mean %1, most %2").arg(sum / kPlaces).arg(most).toUtf8());
  }
  void aPlaneAndItsScaleAreOpenAndAlike() {
    QCOMPARE(open_at([](double, double) { return 0.3; }, 5, 9), 1.0);
    // Twice as high and twice as wide is as open: no length is built in.
    const auto pit = [](double unit) {
      return open_at([=](double x, double y) { return std::hypot(x - 0.5, y - 0.5) < unit ? 0.0 : unit; }, kSize / 2,
                     kSize / 2);
    };
    QVERIFY2(std::abs(pit(0.03) - pit(0.06)) < 0.01, apart(pit(0.03), pit(0.06)).constData());
  }

  // UNORM codes, half up; what a reader gets back, and how far it leans.
  void normalsInWholeCodes_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"normals.007", "normals.008", "normals.010", "normals.011"}) QTest::newRow(id) << id;
  }
  void normalsInWholeCodes() {
    QFETCH(QString, id);
    const json row = reference("normals.json", id.toStdString());
    const auto n = row["inputs"]["n"].get<std::vector<double>>();
    double back[3], length = 0, dot = 0, own = 0;
    for (std::size_t i = 0; i < 3; ++i) {
      const auto share = static_cast<float>(0.5 + 0.5 * n[i]);
      const auto wanted = row["expected"][0][i].get<std::uint32_t>(), fine = row["expected"][1][i].get<std::uint32_t>();
      // 0.9 of 255 is a tie, which a float may miss by its last bit.
      const bool tie = std::abs((0.5 + 0.5 * n[i]) * 255 + 0.5 - wanted) < 1e-6;
      QVERIFY(code_of(share, 255) == wanted || (tie && code_of(share, 255) + 1 == wanted));
      QVERIFY(code_of(share, 65535) == fine || std::abs(std::fmod((0.5 + 0.5 * n[i]) * 65535, 1.0) - 0.5) < 1e-3);
      back[i] = 2.0 * wanted / 255 - 1;
      length += back[i] * back[i];
    }
    for (std::size_t i = 0; i < 3; ++i) {
      back[i] /= std::sqrt(length);
      QVERIFY(std::abs(back[i] - row["expected"][2][i].get<double>()) < 1e-6);
      dot += back[i] * n[i];
      own += n[i] * n[i];
    }
    QVERIFY(std::abs(std::acos(std::min(1.0, dot / std::sqrt(own))) * 57.29577951308232 -
                     row["expected"][3].get<double>()) < 1e-4);
  }

  void distanceInsideAMaskOverTheEdge() {  // image.004: rows and columns of boxes
    Plane outside = Plane::filled(16, 1);
    const int boxes[][4] = {
        {3, 6, 2, 9}, {0, 1, 14, 16}, {0, 1, 0, 2}, {15, 16, 15, 16}, {10, 13, 10, 11}};  // row, row, column, column
    for (const auto& b : boxes)
      for (int r = b[0]; r < b[1]; ++r)
        for (int c = b[2]; c < b[3]; ++c) outside.at(c, r) = 0;
    const DistanceField f = distance_to(outside, 0.5f, Stop{});
    double most = 0, sum = 0;
    for (std::size_t i = 0; i < f.distance.texels(); ++i)
      most = std::max(most, static_cast<double>(f.distance.data()[i])),
      sum += static_cast<double>(f.distance.data()[i]);
    const json e = reference("image.json", "image.004")["expected"];
    QCOMPARE(most, e[0].get<double>());
    QVERIFY2(std::abs(sum - e[1].get<double>()) < 1e-5, apart(sum, e[1].get<double>()).constData());
  }
  void theBoxOfARegionIsTheGapsComplement() {  // image.008, on 16 texels: our least size is twice the row's eight
    const json row = reference("image.json", "image.008");
    for (const auto& [dx, dy] : {std::pair{0, 0}, {11, 13}}) {  // the second lies over the edges
      Plane mask = Plane::filled(16, 0);
      for (const json& p : row["inputs"]["pixels_rc"])
        mask.at(wrap(p[1].get<int>() + dx, 16), wrap(p[0].get<int>() + dy, 16)) = 1;
      const Labels l = label_regions(mask, 0.5f, false, Stop{});
      QCOMPARE(l.table.count(), std::size_t{1});
      const auto texels = [](float share) { return static_cast<int>(std::lround(share * 16)); };
      QCOMPARE(texels(l.table.box_v[0]) % 16, wrap(row["expected"][0][0].get<int>() + dy, 16));
      QCOMPARE(texels(l.table.size_v[0]), row["expected"][0][1].get<int>());
      QCOMPARE(texels(l.table.box_u[0]) % 16, wrap(row["expected"][1][0].get<int>() + dx, 16));
      QCOMPARE(texels(l.table.size_u[0]), row["expected"][1][1].get<int>());
    }
  }
};

QTEST_GUILESS_MAIN(TestOpenness)
#include "tst_openness.moc"
