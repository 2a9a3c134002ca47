// The fitting window: a bolt opened by someone who never saw a graph.
#include "tests/app/driving.h"

#include <QBuffer>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTextBrowser>

#include "app/tray/slider.h"

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
    QCOMPARE(f->rows().size(), std::size_t{5});
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
    auto* slider = f->rows()[3]->findChild<Slider*>();
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
