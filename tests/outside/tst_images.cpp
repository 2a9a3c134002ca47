// Area operations against arrays computed with scipy, closed forms, and OpenCV on tripled images.
#include <opencv2/imgproc.hpp>

#include "core/base/hash.h"
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

class TestImages : public QObject {
  Q_OBJECT
  // Hash image of the data's README: pcg(seed * 65537 + row * width + column) >> 24.
  static Plane hashed(int size, unsigned seed) {
    Plane p(size);
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x)
        p.at(x, y) = static_cast<float>(pcg(seed * 65537u + static_cast<unsigned>(y * size + x)) >> 24);
    return p;
  }
  // Tiles a small array, so that sizes below ours can be compared: a torus of 8 is also one of 16.
  template <class T>
  static Plane tiled(const std::vector<std::vector<T>>& rows, int size) {
    const int n = static_cast<int>(rows.size());
    Plane p(size);
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x)
        p.at(x, y) = static_cast<float>(rows[static_cast<std::size_t>(y % n)][static_cast<std::size_t>(x % n)]);
    return p;
  }
  static cv::Mat tripled(const Plane& p, double least) {
    const int n = p.size();
    cv::Mat m(3 * n, 3 * n, CV_8U);
    for (int y = 0; y < 3 * n; ++y)
      for (int x = 0; x < 3 * n; ++x)
        m.at<std::uint8_t>(y, x) = static_cast<double>(p.at(x % n, y % n)) >= least ? 0 : 255;
    return m;
  }

 private Q_SLOTS:
  void distancesEqualTheSmallArrays() {  // scipy, two routes: image.002, image.003
    std::vector<std::vector<int>> seeds(8, std::vector<int>(8, 0));
    seeds[0][0] = seeds[2][5] = seeds[6][3] = 1;
    const DistanceField f = distance_to(tiled(seeds, 16), 0.5f, Stop{});
    const auto squares = reference("image.json", "image.002")["expected"].get<std::vector<std::vector<int>>>();
    const auto label = reference("image.json", "image.003")["expected"].get<std::vector<std::vector<int>>>();
    for (int y = 0; y < 16; ++y)
      for (int x = 0; x < 16; ++x) {
        const auto d = static_cast<double>(f.distance.at(x, y));
        QCOMPARE(static_cast<int>(std::lround(d * d)),
                 squares[static_cast<std::size_t>(y % 8)][static_cast<std::size_t>(x % 8)]);
        const int n = f.nearest[static_cast<std::size_t>(y * 16 + x)], nx = n % 16 % 8, ny = n / 16 % 8;
        const int who = nx == 0 && ny == 0 ? 1 : nx == 5 ? 2 : 3;
        if (const int expected = label[static_cast<std::size_t>(y % 8)][static_cast<std::size_t>(x % 8)])
          QCOMPARE(who, expected);
      }
  }
  void distancesEqualOpenCvOnATripledMask() {
    std::mt19937 chance(3);
    Plane m = painted(64, [&](double, double) { return chance() % 60 == 0 ? 1.0 : 0.0; });
    cv::Mat far;
    cv::distanceTransform(tripled(m, 0.5), far, cv::DIST_L2, cv::DIST_MASK_PRECISE);
    const DistanceField f = distance_to(m, 0.5f, Stop{});
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) QVERIFY(std::abs(f.distance.at(x, y) - far.at<float>(64 + y, 64 + x)) < 1e-3f);
  }
  void labelsEqualTheSmallTorusArrays() {  // image.005 and image.006: counts and areas on the torus
    for (const char* id : {"image.005", "image.006"}) {
      const json row = reference("image.json", id);
      // Each cell becomes four texels, so that the least plane holds the 8 x 8 torus once.
      const auto mask = row["inputs"]["mask"].get<std::vector<std::vector<int>>>();
      const Plane m = painted(16, [&](double u, double v) {
        return static_cast<double>(mask[static_cast<std::size_t>(v * 8)][static_cast<std::size_t>(u * 8)]);
      });
      const Labels l = label_regions(m, 0.5f, row["inputs"]["connectivity"] == 8, Stop{});
      std::vector<int> areas;
      for (const float a : l.table.area) areas.push_back(static_cast<int>(std::lround(a * 64)));
      std::sort(areas.begin(), areas.end());
      QCOMPARE(static_cast<int>(l.table.count()), row["expected"][0].get<int>());
      QCOMPARE(areas, row["expected"][2].get<std::vector<int>>());
    }
  }
  void labelsEqualOpenCvAwayFromTheEdge() {
    std::mt19937 chance(9);
    const Plane m = painted(128, [&](double u, double v) {
      return u > 0.02 && u < 0.98 && v > 0.02 && v < 0.98 && chance() % 2 ? 1.0 : 0.0;
    });
    cv::Mat mask(128, 128, CV_8U), labels, stats, centroids;
    for (int y = 0; y < 128; ++y)
      for (int x = 0; x < 128; ++x) mask.at<std::uint8_t>(y, x) = m.at(x, y) >= 0.5f;
    for (const int connectivity : {4, 8}) {
      const int n = cv::connectedComponentsWithStats(mask, labels, stats, centroids, connectivity) - 1;
      const Labels l = label_regions(m, 0.5f, connectivity == 8, Stop{});
      QCOMPARE(static_cast<int>(l.table.count()), n);
      std::map<int, float> name;
      for (int y = 0; y < 128; ++y)
        for (int x = 0; x < 128; ++x) {
          const int theirs = labels.at<int>(y, x);
          if (theirs == 0) {
            QCOMPARE(l.index.at(x, y), -1.0f);
            continue;
          }
          const auto [it, fresh] = name.emplace(theirs, l.index.at(x, y));
          QCOMPARE(it->second, l.index.at(x, y));
          if (!fresh) continue;
          const auto i = static_cast<std::size_t>(it->second);
          QCOMPARE(static_cast<int>(std::lround(l.table.area[i] * 16384)), stats.at<int>(theirs, cv::CC_STAT_AREA));
          QCOMPARE(static_cast<int>(std::lround(l.table.size_u[i] * 128)), stats.at<int>(theirs, cv::CC_STAT_WIDTH));
          QVERIFY(std::abs(static_cast<double>(l.table.centre_u[i]) * 128 - 0.5 - centroids.at<double>(theirs, 0)) <
                  0.01);
        }
    }
  }
  void theGaussianEqualsTheTrueKernel() {
    // Against the direct sum with wrap in double precision, as of image.013 (scipy, truncate 6 sigma).
    const Plane p = hashed(64, 3);
    for (const double sigma : {1.0, 2.0, 5.5, 9.0}) {
      const int r = static_cast<int>(6 * sigma);
      std::vector<double> k;
      double total = 0;
      for (int i = -r; i <= r; ++i) total += k.emplace_back(std::exp(-0.5 * i * i / sigma / sigma));
      std::vector<double> rows(64 * 64), both(64 * 64);
      for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x)
          for (int i = -r; i <= r; ++i)
            rows[static_cast<std::size_t>(y * 64 + x)] +=
                k[static_cast<std::size_t>(i + r)] / total * static_cast<double>(p.at(((x + i) % 64 + 64) % 64, y));
      for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x)
          for (int i = -r; i <= r; ++i)
            both[static_cast<std::size_t>(y * 64 + x)] +=
                k[static_cast<std::size_t>(i + r)] / total *
                rows[static_cast<std::size_t>((((y + i) % 64 + 64) % 64) * 64 + x)];
      const Plane b = blurred(p, static_cast<float>(sigma / 64), Stop{});
      double most = 0;
      for (std::size_t i = 0; i < both.size(); ++i)
        most = std::max(most, std::abs(both[i] - static_cast<double>(b.data()[i])));
      QVERIFY2(most / 255 < 2e-5,
               qPrintable(QStringLiteral("sigma %1: off by %2 of the range").arg(sigma).arg(most / 255)));
    }
  }
  void bilinearReadsAreThePublishedOnes() {  // image.037 to image.040
    // The rows do not name the hash image's seed: it is the one whose four middle texels have the first row's mean.
    const double middle = reference("image.json", "image.037")["expected"].get<double>();
    const auto texel = [](unsigned seed, int x, int y) {
      return static_cast<float>(pcg(seed * 65537u + static_cast<unsigned>(y * 8 + x)) >> 24) / 255;
    };
    unsigned seed = 0;
    const auto fits = [&] {
      return std::abs(
                 static_cast<double>(texel(seed, 3, 3) + texel(seed, 4, 3) + texel(seed, 3, 4) + texel(seed, 4, 4)) /
                     4 -
                 middle) < 1e-6;
    };
    while (seed < 64 && !fits()) ++seed;
    QVERIFY(seed < 64);
    // An 8 x 8 torus twice along each side of ours; the place in it is half as far.
    const auto table = std::make_shared<Sampled>();
    Plane image(16);
    for (int y = 0; y < 16; ++y)
      for (int x = 0; x < 16; ++x) image.at(x, y) = texel(seed, x % 8, y % 8);
    table->levels = {shared(std::move(image))};
    for (const char* id : {"image.037", "image.038", "image.039", "image.040"}) {
      const json row = reference("image.json", id);
      const auto uv = row["inputs"]["u,v"].get<std::vector<float>>();
      Builder b(Domain::texels(16));
      b.store(b.apply(kSample, {b.constant(uv[0] / 2), b.constant(uv[1] / 2), b.constant(0)}, table, 1)[0], 0);
      Plane out(16);
      Plane* to = &out;
      run_texels(b.build(), 16, {&to, 1}, Stop{});
      QVERIFY2(std::abs(static_cast<double>(out.at(0, 0)) - row["expected"].get<double>()) < 3e-6, id);
    }
  }
  void normalsOfASineAreTheClosedForm() {  // image.016: central differences of A sin(2 pi k u)
    const json row = reference("image.json", "image.016");
    const double a = row["inputs"]["A"], k = row["inputs"]["k"];
    const auto n =
        normals(painted(64, [&](double u, double) { return a * std::sin(6.283185307179586 * k * u); }), 1, Stop{});
    const auto central = row["expected"]["central"].get<std::vector<double>>();
    const auto expected = row["expected"]["normal_central"].get<std::vector<std::vector<double>>>();
    for (std::size_t i = 0; i < expected.size(); ++i) {
      bool found = false;  // the row lists some texels without their index: each must be there
      for (int x = 0; x < 64; ++x)
        found |= std::abs(static_cast<double>(n[0].at(x, 9)) - expected[i][0]) < 3e-6 &&
                 std::abs(static_cast<double>(n[2].at(x, 9)) - expected[i][2]) < 3e-6;
      QVERIFY2(found, qPrintable(QString::number(central[i])));
    }
  }
  void occlusionIsTheClosedForm() {
    // 32 steps a direction find an upright wall to about a tenth of its distance, always too far: the sky comes out a
    // little too open. Radiative configuration factors: the floor's centre of a long trench sees (W/2) / sqrt((W/2)^2 +
    // D^2) (image.049, image.055).
    for (const char* id : {"image.049", "image.055"}) {
      const json row = reference("image.json", id);
      const double w = row["inputs"]["W"], d = row["inputs"]["D"];
      // Trench of width 1/8 of the tile; its depth follows.
      const double depth = d / w / 8;
      const Plane h = painted(512, [](double u, double) { return std::abs(u - 0.5) < 1.0 / 16 ? 0.0 : 1.0; });
      const Plane o = occlusion(h, static_cast<float>(depth), 0.25f, Stop{});
      QVERIFY2(std::abs(static_cast<double>(o.at(256, 100)) - row["expected"].get<double>()) < 0.06,
               qPrintable(QStringLiteral("%1, not %2")
                              .arg(static_cast<double>(o.at(256, 100)))
                              .arg(row["expected"].get<double>())));
    }
  }
};

QTEST_GUILESS_MAIN(TestImages)
#include "tst_images.moc"
