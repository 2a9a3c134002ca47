// The strip program: builder, runner, and its kernels on every instruction set of this machine.
#include <hwy/targets.h>

#include "core/base/hash.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestProgram : public QObject {
  Q_OBJECT
  static Plane run(Builder& b, Reg r, int size) {
    b.store(r, 0);
    Plane out(size);
    Plane* p = &out;
    run_texels(b.build(), size, {&p, 1}, Stop{});
    return out;
  }
  static std::vector<float> values(Op op, const std::vector<std::vector<float>>& in) {
    Builder b(Domain::numbers());
    std::vector<Reg> r;
    for (std::size_t i = 0; i < in.size(); ++i) r.push_back(b.attribute(static_cast<std::uint32_t>(i)));
    b.store(in.size() == 1   ? b.apply(op, r[0])
            : in.size() == 2 ? b.apply(op, r[0], r[1])
                             : b.apply(op, r[0], r[1], r[2]),
            0);
    std::vector<const float*> attributes;
    for (const auto& v : in) attributes.push_back(v.data());
    std::vector<float> out(in[0].size());
    float* to = out.data();
    run_samples(b.build(), in[0].size(), attributes, {&to, 1}, Stop{});
    return out;
  }

 private Q_SLOTS:
  void texelsStandAtTheirCentres() {
    Builder b(Domain::texels(64));
    const Plane u = run(b, b.u(), 64);
    QCOMPARE(u.at(0, 0), 0.5f / 64);
    QCOMPARE(u.at(63, 5), 63.5f / 64);
    Builder c(Domain::texels(1024));
    QCOMPARE(run(c, c.v(), 1024).at(700, 3), 3.5f / 1024);
  }

  void constantsFoldAndEqualStepsAreShared() {
    Builder b(Domain::numbers());
    const Reg two = b.add(b.constant(1), b.constant(1));
    QVERIFY(b.known(two));
    QCOMPARE(*b.known(two), 2.0f);
    const Reg x = b.u();
    QVERIFY(b.mul(x, 3.0f) == b.mul(x, 3.0f));
    QVERIFY(b.mul(x, 1.0f) == x);
    QVERIFY(b.add(x, 0.0f) == x);
    QCOMPARE(*b.known(b.mul(x, 0.0f)), 0.0f);
  }

  void whatFeedsNothingIsDropped() {
    Builder b(Domain::texels(64));
    b.apply(Op::sine, b.u());
    b.store(b.v(), 0);
    QCOMPARE(b.build().code.size(), std::size_t{1});
  }

  void registersAreReusedButNeverTooEarly() {
    // A long chain needs few registers, and gives what the plain loop gives.
    Builder b(Domain::texels(256));
    Reg r = b.u();
    for (int i = 0; i < 60; ++i) r = b.add(b.mul(r, 0.9f), b.mul(b.v(), 0.01f * static_cast<float>(i)));
    b.store(r, 0);
    const Program p = b.build();
    QVERIFY2(p.registers <= 6, qPrintable(QString::number(p.registers)));
    Plane out(256);
    Plane* to = &out;
    run_texels(p, 256, {&to, 1}, Stop{});
    for (const auto& [x, y] : {std::pair{0, 0}, {255, 255}, {17, 200}}) {
      double e = (x + 0.5) / 256;
      for (int i = 0; i < 60; ++i) e = e * 0.9 + (y + 0.5) / 256 * 0.01 * i;
      QVERIFY(std::abs(static_cast<double>(out.at(x, y)) - e) < 1e-4);
    }
  }

  void functionsAreTotal_data() {
    QTest::addColumn<int>("op");
    QTest::addColumn<float>("a");
    QTest::addColumn<float>("b");
    QTest::addColumn<float>("expected");
    const auto row = [](const char* name, Op op, float a, float b, float e) {
      QTest::newRow(name) << static_cast<int>(op) << a << b << e;
    };
    row("x / 0", Op::divide, 3, 0, 0);
    row("log 0", Op::logarithm, 0, 0, 0);
    row("log -1", Op::logarithm, -1, 0, 0);
    row("root of -4", Op::root, -4, 0, 0);
    row("0 ^ -1", Op::power, 0, -1, 0);
    row("0 ^ 0", Op::power, 0, 0, 1);
    row("(-2) ^ 3", Op::power, -2, 3, -8);
    row("(-2) ^ 2", Op::power, -2, 2, 4);
    row("(-2) ^ 0.5", Op::power, -2, 0.5f, 0);
    row("5 mod 0", Op::modulo, 5, 0, 0);
    row("-0.25 mod 1", Op::modulo, -0.25f, 1, 0.75f);
    row("atan2(0, 0)", Op::arctangent2, 0, 0, 0);
    row("atan2(0, -1)", Op::arctangent2, 0, -1, 3.14159265f);
    row("asin 2", Op::arcsine, 2, 0, 1.57079633f);
    row("round 0.5", Op::round, 0.5f, 0, 1);
    row("round -0.5", Op::round, -0.5f, 0, 0);
    row("sign -3", Op::sign, -3, 0, -1);
  }
  void functionsAreTotal() {
    QFETCH(int, op);
    QFETCH(float, a);
    QFETCH(float, b);
    QFETCH(float, expected);
    const Op o = static_cast<Op>(op);
    const bool one = o < Op::add;
    const auto got = one ? values(o, {{a}}) : values(o, {{a}, {b}});
    QVERIFY2(std::abs(got[0] - expected) <= 2e-5f * std::max(1.0f, std::abs(expected)),
             qPrintable(QString::number(static_cast<double>(got[0]))));
  }

  void everyInstructionSetAgreesWithThePlainLoop() {
    const struct {
      Op op;
      double (*f)(double);
      double least, most, bound;
    } kOne[] = {{Op::sine, [](double x) { return std::sin(x); }, -30, 30, 2e-6},
                {Op::cosine, [](double x) { return std::cos(x); }, -30, 30, 2e-6},
                {Op::exponential, [](double x) { return std::exp(x); }, -20, 20, 1e-6},
                {Op::logarithm, [](double x) { return std::log(x); }, 1e-6, 1e6, 1e-6},
                {Op::arctangent, [](double x) { return std::atan(x); }, -50, 50, 1e-6},
                {Op::root, [](double x) { return std::sqrt(x); }, 0, 1e6, 1e-6},
                {Op::fraction, [](double x) { return x - std::floor(x); }, -9, 9, 2e-6},
                {Op::arcsine, [](double x) { return std::asin(x); }, -1, 1, 2e-6}};
    std::mt19937 chance(5);
    for (const auto target : hwy::SupportedAndGeneratedTargets()) {
      hwy::SetSupportedTargetsForTest(target);
      hwy::GetChosenTarget().Update(hwy::SupportedTargets());
      for (const auto& k : kOne) {
        std::vector<float> x(777);
        for (float& v : x) v = static_cast<float>(std::uniform_real_distribution<double>(k.least, k.most)(chance));
        const auto y = values(k.op, {x});
        for (std::size_t i = 0; i < x.size(); ++i) {
          const double e = k.f(static_cast<double>(x[i]));
          QVERIFY2(std::abs(static_cast<double>(y[i]) - e) <= k.bound * std::max(1.0, std::abs(e)),
                   qPrintable(QStringLiteral("%1 of %2 on %3: %4")
                                  .arg(static_cast<int>(k.op))
                                  .arg(static_cast<double>(x[i]))
                                  .arg(QLatin1String(hwy::TargetName(target)))
                                  .arg(static_cast<double>(y[i]))));
        }
      }
    }
    hwy::SetSupportedTargetsForTest(0);
    hwy::GetChosenTarget().DeInit();
  }

  void instructionSetsGiveTheSameNoiseWithin1e5() {
    const NodeType& noise = *catalogue().find("gradient_noise");
    const NodeType& laid = *catalogue().find("masonry");
    std::vector<Plane> noises, masks;
    QStringList names;
    for (const auto target : hwy::SupportedAndGeneratedTargets()) {
      hwy::SetSupportedTargetsForTest(target);
      hwy::GetChosenTarget().Update(hwy::SupportedTargets());
      names << QLatin1String(hwy::TargetName(target));
      noises.push_back(weave_alone(noise, 256, {}).at("value").strand[0]->clone());
      masks.push_back(weave_alone(laid, 256, {}).at("mask").strand[0]->clone());
    }
    hwy::SetSupportedTargetsForTest(0);
    hwy::GetChosenTarget().DeInit();
#ifdef HWY_COMPILE_ONLY_STATIC
    QSKIP("built for one instruction set, as the sanitizers are");
#endif
    QVERIFY(noises.size() >= 2);
    for (std::size_t i = 1; i < noises.size(); ++i) {
      QVERIFY2(furthest(noises[0], noises[i]) < 1e-5,
               qPrintable(names.join(QLatin1Char(' ')) + QString::number(furthest(noises[0], noises[i]))));
      QVERIFY(share_apart(masks[0], masks[i], 1e-3) <= 1e-5);
    }
  }

  void rowNoiseEqualsNoiseAtGivenPlaces() {
    // The quick path along rows and the general one are the same function.
    const NodeType& noise = *catalogue().find("gradient_noise");
    Fields places;
    places["coordinates"] = field_of(Kind::vector2, painted(256, [](double u, double) { return u; }),
                                     painted(256, [](double, double v) { return v; }));
    QVERIFY(furthest(*weave_alone(noise, 256, {}).at("value").strand[0],
                     *weave_alone(noise, 256, places).at("value").strand[0]) < 2e-5);
  }

  void footprintsFollowCoordinates() {
    Builder b(Domain::texels(128));
    const Reg plain = b.footprint(b.u(), b.v());
    QVERIFY(b.known(plain));
    QCOMPARE(*b.known(plain), 1.0f / 128);
    const Reg tripled = b.footprint(b.mul(b.u(), 3), b.mul(b.v(), 2));
    QVERIFY(b.known(tripled));
    QCOMPARE(*b.known(tripled), 3.0f / 128);
    // Along a sine the slope varies: 2 pi cos(2 pi u) / 128, or 1 / 128 along v if that is more.
    const Reg wave = b.footprint(b.apply(Op::sine, b.mul(b.u(), 6.2831853f)), b.v());
    const Plane w = run(b, wave, 128);
    QVERIFY(std::abs(w.at(0, 0) * 128 - 6.2831853f * std::cos(6.2831853f * 0.5f / 128)) < 1e-3f);
    QVERIFY(std::abs(w.at(31, 0) * 128 - 1) < 0.2f);
  }

  void chanceIsEvenAndKeyed() {
    std::vector<float> keys(20000);
    for (std::size_t i = 0; i < keys.size(); ++i) keys[i] = std::bit_cast<float>(pcg(static_cast<std::uint32_t>(i)));
    Builder b(Domain::numbers());
    b.store(b.random(b.attribute(0), 99), 0);
    std::vector<float> out(keys.size());
    const float* in = keys.data();
    float* to = out.data();
    run_samples(b.build(), keys.size(), {&in, 1}, {&to, 1}, Stop{});
    double mean = 0;
    for (std::size_t i = 0; i < out.size(); ++i) {
      QVERIFY(out[i] >= 0 && out[i] < 1);
      QCOMPARE(out[i], unit_random(99, std::bit_cast<std::uint32_t>(keys[i])));
      mean += static_cast<double>(out[i]);
    }
    QVERIFY(std::abs(mean / 20000 - 0.5) < 0.01);
  }

  void targetsShareWhatIsThereAlready() {
    Builder b(Domain::texels(64));
    const PlanePtr source = shared(bumpy(64, 1));
    const Reg here = b.read(source), twice = b.mul(here, 2);
    Targets targets(b, 64);
    const Field colour = targets.field({.kind = Kind::colour, .at = {here, twice, twice}});
    const Field again = targets.field({.kind = Kind::scalar, .at = {twice}});
    targets.run(Stop{});
    QCOMPARE(colour.strand[0], source);
    QCOMPARE(colour.strand[1], colour.strand[2]);
    QCOMPARE(again.strand[0], colour.strand[1]);
    QCOMPARE(targets.bytes(), source->bytes());
    for (std::size_t i = 0; i < source->texels(); ++i) QCOMPARE(again.strand[0]->data()[i], 2 * source->data()[i]);
  }
  void aSetOpenedAgainCopiesNothing() {
    Fields in;
    in["base_colour"] = bumpy_field(Kind::colour, 64, 1);
    in["roughness"] = bumpy_field(Kind::scalar, 64, 2);
    Fields cord;
    cord["set"] = weave_alone(*catalogue().find("make_set"), 64, in).at("set");
    const auto out = weave_alone(*catalogue().find("open_set"), 64, cord);
    for (std::size_t i = 0; i < 3; ++i) QCOMPARE(out.at("base_colour").strand[i], in["base_colour"].strand[i]);
    QCOMPARE(out.at("roughness").strand[0], in["roughness"].strand[0]);
  }

  void aStopEndsARunEarly() {
    Stop stop;
    stop.ask();
    Builder b(Domain::texels(64));
    b.store(b.u(), 0);
    Plane out = Plane::filled(64, -1);
    Plane* p = &out;
    run_texels(b.build(), 64, {&p, 1}, stop);
    QCOMPARE(out.at(5, 5), -1.0f);
  }
};

QTEST_GUILESS_MAIN(TestProgram)
#include "tst_program.moc"
