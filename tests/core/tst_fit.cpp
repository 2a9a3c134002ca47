// Likeness of pictures, and dials that are found again.
#include <QtTest>
#include <numbers>

#include "core/bolt/fit.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/io/middle_square.h"
#include "core/plane/colour.h"
#include "core/proof/likeness.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr int kN = kLikenessSize;

template <class F>
Likeness grey(const F& f) {
  const Plane p = painted(kN, f);
  return likeness_of({&p, &p, &p});
}

Likeness coloured(int which, int du = 0) {
  const Plane a = rolled(bumpy(kN, which), du, 0), b = rolled(bumpy(kN, which + 1), du, 0),
              c = rolled(bumpy(kN, which + 2), du, 0);
  return likeness_of({&a, &b, &c});
}

// Clouds between two greys: how many, how bright.
Material clouds() {
  Material m = edit::empty_material();
  const std::string lane = m.lanes[0].id;
  for (const char* type : {"gradient_noise", "remap"}) m = edit::add_node(std::move(m), catalogue(), type, lane, 0, 0);
  m = edit::connect(std::move(m), {"gradient_noise", "value", "remap", catalogue().find("remap")->inputs[0].id});
  m = edit::set_hem(std::move(m), "base_colour", "remap." + catalogue().find("remap")->outputs[0].id);
  m = edit::make_dial(std::move(m), catalogue(), "gradient_noise", "scale");
  m = edit::make_dial(std::move(m), catalogue(), "remap", "to_high");
  m.values[0].dial->least = 2, m.values[0].dial->most = 30;
  m.values[1].dial->least = 0, m.values[1].dial->most = 1;
  return m;
}

Image picture_of(const Material& m, int size) {
  Weaver w(0);
  const auto graph = flatten(m, catalogue());
  if (!graph) qFatal("%s", graph.error().text().c_str());
  const auto woven = w.weave(*graph, {Want(graph->hem.at("base_colour"), Kind::colour)}, size, Stop{});
  Image image{size, size, 3, false, {}};
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x)
      for (const PlanePtr& p : {woven->fields[0].strand[0], woven->fields[0].strand[1], woven->fields[0].strand[2]})
        image.values.push_back(p->at(x, y));
  return image;
}

// In eight bits, as a file has it.
Image in_codes(Image image) {
  for (float& x : image.values) x = static_cast<float>(code_of(srgb_from_linear(std::clamp(x, 0.0f, 1.0f)), 255)) / 255;
  image.srgb = true;
  return image;
}

// A dial that shows by two codes at most, beside one that shows plainly.
Material faint() {
  Material m = edit::empty_material();
  const std::string lane = m.lanes[0].id;
  for (const char* type : {"gradient_noise", "value_noise", "formula"})
    m = edit::add_node(std::move(m), catalogue(), type, lane, 0, 0);
  m = edit::connect(std::move(m), {"gradient_noise", "value", "formula", "a"});
  m = edit::connect(std::move(m), {"value_noise", "value", "formula", "b"});
  m = edit::set_param(std::move(m), "formula", "formula", std::string("0.2 + c * a + d * (b - 0.5)"));
  m = edit::set_hem(std::move(m), "base_colour", "formula.result");
  m = edit::make_dial(std::move(m), catalogue(), "formula", "c");
  m = edit::make_dial(std::move(m), catalogue(), "formula", "d");
  m.values[0].dial->least = 0, m.values[0].dial->most = 0.5;
  m.values[1].dial->least = 0, m.values[1].dial->most = 0.02;
  return m;
}

double dial(const Material& m, std::size_t i) { return std::get<double>(m.values[i].value); }

}  // namespace

class TestFit : public QObject {
  Q_OBJECT

