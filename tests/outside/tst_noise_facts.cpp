// Hash vectors of Jarzynski and Olano 2020, and what the published theory says of lattice and cellular noise.
#include "core/base/hash.h"
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

class TestNoiseFacts : public QObject {
  Q_OBJECT
  static Plane noise(const Resolved& params, int size) {
    return weave_alone(*catalogue().find("gradient_noise"), size, {}, params).at("value").strand[0]->clone();
  }
  // Signed, in units of one octave of unit gradients.
  static double unscaled(float v) { return (static_cast<double>(v) - 0.5) * 2 * 0.70710678 * 1.25; }

 private Q_SLOTS:
  void pcgGivesThePublishedNumbers() {
    QVERIFY(each("noise.json", "pcg(v)", [](const json& r) {
              QCOMPARE(pcg(r["inputs"]["v"].get<std::uint32_t>()), r["expected"].get<std::uint32_t>());
            }) >= 10);
  }
  void noiseIsNothingAtLatticePoints() {  // noise.031
    const Plane n = noise({{"scale", 4.0}, {"octaves", 1.0}}, 1024);
    // A lattice point lies between texels 255 and 256: the mean over the four about it is nearly 0.
    for (const int y : {0, 256, 512}) {
      const double mean = (unscaled(n.at(255, wrap(y - 1, 1024))) + unscaled(n.at(256, wrap(y - 1, 1024))) +
                           unscaled(n.at(255, y)) + unscaled(n.at(256, y))) /
                          4;
      QVERIFY2(std::abs(mean) < 1e-4, qPrintable(QString::number(mean)));
    }
  }
  void varianceOfUnitGradientNoise() {
    // 2D, quintic fade: Var = 2 * (1/2) * 4 * I2 * I0 ... with I0 = 181/462, I2 = 535/18018 (rows noise.034,
    // noise.var3d): for |g|^2 = 1 in two dimensions 4 * I2 * I0.
    double mean = 0, square = 0;
    std::size_t n = 0;
    for (int seed = 1; seed <= 12; ++seed) {
      const Plane p = noise({{"scale", 64.0}, {"octaves", 1.0}, {"seed", double(seed)}}, 1024);
      for (std::size_t i = 0; i < p.texels(); ++i) {
        const double v = unscaled(p.data()[i]);
        mean += v;
        square += v * v;
        ++n;
      }
    }
    const double variance = square / static_cast<double>(n), expected = 4 * (535.0 / 18018) * (181.0 / 462);
    QVERIFY2(std::abs(mean / static_cast<double>(n)) < 2e-3, "the mean is 0");
    QVERIFY2(std::abs(variance / expected - 1) < 0.03,
             qPrintable(QStringLiteral("%1, not %2").arg(variance).arg(expected)));
  }
  void octaveSumsAreBroughtToTheSameSpread() {
    // Variances of octaves add up: gain^2n (noise.044), so the norm keeps the spread of one octave for any number.
    const auto spread = [&](double octaves) {
      const Plane p = noise({{"scale", 16.0}, {"octaves", octaves}, {"gain", 0.6}}, 2048);
      const double mean = static_cast<double>(range_of(p).mean);
      double s = 0;
      for (std::size_t i = 0; i < p.texels(); i += 3) s += std::pow(static_cast<double>(p.data()[i]) - mean, 2);
      return std::sqrt(s / (static_cast<double>(p.texels()) / 3));
    };
    const double one = spread(1), five = spread(5);
    QVERIFY2(std::abs(five / one - 1) < 0.08, qPrintable(QStringLiteral("%1 and %2").arg(one).arg(five)));
  }
  void rangeIsBoundedByTheGradients() {
    // Unit gradients: |noise| <= 1 / sqrt 2 for one octave.
    const Range r = range_of(noise({{"scale", 128.0}, {"octaves", 1.0}}, 2048));
    QVERIFY(unscaled(r.most) <= 0.7072 && unscaled(r.least) >= -0.7072);
    QVERIFY(unscaled(r.most) > 0.5);
  }
  void cellularDistancesHaveThePublishedMeans() {
    // One jittered point a cell (noise.jitter_F1): E F1 = 0.4294, sd 0.1896, E F2 = 0.6989.
    const json row = reference("noise.json", "noise.jitter_F1");
    double f1 = 0, f2 = 0, square = 0;
    std::size_t n = 0;
    for (int seed = 1; seed <= 4; ++seed) {
      const auto f =
          weave_alone(*catalogue().find("cellular_noise"), 512, {}, {{"scale", 128.0}, {"seed", double(seed)}});
      for (std::size_t i = 0; i < f.at("nearest").strand[0]->texels(); ++i) {
        const double a = static_cast<double>(f.at("nearest").strand[0]->data()[i]);
        f1 += a;
        square += a * a;
        f2 += static_cast<double>(f.at("second").strand[0]->data()[i]);
        ++n;
      }
    }
    f1 /= static_cast<double>(n);
    f2 /= static_cast<double>(n);
    QVERIFY2(std::abs(f1 - row["expected"][0].get<double>()) < 0.004, qPrintable(QString::number(f1)));
    QVERIFY(std::abs(std::sqrt(square / static_cast<double>(n) - f1 * f1) - row["expected"][1].get<double>()) < 0.004);
    QVERIFY2(std::abs(f2 - row["expected"][2].get<double>()) < 0.004, qPrintable(QString::number(f2)));
  }
  void cellBordersAreExact() {
    // By brute force over the torus: how far the nearest place is at which another cell's point is the nearest. Cells
    // are told apart by their tone; a border between two texels lies within half a texel of either.
    constexpr int kSize = 256, kScale = 6;
    const auto f = weave_alone(*catalogue().find("cellular_noise"), kSize, {}, {{"scale", 1.0 * kScale}});
    const Plane& tone = *f.at("grey").strand[0];
    const Plane& border = *f.at("border").strand[0];
    std::vector<std::pair<int, int>> edge;
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x)
        if (tone.at(x, y) != tone.at(wrap(x + 1, kSize), y) || tone.at(x, y) != tone.at(x, wrap(y + 1, kSize)))
          edge.emplace_back(x, y);
    QVERIFY(edge.size() > 1000);
    double worst = 0;
    for (int y = 0; y < kSize; y += 5)
      for (int x = 0; x < kSize; x += 7) {
        double least = 1e9;
        for (const auto& [ex, ey] : edge) {
          const double dx = std::abs(ex + 0.5 - x), dy = std::abs(ey + 0.5 - y);
          least = std::min(least, std::hypot(std::min(dx, kSize - dx), std::min(dy, kSize - dy)));
        }
        worst = std::max(worst, std::abs(border.at(x, y) * kSize / static_cast<double>(kScale) - least));
      }
    QVERIFY2(worst < 1, QByteArray::number(worst) + " texels");
  }
  void driftLoops() {
    const Plane start = noise({{"drift", 0.0}}, 128), half = noise({{"drift", 0.37}}, 128),
                end = noise({{"drift", 1.0}}, 128);
    QVERIFY(furthest(start, end) < 1e-4);
    QVERIFY(furthest(start, half) > 0.05);
  }
};

QTEST_GUILESS_MAIN(TestNoiseFacts)
#include "tst_noise_facts.moc"
