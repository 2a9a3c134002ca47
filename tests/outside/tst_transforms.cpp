// What is known in the frequency domain, by FFTW (Frigo and Johnson, "The Design and Implementation of FFTW3", Proc.
// IEEE 93(2), 2005): heights from slopes, the Gaussian, and where the power of noises lies.
#include <fftw3.h>

#include <complex>

#include "core/plane/fourier.h"
#include "core/plane/integrate.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestTransforms : public QObject {
  Q_OBJECT
  using Spectrum = std::vector<std::complex<double>>;

  static Spectrum transform(Spectrum in, int size, int direction) {
    Spectrum out(in.size());
    auto* from = reinterpret_cast<fftw_complex*>(in.data());
    auto* to = reinterpret_cast<fftw_complex*>(out.data());
    const fftw_plan plan = fftw_plan_dft_2d(size, size, from, to, direction, FFTW_ESTIMATE);
    fftw_execute(plan);
    fftw_destroy_plan(plan);
    return out;
  }
  static Spectrum spectrum(const Plane& p) {
    Spectrum in(p.texels());
    for (std::size_t i = 0; i < in.size(); ++i) in[i] = static_cast<double>(p.data()[i]);
    return transform(std::move(in), p.size(), FFTW_FORWARD);
  }
  static Plane back(Spectrum s, int size) {
    const Spectrum out = transform(std::move(s), size, FFTW_BACKWARD);
    Plane p(size);
    for (std::size_t i = 0; i < p.texels(); ++i)
      p.data()[i] = static_cast<float>(out[i].real() / static_cast<double>(p.texels()));
    return p;
  }
  static int wave(int k, int size) { return k <= size / 2 ? k : k - size; }
  static Plane noise(int size, unsigned seed) {
    std::mt19937 chance(seed);
    std::normal_distribution<double> normal(0, 1);
    return painted(size, [&](double, double) { return normal(chance); });
  }
  // The power at each whole frequency (u, v), the mean left out.
  static std::map<std::pair<int, int>, double> power(const char* type, int size, const Resolved& params) {
    Spectrum s = spectrum(*weave_alone(*catalogue().find(type), size, {}, params).at("value").strand[0]);
    s[0] = 0;
    std::map<std::pair<int, int>, double> all;
    double total = 0;
    for (const auto& c : s) total += std::norm(c);
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x)
        all[{wave(x, size), wave(y, size)}] = std::norm(s[static_cast<std::size_t>(y * size + x)]) / total;
    return all;
  }

 private Q_SLOTS:
  // Every number of a transform is the sum that defines it (FFTW's manual, "The 1d Discrete Fourier Transform"), in
  // each of the rows that go side by side; there and back is the length times what was.
  void transformsOfRowsAreTheirSums_data() {
    QTest::addColumn<int>("length");
    for (const int n : {2, 4, 8, 32, 64, 256, 1024}) QTest::addRow("%d", n) << n;
  }
  void transformsOfRowsAreTheirSums() {
    QFETCH(int, length);
    const auto n = static_cast<std::size_t>(length);
    std::mt19937 chance(7);
    std::normal_distribution<float> normal(0, 1);
    FourierRows rows(length);
    std::vector<std::vector<std::complex<double>>> was(FourierRows::kRows, std::vector<std::complex<double>>(n));
    for (std::size_t j = 0; j < FourierRows::kRows; ++j)
      for (int k = 0; k < length; ++k) {
        const float re = rows.re(k)[j] = normal(chance), im = rows.im(k)[j] = normal(chance);
        was[j][static_cast<std::size_t>(k)] = {static_cast<double>(re), static_cast<double>(im)};
      }
    const auto worst = [&](const auto& wanted) {
      double most = 0;
      for (std::size_t j = 0; j < FourierRows::kRows; ++j)
        for (int k = 0; k < length; ++k)
          most = std::max(most, std::abs(std::complex<double>(static_cast<double>(rows.re(k)[j]),
                                                              static_cast<double>(rows.im(k)[j])) -
                                         wanted(j, k)));
      return most;
    };
    const Fourier transform(length);
    transform.forward(rows);
    std::vector<Spectrum> sums;
    for (std::size_t j = 0; j < FourierRows::kRows; ++j) {
      Spectrum out(n);
      auto* from = reinterpret_cast<fftw_complex*>(was[j].data());
      auto* to = reinterpret_cast<fftw_complex*>(out.data());
      const fftw_plan plan = fftw_plan_dft_1d(length, from, to, FFTW_FORWARD, FFTW_ESTIMATE);
      fftw_execute(plan);
      fftw_destroy_plan(plan);
      sums.push_back(std::move(out));
    }
    const double size = std::sqrt(static_cast<double>(length));  // of a number of the transform
    QVERIFY(worst([&](std::size_t j, int k) { return sums[j][static_cast<std::size_t>(k)]; }) < 4e-6 * size);
    transform.backward(rows);
    QVERIFY(worst([&](std::size_t j, int k) {
              return was[j][static_cast<std::size_t>(k)] * static_cast<double>(length);
            }) < 8e-6 * static_cast<double>(length));
  }

  // Frankot and Chellappa 1988, equation (21), in double precision; slopes that no surface has are brought to the
  // nearest that one has.
  void heightsFromSlopesAreTheirProjection_data() {
    QTest::addColumn<int>("size");
    for (const int size : {16, 32, 64, 256, 512}) QTest::newRow(QByteArray::number(size)) << size;
  }
  void heightsFromSlopesAreTheirProjection() {
    QFETCH(int, size);
    const Plane du = noise(size, 1), dv = noise(size, 2);
    const Spectrum p = spectrum(du), q = spectrum(dv);
    Spectrum h(p.size());
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x) {
        // The highest wave of an even size is its own mirror image: it has no direction.
        const double ku = x == size / 2 ? 0 : wave(x, size), kv = y == size / 2 ? 0 : wave(y, size),
                     square = ku * ku + kv * kv;
        const auto i = static_cast<std::size_t>(y * size + x);
        if (square > 0) h[i] = std::complex<double>(0, -1) * (ku * p[i] + kv * q[i]) / (6.283185307179586 * square);
      }
    const Plane wanted = back(std::move(h), size), ours = height_from_slopes(du, dv, Stop{});
    const Range r = range_of(wanted);
    QVERIFY2(furthest(ours, wanted) < 1e-4 * static_cast<double>(r.most - r.least),
             QByteArray::number(furthest(ours, wanted)));
    QVERIFY(std::abs(range_of(ours).mean) < 1e-5f);
  }

  // A Gaussian of sigma texels multiplies the wave k by exp(-2 (pi sigma k / size)^2).
  void theGaussianIsTheExactOne_data() {
    QTest::addColumn<double>("sigma");
    for (const double sigma : {1.0, 2.0, 3.5, 6.0, 16.0, 60.0}) QTest::newRow(QByteArray::number(sigma)) << sigma;
  }
  void theGaussianIsTheExactOne() {
    QFETCH(double, sigma);
    constexpr int kSize = 256;
    // Single bright texels and a step: nothing smooth to hide in.
    Plane source = Plane::filled(kSize, 0);
    for (const auto& [x, y] : {std::pair{3, 250}, {128, 128}, {255, 0}}) source.at(x, y) = 100;
    for (int y = 0; y < kSize; ++y)
      for (int x = 40; x < 90; ++x) source.at(x, y) += 1;
    Spectrum s = spectrum(source);
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) {
        const double ku = wave(x, kSize), kv = wave(y, kSize), a = 3.141592653589793 * sigma / kSize;
        s[static_cast<std::size_t>(y * kSize + x)] *= std::exp(-2 * a * a * (ku * ku + kv * kv));
      }
    const Plane wanted = back(std::move(s), kSize), ours = blurred(source, static_cast<float>(sigma / kSize), Stop{});
    const Range r = range_of(wanted);
    const double apart = furthest(ours, wanted) / static_cast<double>(r.most - r.least);
    // Below a few texels the sampled Gaussian and the band-limited one differ: by the aliased tail, 2 exp(-2 (pi sigma
    // / 2)^2).
    const double aliased = 4 * std::exp(-2 * std::pow(3.141592653589793 * sigma / 2, 2));
    QVERIFY2(apart < 2e-4 + aliased, QByteArray::number(apart));
  }

  // Lagae et al. 2009, section 3: the power of a Gabor noise lies about the wave of its kernel.
  void specklesPowerLiesAboutItsWave() {
    const auto p = power("speckle", 256,
                         {{"scale", 16.0}, {"frequency", 2.0}, {"direction", 0.0}, {"spread", 0.0}, {"density", 10.0}});
    double near = 0;
    for (const auto& [k, share] : p)
      if (std::hypot(std::abs(k.first) - 32, k.second) < 20) near += share;
    QVERIFY2(near > 0.95, QByteArray::number(near));
    // Turned by a quarter it lies along v; with a full spread on a ring.
    const auto upright = power(
        "speckle", 256, {{"scale", 16.0}, {"frequency", 2.0}, {"direction", 90.0}, {"spread", 0.0}, {"density", 10.0}});
    near = 0;
    for (const auto& [k, share] : upright)
      if (std::hypot(k.first, std::abs(k.second) - 32) < 20) near += share;
    QVERIFY2(near > 0.95, QByteArray::number(near));
    double quarter[4] = {}, ring = 0;
    for (const auto& [k, share] :
         power("speckle", 256, {{"scale", 16.0}, {"frequency", 2.0}, {"spread", 1.0}, {"density", 10.0}})) {
      if (std::abs(std::hypot(k.first, k.second) - 32) < 20) ring += share;
      quarter[static_cast<int>(
                  std::floor((std::atan2(k.second, k.first) + 3.141592653589793) / 1.5707963267948966 + 0.5)) %
              4] += share;
    }
    QVERIFY2(ring > 0.95, QByteArray::number(ring));
    for (const double q : quarter) QVERIFY2(q > 0.2 && q < 0.3, QByteArray::number(q));
  }
  // Perlin 2002: gradient noise has its power in about an octave round its lattice's frequency, and next to none at its
  // lowest waves.
  void oneOctaveOfGradientNoiseIsABand() {
    double below = 0, band = 0;
    for (const auto& [k, share] : power("gradient_noise", 256, {{"scale", 16.0}, {"octaves", 1.0}})) {
      const double f = std::hypot(k.first, k.second);
      if (f < 4) below += share;
      if (f >= 4 && f < 24) band += share;
    }
    QVERIFY2(below < 0.05, QByteArray::number(below));
    QVERIFY2(band > 0.9, QByteArray::number(band));
  }
  // Twice the periods a tile: the power's centre moves up by an octave.
  void theScaleMovesThePowerByOctaves() {
    double centre[2] = {};
    for (const int i : {0, 1})
      for (const auto& [k, share] : power("value_noise", 256, {{"scale", i ? 32.0 : 16.0}, {"octaves", 1.0}}))
        centre[i] += share * std::hypot(k.first, k.second);
    QVERIFY2(std::abs(centre[1] / centre[0] - 2) < 0.15, QByteArray::number(centre[1] / centre[0]));
  }
};

QTEST_GUILESS_MAIN(TestTransforms)
#include "tst_transforms.moc"
