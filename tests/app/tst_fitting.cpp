// The fitting window: a bolt opened by someone who never saw a graph.
#include "tests/app/driving.h"

#include <QBuffer>
#include <QComboBox>
#include <QDropEvent>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QTextBrowser>

#include "app/base/chip.h"
#include "app/deliver/report_view.h"
#include "app/fitting/input_field.h"
#include "app/fitting/others_list.h"
#include "app/tray/slider.h"
#include "core/graph/disc.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestFitting : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
  QString bolt_;

 private Q_SLOTS:
  void initTestCase() {
    prepare();
    bolt_ = dir_.filePath(QStringLiteral("floor.bolt"));
    const Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    QVERIFY(write_bolt(bolt_.toStdString(), {m}).ok());
  }
  void presetsDialsAndDeliveryWork() {
    MainWindow shell;
    FittingWindow* f = shell.files().openFitting(bolt_);
    QVERIFY(f);
    f->drape()->setSamples(4);
    QVERIFY(settled([&] { return f->isIdle(); }, 60000));
    QCOMPARE(f->rows().size(), std::size_t{8});
    // Presets are shown lit: a ball on the picture's grey, each another one.
    std::vector<QImage> pictures;
    for (QPushButton* b : f->findChildren<QPushButton*>())
      if (b->isCheckable()) pictures.push_back(b->icon().pixmap(96, 96).toImage());
    QCOMPARE(pictures.size(), std::size_t{4});
    for (std::size_t i = 0; i < pictures.size(); ++i) {
      QVERIFY(std::abs(qGray(pictures[i].pixel(3, 3)) - 0x76) < 6);
      for (std::size_t k = 0; k < i; ++k) QVERIFY(pictures[i] != pictures[k]);
    }
    const QImage start = f->drape()->image();
    f->choosePreset(1);
    QCOMPARE(std::get<double>(f->material().value("wear")->value), 0.72);
    const auto wear = std::ranges::find_if(f->rows(), [](const ParameterRow* r) { return r->id() == "wear"; });
    auto* slider = (*wear)->findChild<Slider*>();
    slider->setFocus();
    QTest::keyClick(slider, Qt::Key_Left, Qt::ControlModifier);
    QVERIFY(std::abs(std::get<double>(f->material().value("wear")->value) - 0.62) < 1e-9);
    QVERIFY(settled([&] { return f->isIdle(); }, 60000));
    QVERIFY(f->drape()->image() != start);
    f->form()->setFolder(dir_.filePath(QStringLiteral("maps")));
    f->form()->findChild<QComboBox*>()->setCurrentIndex(0);
    QSignalSpy done(f->form(), &DeliverForm::finished);
    f->form()->start();
    QVERIFY(done.wait(60000));
    QVERIFY2(done[0][0].toBool(), qPrintable(done[0][1].toString()));
    QCOMPARE(QDir(dir_.filePath(QStringLiteral("maps"))).entryList(QDir::Files).size(), 5);
    // What was delivered can be dragged from the report.
    auto* report = f->form()->findChild<ReportFiles*>();
    QCOMPARE(report->count(), 5);
    QVERIFY(report->dragEnabled());
    const std::unique_ptr<QMimeData> dragged(
        report->model()->mimeData({report->model()->index(0, 0), report->model()->index(3, 0)}));
    QCOMPARE(dragged->urls().size(), 2);
    for (const QUrl& url : dragged->urls()) QVERIFY(QFileInfo(url.toLocalFile()).size() > 0);
    // The way into the graph.
    for (QPushButton* b : f->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("Open in Weave")) b->click();
    QCOMPARE(shell.document().material().nodes.size(), f->material().nodes.size());
    delete f;
  }
  // What a dial waits for is said where it does not act; notes are read as they are meant; pictures come with the bolt.
  void dialsNotesAndPicturesComeWithTheBolt() {
    Bolt bolt{*open_material(LOOM_DEMO "/copper-shingles.loom")};
    bolt.material.notes = "# Roofs\n\nSee ![x](/etc/hostname) and [there](file:///etc).";
    QImage red(8, 8, QImage::Format_RGB32);
    red.fill(Qt::red);
    QByteArray bytes;
    QBuffer buffer(&bytes);
    QVERIFY(buffer.open(QIODevice::WriteOnly) && red.save(&buffer, "PNG"));
    for (const Preset& p : bolt.material.presets) bolt.pictures[p.name] = bytes.toStdString();
    bolt.pictures[""] = bytes.toStdString();
    const QString path = dir_.filePath(QStringLiteral("roof.bolt"));
    QVERIFY(write_bolt(path.toStdString(), bolt).ok());
    MainWindow shell;
    FittingWindow* f = shell.files().openFitting(path);
    QVERIFY(f);
    int pictures = 0;
    for (QPushButton* b : f->findChildren<QPushButton*>())
      if (b->isCheckable()) {
        ++pictures;
        QCOMPARE(b->icon().pixmap(96, 96).toImage().pixelColor(4, 4), QColor(Qt::red));  // at once
      }
    QCOMPARE(pictures, 4);
    const auto row = [&](const char* id) {
      for (ParameterRow* r : f->rows())
        if (r->id() == id) return r;
      return static_cast<ParameterRow*>(nullptr);
    };
    const auto says = [&](const char* text) {
      for (QLabel* l : row("streaks")->findChildren<QLabel*>())
        if (!l->isHidden() && l->text().contains(QLatin1String(text))) return true;
      return false;
    };
    QVERIFY(!says("no green to draw down"));
    f->turn("patina", 0.0);
    QVERIFY(says("no green to draw down"));
    QVERIFY(!row("streaks")->findChild<Slider*>()->isEnabled());
    f->turn("patina", 0.5);
    QVERIFY(row("streaks")->findChild<Slider*>()->isEnabled());
    QDialog* notes = f->openNotes();
    auto* view = notes->findChild<QTextBrowser*>();
    QVERIFY(view->toPlainText().startsWith(QStringLiteral("Roofs\n")));
    QVERIFY(!view->openLinks());
    notes->close();
    delete f;
  }
  // Still weaving its pictures, it goes with the window behind it.
  void aFittingAtWorkGoesWithTheWindow() {
    QPointer<FittingWindow> open, closed;
    {
      MainWindow shell;
      open = shell.files().openFitting(bolt_);
      closed = shell.files().openFitting(bolt_);
      QVERIFY(open && closed && !open->isIdle());
      closed->close();
      QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
      QVERIFY(open && !closed);
    }
    QVERIFY(!open);
  }
  // A state that is kept is there in every fitting of the bolt, of another version too, and the bolt is left alone.
  void whatIsKeptIsOnesOwn() {
    const auto bytes = [&] { return *read_file(bolt_.toStdString(), 1 << 26); };
    const std::string before = bytes();
    const auto tiles = [](FittingWindow* f) {
      QStringList names;
      for (QPushButton* b : f->findChildren<QPushButton*>())
        if (b->isCheckable()) names << b->accessibleName();
      return names;
    };
    const auto press = [](FittingWindow* f, const char* text) {
      for (QPushButton* b : f->findChildren<QPushButton*>())
        if (b->text() == QLatin1String(text) && b->isEnabled() && !b->isHidden()) return b->click(), true;
      return false;
    };
    {
      MainWindow shell;
      FittingWindow* f = shell.files().openFitting(bolt_);
      QVERIFY(!press(f, "Keep as mine"));  // as it stands, it is there already
      f->choosePreset(1);
      f->turn("wear", 0.61);
      QTimer::singleShot(0, f, [] {
        auto* asked = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        QVERIFY(asked);
        asked->setTextValue(QStringLiteral("Ferry steps"));
        asked->accept();
      });
      QVERIFY(press(f, "Keep as mine"));
      QCOMPARE(tiles(f).size(), 5);
      QCOMPARE(tiles(f).last(), QStringLiteral("Ferry steps"));
      QVERIFY(!press(f, "Keep as mine"));  // it starts from there now
      // Two fittings of a bolt at once: neither takes away what the other kept.
      FittingWindow* second = shell.files().openFitting(bolt_);
      f->turn("wear", 0.3);
      f->keepAsMine(QStringLiteral("Second"));
      second->turn("wear", 0.2);
      second->keepAsMine(QStringLiteral("Third"));
      QCOMPARE(tiles(second).mid(4), (QStringList{"Ferry steps", "Second", "Third"}));
      for (const char* other : {"Second", "Third"}) {
        second->choosePreset(static_cast<int>(second->material().presets.size()) + 1);
        QVERIFY2(press(second, "remove it"), other);
      }
      delete second;
      delete f;
    }
    Material next = *open_material(LOOM_DEMO "/quay-floor.loom");
    next.imprint.id = "quay_floor", next.imprint.version = "2.0";
    const QString newer = dir_.filePath(QStringLiteral("newer.bolt"));
    QVERIFY(write_bolt(newer.toStdString(), {next}).ok());
    MainWindow shell;
    FittingWindow* f = shell.files().openFitting(newer);
    QVERIFY(f);
    QCOMPARE(tiles(f).last(), QStringLiteral("Ferry steps"));
    f->choosePreset(static_cast<int>(f->material().presets.size()));
    QCOMPARE(std::get<double>(f->material().value("wear")->value), 0.61);
    QVERIFY(press(f, "remove it"));
    QCOMPARE(tiles(f).size(), 4);
    QCOMPARE(std::get<double>(f->material().value("wear")->value), 0.61);  // the state stays
    QCOMPARE(bytes(), before);
    // What cannot be read is told, and not written over.
    const QString mine = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/mine/");
    QFile damaged(mine + QStringLiteral("quay_floor.loom"));
    QVERIFY(damaged.open(QIODevice::WriteOnly) && damaged.write("{") == 1);
    damaged.close();
    f->keepAsMine(QStringLiteral("Lost"));
    QVERIFY(f->drape()->message().contains(QStringLiteral("quay_floor.loom")));
    QCOMPARE(damaged.size(), 1);
    QVERIFY(damaged.remove());
    delete f;
  }
  void theStartIsSeenBesideIt() {
    MainWindow shell;
    FittingWindow* f = shell.files().openFitting(bolt_);
    f->show();
    f->drape()->setSamples(4);
    f->turn("wear", 1.0);
    auto* chip = f->drape()->findChildren<Chip*>().last();
    QCOMPARE(chip->text(), QStringLiteral("compare with start"));
    QTest::mouseClick(chip, Qt::LeftButton);
    QVERIFY(chip->isOn());
    QVERIFY(settled([&] { return f->isIdle() && !f->drape()->heldImage().isNull(); }, 60000));
    QVERIFY(f->drape()->heldImage() != f->drape()->image());
    // Its line is moved by hand: where it was, the other picture shows.
    const QPoint middle(f->drape()->width() / 2 - 40, f->drape()->height() / 2);
    const QColor start = f->drape()->grab().toImage().pixelColor(middle);
    QTest::mousePress(f->drape(), Qt::LeftButton, {}, {f->drape()->width() / 2, 200});
    QTest::mouseMove(f->drape(), {f->drape()->width() / 4, 200});
    QTest::mouseRelease(f->drape(), Qt::LeftButton, {}, {f->drape()->width() / 4, 200});
    QCOMPARE(f->drape()->grab().toImage().pixelColor(middle), f->drape()->image().pixelColor(middle));
    QVERIFY(start != f->drape()->image().pixelColor(middle));
    // A dial that is turned leaves the line where it is.
    f->turn("wear", 0.9);
    QVERIFY(settled([&] { return f->isIdle(); }, 60000));
    QCOMPARE(f->drape()->grab().toImage().pixelColor(middle), f->drape()->image().pixelColor(middle));
    QTest::mouseClick(chip, Qt::LeftButton);
    QVERIFY(f->drape()->heldImage().isNull());
    delete f;
  }
  // Several at once, each for itself; a material is fitted as it lies there.
  void othersOpenBesideIt() {
    QSettings().setValue(QStringLiteral("recent"), QStringList{bolt_, QStringLiteral(LOOM_DEMO "/rush-matting.loom")});
    MainWindow shell;
    FittingWindow* f = shell.files().openFitting(bolt_);
    QVERIFY(settled([&] { return f->others()->list()->count() > 0; }, 20000));
    auto* list = f->others()->list();
    QVERIFY(list->item(0)->text().startsWith(QStringLiteral("Rush matting")));
    for (int i = 0; i < list->count(); ++i) QVERIFY(list->item(i)->data(Qt::UserRole).toString() != bolt_);
    list->setCurrentRow(0);
    QTest::keyClick(list, Qt::Key_Return);
    FittingWindow* other = nullptr;
    for (QWidget* w : QApplication::topLevelWidgets())
      if (auto* o = qobject_cast<FittingWindow*>(w); o && o != f && o->isVisible()) other = o;
    QVERIFY(other && f->isVisible());
    QCOMPARE(other->material().name, std::string("Rush matting"));
    const auto wear = f->material().value("wear")->value;
    other->turn(other->material().values.front().id, 0.9);
    QVERIFY(f->material().value("wear")->value == wear);
    delete other;
    delete f;
  }
  void theMeshHasAField() {
    MainWindow shell;
    FittingWindow* f = shell.files().openFitting(bolt_);
    auto* field = f->findChild<MeshField*>();
    const auto says = [&](const char* text) {
      for (QLabel* l : field->findChildren<QLabel*>())
        if (l->text().contains(QLatin1String(text))) return true;
      return false;
    };
    QVERIFY(says("ball stands in"));
    QMimeData dropped;
    dropped.setUrls({QUrl::fromLocalFile(QStringLiteral(LOOM_DEMO "/bollard.glb"))});
    QDragEnterEvent enter(QPoint(20, 20), Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(field, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(20, 20), Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(field, &drop);
    QVERIFY(f->drape()->view().mesh);
    QVERIFY(says("bollard, 18"));
    for (QPushButton* b : field->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("back")) b->click();
    QVERIFY(!f->drape()->view().mesh);
    QVERIFY(says("stands in"));
    delete f;
  }
  void aDamagedBoltIsRefusedWithAMessage() {
    QFile file(dir_.filePath(QStringLiteral("bad.bolt")));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("not a bolt");
    file.close();
    MainWindow shell;
    Answer ok(QMessageBox::Ok);
    QVERIFY(!shell.files().openFitting(file.fileName()));
    QVERIFY(ok.text.contains(QStringLiteral("not a bolt")));
  }
};

QTEST_MAIN(TestFitting)
#include "tst_fitting.moc"
