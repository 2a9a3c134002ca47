// The board's geometry and small pictures, without a window: where things stand, and that threads find their ends.
#include "tests/app/driving.h"

#include "app/tray/slider.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestBoard : public QObject {
  Q_OBJECT
  static BoardLayout laid_out(const Material& m, double zoom = 1) {
    BoardLayout l;
    std::map<std::string, qreal> pegs;
    qreal x = 20;
    for (const auto& [slot, from] : m.hem) pegs[slot] = x += 60;
    l.build(m, catalogue(), zoom, 800, 900, pegs);
    return l;
  }
  static Material floor() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void threadsRunFromPegToPeg() {
    const Material m = floor();
    const BoardLayout l = laid_out(m);
    QCOMPARE(l.threads().size(), m.threads.size() + m.hem.size());
    for (const ThreadPlace& t : l.threads()) {
      const auto [node, peg] = split_output(t.from);
      const auto at = [&](const std::vector<PegPlace>& pegs, const std::string& id) {
        for (const PegPlace& p : pegs)
          if (p.peg == id) return p.at;
        return QPointF();
      };
      QVERIFY((t.path.pointAtPercent(0) - at(l.tag(node)->outputs, peg)).manhattanLength() < 1);
      if (t.toHem) {
        QVERIFY(std::abs(t.path.pointAtPercent(1).y() - 900) < 1);
        continue;
      }
      const auto [target, in] = split_output(t.to);
      QVERIFY((t.path.pointAtPercent(1) - at(l.tag(target)->inputs, in)).manhattanLength() < 1);
    }
  }
  // What does not fit is told in its lane, and no more once it is scrolled into sight.
  void whatLiesBelowIsTold() {
    Board board;
    board.resize(850, 560);
    board.show();
    board.showMaterial(floor());
    board.fitAll();
    const auto below = board.view().below();
    QVERIFY(below.count("salt") && !below.count("relief"));
    QCOMPARE(below.at("salt"), 2);  // the tiles in grout, and the salt over them
    board.scrollTo(QPointF(0, 1e6));
    QVERIFY(board.view().below().empty());
  }
  void dataRunsDown() {
    for (const char* demo : {"/quay-floor.loom", "/copper-shingles.loom"}) {
      const Material m = *open_material(std::string(LOOM_DEMO) + demo);
      const BoardLayout l = laid_out(m);
      for (const Thread& t : m.threads)
        QVERIFY2(l.tag(t.from_node)->rect.bottom() < l.tag(t.to_node)->rect.top(),
                 (t.from_node + " " + t.to_node).c_str());
    }
  }
  void cellsAndPlacesAreInverse() {
    const BoardLayout l = laid_out(floor());
    for (const NodePtr& n : floor().nodes) {
      const auto cell = l.cellAt(l.cellRect({n->lane, n->column, n->row}).center());
      QCOMPARE(cell.lane, n->lane);
      QCOMPARE(cell.column, n->column);
      QCOMPARE(cell.row, n->row);
    }
  }
  void lanesCloseRanksAndCollapse() {
    const Material m = floor();
    const auto whole = laid_out(m).lanes();
    for (std::size_t i = 1; i < whole.size(); ++i)
      QVERIFY(std::abs(whole[i].rect.left() - whole[i - 1].rect.right()) < 0.5);
    const Material c = edit::collapse_lane(m, "glaze", true);
    const BoardLayout l = laid_out(c);
    QCOMPARE(l.lanes()[1].rect.width(), BoardLayout::kCollapsedWidth);
    for (const TagPlace& t : l.tags()) QCOMPARE(t.hidden, c.node(t.node)->lane == "glaze");
    // Nothing within a collapsed lane can be pointed at.
    for (const TagPlace& t : l.tags())
      if (t.hidden) QVERIFY(!l.pegNear(t.rect.center(), 4));
  }
  void pegsAreFoundNearThePointer() {
    const BoardLayout l = laid_out(floor());
    const PegPlace& p = l.tag("worn")->inputs[1];
    const PegPlace* found = l.pegNear(p.at + QPointF(2, -2), 8);
    QVERIFY(found && found->node == "worn" && found->peg == p.peg && found->input);
    QVERIFY(!l.pegNear(QPointF(5, 5), 4));
  }

  void picturesEncodeColoursAndLeaveDataRaw() {
    Field f;
    f.kind = Kind::colour;
    for (std::size_t i = 0; i < 3; ++i) f.strand[i] = std::make_shared<Plane>(Plane::filled(16, 0.2158605f));
    QCOMPARE(qRed(pictureOf(f).pixel(3, 3)), 128);  // sRGB code 128 is linear 0.2158605 (IEC 61966-2-1)
    f.kind = Kind::vector3;
    QCOMPARE(qRed(pictureOf(f).pixel(3, 3)), 55);
    f.kind = Kind::normal;
    QCOMPARE(qRed(pictureOf(f).pixel(3, 3)), 155);  // -1..1 shown as 0..1
    f.strand[1] = std::make_shared<Plane>(Plane::filled(16, -3));
    f.strand[2] = std::make_shared<Plane>(Plane::filled(16, std::nanf("")));
    f.kind = Kind::vector3;
    QCOMPARE(pictureOf(f).pixel(3, 3), qRgb(55, 0, 0));
    QCOMPARE(qGreen(pictureOf(f, 0).pixel(3, 3)), 55);  // one channel is grey
  }

  void numbersAreWrittenWithUnitsAndReadAsArithmetic() {
    QCOMPARE(numberText(0.012, Unit::share_of_tile, false), QStringLiteral("1.2 %"));
    QCOMPARE(numberText(45, Unit::degrees, false), QStringLiteral("45°"));
    QCOMPARE(numberText(7.0, Unit::count, true), QStringLiteral("7"));
    const std::pair<const char*, double> rows[] = {
        {"1/8", 0.125}, {"3 %", 0.03}, {"45°", 45}, {"2*(1+2)", 6}, {"0.123456789", 0.123456789}, {"-1", -1}};
    for (const auto& [text, e] : rows) {
      double v = 0;
      QVERIFY2(numberFromText(QString::fromUtf8(text), v), text);
      QVERIFY2(std::abs(v - e) < 1e-9, text);
    }
    double v = 0;
    // A field that shows per cent reads per cent.
    for (const auto& [text, e] : {std::pair{"0.8", 0.008}, {"1/8", 0.00125}, {"12.5 %", 0.125}})
      QVERIFY2(numberFromText(QString::fromUtf8(text), v, Unit::share_of_tile) && std::abs(v - e) < 1e-12, text);
    for (const char* bad : {"", "abc", "1 +", "%"}) QVERIFY2(!numberFromText(QString::fromUtf8(bad), v), bad);
  }
  void slidersStepFinelyCoarselyAndReset() {
    Slider s;
    s.resize(112, 14);
    s.showValue(0.5, 0, 1, 0.25, false);
    double seen = 0;
    int resets = 0;
    connect(&s, &Slider::valueWanted, &s, [&](double v) { seen = v; });
    connect(&s, &Slider::resetWanted, &s, [&] { ++resets; });
    QTest::keyClick(&s, Qt::Key_Right);
    QVERIFY(std::abs(seen - 0.51) < 1e-9);
    QTest::keyClick(&s, Qt::Key_Right, Qt::ShiftModifier);
    QVERIFY(std::abs(seen - 0.511) < 1e-9);
    QTest::keyClick(&s, Qt::Key_Left, Qt::ControlModifier);
    QVERIFY(std::abs(seen - 0.411) < 1e-9);
    QTest::keyClick(&s, Qt::Key_End);
    QCOMPARE(seen, 1.0);
    QTest::mouseDClick(&s, Qt::LeftButton, {}, QPoint(50, 7));
    QCOMPARE(resets, 1);
    s.showValue(3.4, 0, 10, 0, true);
    QTest::keyClick(&s, Qt::Key_Right);
    QCOMPARE(seen, 4.0);  // whole numbers stay whole
  }
  void rowsShowWhereAValueComesFrom() {
    const NodeType& t = *catalogue().find("masonry");
    RowView v{*t.parameter("tone"), t.parameter("tone")->initial};
    ParameterRow row(v);
    QVERIFY(row.findChild<QWidget*>());
    ParamValue wanted;
    connect(&row, &ParameterRow::valueWanted, &row, [&](const ParamValue& x) { wanted = x; });
    // The control follows the value's shape: a rule, then a number, then a formula.
    for (const ParamValue& shape : {ParamValue(Rule{}), ParamValue(0.5), ParamValue(Formula{"row", {}})}) {
      v.value = shape;
      row.showView(v);
      QCOMPARE(row.findChildren<Slider*>().isEmpty(), shape.index() != 0);
    }
    v.acts = false;
    v.why = QStringLiteral("It rests.");
    row.showView(v);
    QCOMPARE(row.toolTip(), QStringLiteral("It rests."));
  }
};

QTEST_MAIN(TestBoard)
#include "tst_board.moc"
