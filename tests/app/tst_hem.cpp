// The hem in the tray: measures and typed values; deliveries that scale; work for the disc, and what cannot be done
// now.
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <atomic>

#include "app/base/elsewhere.h"
#include "app/deliver/deliver_form.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestHem : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;
  const QString floor_ = QStringLiteral(LOOM_DEMO "/quay-floor.loom");

  const Material& m() const { return w_->document().material(); }
  bool calm() const {
    return settled([this] { return w_->isIdle(); });
  }
  void typeInto(const char* parameter, const QString& text) const {
    ParameterRow* row = w_->tray()->row(parameter);
    QVERIFY(row && row->numberField());
    row->focusValue();
    row->numberField()->selectAll();
    QTest::keyClicks(row->numberField(), text);
    QTest::keyClick(row->numberField(), Qt::Key_Return);
  }
  QString saidBy(const char* command) const {
    for (QAction* a : w_->findChildren<QAction*>())
      if (a->text() == QString::fromLatin1(command)) a->trigger();
    for (const QLabel* l : w_->findChildren<QLabel*>())
      if (l->accessibleName() == QStringLiteral("Message")) return l->text();
    return {};
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() { w_ = shownWindow(); }
  void cleanup() { closeUnsaved(w_); }

  void withoutASelectionTheTrayShowsTheHem() {
    QVERIFY(w_->openPath(floor_));
    w_->board()->select({});
    QVERIFY(w_->tray()->row("tile_metres") && w_->tray()->row("relief_metres"));
    QVERIFY(!w_->tray()->row("normal"));  // a direction cannot be typed
    typeInto("tile_metres", QStringLiteral("75 cm"));
    QCOMPARE(m().tile_metres, 0.75);
    typeInto("relief_metres", QStringLiteral("12"));  // millimetres, as they are shown
    QCOMPARE(m().relief_metres, 0.012);
    QCOMPARE(w_->tray()->row("relief_metres")->valueText(), QStringLiteral("12 mm"));
    typeInto("tile_metres", QStringLiteral("900 km"));  // no length that is understood
    QCOMPARE(m().tile_metres, 0.75);
    typeInto("tile_metres", QStringLiteral("1000000"));
    QVERIFY(m().tile_metres <= kMostTile);
    QVERIFY(validate(m(), catalogue()).empty());
    w_->document().undo();
    QCOMPARE(m().tile_metres, 0.75);
    w_->board()->select({m().nodes.front()->id});
    QVERIFY(!w_->tray()->row("tile_metres"));
  }
  void aValueIsTypedIntoAnEmptySlot() {
    QVERIFY(w_->openPath(floor_) && calm());
    w_->board()->select({});
    QVERIFY(!m().hem.count("opacity") && m().hem.count("roughness"));
    const ParameterRow* taken = w_->tray()->row("roughness");
    QVERIFY2(taken->toolTip().contains(QStringLiteral("thread")), qPrintable(taken->toolTip()));
    typeInto("opacity", QStringLiteral("0.4"));
    QCOMPARE(std::get<double>(m().hem_values.at("opacity")), 0.4);
    QVERIFY(calm());
    const Field& seen = w_->lastSeen()->hem.at("opacity");
    QCOMPARE(seen.strand[0]->at(3, 7), 0.4f);
    QVERIFY(!w_->tray()->row("opacity")->canBeDial());
    Q_EMIT w_->tray()->resetWanted(kHemNode, "opacity");
    QVERIFY(m().hem_values.empty());
    QVERIFY(calm());
    QVERIFY(!w_->lastSeen()->hem.count("opacity"));
  }
  void insideAGroupThereIsNoHemToFill() {
    QVERIFY(w_->openPath(floor_));
    const auto folded = edit::fold(m(), catalogue(), {m().nodes.front()->id}, "Part");
    QVERIFY(folded.ok());
    w_->document().edit(QStringLiteral("Fold"), *folded);
    std::string use;
    for (const NodePtr& n : m().nodes)
      if (n->is_group()) use = n->id;
    w_->navigation().goInside(use);
    QVERIFY(w_->shown().inside);
    w_->board()->select({});
    QVERIFY(!w_->tray()->row("tile_metres"));
  }

  void aDeliveryThatCutOffersToScale() {
    Material tall = edit::add_node(edit::empty_material(), catalogue(), "ramp", "relief", 0, 0);
    tall = edit::add_node(std::move(tall), catalogue(), "remap", "relief", 0, 1);
    tall = edit::set_param(std::move(tall), "remap", "to_high", 2.0);
    tall = edit::connect(std::move(tall), {"ramp", "value", "remap", "value"});
    tall = edit::set_hem(std::move(tall), "height", "remap.value");
    QTemporaryDir dir;
    DeliverForm form(false);
    form.showMaterial(tall);
    form.setFolder(dir.path());
    form.show();
    QPushButton* scale = nullptr;
    QSignalSpy done(&form, &DeliverForm::finished);
    form.start();
    QVERIFY(done.wait(60000) && done.takeFirst()[0].toBool());
    for (QPushButton* b : form.findChildren<QPushButton*>())
      if (b->text().startsWith(QStringLiteral("Scale"))) scale = b;
    QVERIFY(scale && scale->isVisible());
    QVERIFY(scale->text().contains(QStringLiteral("height")));
    QTest::mouseClick(scale, Qt::LeftButton);
    QVERIFY(done.wait(60000));
    const QString report = done.takeFirst()[1].toString();
    QVERIFY2(report.contains(QStringLiteral("white for")), qPrintable(report));
    QVERIFY(!scale->isVisible());
    float most = 0, middle = 0;
    const auto image = read_image((dir.path() + QStringLiteral("/untitled_height_2048.png")).toStdString());
    QVERIFY(image.ok());
    for (const float v : image->values)
      most = std::max(most, v), middle += v / static_cast<float>(image->values.size());
    QVERIFY(most > 0.999f && std::abs(middle - 0.5f) < 0.01f);  // not cut: a ramp's mean is one half
  }

  void theWindowPaintsWhileTheDiscIsWaitedFor() {
    std::atomic<int> ticks = 0;
    QTimer timer;
    QObject here;
    connect(&timer, &QTimer::timeout, &here, [&] { ++ticks; });
    timer.start(10);
    const Qt::HANDLE own = QThread::currentThreadId();
    Qt::HANDLE other = nullptr;
    const int result = elsewhere([&] {
      other = QThread::currentThreadId();
      // Until the window has gone on; it may take its time on a busy machine.
      for (int i = 0; i < 2000 && ticks < 8; ++i) QThread::msleep(10);
      return 7;
    });
    QCOMPARE(result, 7);
    QVERIFY(other && other != own);
    QVERIFY2(ticks >= 8, qPrintable(QString::number(ticks)));
    bool caught = false;
    try {
      elsewhere([]() -> int { throw std::bad_alloc(); });
    } catch (const std::bad_alloc&) {
      caught = true;
    }
    QVERIFY(caught);
  }
  void chipsOverThePicturesAreButtons() {
    QVERIFY(w_->openPath(floor_) && calm());
    const auto chip = [&](const char* name) -> Chip* {
      for (Chip* c : w_->findChildren<Chip*>())
        if (c->accessibleName() == QString::fromLatin1(name)) return c;
      return nullptr;
    };
    // A chip with a menu: pressed by the keyboard, chosen by it.
    chip("Shape")->setFocus();
    QTest::keyClick(chip("Shape"), Qt::Key_Space);
    QMenu* shapes = w_->drape()->shapeMenu();
    QVERIFY(shapes->isVisible());
    for (int i = 0; i < 4; ++i) QTest::keyClick(shapes, Qt::Key_Down);
    QTest::keyClick(shapes, Qt::Key_Return);
    QCOMPARE(w_->drape()->view().shape, ShapeName::ring);
    QCOMPARE(chip("Shape")->text(), QStringLiteral("shape: ring"));
    w_->drape()->setShape(ShapeName::ball);
    // One that has settings: `.` and `,` step, a press shows them all with the present one ticked.
    const float before = w_->drape()->view().exposure;
    QTest::keyClick(chip("Exposure"), Qt::Key_Period);
    QCOMPARE(w_->drape()->view().exposure, before + 0.5f);
    QTest::keyClick(chip("Exposure"), Qt::Key_Comma);
    QCOMPARE(w_->drape()->view().exposure, before);
    const std::string environment = w_->drape()->view().environment;
    QTest::keyClick(chip("Environment"), Qt::Key_Period);
    QVERIFY(w_->drape()->view().environment != environment);
    QTest::mouseClick(chip("Repeats"), Qt::LeftButton);
    auto* counts = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    QVERIFY(counts && counts->actions().size() == 4 && counts->actions()[0]->isChecked());
    counts->actions()[1]->trigger();
    counts->close();
    QCOMPARE(chip("Repeats")->text(), QStringLiteral("repeats 2 × 2"));
    QTest::mouseClick(chip("Seam check"), Qt::LeftButton);
    QVERIFY(chip("Seam check")->isOn() && w_->findChild<Loupe*>()->seamChecked());
    QTest::keyClick(chip("Seam check"), Qt::Key_H, Qt::ShiftModifier);  // the loupe's own keys still act
    QCOMPARE(w_->findChild<Loupe*>()->look(), Look::marked);
    QVERIFY(chip("Look")->isOn());
    QVERIFY(calm());
  }
  void whatCannotBeDoneNowSaysWhy() {
    QCOMPARE(saidBy("Undo"), QStringLiteral("There is nothing to undo"));
    QCOMPARE(saidBy("Redo"), QStringLiteral("There is nothing to redo"));
    QCOMPARE(saidBy("Help of the node"), QStringLiteral("Select a node first"));
    QCOMPARE(saidBy("Add an input to the group"), QStringLiteral("Look inside a group first"));
    w_->document().edit(QStringLiteral("Add"), edit::add_lane(m(), "Another"));
    QCOMPARE(saidBy("Undo"), QStringLiteral("Undone: Add"));
    QCOMPARE(saidBy("Redo"), QStringLiteral("Redone: Add"));
    w_->tellShortOfMemory();
    QVERIFY(saidBy("none").contains(QStringLiteral("not enough memory")));
  }
};

QTEST_MAIN(TestHem)
#include "tst_hem.moc"
