// The stockroom: what the program starts with, found by words, kept current, opened, dragged onto board and parts.
#include <QDropEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QToolButton>

#include "app/stockroom/stockroom_page.h"
#include "core/bolt/lit_pictures.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestStockroom : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> window_;
  std::unique_ptr<QTemporaryDir> dir_;

  QString file(const char* name) { return dir_->filePath(QString::fromLatin1(name)); }
  const Material& material() { return window_->document().material(); }
  StockroomPage* page() { return window_->stockroom(); }
  StockModel& listed() { return page()->view().pictures().items(); }
  QStringList names() {
    QStringList all;
    for (int i = 0; i < listed().rowCount(); ++i) all << listed().index(i).data().toString();
    return all;
  }
  static Material made(const char* name, double metres = 1) {
    Material m = edit::empty_material();
    m.name = name;
    m.tile_metres = metres;
    m = edit::add_node(std::move(m), catalogue(), "gradient_noise", m.lanes[0].id, 0, 0);
    return edit::set_hem(std::move(m), "roughness", "gradient_noise.value");
  }
  void write(const char* name, const Material& m) {
    QVERIFY(write_file(file(name).toStdString(), write_material(m)).ok());
  }
  bool idle() {
    return settled([&] { return window_->isIdle(); }, 60000);
  }
  // Starts as without a file, with one folder of one's own, which is chosen.
  void start() {
    window_ = shownWindow();
    window_->showWorkspace(MainWindow::Workspace::stockroom);
    QVERIFY(idle());
    for (int i = 0; i < page()->places()->count(); ++i)
      if (page()->places()->item(i)->toolTip() == dir_->path()) page()->places()->setCurrentRow(i);
    QVERIFY(idle());
  }
  static int row(StockModel& model, const QString& name) {
    for (int i = 0; i < model.rowCount(); ++i)
      if (model.index(i).data().toString() == name) return i;
    return -1;
  }
  static void drop(QWidget* onto, QPointF at, const QString& path) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path)});
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(onto, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(onto, &event);
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    QSettings().clear();
    QSettings().setValue(QStringLiteral("drape_samples"), 1);  // as prepare() has it
    dir_ = std::make_unique<QTemporaryDir>();
    write("tin.loom", made("Tin ceiling", 0.5));
    write("mat.loom", made("Rush matting", 2));
    Bolt bolt{made("Soot layer")};
    bolt.material.imprint.tags = {"dirt"};
    QVERIFY(add_pictures(bolt, Stop{}).ok());
    QVERIFY(write_bolt(file("soot.bolt").toStdString(), bolt).ok());
    QSettings().setValue(QStringLiteral("stockroom/folders"), QStringList{dir_->path()});
  }
  void cleanup() {
    if (window_) closeUnsaved(window_);
  }

  // The worked example of the standard: Thumbnail Managing Standard, "Thumbnail Directory".
  void thumbnailsLieWhereTheDesktopLooks() {
    const QString path = thumbnailPath(QStringLiteral("/home/jens/photos/me.png"));
    QVERIFY(path.endsWith(QStringLiteral("/thumbnails/large/c6ee772d9e49320e97ec29a7eb5b1697.png")));
  }

  void theStartShowsWhatThereIs() {
    start();
    QVERIFY(page()->isVisible() && !window_->board()->isVisible());
    QCOMPARE(names(), QStringList({"Rush matting", "Soot layer", "Tin ceiling"}));
    QVERIFY(!page()->recent().isVisible());  // nothing was opened yet
    // Pictures come, and are kept on the disc with the time of their file.
    QVERIFY(settled([&] {
      for (int i = 0; i < listed().rowCount(); ++i)
        if (listed().index(i).data(Qt::DecorationRole).value<QImage>().isNull()) return false;
      return true;
    }));
    const QImage kept(thumbnailPath(file("tin.loom")));
    QVERIFY(kept.width() == 256 && !kept.text(QStringLiteral("Thumb::MTime")).isEmpty());
    QCOMPARE(kept.text(QStringLiteral("Thumb::URI")), QUrl::fromLocalFile(file("tin.loom")).toString());
    // What is kept is what is shown: a picture of another kind stands for the file until it changes.
    QImage marked(256, 256, QImage::Format_RGB32);
    marked.fill(Qt::red);
    for (const char* key : {"Thumb::MTime", "Thumb::URI"})
      marked.setText(QLatin1String(key), kept.text(QLatin1String(key)));
    QVERIFY(marked.save(thumbnailPath(file("tin.loom")), "PNG"));
    Thumbnails thumbnails;
    QVERIFY(thumbnails.of(file("tin.loom")).isNull());
    QVERIFY(settled([&] { return !thumbnails.of(file("tin.loom")).isNull(); }));
    QCOMPARE(thumbnails.of(file("tin.loom")).pixelColor(9, 9), QColor(Qt::red));
    // What is asked for later comes first, and what was asked for before it comes all the same.
    Thumbnails several;
    for (const char* name : {"soot.bolt", "mat.loom"})
      several.forget(file(name)), QFile::remove(thumbnailPath(file(name)));
    int made = 0;
    connect(&several, &Thumbnails::made, this, [&] { ++made; });
    QVERIFY(several.of(file("mat.loom")).isNull());
    QCoreApplication::processEvents();
    QVERIFY(several.of(file("soot.bolt")).isNull());
    QVERIFY(settled([&] { return made == 2; }, 20000));
    // The demo is there as well.
    QVERIFY(!Stock::demoFolder().isEmpty());
    for (int i = 0; i < page()->places()->count(); ++i)
      if (page()->places()->item(i)->text() == QStringLiteral("Lantern Quay")) page()->places()->setCurrentRow(i);
    QVERIFY(names().contains(QStringLiteral("Quay floor")));
  }

  void wordsKindsAndSizesFind() {
    start();
    QLineEdit* line = page()->view().line();
    QVERIFY(line->hasFocus());
    QTest::keyClicks(line, QStringLiteral("rush"));
    QCOMPARE(names(), QStringList{QStringLiteral("Rush matting")});
    line->setText(QStringLiteral("dirt"));
    QCOMPARE(names(), QStringList{QStringLiteral("Soot layer")});
    line->setText(QStringLiteral("> 1.5 m"));
    QCOMPARE(names(), QStringList{QStringLiteral("Rush matting")});
    line->clear();
    for (auto* b : page()->findChildren<QToolButton*>())
      if (b->text() == QStringLiteral("materials")) b->click();
    QCOMPARE(names(), QStringList({"Rush matting", "Tin ceiling"}));
    // Opened by keys alone.
    QTest::keyClick(line, Qt::Key_Return);
    QTest::keyClick(&page()->view().pictures(), Qt::Key_Return);
    QCOMPARE(material().name, std::string("Rush matting"));
    QVERIFY(window_->board()->isVisible() && !page()->isVisible());
    // It is recent work from then on.
    QTest::keyClick(window_.get(), Qt::Key_0, Qt::AltModifier);
    QVERIFY(idle());
    QVERIFY(page()->recent().isVisible());
    QCOMPARE(page()->recent().items().index(0).data().toString(), QStringLiteral("Rush matting"));
    QTest::keyClick(window_.get(), Qt::Key_1, Qt::AltModifier);
    QVERIFY(window_->board()->isVisible());
  }

  void aBoltOpensInAFitting() {
    start();
    auto& pictures = page()->view().pictures();
    pictures.setCurrentIndex(listed().index(row(listed(), QStringLiteral("Soot layer"))));
    QTest::keyClick(&pictures, Qt::Key_Return);
    FittingWindow* fitting = nullptr;
    for (QWidget* w : QApplication::topLevelWidgets())
      if (auto* f = qobject_cast<FittingWindow*>(w); f && f->isVisible()) fitting = f;
    QVERIFY(fitting);
    fitting->close();
    Q_EMIT pictures.weaveWanted(file("soot.bolt"));
    QCOMPARE(material().name, std::string("Soot layer"));
    QVERIFY(window_->document().path().isEmpty() && window_->board()->isVisible());
  }

  void itIsKeptCurrent() {
    start();
    write("new.loom", made("Another"));
    QVERIFY(settled([&] { return names().contains(QStringLiteral("Another")); }, 20000));
    write("new.loom", made("Under another name"));
    QVERIFY(settled([&] { return names().contains(QStringLiteral("Under another name")); }, 20000));
    QFile::remove(file("new.loom"));
    QVERIFY(settled([&] { return names().size() == 3; }, 20000));
    QVERIFY(QDir(dir_->path()).mkdir(QStringLiteral("within")));
    write("within/deep.loom", made("Deep"));
    QVERIFY(settled([&] { return names().contains(QStringLiteral("Deep")); }, 20000));
  }

  void foldersComeAndGo() {
    start();
    const QTemporaryDir other;
    QVERIFY(write_file(other.filePath(QStringLiteral("x.loom")).toStdString(), write_material(made("Elsewhere"))).ok());
    drop(page(), QPointF(page()->rect().center()), other.path());
    QVERIFY(idle());
    const int last = page()->places()->count() - 1;
    QCOMPARE(page()->places()->item(last)->toolTip(), other.path());
    page()->places()->setCurrentRow(last);
    QCOMPARE(names(), QStringList{QStringLiteral("Elsewhere")});
    for (auto* b : page()->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("take it off the list")) b->click();
    QCOMPARE(page()->places()->count(), last);
    QVERIFY(QFileInfo::exists(other.filePath(QStringLiteral("x.loom"))));
  }

  void anEmptyBoardBegins() {
    start();
    for (auto* b : page()->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("with an empty board")) b->click();
    QVERIFY(window_->board()->isVisible() && material().nodes.empty());
  }

  // Beside the board things are dragged from it: what a drag carries is a file, and a bolt becomes a node.
  void itStandsBesideTheBoard() {
    window_ = shownWindow();
    QTest::keyClick(window_.get(), Qt::Key_9, Qt::AltModifier);
    QVERIFY(window_->beside()->isVisible() && window_->board()->isVisible());
    window_->beside()->showFolder(dir_->path());
    StockModel& model = window_->beside()->pictures().items();
    QVERIFY(settled([&] { return model.rowCount() == 3; }, 20000));
    const std::unique_ptr<QMimeData> carried(model.mimeData({model.index(row(model, QStringLiteral("Soot layer")))}));
    QCOMPARE(carried->urls(), QList<QUrl>{QUrl::fromLocalFile(file("soot.bolt"))});
    Board* board = window_->board();
    drop(window_.get(), QPointF(board->mapTo(window_.get(), board->rect().center())), file("soot.bolt"));
    QVERIFY(material().nodes.size() == 1 && material().nodes[0]->is_bolt());
    // Proof has no room for it, and Weave has it back.
    window_->showWorkspace(MainWindow::Workspace::proof);
    QVERIFY(!window_->beside()->isVisible());
    window_->showWorkspace(MainWindow::Workspace::weave);
    QVERIFY(window_->beside()->isVisible());
    QTest::keyClick(window_.get(), Qt::Key_9, Qt::AltModifier);
    QVERIFY(!window_->beside()->isVisible());
  }

  void aPartWearsWhatIsDroppedOnIt() {
    window_ = shownWindow();
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/bollard.loom")));
    QVERIFY(settled([&] { return window_->isIdle() && window_->drape()->view().parts().size() > 1; }));
    DrapePanel* drape = window_->drape();
    for (const char* name : {"soot.bolt", "mat.loom"}) {
      window_->document().reset(material(), window_->document().path());
      const std::size_t nodes = material().nodes.size();
      drop(drape, QPointF(drape->rect().center()), file(name));
      QCOMPARE(material().nodes.size(), nodes + 1);
      QVERIFY2(validate(material(), catalogue()).empty(), name);
      const Node& fresh = *material().nodes.back();
      int wearing = 0;
      for (const auto& [part, own] : material().part_hems)
        if (const auto slot = own.hem.find("roughness"); slot != own.hem.end())
          wearing += split_output(slot->second).first == fresh.id;
      QCOMPARE(wearing, 1);
      QVERIFY(material().hem.at("roughness").rfind(fresh.id, 0) != 0);
      QVERIFY(settled([&] { return window_->isIdle(); }));
      QVERIFY(window_->lastSeen()->faults.empty());
      window_->document().undo();
    }
  }
};

QTEST_MAIN(TestStockroom)
#include "tst_stockroom.moc"
