// Maps that come in by the window: dropped, corrected before they are taken, exchanged, copied beside the document.
#include <QCheckBox>
#include <QComboBox>
#include <QDropEvent>
#include <QMimeData>
#include <QPushButton>

#include "app/coming_in/map_set_dialog.h"
#include "app/shell/map_sets.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestMapSets : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> window_;
  std::unique_ptr<QTemporaryDir> dir_, other_;

  const Material& material() { return window_->document().material(); }
  QString file(const QString& name) { return dir_->filePath(name); }
  static void write(const QString& path, int red, int green, int blue) {
    std::vector<std::uint8_t> rgb;
    for (int i = 0; i < 64; ++i)
      for (const int lane : {red, green, blue}) rgb.push_back(static_cast<std::uint8_t>(lane));
    QVERIFY(write_file(path.toStdString(), *encode_picture(8, 8, rgb)).ok());
  }
  void drop(const QStringList& paths) {
    QMimeData data;
    QList<QUrl> urls;
    for (const QString& path : paths) urls << QUrl::fromLocalFile(path);
    data.setUrls(urls);
    Board* board = window_->board();
    const QPointF at(board->mapTo(window_.get(), board->rect().center()));
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(window_.get(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(window_.get(), &event);
  }
  // What is dropped, with the dialogue that opens driven by `act` and then accepted.
  void bring(const QStringList& paths, const std::function<void(MapSetDialog&)>& act = {}) {
    bool opened = false;
    const WithModal with([&](QWidget* w) {
      auto* dialog = qobject_cast<MapSetDialog*>(w);
      QVERIFY(dialog);
      opened = true;
      if (act) act(*dialog);
      dialog->accept();
    });
    drop(paths);
    QVERIFY(settled([&] { return opened && !QApplication::activeModalWidget(); }, 20000));
  }
  static QComboBox* combo(MapSetDialog& dialog, const QString& name) {
    for (auto* box : dialog.findChildren<QComboBox*>())
      if (box->accessibleName() == name) return box;
    return nullptr;
  }
  static void choose(QComboBox* box, const QString& text) {
    QVERIFY(box && box->findText(text) >= 0);
    box->setCurrentIndex(box->findText(text));
    Q_EMIT box->activated(box->currentIndex());
  }
  static const Node* of(const Material& m, const std::string& output) { return m.node(split_output(output).first); }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    dir_ = std::make_unique<QTemporaryDir>();
    other_ = std::make_unique<QTemporaryDir>();
    QVERIFY(QDir(dir_->path()).mkdir(QStringLiteral("slate")));
    write(file(QStringLiteral("slate/slate_color.png")), 128, 64, 32);
    write(file(QStringLiteral("slate/slate_gloss.png")), 51, 51, 51);
    write(file(QStringLiteral("slate/slate_mystery.png")), 200, 100, 30);
    QVERIFY(write_file(file(QStringLiteral("m.loom")).toStdString(), write_material(edit::empty_material())).ok());
    window_ = shownWindow();
    QVERIFY(window_->openPath(file(QStringLiteral("m.loom"))));
  }
  void cleanup() { closeUnsaved(window_); }

  void aDroppedFolderFillsTheHem() {
    bring({file(QStringLiteral("slate"))}, [](MapSetDialog& dialog) {
      QCOMPARE(QString::fromStdString(dialog.plan().name), QStringLiteral("Slate"));
      QCOMPARE(dialog.plan().maps.size(), std::size_t{2});
      QVERIFY(settled([&] { return dialog.isIdle(); }, 20000));
    });
    QCOMPARE(material().hem.size(), std::size_t{2});
    QVERIFY(validate(material(), catalogue()).empty());
    QCOMPARE(of(material(), material().hem.at("roughness"))->type, std::string("invert"));
    QCOMPARE(std::get<std::string>(of(material(), material().hem.at("base_colour"))->params.at("file")),
             std::string("slate/slate_color.png"));
    QCOMPARE(window_->board()->selection().size(), std::size_t{3});
    window_->document().undo();
    QVERIFY(material().nodes.empty());
  }

  // A file that no name tells is taken apart by hand, and a wrong guess is put right.
  void itIsCorrectedByHand() {
    bring({file(QStringLiteral("slate"))}, [](MapSetDialog& dialog) {
      choose(combo(dialog, QStringLiteral("What slate_mystery.png is")), QStringLiteral("Occlusion"));
      choose(combo(dialog, QStringLiteral("Which channel of slate_mystery.png")), QStringLiteral("red"));
      QCOMPARE(dialog.plan().maps.size(), std::size_t{3});
      for (auto* button : dialog.findChildren<QPushButton*>())
        if (button->text() == QStringLiteral("another channel") && button->isVisibleTo(&dialog)) {
          // Of the last row, which is the packed one's.
          if (button->y() < combo(dialog, QStringLiteral("What slate_mystery.png is"))->y() - 20) continue;
          button->click();
          break;
        }
      const auto boxes = dialog.findChildren<QComboBox*>();
      QComboBox* second = nullptr;
      for (auto* box : boxes)
        if (box->accessibleName() == QStringLiteral("What slate_mystery.png is") && box->currentIndex() == 0)
          second = box;
      choose(second, QStringLiteral("Metallic"));
      // Two for one slot: the upper counts.
      choose(combo(dialog, QStringLiteral("What slate_gloss.png is")), QStringLiteral("Base colour"));
      QCOMPARE(dialog.plan().maps.size(), std::size_t{3});
      choose(combo(dialog, QStringLiteral("What slate_gloss.png is")), QStringLiteral("Roughness"));
      for (auto* tick : dialog.findChildren<QCheckBox*>())
        if (tick->isVisibleTo(&dialog) && tick->isChecked() && tick->text() == QStringLiteral("turned about"))
          tick->click();
    });
    QVERIFY(validate(material(), catalogue()).empty());
    QCOMPARE(material().hem.size(), std::size_t{4});
    QCOMPARE(of(material(), material().hem.at("roughness"))->type, std::string("image"));
    QCOMPARE(QString::fromStdString(material().hem.at("metallic")).section(QLatin1Char('.'), 1),
             QStringLiteral("second"));
    QCOMPARE(of(material(), material().hem.at("metallic"))->id, of(material(), material().hem.at("occlusion"))->id);
  }

  void nothingIsDoneWhenItIsLeft() {
    bool opened = false;
    const WithModal with([&](QWidget* w) {
      opened = true;
      qobject_cast<QDialog*>(w)->reject();
    });
    drop({file(QStringLiteral("slate"))});
    QVERIFY(settled([&] { return opened; }, 20000));
    QVERIFY(!window_->document().isEdited());
  }

  // From elsewhere the files are copied beside; what the hem has is not thrown out unasked.
  void aSecondSetTakesThePlaceOfTheFirst() {
    bring({file(QStringLiteral("slate"))}, [](MapSetDialog& dialog) {
      for (auto* tick : dialog.findChildren<QCheckBox*>())
        if (tick->text().contains(QStringLiteral("Transform"))) tick->click();
    });
    const auto find = [&](const char* type) {
      return std::find_if(material().nodes.begin(), material().nodes.end(),
                          [&](const NodePtr& n) { return n->type == type; });
    };
    QVERIFY(find("transform") != material().nodes.end());
    write(other_->filePath(QStringLiteral("tin_color.png")), 1, 2, 3);
    write(other_->filePath(QStringLiteral("tin_rough.png")), 60, 60, 60);
    const std::size_t before = material().nodes.size();
    bring({other_->path()}, [](MapSetDialog& dialog) {
      QCOMPARE(dialog.inPlaceOf(), 0);
      QVERIFY(dialog.copies());
    });
    QVERIFY(validate(material(), catalogue()).empty());
    QCOMPARE(material().nodes.size(), before - 1);  // without what turned the gloss about
    QVERIFY(QFileInfo::exists(file(QStringLiteral("m.files/tin_color.png"))));
    const auto image = find("image");
    QCOMPARE(std::get<std::string>((*image)->params.at("file")), std::string("m.files/tin_color.png"));
    QVERIFY(settled([&] { return window_->engine().isIdle(); }));
    QVERIFY(window_->lastSeen()->faults.empty());
  }

  void onePictureIsANode() {
    drop({file(QStringLiteral("slate/slate_gloss.png"))});
    QVERIFY(settled([&] { return !material().nodes.empty(); }, 20000));
    QCOMPARE(material().nodes[0]->type, std::string("image"));
    QCOMPARE(std::get<std::string>(material().nodes[0]->params.at("colour_space")), std::string("linear"));
    QVERIFY(material().hem.empty());
  }

  void whatIsNoMapIsSaid() {
    QVERIFY(QDir(dir_->path()).mkdir(QStringLiteral("empty")));
    window_->findChild<MapSets*>()->bringIn({file(QStringLiteral("empty"))});
    QVERIFY(!QApplication::activeModalWidget() && material().nodes.empty());
    const auto labels = window_->findChildren<QLabel*>();
    QVERIFY(std::any_of(labels.begin(), labels.end(),
                        [](QLabel* l) { return l->text().contains(QStringLiteral("holds no pictures")); }));
  }
};

QTEST_MAIN(TestMapSets)
#include "tst_map_sets.moc"
