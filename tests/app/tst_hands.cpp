// What hands do in the real window: threads led through guides, lanes dragged, the board moved under the pointer;
// wheels, pads and names of parameters turned, and values that hold formulas.
#include "tests/app/driving.h"

#include <QCheckBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QTableWidget>

#include "app/board/board.h"
#include "app/loupe/loupe.h"
#include "app/tray/screen_colour.h"
#include "app/tray/slider.h"
#include "app/tray/tray.h"
#include "app/tray/turn_controls.h"
#include "app/tray/values_panel.h"
#include "core/graph/edit.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestHands : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;

  const Material& m() const { return w_->document().material(); }
  Board* board() const { return w_->board(); }
  Tray* tray() const { return w_->findChild<Tray*>(); }
  void edit(const Material& next) const { w_->document().edit(QStringLiteral("Set up"), next); }
  void add(const char* type) const {
    std::string id;
    edit(edit::add_node(m(), catalogue(), type, "relief", 0, 0, &id));
    board()->select({id});
  }
  template <class W>
  W* within(const char* parameter) const {
    return tray()->row(parameter)->findChild<W*>();
  }
  double number(const char* node, const char* id) const { return std::get<double>(m().node(node)->params.at(id)); }
  Vector vector(const char* node, const char* id) const { return std::get<Vector>(m().node(node)->params.at(id)); }
  // Two noises far apart and a blend below them.
  void threads() const {
    Material next = m();
    next = edit::add_node(std::move(next), catalogue(), "gradient_noise", "relief", 0, 0);
    next = edit::add_node(std::move(next), catalogue(), "blend", "relief", 1, 4);
    edit(edit::connect(std::move(next), {"gradient_noise", "value", "blend", "lower"}));
  }
  const ThreadPlace& thread() const { return board()->view().layout.threads().front(); }
  QPoint seen(QPointF onBoard) const { return (onBoard - board()->standpoint().scroll).toPoint(); }
  static void drag(QWidget* w, QPoint from, QPoint to, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    QTest::mousePress(w, Qt::LeftButton, modifiers, from);
    for (int i = 1; i <= 4; ++i) {
      QMouseEvent move(QEvent::MouseMove, QPointF(from + (to - from) * i / 4),
                       w->mapToGlobal(QPointF(from + (to - from) * i / 4)), Qt::NoButton, Qt::LeftButton, modifiers);
      QCoreApplication::sendEvent(w, &move);
    }
    QTest::mouseRelease(w, Qt::LeftButton, modifiers, to);
  }
  QImage painted() const {
    QImage image(board()->size(), QImage::Format_RGB32);
    board()->render(&image);
    return image;
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() { w_ = shownWindow(); }
  void cleanup() { closeUnsaved(w_); }

  void aDoubleClickLeadsAThreadThroughAPlace() {
    threads();
    const QPointF middle = thread().path.pointAtPercent(0.5);
    QTest::mouseDClick(board(), Qt::LeftButton, {}, seen(middle));
    QCOMPARE(m().guides.at("blend.lower").size(), std::size_t{1});
    QCOMPARE(thread().guides.size(), std::size_t{1});
    QVERIFY((thread().guides[0] - middle).manhattanLength() < 4);
    // Dragged elsewhere, the thread runs through it there.
    const QPointF to = thread().guides[0] + QPointF(60, 10);
    drag(board(), seen(thread().guides[0]), seen(to));
    QVERIFY((thread().guides[0] - to).manhattanLength() < 4);
    QPainterPathStroker wide;
    wide.setWidth(4);
    QVERIFY(wide.createStroke(thread().path).contains(thread().guides[0]));
    // It goes with its lane, at every zoom, and comes back by one undo.
    board()->setZoom(0.6);
    QVERIFY((board()->view().layout.pointOf(m().guides.at("blend.lower")[0]) - thread().guides[0]).manhattanLength() <
            1);
    w_->document().undo();
    QVERIFY((board()->view().layout.pointOf(m().guides.at("blend.lower")[0]) -
             board()->view().layout.pointOf(board()->view().layout.guideAt(thread().guides[0])))
                .manhattanLength() < 3);
    w_->document().undo();
    QVERIFY(m().guides.empty() && thread().guides.empty());
  }
  void guidesStandInTheOrderOfTheThread() {
    threads();
    const QPointF late = thread().path.pointAtPercent(0.8), early = thread().path.pointAtPercent(0.3);
    QTest::mouseDClick(board(), Qt::LeftButton, {}, seen(late));
    QTest::mouseDClick(board(), Qt::LeftButton, {}, seen(early));
    const auto through = m().guides.at("blend.lower");
    QCOMPARE(through.size(), std::size_t{2});
    QVERIFY(through[0].row < through[1].row ||
            (through[0].row == through[1].row && through[0].column != through[1].column));
  }
  void aThreadIsLedByKeysAlone() {
    threads();
    const auto key = [this](Qt::Key k) { QTest::keyClick(board(), k); };
    const auto through = [this] {
      return m().guides.count("blend.lower") ? m().guides.at("blend.lower") : std::vector<Guide>{};
    };
    board()->setFocus();
    board()->select({"gradient_noise"});
    key(Qt::Key_G);  // no thread comes into it: arrows go on choosing nodes
    key(Qt::Key_Down);
    QCOMPARE(board()->selection(), std::vector<std::string>{"blend"});
    const QPointF middle = thread().path.pointAtPercent(0.5);
    key(Qt::Key_G);
    key(Qt::Key_Right);
    QCOMPARE(through().size(), std::size_t{1});
    QVERIFY((thread().guides[0] - middle).manhattanLength() < 4);
    key(Qt::Key_Right);
    key(Qt::Key_Up);
    const QPointF moved = thread().guides[0] - middle;
    QVERIFY2(moved.x() > 10 && moved.y() < -3, "a step to the right and one up");
    key(Qt::Key_Insert);
    QCOMPARE(through().size(), std::size_t{2});
    QVERIFY(through()[1].row > through()[0].row);
    const Guide first = through()[0];
    key(Qt::Key_Left);  // the new one is at hand
    QVERIFY(through()[0].column == first.column && through()[1].column < through()[0].column);
    key(Qt::Key_Space);
    key(Qt::Key_Delete);  // the first: the nodes stay
    QCOMPARE(through().size(), std::size_t{1});
    QVERIFY(m().node("blend") && through()[0].column < first.column);
    key(Qt::Key_Return);
    key(Qt::Key_Up);
    QCOMPARE(board()->selection(), std::vector<std::string>{"gradient_noise"});
    QCOMPARE(through().size(), std::size_t{1});
    for (int i = 0; i < 6; ++i) w_->document().undo();
    QVERIFY(through().empty());
  }
  void whatIsAddedLandsNearAndWhatIsSplicedInBetween() {
    const auto add = [this](Qt::Key with, const char* typed) {
      QTest::keyClick(board(), with);
      QWidget* line = QApplication::focusWidget();
      QVERIFY(qobject_cast<QLineEdit*>(line));
      QTest::keyClicks(line, QLatin1String(typed));
      QTest::keyClick(line, Qt::Key_Return);
    };
    const auto place = [this](const char* id) { return std::pair(m().node(id)->column, m().node(id)->row); };
    board()->setFocus();
    for (const char* type : {"gradient noise", "tone", "dye"}) add(Qt::Key_Slash, type);
    QCOMPARE(place("dye"), (std::pair{0, 2}));
    // The place under the noise is taken: the one beside it is as near.
    board()->select({"gradient_noise"});
    add(Qt::Key_Slash, "bevel");
    QCOMPARE(place("bevel"), (std::pair{1, 1}));
    // A formula goes into the thread; tone and dye make room.
    board()->select({"gradient_noise"});
    add(Qt::Key_I, "a * a");
    QCOMPARE(place("formula"), (std::pair{0, 1}));
    QCOMPARE(place("tone"), (std::pair{0, 2}));
    QCOMPARE(place("dye"), (std::pair{0, 3}));
    QCOMPARE(m().into("formula", "a")->from_node, std::string("gradient_noise"));
    QCOMPARE(m().into("tone", "value")->from_node, std::string("formula"));
    QVERIFY(!m().into("formula", "b"));
    // A vector of a formula goes where places are taken, and its thread has two strands.
    board()->select({});
    add(Qt::Key_Slash, "vector(u, 2 * v)");
    add(Qt::Key_Slash, "cellular");
    QCOMPARE(m().into("cellular_noise", "coordinates")->from_node, std::string("formula_2"));
    for (const ThreadPlace& t : board()->view().layout.threads())
      if (t.to == "cellular_noise.coordinates") QVERIFY(t.kind == Kind::vector2);
  }
  void aLaneIsDraggedToAnotherPlace() {
    edit(edit::add_lane(edit::add_lane(m(), "Glaze"), "Wear"));
    const auto& lanes = board()->view().layout.lanes();
    QVERIFY(lanes.size() >= 3);
    const std::string first = lanes[0].id;
    const QPoint from(seen(lanes[0].rect.topLeft()).x() + 20, 14), to(seen(lanes[2].rect.topLeft()).x() + 30, 14);
    drag(board(), from, to);
    QCOMPARE(m().lanes[2].id, first);
    w_->document().undo();
    QCOMPARE(m().lanes[0].id, first);
    drag(board(), from, from + QPoint(6, 0));  // a click that trembles moves nothing
    QCOMPARE(m().lanes[0].id, first);
  }
  void aMovedBoardIsPaintedAsIfAnew() {
    QVERIFY(w_->openPath(QStringLiteral(LOOM_DEMO "/quay-floor.loom")));
    settled([this] { return w_->isIdle(); });
    board()->setZoom(1.3);
    board()->select({"worn"});
    for (const QPointF by :
         {QPointF(0, 40), QPointF(37, 0), QPointF(-12, 55), QPointF(3, -90), QPointF(500, 500), QPointF(-1, -1)}) {
      auto at = board()->standpoint();
      at.scroll += by;
      board()->stand(at);
      const QImage moved = painted();
      board()->update();
      const QImage anew = painted();
      // A small picture that is cut by a strip is sampled from another corner: by one code then.
      int differ = 0;
      const auto apart = [](QRgb a, QRgb b) {
        return std::max({std::abs(qRed(a) - qRed(b)), std::abs(qGreen(a) - qGreen(b)), std::abs(qBlue(a) - qBlue(b))});
      };
      for (int y = 0; y < moved.height(); ++y)
        for (int x = 0; x < moved.width(); ++x) differ += apart(moved.pixel(x, y), anew.pixel(x, y)) > 2;
      QVERIFY2(
          differ == 0,
          qPrintable(QStringLiteral("%1 pixels differ after a step of %2, %3").arg(differ).arg(by.x()).arg(by.y())));
    }
  }

  void aWheelTurnsAnAngleRoundAndRound() {
    add("ramp");
    auto* wheel = within<AngleWheel>("angle");
    QVERIFY(wheel);
    const QPoint middle = wheel->rect().center();
    const double before = std::get<double>(catalogue().find("ramp")->parameter("angle")->initial);
    drag(wheel, middle + QPoint(10, 0), middle + QPoint(0, -10));  // a quarter, anticlockwise
    QVERIFY(std::abs(number("ramp", "angle") - before - 90) < 8);
    wheel->setFocus();
    QTest::keyClick(wheel, Qt::Key_Up);
    const double now = number("ramp", "angle");
    QTest::keyClick(wheel, Qt::Key_Right, Qt::ControlModifier);
    QCOMPARE(number("ramp", "angle"), now + 15);
    drag(wheel, middle + QPoint(10, 0), middle + QPoint(7, -7), Qt::ControlModifier);
    QCOMPARE(std::fmod(number("ramp", "angle"), 15), 0.0);
  }
  void aPadMovesBothNumbersAndALinkKeepsTheirRatio() {
    add("gradient_noise");
    add("transform");
    edit(edit::connect(m(), {"gradient_noise", "value", "transform", "source"}));
    const char* const place = "shift";
    auto* pad = within<PlacePad>(place);
    QVERIFY(pad);
    drag(pad, pad->rect().center(), pad->rect().center() + QPoint(10, -8));
    const Vector moved = vector("transform", place);
    QVERIFY(moved[0] != moved[1]);
    edit(edit::set_param(m(), "transform", place, Vector{0.2, 0.4}));
    within<QCheckBox>(place)->setChecked(true);
    auto* field = within<QLineEdit>(place);
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, QStringLiteral("10"));
    QTest::keyClick(field, Qt::Key_Return);
    QVERIFY(std::abs(vector("transform", place)[0] - 0.1) < 1e-9 &&
            std::abs(vector("transform", place)[1] - 0.2) < 1e-9);
    within<QCheckBox>(place)->setChecked(false);
    QTest::keyClick(field, Qt::Key_Up);
    QVERIFY(vector("transform", place)[0] > 0.1);
    QCOMPARE(vector("transform", place)[1], 0.2);
  }
  void aNumberIsScrubbedByItsNameInOneUndoStep() {
    add("threshold");
    QLabel* name = nullptr;
    for (QLabel* l : tray()->row("level")->findChildren<QLabel*>())
      if (l->text() == QStringLiteral("Level")) name = l;
    QVERIFY(name);
    const double before = std::get<double>(catalogue().find("threshold")->parameter("level")->initial);
    drag(name, {4, 6}, {44, 6});
    const double coarse = number("threshold", "level") - before;
    QVERIFY2(coarse > 0.1, QByteArray::number(coarse));
    w_->document().undo();
    QVERIFY(m().node("threshold")->params.count("level") == 0);
    drag(name, {4, 6}, {44, 6}, Qt::ShiftModifier);
    const double fine = number("threshold", "level") - before;
    QVERIFY2(fine > 0 && std::abs(fine * 10 - coarse) < 0.05, QByteArray::number(fine));
  }
  void arrowsStepAFieldAndAgainDrawsASeed() {
    add("gradient_noise");
    auto* field = within<QLineEdit>("scale");
    field->setFocus();
    const double before = std::get<double>(catalogue().find("gradient_noise")->parameter("scale")->initial);
    QTest::keyClick(field, Qt::Key_Up);
    QCOMPARE(number("gradient_noise", "scale"), before + 1);
    QTest::keyClick(field, Qt::Key_Down, Qt::ControlModifier);
    QVERIFY(number("gradient_noise", "scale") < before);
    QPushButton* again = within<QPushButton>("seed");
    QVERIFY(again && again->text() == QStringLiteral("again"));
    std::set<double> seeds;
    for (int i = 0; i < 4; ++i) {
      QTest::mouseClick(again, Qt::LeftButton);
      seeds.insert(number("gradient_noise", "seed"));
    }
    QVERIFY(seeds.size() > 1);
  }
  void anyParameterIsReachedByItsName() {
    add("masonry");
    board()->setFocus();
    const auto turnTo = [this](const char* name) {
      WithModal choose([name](QWidget* dialog) {
        auto* line = dialog->findChild<QLineEdit*>();
        QTest::keyClicks(line, QLatin1String(name));
        QTest::keyClick(line, Qt::Key_Return);
      });
      QTest::keyClick(board(), Qt::Key_Equal);
      w_->activateWindow();
      return QTest::qWaitForWindowActive(w_.get()) ? QApplication::focusWidget() : nullptr;
    };
    // "cross" begins Cross joint; it stands within Units across too.
    QWidget* field = turnTo("cross");
    QVERIFY(tray()->row("cross_joint")->isAncestorOf(field));
    QTest::keyClicks(field, QStringLiteral("0.4"));  // per cent, as the field shows them
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(number("masonry", "cross_joint"), 0.004);
    QCOMPARE(QApplication::focusWidget(), board());
    field = turnTo("linked");
    QTest::keyClick(field, Qt::Key_Space);
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(QApplication::focusWidget(), board());
    turnTo("bed joint, as a dial");
    QVERIFY(std::holds_alternative<Follow>(m().node("masonry")->params.at("bed_joint")) && m().values.back().dial);
    turnTo("corner as a value");  // word by word
    QVERIFY(std::holds_alternative<Follow>(m().node("masonry")->params.at("corner_radius")) && !m().values.back().dial);
    field = turnTo("slant along, by");
    QVERIFY(std::holds_alternative<Rule>(m().node("masonry")->params.at("slant_u")));
    QVERIFY(tray()->row("slant_u")->isAncestorOf(field));
    QTest::keyClick(field, Qt::Key_Escape);
    QCOMPARE(QApplication::focusWidget(), board());
  }
  void aColourIsTypedAsOnScreens() {
    add("colour");
    ParameterRow* row = tray()->row("colour");
    row->focusValue();
    QWidget* field = QApplication::focusWidget();
    QTest::keyClicks(field, QStringLiteral("#7a4a2c"));
    QTest::keyClick(field, Qt::Key_Return);
    const Vector rust = vector("colour_2", "colour");
    QVERIFY(std::abs(rust[0] - 0.19462) < 1e-5 && std::abs(rust[1] - 0.06848) < 1e-5 &&
            std::abs(rust[2] - 0.02519) < 1e-5);
    row->focusValue();
    QTest::keyClicks(field, QStringLiteral("browny"));
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(vector("colour_2", "colour"), rust);
    QVERIFY(!static_cast<QLineEdit*>(field)->text().contains(QStringLiteral("brown")));
  }
  void figuresAndFormulasAreTypedWhereverTheRowIs() {
    add("masonry");
    ParameterRow* length = tray()->row("length");
    auto* slider = length->findChild<Slider*>();
    slider->setFocus();
    QTest::keyClicks(slider, QStringLiteral("0"));
    QWidget* field = QApplication::focusWidget();
    QVERIFY(qobject_cast<QLineEdit*>(field) && length->isAncestorOf(field));
    QTest::keyClicks(field, QStringLiteral(".75"));
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(number("masonry", "length"), 0.75);
    // Escape forgets what was begun.
    slider->setFocus();
    QTest::keyClicks(slider, QStringLiteral("9"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
    QCOMPARE(number("masonry", "length"), 0.75);
    QCOMPARE(QApplication::focusWidget(), board());
    // Letters make it a formula.
    length->focusValue();
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("0.5 + 0.4 * row / rows"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    QVERIFY(
        settled([this] { return std::holds_alternative<Formula>(m().node("masonry")->params.at("length")); }, 5000));
    QCOMPARE(std::get<Formula>(m().node("masonry")->params.at("length")).text, std::string("0.5 + 0.4 * row / rows"));
    w_->document().undo();
    QCOMPARE(number("masonry", "length"), 0.75);
  }
  void aNumberTypedOnTheBoardGoesToTheNodeAtHand() {
    add("threshold");
    board()->setFocus();
    QTest::keyClick(board(), Qt::Key_1);
    QWidget* field = QApplication::focusWidget();
    QVERIFY(field && field != board());
    QTest::keyClicks(field, QStringLiteral("/8"));
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(QApplication::focusWidget(), board());
    QVERIFY(std::any_of(m().node("threshold")->params.begin(), m().node("threshold")->params.end(), [](const auto& p) {
      return std::holds_alternative<double>(p.second) && std::get<double>(p.second) == 0.125;
    }));
    // Without a node at hand figures mean nothing.
    board()->select({});
    QTest::keyClick(board(), Qt::Key_5);
    QCOMPARE(QApplication::focusWidget(), board());
  }
  void stagesAreNamedByKeys() {
    add("threshold");
    board()->setFocus();
    board()->commands().nameStage();
    QWidget* line = QApplication::focusWidget();
    QTest::keyClicks(line, QStringLiteral("Cut"));
    QTest::keyClick(line, Qt::Key_Return);
    QCOMPARE(m().stages.size(), std::size_t{1});
    QCOMPARE(m().stages[0].row, m().node("threshold")->row);
    board()->commands().nameStage();
    line = QApplication::focusWidget();
    QTest::keyClick(line, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClick(line, Qt::Key_Delete);
    QTest::keyClick(line, Qt::Key_Return);
    QVERIFY(m().stages.empty());
  }
  void stopsAreChosenPlacedAndColouredByKeys() {
    add("dye");
    const auto stops = [this] { return std::get<Stops>(m().node("dye")->params.at("stops")); };
    tray()->row("stops")->focusValue();
    const auto key = [](Qt::Key k) { QTest::keyClick(QApplication::focusWidget(), k); };
    const auto type = [](const char* text) {
      for (const char c : QByteArray(text)) QTest::keyClick(QApplication::focusWidget(), c);
    };
    QWidget* bar = QApplication::focusWidget();
    key(Qt::Key_Up);  // the first
    type("#ff8000");  // orange on screens, linear in the document
    key(Qt::Key_Return);
    QCOMPARE(QApplication::focusWidget(), bar);
    QVERIFY2(
        stops()[0].colour[0] == 1 && std::abs(stops()[0].colour[1] - 0.21586) < 1e-5 && stops()[0].colour[2] == 0,
        qPrintable(
            QStringLiteral("%1 %2 %3").arg(stops()[0].colour[0]).arg(stops()[0].colour[1]).arg(stops()[0].colour[2])));
    const std::size_t before = stops().size();
    key(Qt::Key_Insert);
    QCOMPARE(stops().size(), before + 1);
    QCOMPARE(stops().back().colour, stops()[0].colour);
    type(".125");
    key(Qt::Key_Return);
    QCOMPARE(stops().back().at, 0.125);
    type("#123456");
    key(Qt::Key_Escape);  // leaves the tray; what was begun is gone
    QCOMPARE(QApplication::focusWidget(), board());
    QCOMPARE(stops().back().colour, stops()[0].colour);
    tray()->row("stops")->focusValue();
    type("# nonsense");
    key(Qt::Key_Return);
    QCOMPARE(stops().back().colour, stops()[0].colour);
    key(Qt::Key_Delete);
    QCOMPARE(stops().size(), before);
    auto linear = colourFromText(QStringLiteral("0.5, 1/4, 2"));
    QVERIFY(linear && *linear == (Vector{0.5, 0.25, 2}));
    QVERIFY(!colourFromText(QStringLiteral("0.5, 0.25")) && !colourFromText(QStringLiteral("#12")));
  }
  // Names and numbers of SVG 1.1, 4.4; oklch() of CSS Color Module Level 4, whose example values for sRGB red, green
  // and a mid grey these are (from memory).
  void coloursAreTypedByNameAndInOklch_data() {
    QTest::addColumn<QString>("typed");
    QTest::addColumn<QString>("screen");
    QTest::newRow("a name") << "darkolivegreen"
                            << "#556b2f";
    QTest::newRow("a name in words") << "Dark Olive Green"
                                     << "#556b2f";
    QTest::newRow("red") << "oklch(62.796% 0.25768 29.234)"
                         << "#ff0000";
    QTest::newRow("green") << "oklch(0.51975 0.17686 142.495)"
                           << "#008000";
    QTest::newRow("grey") << "oklch(0.59987 0 0deg)"
                          << "#808080";
  }
  void coloursAreTypedByNameAndInOklch() {
    QFETCH(QString, typed);
    QFETCH(QString, screen);
    const auto got = colourFromText(typed);
    QVERIFY(got.has_value());
    const QColor now = screenColour(*got), wanted(screen);
    QVERIFY2(std::abs(now.red() - wanted.red()) <= 1 && std::abs(now.green() - wanted.green()) <= 1 &&
                 std::abs(now.blue() - wanted.blue()) <= 1,
             qPrintable(now.name()));
    QVERIFY(!colourFromText(QStringLiteral("oklch(62%)")) && !colourFromText(QStringLiteral("no such colour")));
  }
  void aCurvesPointIsTypedAndMovedByKeys() {
    add("tone");
    const auto points = [this] { return std::get<Points>(m().node("tone")->params.at("curve")); };
    QWidget* field = nullptr;
    for (QWidget* w : tray()->row("curve")->findChildren<QWidget*>())
      if (w->accessibleName() == QStringLiteral("Curve") && w->focusPolicy() == Qt::StrongFocus &&
          !w->findChild<QLineEdit*>())
        field = w;
    QVERIFY(field);
    QTest::mouseClick(field, Qt::LeftButton, {}, field->rect().center());
    QCOMPARE(points().size(), std::size_t{3});
    const auto fields = tray()->row("curve")->findChildren<QLineEdit*>();
    QCOMPARE(fields.size(), 2);
    fields[1]->setFocus();
    fields[1]->selectAll();
    QTest::keyClicks(fields[1], QStringLiteral("7/8"));
    QTest::keyClick(fields[1], Qt::Key_Return);
    QCOMPARE(points()[2].y, 0.875);
    QCOMPARE(QApplication::focusWidget(), field);
    QTest::keyClick(field, Qt::Key_Right);
    QTest::keyClick(field, Qt::Key_Up, Qt::ShiftModifier);
    QCOMPARE(points()[2].y, 0.876);
    QTest::keyClick(field, Qt::Key_Period);  // the next to the right: the end
    QCOMPARE(fields[0]->text(), QStringLiteral("1"));
    QTest::keyClick(field, Qt::Key_Comma);
    QTest::keyClick(field, Qt::Key_Delete);
    QCOMPARE(points().size(), std::size_t{2});
  }
  void chosenParametersArePasted() {
    add("threshold");
    edit(edit::set_param(edit::set_param(m(), "threshold", "level", 0.3), "threshold", "softness", 0.2));
    board()->commands().copyParameters();
    std::string id;
    edit(edit::add_node(m(), catalogue(), "threshold", "relief", 1, 0, &id));
    board()->select({id});
    const WithModal untick([](QWidget* dialog) {
      auto* list = dialog->findChild<QListWidget*>();
      for (int i = 0; i < list->count(); ++i)
        if (list->item(i)->text().startsWith(QStringLiteral("Level"))) list->item(i)->setCheckState(Qt::Unchecked);
      static_cast<QDialog*>(dialog)->accept();
    });
    board()->commands().pasteChosenParameters();
    QCOMPARE(std::get<double>(m().node(id)->params.at("softness")), 0.2);
    QVERIFY(m().node(id)->params.count("level") == 0);
  }
  void vectorsAreShownAsArrows() {
    add("normal_from_height");
    auto* loupe = w_->findChild<Loupe*>();
    settled([this] { return w_->isIdle(); });
    const auto shot = [&] {
      QImage image(loupe->size(), QImage::Format_RGB32);
      loupe->render(&image);
      return image;
    };
    const QImage before = shot();
    loupe->setLook(Look::arrows);
    settled([this] { return w_->isIdle(); });
    QVERIFY(shot() != before);
    loupe->setLook(Look::plain);
    settled([this] { return w_->isIdle(); });
    QVERIFY(shot() == before);
    // A map has none: the choice leaves them out.
    add("gradient_noise");
    settled([this] { return w_->isIdle(); });
    std::set<Look> offered;
    Chip* look = nullptr;
    for (Chip* c : loupe->findChildren<Chip*>())
      if (c->accessibleName() == QStringLiteral("Look")) look = c;
    QVERIFY(look);
    for (int i = 0; i < 6; ++i) {
      QTest::keyClick(look, Qt::Key_Period);
      offered.insert(loupe->look());
    }
    QCOMPARE(offered.count(Look::arrows), std::size_t{0});
    QCOMPARE(offered.size(), std::size_t{3});
  }
  void aValueHoldsAFormulaAndItsFollowersWait() {
    add("threshold");
    Material next = m();
    next.values = {{"rim", 0.2, {}}, {"lip", 0.3, {}}};
    edit(edit::set_param(std::move(next), "threshold", "level", Follow{"lip"}));
    ValuesPanel* panel = w_->openValues();
    auto* table = panel->findChild<QTableWidget*>();
    table->item(1, 1)->setText(QStringLiteral("rim * 2"));
    QCOMPARE(std::get<Formula>(m().value("lip")->value).text, std::string("rim * 2"));
    QCOMPARE(table->item(1, 2)->text(), QStringLiteral("0.4"));
    board()->select({"threshold"});
    QVERIFY(!within<Slider>("level")->isEnabled());
    QVERIFY(tray()->row("level")->toolTip().contains(QStringLiteral("rim * 2")));
    QVERIFY(std::abs(within<Slider>("level")->value() - 0.4) < 1e-6);
    // A circle is refused with its path, and what was there stays.
    table->item(0, 1)->setText(QStringLiteral("lip / 2"));
    QCOMPARE(std::get<double>(m().value("rim")->value), 0.2);
    bool told = false;
    for (QLabel* l : panel->findChildren<QLabel*>())
      told |= l->isVisibleTo(panel) && l->text().contains(QStringLiteral("circle"));
    QVERIFY(told);
    // Renamed, it is followed still; a name that is taken is refused.
    table->item(0, 0)->setText(QStringLiteral("edge"));
    QCOMPARE(std::get<Formula>(m().value("lip")->value).text, std::string("edge * 2"));
    table->item(0, 0)->setText(QStringLiteral("lip"));
    QVERIFY(m().value("edge"));
    // A number again: the slider turns it.
    table->item(1, 1)->setText(QStringLiteral("1/8"));
    QCOMPARE(std::get<double>(m().value("lip")->value), 0.125);
    QVERIFY(within<Slider>("level")->isEnabled());
  }
};

QTEST_MAIN(TestHands)
#include "tst_hands.moc"
