// Shading graphs in the window: every node of the Mesh rack by keys, on the shape and on the tile; the light that is
// turned by hand; slots that are no maps.
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDropEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QSignalSpy>
#include <set>

#include "app/deliver/deliver_form.h"
#include "app/loupe/loupe.h"
#include "core/bolt/package.h"
#include "core/bolt/shown_mesh.h"
#include "core/graph/edit.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestShadingGraph : public QObject {
  Q_OBJECT
  const Material& m() const { return window_->document().material(); }
  Board* board() const { return window_->board(); }
  QImage drape() const { return window_->drape()->image(); }
  void calm() const {
    QVERIFY(settled([this] { return window_->isIdle(); }));
  }
  void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) const {
    QTest::keyClick(QApplication::focusWidget(), static_cast<Qt::Key>(k), with);
  }
  void add(const QString& typed) const {
    board()->setFocus();
    key(Qt::Key_Slash);
    QTest::keyClicks(QApplication::focusWidget(), typed);
    key(Qt::Key_Return);
  }
  // A thread by keys from the focused output to what narrows to one.
  void thread(const QString& to) const {
    key(Qt::Key_W, Qt::ShiftModifier);
    QTest::keyClicks(QApplication::focusWidget(), to);
    key(Qt::Key_Return);
  }
  bool said(const QString& words) const {
    for (const QLabel* l : window_->findChildren<QLabel*>())
      if (l->text().contains(words)) return true;
    return false;
  }
  // Far enough apart to be seen: in one pixel of a hundred by ten codes.
  static bool differ(const QImage& a, const QImage& b) {
    if (a.size() != b.size()) return true;
    int apart = 0;
    for (int y = 0; y < a.height(); ++y)
      for (int x = 0; x < a.width(); ++x) {
        const QRgb p = a.pixel(x, y), q = b.pixel(x, y);
        apart += std::abs(qRed(p) - qRed(q)) + std::abs(qGreen(p) - qGreen(q)) + std::abs(qBlue(p) - qBlue(q)) > 30;
      }
    return apart > a.width() * a.height() / 100;
  }
  std::unique_ptr<MainWindow> window_;
  SeenPtr seen_;

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    window_ = shownWindow();
    window_->resize(1000, 640);  // small pictures: there are many
    connect(&window_->engine(), &Engine::seen, this, [this](const SeenPtr& seen) { seen_ = seen; });
  }
  void cleanup() { closeUnsaved(window_); }

  void everyMeshNodeByKeys_data() {
    QTest::addColumn<const NodeType*>("type");
    for (const NodeType* t : catalogue().all())
      if (t->rack == Rack::mesh) QTest::newRow(t->id.c_str()) << t;
  }
  // Added by its name, given to a slot and shown unlit, it is seen on the shape, and nothing is at fault.
  void everyMeshNodeByKeys() {
    QFETCH(const NodeType*, type);
    window_->drape()->setSamples(4);  // edges are softened
    add(QString::fromStdString(type->label));
    QCOMPARE(m().nodes.size(), std::size_t{1});
    QCOMPARE(m().nodes[0]->type, type->id);
    if (type->id == "toon_zones") {  // it stands behind others
      add(QStringLiteral("light angle"));
      board()->select({"light_angle"});
      thread(QStringLiteral("number 1"));
      QVERIFY(m().into("toon_zones", "number_1"));
      board()->select({"toon_zones"});
    }
    board()->setFocus();
    calm();
    key(Qt::Key_O);
    calm();
    QVERIFY(window_->drape()->isUnlit());
    QVERIFY(seen_->faults.empty());
    const QImage ball = drape();
    // What is seen is no single tone, and another from the side.
    std::set<QRgb> tones;
    for (int x = 0; x < ball.width(); ++x) tones.insert(ball.pixel(x, ball.height() / 2));
    QVERIFY2(tones.size() > 2, std::to_string(tones.size()).c_str());
  }

  void theLightIsTurnedByHand() {
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/poster-sign.loom")));
    calm();
    board()->select({"angle"});
    calm();
    const QImage before = drape();
    const auto tile = seen_->loupe->strand[0];
    QWidget* const d = window_->drape();
    const QPoint middle = d->rect().center();
    QTest::mousePress(d, Qt::RightButton, {}, middle);
    for (int i = 1; i <= 4; ++i) QTest::mouseMove(d, middle + QPoint(i * 30, 0));
    QTest::mouseRelease(d, Qt::RightButton, {}, middle + QPoint(120, 0));
    calm();
    QVERIFY(differ(before, drape()));
    // The tile's picture is lit from there too.
    QVERIFY(range_of(*seen_->loupe->strand[0]).most > 0.9f);
    float apart = 0;
    const auto now = seen_->loupe->strand[0];
    for (int x = 0; x < now->size(); ++x)
      apart = std::max(apart, std::abs(now->at(x, now->size() / 2) - tile->at(x, now->size() / 2)));
    QVERIFY2(apart > 0.2f, std::to_string(apart).c_str());
  }

  void aDialIsSeenOnTheShape() {
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/poster-sign.loom")));
    calm();
    const QImage before = drape();
    window_->document().edit(QStringLiteral("Line"), edit::set_value(m(), "line", 0.75));
    calm();
    QVERIFY(differ(before, drape()));
    window_->document().undo();
    calm();
    QVERIFY(!differ(before, drape()));
  }

  void slotsThatAreNoMapsSaySo() {
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/poster-sign.loom")));
    calm();
    QCOMPARE(board()->view().slotsOnSurface.size(), std::size_t{1});
    QVERIFY(board()->view().slotsOnSurface.count("emissive"));
    DeliverForm form(false);
    form.showMaterial(m());
    const auto boxes = form.findChildren<QCheckBox*>();
    int off = 0;
    for (const QCheckBox* box : boxes) {
      if (box->text() != QStringLiteral("Emissive")) continue;
      QVERIFY(!box->isEnabled() && !box->isChecked());
      ++off;
    }
    QCOMPARE(off, 1);
  }

  // Onto the mesh that the drape shows: what the window writes is what the command line does.
  void theDeliveryGoesOntoTheMesh() {
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/poster-sign.loom")));
    calm();
    QTemporaryDir folder;
    QDialog* dialog = window_->openDelivery();
    auto* form = dialog->findChild<DeliverForm*>();
    form->setFolder(folder.path());
    QComboBox* onto = nullptr;
    for (auto* box : form->findChildren<QComboBox*>())
      if (box->accessibleName() == QStringLiteral("Onto")) onto = box;
    QVERIFY(onto && onto->isVisible() && onto->currentIndex() == 1 &&
            onto->currentText().contains(QStringLiteral("sign")));
    const auto on = [&] {
      std::set<std::string> slots;
      for (const FileDelivery& s : form->plan().files)
        if (s.on) slots.insert(s.name);
      return slots;
    };
    QVERIFY(on().count("base_colour") && !on().count("emissive"));  // it is another in every light
    form->findChildren<QComboBox*>().first()->setCurrentIndex(0);   // 256
    QSignalSpy done(form, &DeliverForm::finished);
    form->start();
    QVERIFY(done.wait(120000));
    QVERIFY2(done[0][0].toBool(), qPrintable(done[0][1].toString()));
    DeliveryPlan plan = form->plan();
    QTemporaryDir other;
    plan.folder = other.path().toStdString();
    Weaver weaver(std::size_t{256} << 20);
    const auto report = deliver_onto(m(), catalogue(), weaver, plan, window_->drape()->view().mesh, Stop{});
    QVERIFY(report.ok() && !report->files.empty());
    for (const DeliveredFile& f : report->files) {
      QFile a(QString::fromStdString(f.path.string())),
          b(folder.filePath(QString::fromStdString(f.path.filename().string())));
      QVERIFY(a.open(QIODevice::ReadOnly) && b.open(QIODevice::ReadOnly));
      QVERIFY2(a.readAll() == b.readAll(), f.name.c_str());
    }
    QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), static_cast<qsizetype>(report->files.size()));
    onto->setCurrentIndex(0);
    QVERIFY(on().count("base_colour"));
    dialog->close();
    window_->drape()->setShape(ShapeName::ball);  // without a mesh there is nothing to choose
    QDialog* plain = window_->openDelivery();
    for (auto* box : plain->findChildren<QComboBox*>())
      if (box->accessibleName() == QStringLiteral("Onto")) {
        QVERIFY(!box->isVisible());
      }
    plain->close();
  }

  // A slot that is no map is woven nowhere else: its fault is told all the same, and again, and goes with its cause.
  void aFaultBehindTheSurfaceIsTold() {
    Material next = edit::add_node(m(), catalogue(), "facing", "relief", 0, 0);
    next = edit::add_node(std::move(next), catalogue(), "formula", "relief", 0, 1);
    next = edit::connect(std::move(next), {"facing", "value", "formula", "a"});
    next = edit::set_hem(std::move(next), "roughness", "formula.result");
    const auto with = [&](const char* text) {
      window_->document().edit(QStringLiteral("Formula"),
                               edit::set_param(next, "formula", "formula", std::string(text)));
      calm();
    };
    with("nothing(a)");
    board()->select({"facing"});  // the loupe looks elsewhere
    with("nothing(a) + 1");
    QVERIFY(seen_->faults.count("formula"));
    board()->focusSlot("roughness");
    calm();
    QVERIFY(seen_->faults.count("formula"));
    with("a * 0.5");
    QVERIFY(seen_->faults.empty());
    // Where it feeds nothing and only the loupe shows it, too.
    next = edit::set_hem(std::move(next), "roughness", {});
    board()->select({"formula"});
    with("nothing(a)");
    QVERIFY(seen_->faults.count("formula"));
    with("a * 0.5");
    QVERIFY(seen_->faults.empty() && seen_->on);
  }

  // Dropped or chosen, a mesh takes the shape's place, with a camera of its own; a bad one changes nothing.
  void aMeshIsWorn() {
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/poster-sign.loom")));
    calm();
    DrapePanel* const panel = window_->drape();
    QVERIFY(panel->view().mesh);  // the document's own
    panel->setShape(ShapeName::ball);
    calm();
    const QImage ball = drape();
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(QStringLiteral(LOOM_DEMO "/bollard.glb"))});
    QDragEnterEvent enter(QPoint(50, 50), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(panel, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(50, 50), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(panel, &drop);
    calm();
    const QImage bollard = drape();
    QVERIFY(differ(ball, bollard));
    const auto shown = [&] {
      for (const QAbstractButton* b : panel->findChildren<QAbstractButton*>())
        if (b->text().contains(QStringLiteral("bollard"))) return true;
      return false;
    };
    QVERIFY(shown());
    // What does nothing rests or says why: the relief of the material acts on this mesh.
    const auto relief = [&]() -> QAction* {
      for (QAction* a : panel->findChildren<QAction*>())
        if (a->text().startsWith(QStringLiteral("Relief"))) return a;
      return nullptr;
    };
    QVERIFY(relief() && relief()->isEnabled() && !relief()->text().contains(QStringLiteral("mesh")));
    panel->setFocus();
    for (int i = 0; i < 4; ++i) key(Qt::Key_Left);
    calm();
    const QImage turned = drape();
    QTemporaryDir folder;
    QFile bad(folder.filePath(QStringLiteral("bad.obj")));
    QVERIFY(bad.open(QIODevice::WriteOnly) && bad.write("v 0 0 0\nf 1 1 1\n") > 0);
    bad.close();
    panel->takeMesh(bad.fileName());
    calm();
    QVERIFY(panel->view().mesh && shown());
    // Back to the ball by the menu: it has kept its own camera.
    for (QAction* a : panel->findChildren<QAction*>())
      if (a->text().toLower() == QStringLiteral("ball")) a->trigger();
    calm();
    QVERIFY(!panel->view().mesh && !shown() && relief()->isEnabled());
    QVERIFY(!differ(ball, drape()));
  }

  // A sheet, dry on its left and damp on its right: what its corners carry is taken from a list, and seen.
  void whatTheMeshCarriesIsTakenFromAList() {
    QTemporaryDir folder;
    const QString sheet = folder.filePath(QStringLiteral("sheet.gltf"));
    const std::vector<float> numbers{-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0, /* damp */ 0, 1, 1, 0};
    const auto coded = QByteArray(reinterpret_cast<const char*>(numbers.data()), 64).toBase64();
    QFile file(sheet);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(
        R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":
[{"attributes":{"POSITION":0,"COLOR_0":0,"_DAMP":1},"mode":6}]}],"accessors":[{"bufferView":0,"componentType":5126,"type":
"VEC3","count":4},{"bufferView":0,"componentType":5126,"type":"SCALAR","count":4,"byteOffset":48}],"bufferViews":[
{"buffer":0,"byteLength":64}],"buffers":[{"byteLength":64,"uri":"data:application/octet-stream;base64,)" +
        coded + R"("}]})");
    file.close();
    add(QStringLiteral("mesh attribute"));
    calm();
    const auto box = [&] { return window_->tray()->row("name")->findChild<QComboBox*>(); };
    const auto note = [&] {
      const auto* label = window_->tray()->row("name")->findChild<QLabel*>(QStringLiteral("names-note"));
      return label && label->isVisible() ? label->text() : QString();
    };
    QVERIFY(box() && box()->count() == 0);
    QCOMPARE(note(), QStringLiteral("The shape in sight has none"));
    window_->drape()->takeMesh(sheet);
    calm();
    QVERIFY(window_->drape()->view().mesh);
    QCOMPARE(box()->count(), 2);
    QCOMPARE(note(), QString());
    box()->setFocus();
    key(Qt::Key_Down);
    key(Qt::Key_Down);  // the first is what it starts at
    QCOMPARE(std::get<std::string>(m().nodes[0]->params.at("name")), std::string("_DAMP"));
    board()->setFocus();
    key(Qt::Key_O);
    calm();
    const QImage damp = drape();
    const auto at = [&](double u) { return qRed(damp.pixel(static_cast<int>(u * damp.width()), damp.height() / 2)); };
    QVERIFY2(at(0.4) + 40 < at(0.5) && at(0.5) + 40 < at(0.6), std::to_string(at(0.5)).c_str());
    // A name that is typed and not there is told, and what stands under Otherwise is seen.
    box()->setFocus();
    box()->lineEdit()->selectAll();
    QTest::keyClicks(box(), QStringLiteral("_DRY"));
    key(Qt::Key_Return);
    calm();
    QCOMPARE(std::get<std::string>(m().nodes[0]->params.at("name")), std::string("_DRY"));
    QCOMPARE(note(), QStringLiteral("Not on the mesh in sight"));
    QVERIFY(differ(damp, drape()));
  }

  // By its handles on the drape a volume is moved, stretched and turned; each drag is one step back.
  void aVolumeIsMovedByHand() {
    DrapePanel* const panel = window_->drape();
    panel->setShape(ShapeName::block);
    add(QStringLiteral("volume mask"));
    calm();
    board()->setFocus();
    key(Qt::Key_O);
    calm();
    const auto number = [&](const char* id) {
      const auto it = m().nodes[0]->params.find(id);
      return it == m().nodes[0]->params.end()
                 ? std::get<double>(catalogue().find("volume_mask")->parameter(id)->initial)
                 : std::get<double>(it->second);
    };
    const auto drag = [&](VolumeHandles::Handle handle, QPoint by, Qt::KeyboardModifiers with = Qt::NoModifier) {
      const auto from = panel->handlePlace(handle);
      QVERIFY(from);
      const QPoint at = from->toPoint();
      QTest::mousePress(panel, Qt::LeftButton, {}, at);
      for (int i = 1; i <= 4; ++i) {
        QMouseEvent move(QEvent::MouseMove, at + by * i / 4, panel->mapToGlobal(at + by * i / 4), Qt::NoButton,
                         Qt::LeftButton, with);
        QApplication::sendEvent(panel, &move);
      }
      QTest::mouseRelease(panel, Qt::LeftButton, {}, at + by);
    };
    const Camera camera = panel->view().camera;
    const QImage before = drape();
    // The middle follows the hand.
    drag(VolumeHandles::centre, {30, -50});
    calm();
    const auto middle = panel->handlePlace(VolumeHandles::centre);
    QVERIFY(middle && number("centre_y") > -0.44 && differ(before, drape()));
    QVERIFY(panel->view().camera == camera);
    window_->document().undo();
    calm();
    QCOMPARE(number("centre_y"), -0.45);
    const auto back = panel->handlePlace(VolumeHandles::centre);
    QVERIFY(back && std::hypot(middle->x() - back->x() - 30, middle->y() - back->y() + 50) < 2);
    // A side follows along its own way; the others stay.
    const auto side = panel->handlePlace(VolumeHandles::size_y);
    drag(VolumeHandles::size_y, {0, -24});
    calm();
    QVERIFY(number("size_y") > 0.42 && number("size_x") == 1 && number("centre_y") == -0.45);
    QVERIFY(std::abs(panel->handlePlace(VolumeHandles::size_y)->y() - side->y() + 24) < 4);
    window_->document().undo();
    calm();
    QCOMPARE(number("size_y"), 0.4);
    // Turned to whole degrees; Shift lifts the snapping.
    drag(VolumeHandles::turn, {-40, 0});
    calm();
    QVERIFY(std::abs(number("turn")) > 3 && number("turn") == std::round(number("turn")));
    drag(VolumeHandles::size_x, {17, 3}, Qt::ShiftModifier);
    calm();
    QVERIFY(number("size_x") != 1 && std::abs(number("size_x") * 1000 - std::round(number("size_x") * 1000)) > 1e-4);
    window_->document().undo();
    // What follows a dial turns the dial, and goes on following it.
    Q_EMIT window_->tray()->dialWanted("volume_mask", "size_x");
    calm();
    const auto* follow = std::get_if<Follow>(&m().nodes[0]->params.at("size_x"));
    QVERIFY(follow && panel->volumeHandles().isShown());
    const std::string dial = follow->value;
    const double stood = std::get<double>(m().value(dial)->value);
    drag(VolumeHandles::size_x, {17, 3});
    calm();
    QVERIFY(std::get<double>(m().value(dial)->value) != stood);
    QVERIFY(std::holds_alternative<Follow>(m().nodes[0]->params.at("size_x")));
    // Beside all handles the shape is turned; with another node there are none.
    const QPoint beside(20, panel->height() / 2);
    QTest::mousePress(panel, Qt::LeftButton, {}, beside);
    QTest::mouseMove(panel, beside + QPoint(30, 0));
    QTest::mouseMove(panel, beside + QPoint(60, 0));
    QTest::mouseRelease(panel, Qt::LeftButton, {}, beside + QPoint(60, 0));
    QVERIFY(!(panel->view().camera == camera));
    add(QStringLiteral("facing"));
    calm();
    QVERIFY(!panel->volumeHandles().isShown());
  }

  // A volume may be the body of a mesh file; one that bounds none says so beside its name.
  void aVolumeMayBeTheBodyOfAMesh() {
    DrapePanel* const panel = window_->drape();
    panel->setShape(ShapeName::block);
    add(QStringLiteral("volume mask"));
    // In the middle of the block's face.
    window_->document().edit(QStringLiteral("Set"), edit::set_param(m(), "volume_mask", "centre_y", 0.0));
    window_->document().edit(QStringLiteral("Set"), edit::set_param(m(), "volume_mask", "centre_z", 0.4));
    calm();
    board()->setFocus();
    key(Qt::Key_O);
    calm();
    const QImage ball = drape();
    auto* form = window_->tray()->row("form")->findChild<QComboBox*>();
    QVERIFY(form && !window_->tray()->row("file")->findChild<QLineEdit*>()->isEnabled());
    QTest::keyClick(form, Qt::Key_End);
    calm();
    const QImage post = drape();
    QVERIFY(differ(ball, post) && panel->handlePlace(VolumeHandles::size_y));
    const auto name = [&](const char* file) {
      auto* line = window_->tray()->row("file")->findChild<QLineEdit*>();
      QVERIFY(line && line->isEnabled());
      line->setFocus();
      line->selectAll();
      QTest::keyClicks(line, QStringLiteral(LOOM_DEMO) + QLatin1Char('/') + QLatin1String(file));
      QTest::keyClick(line, Qt::Key_Return);
      calm();
    };
    name("bollard.glb");
    QVERIFY(said(QStringLiteral("bounds no body")));
    name("sign.glb");
    QVERIFY(!said(QStringLiteral("bounds no body")) && differ(post, drape()));
  }

  // A measure of the mesh that is worn: edges are bright where the mesh has some, and another radius is measured anew.
  void edgesOfAMeshAreMeasured() {
    add(QStringLiteral("convex edges"));
    window_->drape()->takeMesh(QStringLiteral(LOOM_DEMO "/sign.glb"));
    board()->select({"convex_edges"});
    key(Qt::Key_O);
    calm();
    const auto bright = [&] {
      const QImage seen = drape();
      int count = 0;
      for (int y = 40; y < seen.height() - 40; ++y)
        for (int x = 0; x < seen.width(); ++x)
          count += std::abs(qRed(seen.pixel(x, y)) - 118) > 6 && qRed(seen.pixel(x, y)) > 12;
      return count;
    };
    const int narrow = bright();
    QVERIFY2(narrow > 200, qPrintable(QString::number(narrow)));
    window_->document().edit(QStringLiteral("Set radius"), edit::set_param(m(), "convex_edges", "radius", 0.12));
    calm();
    QVERIFY2(bright() > narrow * 21 / 20, qPrintable(QString("%1 after %2").arg(bright()).arg(narrow)));
    QCOMPARE(window_->drape()->measuring().share(), 1.0);
    // The shape's own where no mesh is worn.
    window_->drape()->setShape(ShapeName::block);
    calm();
    QVERIFY(window_->drape()->view().measured && bright() > 200);
  }

  // Turning the shape does not break off what is measured.
  void measuringGoesOnWhileOneLooks() {
    window_->drape()->measuring().setPoints(kFinePoints);
    add(QStringLiteral("mesh occlusion"));
    window_->drape()->takeMesh(QStringLiteral(LOOM_DEMO "/bollard.glb"));
    board()->select({"mesh_occlusion"});
    key(Qt::Key_O);
    window_->drape()->setFocus();
    int turns = 0;
    for (; window_->drape()->measuring().share() < 1 && turns < 400; ++turns) {
      key(Qt::Key_Left);
      QTest::qWait(50);
    }
    QVERIFY(turns < 400);
    calm();
    const MeasuredMesh& known = *window_->drape()->view().measured;
    QCOMPARE(known.known.size(), std::size_t{1});
    QVERIFY(known.known.begin()->second->points() > kFinePoints / 2);
    // The same mesh from another file is not measured again.
    const auto measured = known.known.begin()->second;
    QTemporaryDir folder;
    const QString copy = folder.filePath(QStringLiteral("copy.glb"));
    QVERIFY(QFile::copy(QStringLiteral(LOOM_DEMO "/bollard.glb"), copy));
    const auto before = window_->drape()->view().mesh;
    window_->drape()->takeMesh(copy);
    calm();
    QVERIFY(window_->drape()->view().mesh != before);
    QVERIFY(window_->drape()->view().measured->known.begin()->second == measured);
  }

  void theMeshGoesWithTheDocument() {
    QTemporaryDir folder;
    for (const char* name : {"bollard.glb", "sign.glb", "poster-sign.loom"})
      QVERIFY(QFile::copy(QStringLiteral(LOOM_DEMO "/") + name, folder.filePath(QString::fromLatin1(name))));
    QVERIFY(window_->openPath(folder.filePath(QStringLiteral("poster-sign.loom"))));
    window_->drape()->takeMesh(folder.filePath(QStringLiteral("bollard.glb")));
    QVERIFY(window_->saveTo(folder.filePath(QStringLiteral("bollard.loom"))));
    window_->document().reset(edit::empty_material());
    QVERIFY(!window_->drape()->view().mesh);
    QVERIFY(window_->openPath(folder.filePath(QStringLiteral("bollard.loom"))));
    calm();
    QVERIFY(window_->drape()->view().mesh && !window_->document().isEdited());
    QCOMPARE(window_->drape()->view().mesh->mesh().parts.size(), std::size_t{3});
    // Looking at it on a ball is no change; taking another mesh is one, by its name beside the document.
    window_->drape()->setShape(ShapeName::ball);
    QVERIFY(!window_->document().isEdited());
    window_->drape()->takeMesh(folder.filePath(QStringLiteral("sign.glb")));
    QCOMPARE(m().mesh, std::string("sign.glb"));
    window_->document().undo();
    calm();
    QCOMPARE(m().mesh, std::string("bollard.glb"));
    QVERIFY(window_->drape()->view().mesh->foot() > -0.01f && window_->drape()->view().mesh->longest_side() < 0.8f);
    window_->document().redo();
    calm();
    QVERIFY(window_->saveTo(folder.filePath(QStringLiteral("sign.loom"))));
    // Opened elsewhere, and out of a bolt.
    auto kept = open_material(folder.filePath(QStringLiteral("sign.loom")).toStdString());
    QVERIFY(kept && kept->mesh == "sign.glb" && shown_mesh(*kept)->parts.size() == 3);
    const auto bolt = folder.filePath(QStringLiteral("sign.bolt")).toStdString();
    QVERIFY(write_bolt(bolt, {.material = *kept}));
    const auto packed = open_material(bolt);
    QVERIFY(packed && packed->mesh == "files/sign.glb");
    const auto mesh = shown_mesh(*packed), beside = shown_mesh(*kept);
    QVERIFY(mesh && mesh->triangle == beside->triangle && mesh->parts == beside->parts);
    // A shape is kept by the menu alone.
    window_->drape()->setShape(ShapeName::ring);
    for (QAction* a : window_->drape()->findChildren<QAction*>())
      if (a->text().startsWith(QStringLiteral("Keep this shape"))) a->trigger();
    QCOMPARE(m().shape, std::string("ring"));
    QVERIFY(m().mesh.empty());
  }

  void contoursByOneKey() {
    window_->drape()->setShape(ShapeName::block);
    calm();
    const auto near = [](const QImage& a, const QImage& b) { return !differ(a, b); };
    const QImage bare = drape();
    window_->drape()->setFocus();
    key(Qt::Key_O, Qt::ShiftModifier);
    calm();
    const QImage lined = drape();
    QVERIFY(!near(bare, lined) && window_->drape()->view().contours.any());
    // A wider outline by the menu, and none at all by the key again.
    for (QAction* a : window_->drape()->findChildren<QAction*>())
      if (a->text() == QStringLiteral("5 px wide")) {
        a->trigger();
        break;
      }
    calm();
    QVERIFY(window_->drape()->view().contours.of[0].width == 5 && drape() != lined);
    key(Qt::Key_O, Qt::ShiftModifier);
    calm();
    QVERIFY(near(bare, drape()) && !window_->drape()->view().contours.any());
  }

  // The loupe shows what depends on the shape as it lies in the shape's own coordinates.
  void theLoupeLaysTheShapeOut() {
    window_->drape()->measuring().setPoints(kCoarsePoints);
    Material block = edit::add_node(edit::empty_material(), catalogue(), "thickness", "relief", 0, 0);
    block = edit::add_node(std::move(block), catalogue(), "facing", "relief", 0, 1);
    block = edit::add_node(std::move(block), catalogue(), "gradient_noise", "relief", 0, 2);
    window_->document().edit(QStringLiteral("Set up"), block);
    window_->drape()->setShape(ShapeName::block);
    board()->select({"thickness"});  // which feeds nothing, and is measured all the same
    calm();
    QVERIFY(seen_->on && window_->loupe()->onShape());
    QTRY_VERIFY(seen_->range.most < 0.9f);
    calm();
    // Straight inwards a block of 0.8 m is that thick but at its round edges.
    std::size_t thick = 0, all = 0;
    const Plane& metres = *seen_->loupe->strand[0];
    for (int y = 0; y < metres.size(); ++y)
      for (int x = 0; x < metres.size(); ++x)
        if (seen_->on->covers(x, y)) ++all, thick += std::abs(metres.at(x, y) - 0.8f) < 0.01f;
    QVERIFY2(thick * 10 > all * 6, std::to_string(static_cast<double>(thick) / static_cast<double>(all)).c_str());
    const QRgb gap = qRgb(107, 107, 107);
    for (const QPoint& corner : {QPoint(0, 0), QPoint(metres.size() - 1, metres.size() - 1)})
      if (!seen_->on->covers(corner.x(), corner.y())) {
        QCOMPARE(seen_->loupe_picture->pixel(corner), gap);
      }
    // Another shape, and another eye.
    const auto before = seen_->on;
    window_->drape()->setShape(ShapeName::ball);
    calm();
    QVERIFY(seen_->on && seen_->on != before);
    board()->select({"facing"});
    calm();
    const QImage first = *seen_->loupe_picture;
    window_->drape()->setFocus();
    for (int i = 0; i < 8; ++i) key(Qt::Key_Right);
    calm();
    QVERIFY(differ(first, *seen_->loupe_picture));
    // What lies on the tile is shown as ever.
    board()->select({"gradient_noise"});
    calm();
    QVERIFY(!seen_->on && !window_->loupe()->onShape());
  }

  // From where one looked at a document's shape: found again when it is opened again, in another window, too.
  void theCameraIsKeptWithTheDocument() {
    const QString floor = QStringLiteral(LOOM_DEMO "/quay-floor.loom"),
                  sign = QStringLiteral(LOOM_DEMO "/poster-sign.loom");
    const auto turn = [this](int key_, int times) {
      window_->drape()->setFocus();
      for (int i = 0; i < times; ++i) key(key_);
      return window_->drape()->view().camera;
    };
    const auto is = [this](const Camera& c) {
      const Camera& now = window_->drape()->view().camera;
      return std::abs(now.azimuth - c.azimuth) < 1e-3f && std::abs(now.height - c.height) < 1e-3f &&
             std::abs(now.distance - c.distance) < 1e-3f;
    };
    QVERIFY(window_->openPath(floor));
    calm();
    const Camera of_floor = turn(Qt::Key_Left, 3);
    QVERIFY(window_->openPath(sign));
    calm();
    QVERIFY(window_->drape()->view().mesh && !is(of_floor));
    const Camera of_sign = turn(Qt::Key_Right, 5);
    QVERIFY(window_->openPath(floor));
    calm();
    QVERIFY(is(of_floor));
    turn(Qt::Key_Plus, 2);
    QTest::qWait(500);
    const Camera nearer = window_->drape()->view().camera;
    closeUnsaved(window_);
    window_ = shownWindow();
    QVERIFY(window_->openPath(floor));
    calm();
    QVERIFY(is(nearer));
    QVERIFY(window_->openPath(sign));
    calm();
    QVERIFY(is(of_sign));
    // Looked at on another shape last, which the document does not ask for: it is not waited for.
    QVERIFY(window_->openPath(floor));
    window_->drape()->setShape(ShapeName::pipe);
    turn(Qt::Key_Left, 2);
    window_->drape()->setShape(ShapeName::ball);
    const Camera on_ball = turn(Qt::Key_Left, 4);
    QVERIFY(window_->openPath(sign));
    QVERIFY(window_->openPath(floor));
    calm();
    QVERIFY(is(on_ball));
  }

  void aMeshThatIsGoneIsTold() {
    QTemporaryDir folder;
    QVERIFY(QFile::copy(QStringLiteral(LOOM_DEMO "/bollard.loom"), folder.filePath(QStringLiteral("bollard.loom"))));
    QVERIFY(window_->openPath(folder.filePath(QStringLiteral("bollard.loom"))));
    QTRY_VERIFY(said(QStringLiteral("bollard.glb")));
    QVERIFY(!window_->drape()->view().mesh);
    window_->document().reset(edit::empty_material());  // nobody waits for what is measured of the ball
  }

  void whatHasNoMeaningIsRefusedWithTheReason() {
    add(QStringLiteral("facing"));
    board()->select({"facing"});
    Material next = edit::add_node(m(), catalogue(), "blur", "relief", 0, 1);
    window_->document().edit(QStringLiteral("Set up"), next);
    board()->select({"facing"});
    board()->setFocus();
    const std::size_t threads = m().threads.size();
    // By hand, from the output to the peg of the blur.
    const auto at = [&](const PegPlace& p) { return board()->widgetPoint(p.at); };
    const QPoint from = at(board()->view().layout.tag("facing")->outputs[0]),
                 to = at(board()->view().layout.tag("blur")->inputs[0]);
    QTest::mousePress(board(), Qt::LeftButton, {}, from);
    QTest::mouseMove(board(), (from + to) / 2);
    QTest::mouseMove(board(), to);
    QTest::mouseRelease(board(), Qt::LeftButton, {}, to);
    QCOMPARE(m().threads.size(), threads);
    QVERIFY(said(QStringLiteral("known only on the points of a shape")));
  }
};

QTEST_MAIN(TestShadingGraph)
#include "tst_shading_graph.moc"