 private Q_SLOTS:
  void whatIsAlikeIsNear() {
    const Likeness a = coloured(1);
    QCOMPARE(unlikeness(a, coloured(1)), 0.0);
    // What lies elsewhere is still alike; what is another is not.
    const double moved = unlikeness(a, coloured(1, 37)), other = unlikeness(a, coloured(4));
    QVERIFY2(moved < 0.5 * other, qPrintable(QStringLiteral("%1 %2").arg(moved).arg(other)));
    QCOMPARE(unlikeness(a, coloured(4)), unlikeness(coloured(4), a));
  }
  // Oklab of white is (1, 0, 0), of black nothing (Ottosson, 2020): the quantiles of an even picture are those.
  void coloursAreThoseOfOklab() {
    const Likeness white = grey([](double, double) { return 1.0; });
    for (std::size_t i = 0; i < 17; ++i) {
      QVERIFY(std::abs(white.colours[i] - 1 / 0.05f) < 0.02f);
      QVERIFY(std::abs(white.colours[17 + i]) < 0.02f && std::abs(white.colours[34 + i]) < 0.02f);
    }
    for (const float g : white.gradients) QVERIFY(std::abs(g) < 0.03f);
  }
  // A grating has its power in its own ring and direction, and is like itself a period on (Wiener-Khinchin theorem).
  void aGratingIsFoundInItsRing() {
    const auto wave = [](double u, double) { return std::pow(0.5 + 0.2 * std::cos(2 * std::numbers::pi * 16 * u), 3); };
    const Likeness across = grey(wave), down = grey([&](double u, double v) { return wave(v, u); });
    const auto strongest = std::ranges::max_element(across.spectrum) - across.spectrum.begin();
    QCOMPARE(strongest / 6, 6);  // half octaves from two waves on: 16 = 2 * 2^(6/2)
    QCOMPARE(strongest % 6, 3);  // along u
    const auto turned = std::ranges::max_element(down.spectrum) - down.spectrum.begin();
    QCOMPARE(turned / 6, 6);
    QVERIFY(turned % 6 != 3);
    // Lags along u come first: 2, 3, ... 8, 10, ... 16, 19; half a period is 8, a whole one 16.
    std::vector<int> lags;
    for (int lag = 2; lag < kN / 2; lag += 1 + lag / 8) lags.push_back(lag);
    const auto at = [&](int lag) {
      return across.repeats[static_cast<std::size_t>(std::ranges::find(lags, lag) - lags.begin())] * 0.1f;
    };
    QVERIFY2(at(8) < -0.7f && at(16) > 0.7f, qPrintable(QStringLiteral("%1 %2").arg(at(8)).arg(at(16))));
  }
  void whatShowsFaintlyIsFoundWhereThePictureLiesOverTheTile() {
    const Material m = edit::set_value(edit::set_value(faint(), faint().values[0].id, 0.1), faint().values[1].id, 0.0);
    const Material hidden = edit::set_value(edit::set_value(m, m.values[0].id, 0.31), m.values[1].id, 0.013);
    FitWish wish;
    wish.tries = 400;
    const auto found = fit(m, catalogue(), in_codes(picture_of(hidden, 512)), wish, {}, Stop{});
    QVERIFY2(found, qPrintable(found ? QString() : QString::fromStdString(found.error().text())));
    QVERIFY2(std::abs(dial(found->best.material, 0) - 0.31) < 0.005,
             std::to_string(dial(found->best.material, 0)).c_str());
    QVERIFY2(std::abs(dial(found->best.material, 1) - 0.013) < 0.0004,
             std::to_string(dial(found->best.material, 1)).c_str());
    QVERIFY(found->best.tried < 400);  // it knows that it is there
  }
  void hiddenDialsAreFound() {
    const Material m = clouds();
    Material hidden = edit::set_value(m, m.values[0].id, 17.0);
    hidden = edit::set_value(std::move(hidden), m.values[1].id, 0.37);
    FitWish wish;
    wish.seconds = 60;
    int told = 0;
    double last = 1e9;
    const auto found = fit(
        m, catalogue(), picture_of(hidden, 512), wish,
        [&](const FitState& s) {
          ++told;
          QVERIFY(s.unlikeness < last);
          last = s.unlikeness;
        },
        Stop{});
    QVERIFY(found.ok());
    QVERIFY(told > 1 && last == found->best.unlikeness && found->best.unlikeness < found->before);
    QVERIFY2(std::abs(dial(found->best.material, 0) - 17) < 0.05 * 28,
             qPrintable(QString::number(dial(found->best.material, 0))));
    QVERIFY2(std::abs(dial(found->best.material, 1) - 0.37) < 0.05,
             qPrintable(QString::number(dial(found->best.material, 1))));
    QCOMPARE(found->turned.size(), std::size_t{2});
    QVERIFY(found->in_time);
    // What is woven is compared pixel for pixel with what was: the right dials leave nothing.
    QVERIFY2(found->best.unlikeness < 0.005, qPrintable(QString::number(found->best.unlikeness)));
  }
  // Means of what a pixel covers, whole or in part.
  void aSquareIsOfMeans() {
    Image ramp{6, 4, 1, false, {}};
    for (int y = 0; y < 4; ++y)
      for (int x = 0; x < 6; ++x) ramp.values.push_back(static_cast<float>(10 * y + x));
    const auto two = middle_square(ramp, 2);
    QCOMPARE(two[0].at(0, 0), (1 + 2 + 11 + 12) / 4.0f);
    QCOMPARE(two[2].at(1, 1), (23 + 24 + 33 + 34) / 4.0f);
    const auto three = middle_square(ramp, 3);  // 4/3 of a pixel wide
    QVERIFY(std::abs(three[0].at(0, 0) - ((1 + 2 / 3.0f) + 10 / 3.0f) / (4 / 3.0f)) < 1e-5f);
    const auto eight = middle_square(ramp, 8);
    QCOMPARE(eight[1].at(7, 7), 34.0f);
    QCOMPARE(eight[1].at(2, 0), 2.0f);
  }
  // Of a picture of two tiles, wider than high: its middle square is taken.
  void aPictureMayShowSeveralTiles() {
    const Material m = clouds();
    const Material hidden = edit::set_value(m, m.values[1].id, 0.2);
    const Image one = picture_of(hidden, 256);
    Image two{640, 512, 3, false, {}};
    for (int y = 0; y < 512; ++y)
      for (int x = 0; x < 640; ++x)
        for (int c = 0; c < 3; ++c)
          two.values.push_back(one.values[static_cast<std::size_t>((y % 256) * 256 + (x + 192) % 256) * 3 +
                                          static_cast<std::size_t>(c)]);
    FitWish wish{{m.values[1].id}, 60, 2, 60};
    const auto found = fit(m, catalogue(), two, wish, {}, Stop{});
    QVERIFY(found.ok());
    QVERIFY2(std::abs(dial(found->best.material, 1) - 0.2) < 0.03,
             qPrintable(QString::number(dial(found->best.material, 1))));
    QCOMPARE(dial(found->best.material, 0), dial(m, 0));  // not asked for
  }
  void whatDoesNotShowIsLeftAlone() {
    Material m = clouds();
    m = edit::add_node(std::move(m), catalogue(), "value", m.lanes[0].id, 0, 0);
    m = edit::set_hem(std::move(m), "roughness", "value.value");
    m = edit::make_dial(std::move(m), catalogue(), "value", "value");
    m.values[2].dial->label = "Dull";
    FitWish wish{{m.values[2].id}, 5, 1};
    const auto found = fit(m, catalogue(), picture_of(m, 64), wish, {}, Stop{});
    QVERIFY(found.ok());
    QCOMPARE(found->idle, std::vector<std::string>{"Dull"});
    QVERIFY(found->turned.empty() && found->best.material.values[2].value == m.values[2].value);
  }
  // The same way each time: what it goes through does not depend on the clock until that is over.
  void theSameWishFindsTheSame() {
    const Material m = clouds();
    const Image picture = picture_of(edit::set_value(m, m.values[1].id, 0.8), 128);
    const FitWish wish{{m.values[1].id}, 60, 1, 120};
    const auto once = fit(m, catalogue(), picture, wish, {}, Stop{});
    const auto again = fit(m, catalogue(), picture, wish, {}, Stop{});
    QVERIFY(once.ok() && again.ok());
    QCOMPARE(dial(once->best.material, 1), dial(again->best.material, 1));
    QCOMPARE(once->best.tried, again->best.tried);
  }
  void itStopsWithTheBest() {
    const Material m = clouds();
    Stop stop;
    const auto found = fit(
        m, catalogue(), picture_of(edit::set_value(m, m.values[1].id, 0.8), 128), {},
        [&](const FitState&) { stop.ask(); }, stop);
    QVERIFY(found.ok());
    QVERIFY(found->best.unlikeness < found->before);
    QVERIFY(!(found->best.material.values[1].value == m.values[1].value) ||
            !(found->best.material.values[0].value == m.values[0].value));
  }
  void whatCannotBeIsSaid() {
    const Material m = clouds();
    const Image picture = picture_of(m, 64);
    const auto refused = [&](const Material& of, const Image& image, const FitWish& wish, const char* why) {
      const auto found = fit(of, catalogue(), image, wish, {}, Stop{});
      QVERIFY(!found.ok());
      QVERIFY2(found.error().text().find(why) != std::string::npos, found.error().text().c_str());
    };
    refused(m, picture, {{"nothing"}, 1, 1}, "is no dial of this material. It has ");
    refused(m, picture, {{}, 1, 0}, "is not within 0.05 and 16");
    refused(m, Image{8, 8, 3, true, std::vector<float>(192)}, {}, "smaller than 32 x 32");
    refused(edit::empty_material(), picture, {}, "no dials that can be turned");
    Material bare = m;
    bare.hem.erase("base_colour");
    refused(bare, picture, {}, "no base colour");
    Material shaded = edit::add_node(m, catalogue(), "facing", m.lanes[0].id, 0, 0);
    shaded = edit::set_hem(std::move(shaded), "base_colour", "facing." + catalogue().find("facing")->outputs[0].id);
    refused(shaded, picture, {}, "depends on the shape");
  }
};

QTEST_GUILESS_MAIN(TestFit)
#include "tst_fit.moc"
