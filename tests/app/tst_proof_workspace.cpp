// The second workspace: findings with rings and a way to their cause, the variation sheet and what is taken from it.
#include <QCheckBox>
#include <QInputDialog>
#include <QLineEdit>
#include <QMimeData>
#include <QPushButton>
#include <QTableWidget>
#include <QToolButton>

#include "app/proof/fit_dialog.h"
#include "app/shell/proof_workspace.h"
#include "app/shell/way_panel.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestProofWorkspace : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir dir_;
  const Material& material() { return window_->document().material(); }
  ProofWorkspace& proof() { return *window_->proof(); }
  SheetGrid& grid() { return *proof().sheet()->grid(); }
  void calm() {
    QVERIFY(settled([this] { return window_->isIdle(); }, 60000));
  }
  void open(const Material& m) {
    window_->document().reset(m);
    calm();
  }
  FindingRow* row(const char* check) {
    for (FindingRow* r : proof().findings()->rows())
      if (r->finding().check == check) return r;
    return nullptr;
  }
  // Too bright all over. The demo has a node called colour already.
  static constexpr const char* kPaint = "colour_2";
  static Material faulty() {
    Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    m = edit::add_node(std::move(m), catalogue(), "colour", "glaze", 0, 0);
    m = edit::set_param(std::move(m), kPaint, "colour", Vector{0.97, 0.97, 0.97});
    return edit::set_hem(std::move(m), "base_colour", std::string(kPaint) + ".colour");
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() { window_ = shownWindow(); }
  void cleanup() { closeUnsaved(window_); }

  void thereAndBackTheLayoutIsKept() {
    open(*open_material(LOOM_DEMO "/quay-floor.loom"));
    const QSize loupe = window_->loupe()->size(), board = window_->board()->size(), all = window_->size();
    QTest::keyClick(window_.get(), Qt::Key_2, Qt::AltModifier);
    QCOMPARE(window_->workspace(), MainWindow::Workspace::proof);
    calm();
    QVERIFY(!window_->board()->isVisible() && proof().side()->isVisible() && proof().sheet()->isVisible());
    QVERIFY(window_->loupe()->mapTo(window_.get(), QPoint()).x() <
            window_->drape()->mapTo(window_.get(), QPoint()).x());
    QVERIFY(window_->loupe()->width() > loupe.width());
    QCOMPARE(window_->loupe()->repeats(), 3);
    QCOMPARE(window_->size(), all);
    for (auto* b : window_->findChildren<QToolButton*>())
      if (b->accessibleName() == QStringLiteral("Workspace Weave")) b->click();
    QCOMPARE(window_->workspace(), MainWindow::Workspace::weave);
    calm();
    QCOMPARE(window_->loupe()->size(), loupe);
    QCOMPARE(window_->board()->size(), board);
    QCOMPARE(window_->loupe()->repeats(), 1);
  }

  void aFindingIsRingedAndLeadsToItsCause() {
    open(faulty());
    window_->showWorkspace(MainWindow::Workspace::proof);
    calm();
    const auto& rows = proof().findings()->rows();
    QVERIFY(rows.size() >= 8);
    QCOMPARE(rows.front()->finding().check, std::string("base_colour_range"));  // what falls short stands first
    QCOMPARE(rows.front()->finding().verdict, Verdict::fail);
    const QImage before = window_->loupe()->grab().toImage();
    QTest::mouseClick(rows.front(), Qt::LeftButton);
    calm();
    const QImage ringed = window_->loupe()->grab().toImage();
    int yellow = 0;
    for (int y = 0; y < ringed.height(); ++y)
      for (int x = 0; x < ringed.width(); ++x) {
        const QColor c = ringed.pixelColor(x, y);
        yellow += c.red() > 220 && c.green() > 150 && c.blue() < 120;
      }
    QVERIFY2(yellow > 200, qPrintable(QString::number(yellow)));
    QVERIFY(ringed != before);
    // Chosen once more it is let go.
    QTest::keyClick(rows.front(), Qt::Key_Return);
    calm();
    for (auto* b : rows.front()->findChildren<QPushButton*>()) b->click();
    QCOMPARE(window_->workspace(), MainWindow::Workspace::weave);
    QCOMPARE(window_->board()->selection(), std::vector<std::string>{kPaint});
    calm();
  }

  void theLoupeComesBackToWhatItShowed() {
    open(faulty());
    window_->board()->select({"worn"});
    window_->lockLoupe(true);
    window_->board()->select({});
    calm();
    const std::string locked = window_->lastSeen()->loupe_output;
    window_->showWorkspace(MainWindow::Workspace::proof);
    calm();
    proof().findings()->choose("base_colour_range");
    calm();
    QCOMPARE(window_->lastSeen()->loupe_output, std::string(kPaint) + ".colour");
    window_->showWorkspace(MainWindow::Workspace::weave);
    calm();
    QCOMPARE(window_->lastSeen()->loupe_output, locked);
    QVERIFY(locked.rfind("worn.", 0) == 0);
  }

  void anEditIsJudgedAnew() {
    open(faulty());
    window_->showWorkspace(MainWindow::Workspace::proof);
    calm();
    QVERIFY(row("base_colour_range")->finding().verdict == Verdict::fail);
    window_->document().edit(QStringLiteral("Darker"),
                             edit::set_param(material(), kPaint, "colour", Vector{0.4, 0.4, 0.4}));
    calm();
    QVERIFY(row("base_colour_range")->finding().verdict == Verdict::pass);
    Material broken = material();
    broken.hem["roughness"] = "nowhere.value";
    window_->document().edit(QStringLiteral("Broken"), broken);
    calm();
    QVERIFY(proof().findings()->rows().empty());
  }

  void aPlaceIsFollowedInTheSide() {
    open(*open_material(LOOM_DEMO "/quay-floor.loom"));
    window_->showWorkspace(MainWindow::Workspace::proof);
    calm();
    Q_EMIT window_->loupe()->followWanted(QPointF(0.3, 0.4));
    auto* table = proof().way()->findChild<QTableWidget*>();
    QVERIFY(settled([&] { return table->rowCount() >= 3; }, 20000));
    QVERIFY(table->isVisible());
  }

  void theSheetIsDrawnAndTakenOver() {
    open(*open_material(LOOM_DEMO "/quay-floor.loom"));
    window_->showWorkspace(MainWindow::Workspace::proof);
    proof().sheet()->setAxes("wear", QStringLiteral("0..1:5"), "salt", QStringLiteral("0,0.4"));
    calm();
    QCOMPARE(grid().pictures().size(), std::size_t{10});
    for (const QImage& p : grid().pictures()) QCOMPARE(p.size(), QSize(128, 128));
    QVERIFY(grid().pictures()[0] != grid().pictures()[4]);
    QTest::mouseClick(&grid(), Qt::LeftButton, {}, grid().placeOf(8).center());
    QCOMPARE(std::get<double>(material().value("wear")->value), 0.75);
    QCOMPARE(std::get<double>(material().value("salt")->value), 0.4);
    const QImage held = grid().pictures()[0];
    calm();
    QCOMPARE(grid().pictures()[0].cacheKey(), held.cacheKey());  // what runs along its axes changes nothing
    window_->document().undo();
    QCOMPARE(std::get<double>(material().value("wear")->value), 0.42);
    // By keys alone: right twice, mark, throw the next away, take over.
    grid().setFocus();
    grid().setCurrent(0);
    QTest::keyClick(&grid(), Qt::Key_Right);
    QTest::keyClick(&grid(), Qt::Key_Space);
    QCOMPARE(grid().marked(), std::set<int>{1});
    QTest::keyClick(&grid(), Qt::Key_Right);
    QTest::keyClick(&grid(), Qt::Key_Delete);
    QCOMPARE(grid().shown().size(), std::size_t{9});
    QTest::keyClick(&grid(), Qt::Key_Left);
    QTest::keyClick(&grid(), Qt::Key_Return);
    QCOMPARE(std::get<double>(material().value("wear")->value), 0.25);
    for (auto* box : proof().sheet()->findChildren<QCheckBox*>())
      if (box->text() == QStringLiteral("marked alone")) box->setChecked(true);
    QCOMPARE(grid().shown(), std::vector<int>{1});
  }

  void oneIsKeptAsAPresetAndAllArePrinted() {
    open(*open_material(LOOM_DEMO "/quay-floor.loom"));
    window_->showWorkspace(MainWindow::Workspace::proof);
    proof().sheet()->setAxes("wear", QStringLiteral("0..1:3"), "", {});
    calm();
    grid().setCurrent(2);
    const double at_hand = std::get<double>(material().value("wear")->value);
    const std::size_t presets = material().presets.size();
    {
      WithModal name([](QWidget* dialog) {
        dialog->findChild<QLineEdit*>()->setText(QStringLiteral("Worn out"));
        qobject_cast<QDialog*>(dialog)->accept();
      });
      for (auto* b : proof().sheet()->findChildren<QPushButton*>())
        if (b->text().startsWith(QStringLiteral("Keep"))) b->click();
    }
    QCOMPARE(material().presets.size(), presets + 1);
    QCOMPARE(std::get<double>(material().presets.back().values.at("wear")), 1.0);
    QCOMPARE(std::get<double>(material().value("wear")->value), at_hand);
    const QString page = dir_.filePath(QStringLiteral("sheet.png"));
    QVERIFY(proof().sheet()->printTo(page));
    QVERIFY(QImage(page).width() > 3 * 128);
    QVERIFY(!proof().sheet()->printTo(QStringLiteral("/nowhere/sheet.png")));
  }

  // Opened from the side, turned, stopped, taken over as one step that can be undone; what was before is A.
  void dialsAreFittedToAPicture() {
    Material m = edit::empty_material();
    for (const char* type : {"gradient_noise", "remap"})
      m = edit::add_node(std::move(m), catalogue(), type, m.lanes[0].id, 0, 0);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "remap", catalogue().find("remap")->inputs[0].id});
    m = edit::set_hem(std::move(m), "base_colour", "remap." + catalogue().find("remap")->outputs[0].id);
    m = edit::make_dial(std::move(m), catalogue(), "remap", "to_high");
    const std::string dial = m.values[0].id;
    const std::vector<std::uint8_t> grey(64 * 64 * 3, 60);
    const QString picture = dir_.filePath(QStringLiteral("dark.png"));
    QVERIFY(write_file(picture.toStdString(), *encode_picture(64, 64, grey)).ok());
    open(m);
    QTest::keyClick(window_.get(), Qt::Key_2, Qt::AltModifier);
    calm();
    for (auto* b : proof().side()->findChildren<QPushButton*>())
      if (b->text().startsWith(QStringLiteral("Fit to a picture"))) b->click();
    auto* fit = window_->findChild<FitDialog*>();
    QVERIFY(fit && fit->isVisible());
    QVERIFY(fit->box(dial) && fit->box(dial)->isChecked());
    QVERIFY(!fit->startButton()->isEnabled() && !fit->takeButton()->isEnabled());
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(picture)});
    QDragEnterEvent enter(QPoint(40, 40), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(fit, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(40, 40), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(fit, &drop);
    QVERIFY(fit->startButton()->isEnabled());
    fit->box(dial)->setChecked(false);
    QVERIFY(!fit->startButton()->isEnabled());
    fit->box(dial)->setChecked(true);
    fit->setSeconds(20);
    fit->startButton()->click();
    QCOMPARE(fit->startButton()->text(), QStringLiteral("Stop"));
    QVERIFY(settled([&] { return fit->told().startsWith(QStringLiteral("unlike by")); }, 20000));
    QCOMPARE(material().values[0].value, m.values[0].value);  // nothing is changed yet
    fit->startButton()->click();
    QVERIFY(settled([&] { return fit->takeButton()->isEnabled(); }, 20000));
    QVERIFY2(fit->told().startsWith(QStringLiteral("Unlike by")), qPrintable(fit->told()));
    fit->takeButton()->click();
    QVERIFY(std::get<double>(material().values[0].value) < std::get<double>(m.values[0].value));
    QVERIFY(window_->loupe()->compare() == Compare::b);
    calm();
    QTest::keyClick(window_->loupe(), Qt::Key_V);
    QVERIFY(window_->loupe()->compare() == Compare::a);
    window_->document().undo();
    QCOMPARE(material().values[0].value, m.values[0].value);
    fit->takePicture(dir_.filePath(QStringLiteral("gone.png")));
    QVERIFY(!fit->told().isEmpty());
    fit->reject();
    QVERIFY(!fit->isVisible());
  }
  void wrongAxesAreSaid() {
    open(*open_material(LOOM_DEMO "/quay-floor.loom"));
    window_->showWorkspace(MainWindow::Workspace::proof);
    proof().sheet()->setAxes("wear", QStringLiteral("0..1:3"), "", {});
    calm();
    proof().sheet()->setAxes("wear", QStringLiteral("much"), "", {});
    calm();
    proof().sheet()->setAxes("wear", QStringLiteral("0..1:4000"), "", {});
    calm();
    QCOMPARE(grid().pictures().size(), std::size_t{3});  // the last good sheet stays
  }
};

QTEST_MAIN(TestProofWorkspace)
#include "tst_proof_workspace.moc"
