// Variation sheets: what is asked for is what is drawn, whatever the order, and the page says which is which.
#include <QtTest>
#include <mutex>
#include <numeric>

#include "core/bolt/package.h"
#include "core/bolt/sheet.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"

using namespace loom;

namespace {

Material demo() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }

SheetPlan plan_of(const Material& m, std::initializer_list<const char*> over, int size = 32) {
  SheetPlan plan;
  plan.size = size;
  for (const char* text : over) {
    auto axis = axis_from(m, text);
    if (!axis) qFatal("%s", axis.error().text().c_str());
    plan.axes.push_back(*axis);
  }
  return plan;
}

std::vector<int> all_of(const SheetPlan& plan) {
  std::vector<int> all(static_cast<std::size_t>(plan.count()));
  std::iota(all.begin(), all.end(), 0);
  return all;
}

std::vector<SheetPicture> drawn(const Material& m, const SheetPlan& plan, const std::vector<int>& wanted) {
  std::vector<SheetPicture> pictures(static_cast<std::size_t>(plan.count()));
  std::mutex mutex;
  const auto done = draw_sheet(
      m, catalogue(), plan, wanted,
      [&](int i, SheetPicture p) {
        const std::lock_guard lock(mutex);
        pictures[static_cast<std::size_t>(i)] = std::move(p);
      },
      Stop{});
  if (!done) qFatal("%s", done.error().text().c_str());
  return pictures;
}

}  // namespace

class TestSheet : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void axesAreRead_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("values");
    QTest::addColumn<QString>("says");
    const auto row = [](const char* text, const char* values, const char* says) {
      QTest::newRow(text) << QString::fromLatin1(text) << QString::fromLatin1(values) << QString::fromLatin1(says);
    };
    row("seed=3..6", "3 4 5 6", "");
    row("seed=6..3", "6 5 4 3", "");
    row("seed=1..9:3", "1 5 9", "");
    row("wear=0..1:5", "0 0.25 0.5 0.75 1", "");
    row("Wear=0.1,0.7", "0.1 0.7", "");
    row("wear=0.5..0.5:1", "0.5", "");
    row("wear=0..1", "0 1", "");
    row("wear=0..0.6", "", "how many");
    row("wear=a..b:3", "", "no row");
    row("wear=0..1:0", "", "no row");
    row("wear=0..1:2000", "", "1024");
    row("seed=1..100000000", "", "1024");
    row("taste=1..2", "", "wear");
    row("units=1..99999:2", "", "is outside");
    row("wear=much", "", "number");
    row("seed=any", "", "no number");
    row("wear", "", "neither");
    row("", "", "neither");
  }
  void axesAreRead() {
    QFETCH(QString, text);
    QFETCH(QString, values);
    QFETCH(QString, says);
    const auto axis = axis_from(demo(), text.toStdString());
    QCOMPARE(axis.ok(), says.isEmpty());
    if (!axis) {
      QVERIFY2(QString::fromStdString(axis.error().text()).contains(says), axis.error().text().c_str());
      return;
    }
    QStringList got;
    for (const std::string& v : axis->values) got << QString::fromStdString(v);
    QCOMPARE(got.join(QLatin1Char(' ')), values);
  }

  void statesAreThoseOfDialsAndPresets() {
    const Material m = demo();
    const SheetPlan two = plan_of(m, {"wear=0..1:3", "salt=0,0.4"});
    QCOMPARE(two.columns(), 3);
    QCOMPARE(two.rows(), 2);
    const Material last = *sheet_state(m, catalogue(), two, 5);
    QCOMPARE(std::get<double>(last.value("wear")->value), 1.0);
    QCOMPARE(std::get<double>(last.value("salt")->value), 0.4);
    QCOMPARE(sheet_words(two, 1), std::string("Wear 0.5, Salt 0"));
    const SheetPlan presets = plan_of(m, {"presets"});
    QCOMPARE(presets.count(), static_cast<int>(m.presets.size()) + 1);
    QCOMPARE(sheet_state(m, catalogue(), presets, 1)->value("wear")->value,
             edit::apply_preset(m, m.presets[0]).value("wear")->value);
    SheetPlan vast = plan_of(m, {"seed=1..1000", "wear=0..1:5"});
    QVERIFY(sheet_fault(vast) && sheet_fault(SheetPlan{}));
  }

  void picturesDoNotDependOnTheOrder() {
    const Material m = demo();
    const SheetPlan plan = plan_of(m, {"seed=1..6"});
    const auto all = drawn(m, plan, all_of(plan));
    for (const SheetPicture& p : all) QCOMPARE(p.size(), std::size_t{32 * 32 * 3});
    QVERIFY(all[0] != all[1]);
    const auto some = drawn(m, plan, {4, 1});
    QVERIFY(some[4] == all[4] && some[1] == all[1] && some[0].empty());
  }

  void litOnesAreLit() {
    const Material m = demo();
    SheetPlan plan = plan_of(m, {"wear=0,1"});
    const auto flat = drawn(m, plan, all_of(plan));
    plan.lit = true;
    const auto lit = drawn(m, plan, all_of(plan));
    QVERIFY(lit[0] != flat[0] && lit[0] != lit[1]);
    // A ball on the picture's grey: the corner is even, the middle is not.
    QVERIFY(std::abs(lit[0][0] - 0x76) < 8);
    QVERIFY(drawn(m, plan, {1})[1] == lit[1]);
  }

  void thePageHoldsThemAndTheirValues() {
    const Material m = demo();
    for (const bool two : {false, true}) {
      const SheetPlan plan = two ? plan_of(m, {"wear=0..1:3", "salt=0,0.4"}) : plan_of(m, {"seed=1..6"});
      std::vector<SheetPicture> pictures;
      for (int i = 0; i < 6; ++i) pictures.push_back(SheetPicture(32 * 32 * 3, static_cast<std::uint8_t>(10 + i)));
      const PrintedSheet page = print_sheet(plan, pictures);
      QCOMPARE(page.pixels.size(), static_cast<std::size_t>(3 * page.width * page.height));
      for (int i = 0; i < 6; ++i)
        QCOMPARE(std::count(page.pixels.begin(), page.pixels.end(), static_cast<std::uint8_t>(10 + i)), 32 * 32 * 3);
      // Letters are darker than the paper and outside the pictures.
      const auto ink =
          std::count_if(page.pixels.begin(), page.pixels.end(), [](std::uint8_t v) { return v > 20 && v < 200; });
      QVERIFY2(ink > 100, qPrintable(QString::number(ink)));
    }
  }

  void stoppedItStops() {
    const Material m = demo();
    const SheetPlan plan = plan_of(m, {"seed=1..500"}, 128);
    const Stop stop;
    std::atomic<int> made{0};
    const auto done = draw_sheet(
        m, catalogue(), plan, all_of(plan),
        [&](int, SheetPicture) {
          if (++made == 3) stop.ask();
        },
        stop);
    QVERIFY(!done.ok() && made < 100);
  }
};

QTEST_GUILESS_MAIN(TestSheet)
#include "tst_sheet.moc"
