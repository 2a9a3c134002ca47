// Bevel: how evenly its slope runs on curves, its width on each side, its corners, its smoothing and its strength.
#include <algorithm>
#include <numeric>

#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestBevel : public QObject {
  Q_OBJECT
  using Inside = std::function<double(double, double)>;  // distance from the edge, in tile widths, positive inside

  // The covered share of each texel: 32 x 32 places where the edge may pass.
  static Plane mask_of(int size, const Inside& inside) {
    return painted(size, [&](double u, double v) {
      const double d = inside(u, v) * size;
      if (std::abs(d) > 1.5) return d > 0 ? 1.0 : 0.0;
      int covered = 0;
      for (int k = 0; k < 1024; ++k)
        covered += inside(u + ((k % 32 + 0.5) / 32 - 0.5) / size, v + ((k / 32 + 0.5) / 32 - 0.5) / size) > 0;
      return covered / 1024.0;
    });
  }
  static Inside disc(double radius) {
    return [=](double u, double v) { return radius - std::hypot(u - 0.5, v - 0.5); };
  }
  static Inside square(double half) {
    return [=](double u, double v) { return half - std::max(std::abs(u - 0.5), std::abs(v - 0.5)); };
  }
  std::map<std::string, Field> bevel(const Plane& mask, Resolved params) const {
    params.emplace("rounding", 0.0);
    Fields in;
    in["mask"] = field_of(Kind::scalar, mask.clone());
    return weave_alone(*catalogue().find("bevel"), mask.size(), in, params);
  }

 private Q_SLOTS:
  // The normal leans along the radius: 0.3 degrees off in the mean, 1 at the 95th percentile.
  void discsAreNotFluted_data() {
    QTest::addColumn<int>("size");
    QTest::addColumn<QString>("side");
    for (const int size : {512, 1024, 2048, 4096})
      for (const char* side : {"inside", "outside", "both"}) {
        if (size == 4096 && side != QStringLiteral("inside")) continue;
        QTest::addRow("%s at %d", side, size) << size << QString::fromLatin1(side);
      }
  }
  void discsAreNotFluted() {
    QFETCH(int, size);
    QFETCH(QString, side);
    const double radius = 0.28, width = 0.04;
    const auto out = bevel(mask_of(size, disc(radius)), {{"width", width}, {"side", side.toStdString()}});
    const Field& n = out.at("normal");
    std::vector<double> off;
    const double from = side == QStringLiteral("inside")    ? 0
                        : side == QStringLiteral("outside") ? -width
                                                            : -width / 2,
                 rim = 2.5 / size;
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x) {
        const double du = (x + 0.5) / size - 0.5, dv = (y + 0.5) / size - 0.5, r = std::hypot(du, dv), d = radius - r;
        if (d < from + rim || d > from + width - rim) continue;
        // The slope rises inwards, so the normal leans outwards; +Y is up.
        const double nx = n.strand[0]->at(x, y), ny = -static_cast<double>(n.strand[1]->at(x, y));
        const double cosine = (nx * du + ny * dv) / r / std::hypot(nx, ny);
        off.push_back(std::acos(std::min(1.0, cosine)) * 57.29577951308232);
      }
    QVERIFY(off.size() > 1000);
    std::ranges::sort(off);
    const double mean = std::accumulate(off.begin(), off.end(), 0.0) / static_cast<double>(off.size()),
                 high = off[off.size() * 95 / 100];
    QVERIFY2(mean < 0.3 && high < 1, qPrintable(QStringLiteral("%1 in the mean, %2 at the 95th").arg(mean).arg(high)));
  }
  // As wide as it says, on whichever side it lies, and half way up in the middle of `both`.
  void theSlopeIsAsWideAsItSays() {
    constexpr int kSize = 512;
    const double half = 0.25, width = 0.0625;
    for (const auto& [side, from] : {std::pair{"inside", 0.0}, {"outside", -width}, {"both", -width / 2}}) {
      const auto out = bevel(mask_of(kSize, square(half)), {{"width", width}, {"side", std::string(side)}});
      const Plane& h = *out.at("height").strand[0];
      for (int x = 0; x < kSize / 2; ++x) {
        const double d = (x + 0.5) / kSize - (0.5 - half), wanted = std::clamp((d - from) / width, 0.0, 1.0);
        QVERIFY2(std::abs(static_cast<double>(h.at(x, kSize / 2)) - wanted) < 0.02,
                 qPrintable(QStringLiteral("%1 at %2").arg(QLatin1String(side)).arg(x)));
      }
    }
  }
  // Beyond a corner the distance is that to its point: to half a texel all round, and no step where its lines end.
  void roundACornerTheDistanceIsToItsPoint() {
    constexpr int kSize = 512;
    const double half = 0.25;
    const Plane d = edge_distance(mask_of(kSize, square(half)), false, 60, Stop{});
    for (int y = 0; y < kSize / 2; ++y)
      for (int x = 0; x < kSize / 2; ++x) {
        const double u = 128 - (x + 0.5), v = 128 - (y + 0.5),
                     wanted = u > 0 && v > 0 ? std::hypot(u, v) : std::max({u, v, 0.0});
        if (wanted > 50) continue;
        QVERIFY2(
            std::abs(static_cast<double>(d.at(x, y)) - wanted) < 0.5,
            qPrintable(
                QStringLiteral("%1 at %2, %3: %4").arg(static_cast<double>(d.at(x, y))).arg(x).arg(y).arg(wanted)));
      }
  }
  // Lines of one texel and less have an edge too.
  void thinLinesAreMeasured() {
    constexpr int kSize = 256;
    for (const double wide : {0.6, 1.0, 2.0, 3.0}) {
      const Plane mask =
          mask_of(kSize, [&](double u, double) { return wide / 2 / kSize - std::abs(u - 128.5 / kSize); });
      const Plane d = edge_distance(mask, false, 40, Stop{});
      for (int x = 132; x < 160; ++x)
        QVERIFY2(
            std::abs(static_cast<double>(d.at(x, 77)) - (x - 128 - wide / 2)) < 0.3,
            qPrintable(QStringLiteral("%1 wide, %2 at %3").arg(wide).arg(static_cast<double>(d.at(x, 77))).arg(x)));
    }
  }
  // A share of the tile: the same at every size, and it rounds the corner of the top.
  void smoothingRoundsCorners() {
    const double half = 0.25, width = 0.05;
    double at[2];
    int k = 0;
    for (const int size : {256, 1024}) {
      const Plane mask = mask_of(size, square(half));
      const auto sharp = bevel(mask, {{"width", width}}), soft = bevel(mask, {{"width", width}, {"smoothing", 0.01}});
      const int x = static_cast<int>((0.5 - half + width) * size);
      const double before = sharp.at("height").strand[0]->at(x, x), after = soft.at("height").strand[0]->at(x, x);
      QVERIFY(before > 0.95 && after < before - 0.05);
      at[k++] = after;
      // The foot keeps its height in the mean: nothing is added.
      double sums[2] = {0, 0};
      for (std::size_t i = 0; i < mask.texels(); ++i)
        sums[0] += static_cast<double>(sharp.at("height").strand[0]->data()[i]),
            sums[1] += static_cast<double>(soft.at("height").strand[0]->data()[i]);
      QVERIFY(std::abs(sums[0] / sums[1] - 1) < 1e-3);
    }
    QVERIFY2(std::abs(at[0] - at[1]) < 0.03, qPrintable(QStringLiteral("%1 and %2").arg(at[0]).arg(at[1])));
  }
  void strengthScalesTheSlope() {
    const Plane mask = mask_of(256, disc(0.3));
    const auto once = bevel(mask, {{"width", 0.05}}), thrice = bevel(mask, {{"width", 0.05}, {"strength", 3.0}});
    QVERIFY(same_bits(*once.at("height").strand[0], *thrice.at("height").strand[0]));
    const auto slope = [](const Field& n, int x, int y) {
      return static_cast<double>(n.strand[0]->at(x, y)) / static_cast<double>(n.strand[2]->at(x, y));
    };
    const int x = static_cast<int>(0.225 * 256);
    QVERIFY(std::abs(slope(once.at("normal"), x, 128)) > 0.01);
    QVERIFY(std::abs(slope(thrice.at("normal"), x, 128) / slope(once.at("normal"), x, 128) - 3) < 1e-3);
  }
};

QTEST_GUILESS_MAIN(TestBevel)
#include "tst_bevel.moc"
