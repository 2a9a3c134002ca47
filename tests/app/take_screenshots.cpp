// take_screenshots DEMO_FOLDER OUT_FOLDER: pictures of the real windows, made from the demo.
#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDir>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QListWidget>
#include <QMouseEvent>
#include <QPainter>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QThread>
#include <QToolButton>
#include <cmath>

#include "app/base/brush.h"
#include "app/base/theme.h"
#include "app/deliver/bolt_dialog.h"
#include "app/deliver/deliver_form.h"
#include "app/deliver/dials_panel.h"
#include "app/deliver/preset_list.h"
#include "app/fitting/fitting_window.h"
#include "app/fitting/others_list.h"
#include "app/shell/main_window.h"
#include "app/shell/part_focus.h"
#include "app/shell/proof_workspace.h"
#include "core/bolt/shown_mesh.h"
#include "core/bolt/worn_material.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/rework.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/example.h"

using namespace loom::app;

namespace {

template <class Done>
void settle(const Done& done, int most = 60000) {
  QElapsedTimer timer;
  timer.start();
  int calm = 0;
  while (timer.elapsed() < most && calm < 5) {
    QApplication::processEvents(QEventLoop::AllEvents, 40);
    QThread::msleep(20);
    calm = done() ? calm + 1 : 0;
  }
}

void keep(QWidget& w, const QString& path) { w.grab().save(path); }

loom::Worn wornOf(const loom::Material& material, const loom::MeshShape* mesh) {
  loom::Weaver weaver(std::size_t{1} << 30);
  const auto graph = loom::flatten(material, loom::catalogue());
  const auto parts = mesh ? mesh->mesh().parts : std::vector<std::string>();
  return loom::weave_worn(weaver, *graph, parts, 1024, loom::Stop{})->worn;
}

QImage lit(const loom::Worn& worn, const loom::DrapeView& view) {
  loom::Drape drape(worn, view);
  for (int s = 0; s < 48; ++s) drape.add_sample(loom::Stop{});
  drape.find_contours(loom::Stop{});
  const auto rgb = drape.picture();
  return QImage(rgb.data(), view.width, view.height, view.width * 3, QImage::Format_RGB888).copy();
}

// Materials on the six shapes, with their relief, and on the two meshes of the demo.
QImage shapeSheet(const QString& folder) {
  const std::pair<const char*, loom::Camera> shown[] = {
      {"slipway-setts", {25, 18, 3.3f}}, {"copper-shingles", loom::Camera::start(loom::ShapeName::ball)},
      {"rush-matting", {0, 14, 4.3f}},   {"quay-floor", loom::Camera::start(loom::ShapeName::ring)},
      {"slipway-setts", {32, 26, 4.3f}}, {"net-loft", loom::Camera::start(loom::ShapeName::cupola)},
      {"bollard", {20, 22, 4}},          {"poster-sign", {-24, 8, 4}}};
  constexpr int kWide = 320, kHigh = 400;
  QImage all(4 * kWide, 2 * kHigh, QImage::Format_RGB888);
  QPainter p(&all);
  for (int i = 0; i < 8; ++i) {
    loom::DrapeView view;
    view.camera = shown[i].second;
    view.width = kWide, view.height = kHigh;
    const auto material = loom::open_material((folder + QLatin1Char('/')).toStdString() + shown[i].first + ".loom");
    if (i < 6) {
      view.shape = static_cast<loom::ShapeName>(i);
    } else {
      auto mesh = loom::read_mesh(
          (folder + (i == 6 ? QStringLiteral("/bollard.glb") : QStringLiteral("/sign.glb"))).toStdString());
      view.mesh = std::make_shared<const loom::MeshShape>(std::move(*mesh));
      view.contours.take(i == 7 ? "outline,creases,parts" : "");
    }
    const loom::Worn worn = wornOf(*material, view.mesh.get());
    view.measured = *loom::measured_for(worn, view, loom::Stop{});
    p.drawImage(i % 4 * kWide, i / 4 * kHigh, lit(worn, view));
  }
  return all;
}

// All materials of the demo on ball and tile, in one picture.
QImage sheet(const QString& folder) {
  constexpr int kSide = 182;
  const QStringList files = QDir(folder).entryList({QStringLiteral("*.loom")}, QDir::Files, QDir::Name);
  QImage all(kSide * static_cast<int>(files.size()), 2 * kSide + 26, QImage::Format_RGB888);
  all.fill(QColor(118, 118, 118));
  QPainter p(&all);
  p.setPen(Qt::white);
  p.setFont(textFont(12));
  for (int i = 0; i < files.size(); ++i) {
    const auto material = loom::open_material((folder + QLatin1Char('/') + files[i]).toStdString());
    if (!material) continue;
    for (int row = 0; row < 2; ++row) {
      loom::DrapeView view;
      view.shape = row == 0 ? loom::ShapeName::ball : loom::ShapeName::tile;
      view.camera = loom::Camera::start(view.shape);
      view.width = view.height = kSide;
      if (row == 0 && !material->mesh.empty()) {
        view.mesh = std::make_shared<const loom::MeshShape>(std::move(*loom::shown_mesh(*material)));
        view.camera = loom::Camera::start(loom::ShapeName::block);
      }
      const loom::Worn worn = wornOf(*material, view.mesh.get());
      view.measured = *loom::measured_for(worn, view, loom::Stop{});
      p.drawImage(i * kSide, row * kSide, lit(worn, view));
    }
    p.drawText(QRect(i * kSide, 2 * kSide, kSide, 24), Qt::AlignCenter, QString::fromStdString(material->name));
  }
  return all;
}

// A stroke of the mouse over the drape; places are shares of it.
void drawOn(DrapePanel& drape, const std::vector<QPointF>& way) {
  const auto at = [&](QPointF share) { return QPointF(share.x() * drape.width(), share.y() * drape.height()); };
  const auto send = [&](QEvent::Type type, QPointF place, Qt::MouseButton button, Qt::MouseButtons held) {
    QMouseEvent e(type, place, drape.mapToGlobal(place), button, held, Qt::NoModifier);
    QApplication::sendEvent(&drape, &e);
  };
  send(QEvent::MouseButtonPress, at(way.front()), Qt::LeftButton, Qt::LeftButton);
  for (const QPointF& share : way) send(QEvent::MouseMove, at(share), Qt::NoButton, Qt::LeftButton);
  send(QEvent::MouseButtonRelease, at(way.back()), Qt::LeftButton, Qt::NoButton);
}

// What every node of a rack gives with its parameters at their start, with its name.
QImage rackSheet(loom::Rack rack) {
  constexpr int kSide = 104, kColumns = 8;
  std::vector<const loom::NodeType*> types;
  for (const loom::NodeType* t : loom::catalogue().all())
    if (t->rack == rack) types.push_back(t);
  const int rows = (static_cast<int>(types.size()) + kColumns - 1) / kColumns;
  QImage all(kColumns * (kSide + 8) + 8, rows * (kSide + 26) + 8, QImage::Format_RGB888);
  all.fill(QColor("#fbf9f4"));
  QPainter p(&all);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  loom::Weaver weaver(std::size_t{1} << 28);
  std::shared_ptr<const loom::MeasuredMesh> block;
  for (std::size_t i = 0; i < types.size(); ++i) {
    const QRect at(8 + static_cast<int>(i) % kColumns * (kSide + 8), 8 + static_cast<int>(i) / kColumns * (kSide + 26),
                   kSide, kSide);
    const loom::Material m = loom::example_of(*types[i], loom::catalogue());
    const auto graph = loom::flatten(m, loom::catalogue());
    const auto ref = graph ? graph->find(loom::example_output(*types[i])) : std::nullopt;
    p.fillRect(at, QColor("#767676"));
    if (ref) {
      const auto woven = weaver.weave(*graph, {loom::Want(*ref)}, 256, loom::Stop{});
      if (graph->surface_of(*ref) != loom::SurfaceUse::none)
        p.drawImage(at, pictureOnShape(weaver, *graph, *ref, 2 * kSide, block, loom::Stop{}));
      else if (woven && loom::strand_count(woven->fields[0].kind) > 0)
        p.drawImage(at, pictureOf(woven->fields[0]));
    }
    const QString label = QString::fromStdString(types[i]->label);
    p.setPen(QColor("#2b2a28"));
    p.setFont(fitted(textFont(11), label, kSide));
    p.drawText(QRect(at.x(), at.bottom() + 2, kSide, 20), Qt::AlignVCenter, label);
  }
  return all;
}

}  // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom-pictures"));
  if (argc < 3) return 2;
  const QString demo = QString::fromLocal8Bit(argv[1]), out = QString::fromLocal8Bit(argv[2]);
  const QString only = argc > 3 ? QString::fromLocal8Bit(argv[3]) : QString();
  const auto wanted = [&](const char* name) { return only.isEmpty() || only == QLatin1String(name); };
  QDir().mkpath(out);
  installTheme();
  if (wanted("shapes")) shapeSheet(demo).save(out + QStringLiteral("/shapes.png"));
  if (wanted("demos")) sheet(demo).save(out + QStringLiteral("/demos.png"));
  if (only == QStringLiteral("demos")) return 0;
  if (only == QStringLiteral("racks")) {  // into docs/nodes
    for (std::size_t i = 0; i < loom::kRackLabels.size(); ++i)
      rackSheet(static_cast<loom::Rack>(i))
          .save(out + QLatin1Char('/') + QString::fromLatin1(loom::kRackLabels[i]).toLower() + QStringLiteral(".png"));
    return 0;
  }
  QTemporaryDir folder;
  MainWindow window;
  window.resize(1280, 800);
  window.show();
  window.openPath(demo + QStringLiteral("/quay-floor.loom"));
  settle([&] { return window.isIdle(); });
  window.board()->select({"laid"});
  settle([&] { return window.isIdle(); });
  if (wanted("weave")) keep(window, out + QStringLiteral("/weave.png"));
  if (wanted("add-line")) {
    window.board()->select({"worn"});
    window.board()->setFocus();
    window.board()->commands().openAddLine();
    settle([&] { return window.isIdle(); });
    for (QLineEdit* line : window.board()->findChildren<QLineEdit*>())
      if (line->isVisible()) line->setText(QStringLiteral("bl"));
    settle([&] { return window.isIdle(); }, 2000);
    keep(window, out + QStringLiteral("/add-line.png"));
    for (QLineEdit* line : window.board()->findChildren<QLineEdit*>())
      if (line->isVisible()) line->parentWidget()->hide();
  }
  if (wanted("painting")) {  // a mark of the harbour's own, painted on the bollard by hand
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.openPath(demo + QStringLiteral("/bollard.loom"));
    settle([&] { return own.isIdle(); });
    std::string node;
    loom::Material m = own.document().material();
    m = loom::edit::add_node(std::move(m), loom::catalogue(), "hand_paint", m.node("faded")->lane, 4,
                             m.node("faded")->row + 1, &node);
    m = loom::edit::set_param(std::move(m), node, "kind", std::string("colour"));
    m = loom::edit::splice_after(std::move(m), loom::catalogue(), "faded.result", node);
    own.document().edit(QStringLiteral("Paint"), m);
    own.board()->select({node});
    own.board()->reveal(node);
    settle([&] { return own.isIdle(); });
    own.drape()->setDrawing(true);
    brush().colour = {0.72, 0.63, 0.42};
    brush().radius = 0.035, brush().softness = 0.25;
    std::vector<QPointF> wave;
    for (int i = 0; i <= 40; ++i) wave.emplace_back(0.41 + 0.0047 * i, 0.55 + 0.03 * std::sin(0.45 * i));
    drawOn(*own.drape(), wave);
    settle([&] { return own.isIdle(); });
    brush().radius = 0.05;
    drawOn(*own.drape(), {{0.46, 0.36}, {0.47, 0.36}});
    settle([&] { return own.isIdle(); });
    const QPointF over(own.drape()->width() * 0.56, own.drape()->height() * 0.34);
    QMouseEvent hover(QEvent::MouseMove, over, own.drape()->mapToGlobal(over), Qt::NoButton, Qt::NoButton,
                      Qt::NoModifier);
    QApplication::sendEvent(own.drape(), &hover);
    keep(own, out + QStringLiteral("/painting.png"));
    brush() = Brush();
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("nested")) {
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    loom::Material m = loom::edit::empty_material();
    m.name = "Quay shingle";
    m = loom::edit::add_node(std::move(m), loom::catalogue(), "motif", "relief", 0, 0);
    m = loom::edit::set_param(std::move(m), "motif", "figure", std::string("leaf"));
    m = loom::edit::add_node(std::move(m), loom::catalogue(), "nested_scatter", "relief", 0, 1);
    m = loom::edit::set_param(std::move(m), "nested_scatter", "turn_4", loom::Formula{"random(0, 360)", {}});
    m = loom::edit::set_param(std::move(m), "nested_scatter", "size_4",
                              loom::Formula{"vector(random(0.3, 1.4, 1), random(0.3, 1.4, 1))", {}});
    m = loom::edit::connect(std::move(m), {"motif", "value", "nested_scatter", "motif_a"});
    m = loom::edit::add_node(std::move(m), loom::catalogue(), "transform", "relief", 1, 2);
    m = loom::edit::set_param(std::move(m), "transform", "mode", std::string("one_copy"));
    m = loom::edit::set_param(std::move(m), "transform", "size", loom::Vector{0.55, 0.35});
    m = loom::edit::set_param(std::move(m), "transform", "turn", 25.0);
    m = loom::edit::connect(std::move(m), {"nested_scatter", "height", "transform", "source"});
    m = loom::edit::set_hem(std::move(m), "height", "transform.result");
    own.document().reset(m);
    own.board()->select({"transform"});
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/copy.png"));
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("handles")) {  // a hatch plate, drawn over its picture
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    loom::Material m = loom::edit::empty_material();
    m.name = "Hatch plate";
    m = loom::edit::add_node(std::move(m), loom::catalogue(), "drawn_figure", "relief", 0, 0);
    m = loom::edit::set_param(
        std::move(m), "drawn_figure", "figure",
        std::string("<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 1 1\">\n"
                    "<rect x=\"0.125\" y=\"0.125\" width=\"0.75\" height=\"0.75\" rx=\"0.1\" fill=\"white\"/>\n"
                    "<ellipse cx=\"0.5\" cy=\"0.5\" rx=\"0.1875\" ry=\"0.1875\" fill=\"black\"/>\n"
                    "<path d=\"M0.1875,0.3125 C0.1875,0.2 0.2,0.1875 0.3125,0.1875 L0.25,0.3125 Z\" fill=\"black\"/>\n"
                    "<polygon points=\"0.4375,0.46 0.5625,0.46 0.5625,0.54 0.4375,0.54\" fill=\"white\"/>\n"
                    "</svg>"));
    m = loom::edit::set_param(std::move(m), "drawn_figure", "symmetry", std::string("both"));
    m = loom::edit::add_node(std::move(m), loom::catalogue(), "bevel", "relief", 0, 1);
    m = loom::edit::connect(std::move(m), {"drawn_figure", "mask", "bevel", "mask"});
    m = loom::edit::set_hem(std::move(m), "height", "bevel.height");
    own.document().reset(m);
    own.board()->select({"drawn_figure"});
    settle([&] { return own.isIdle(); });
    own.loupe()->setFocus();
    for (const int key : {Qt::Key_N, Qt::Key_N, Qt::Key_N, Qt::Key_K}) {
      QKeyEvent press(QEvent::KeyPress, key, Qt::NoModifier);
      QApplication::sendEvent(own.loupe(), &press);
    }
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/handles.png"));
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("follow")) {
    window.board()->select({"colour"});
    settle([&] { return window.isIdle(); });
    Q_EMIT window.loupe()->followWanted(QPointF(0.30, 0.42));
    settle([&] { return window.isIdle(); });
    keep(window, out + QStringLiteral("/follow.png"));
    Q_EMIT window.loupe()->followEnded();
  }
  if (wanted("inside")) {
    const loom::Material before = window.document().material();
    std::string id;
    auto folded =
        loom::edit::fold(before, loom::catalogue(),
                         {"values", "streaks", "shade", "dyed", "rim", "thin", "pale", "glazed"}, "Glaze", &id);
    if (folded) {
      loom::Material m = loom::edit::set_note(std::move(*folded), "scuffs", "feet, trolleys, a dropped anchor");
      m = loom::edit::set_stage(loom::edit::set_stage(std::move(m), 0, "Lay"), 4, "Wear");
      m.marks["g"] = id + ".result";
      window.document().edit(QStringLiteral("Fold"), m);
      window.board()->select({id});
      settle([&] { return window.isIdle(); });
      window.navigation().goInside(id);
      window.board()->select({"dyed"});
      settle([&] { return window.isIdle(); });
      keep(window, out + QStringLiteral("/inside.png"));
      window.navigation().goOut();
      window.document().undo();
    }
  }
  if (wanted("stockroom")) {
    QStringList recent;
    for (const char* name : {"rush-matting", "bollard", "quay-floor"})
      recent << QFileInfo(demo).absoluteFilePath() + QLatin1Char('/') + QLatin1String(name) + QStringLiteral(".loom");
    QSettings().setValue(QStringLiteral("recent"), recent);
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.showWorkspace(MainWindow::Workspace::stockroom);
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/stockroom.png"));
  }
  if (wanted("shading-graph")) {
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.openPath(demo + QStringLiteral("/poster-sign.loom"));
    settle([&] { return own.isIdle(); });
    own.drape()->toggleContours();
    own.parts().focus("frame");
    own.board()->select({"flats_2"});
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/shading-graph.png"));
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("bollard")) {  // what a measure of its mesh makes, unlit
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.openPath(demo + QStringLiteral("/bollard.loom"));
    own.drape()->setSamples(32);
    own.board()->select({"exposed"});
    for (QAction* a : own.findChildren<QAction*>())
      if (a->text() == MainWindow::tr("Show the output unlit on the shape")) a->trigger();
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/bollard.png"));
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("dense")) {  // many nodes, led threads, the editors of stops and of a curve; the last by night
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.openPath(demo + QStringLiteral("/slipway-setts.loom"));
    settle([&] { return own.isIdle(); });
    loom::Material m = own.document().material();
    for (const loom::NodePtr& n : m.nodes)
      if (n->type == "dye") own.board()->select({n->id});
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/dense.png"));
    std::string tone;
    m = loom::edit::add_node(m, loom::catalogue(), "tone", m.lanes.front().id, 1, 0, &tone);
    m = loom::edit::set_param(std::move(m), tone, "curve",
                              loom::Points{{0, 0.05}, {0.3, 0.12}, {0.55, 0.8}, {1, 0.95}});
    own.document().edit(QStringLiteral("Tone"), m);
    own.board()->select({tone});
    const auto night = [&] {
      for (QAction* a : own.findChildren<QAction*>())
        if (a->text() == MainWindow::tr("Dark palette")) a->trigger();
    };
    night();
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/night.png"));
    night();
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("hem")) {
    window.openPath(demo + QStringLiteral("/quay-floor.loom"));
    window.board()->select({});
    window.document().edit(QStringLiteral("Type"),
                           loom::edit::set_of_hem(window.document().material(), "opacity", 0.8));
    settle([&] { return window.isIdle(); });
    keep(window, out + QStringLiteral("/hem.png"));
    window.document().undo();
  }
  if (wanted("proof")) {
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.openPath(demo + QStringLiteral("/ink-blot.loom"));
    settle([&] { return own.isIdle(); });
    own.showWorkspace(MainWindow::Workspace::proof);
    own.proof()->sheet()->setAxes("violence", QStringLiteral("0..0.3:11"), "seed", QStringLiteral("1..2"));
    settle([&] { return own.isIdle(); });
    own.proof()->findings()->choose("repetition");
    settle([&] { return own.isIdle(); });
    keep(own, out + QStringLiteral("/proof.png"));
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("deliver")) {
    MainWindow own;
    own.resize(1280, 800);
    own.show();
    own.openPath(demo + QStringLiteral("/copper-shingles.loom"));
    settle([&] { return own.isIdle(); });
    QDialog* dialog = own.openDelivery();
    auto* form = dialog->findChild<DeliverForm*>(QStringLiteral("deliverForm"));
    form->setFolder(folder.path() + QStringLiteral("/lantern-quay"));
    QComboBox* list = nullptr;
    for (QComboBox* box : form->findChildren<QComboBox*>())
      if (box->accessibleName() == QStringLiteral("List")) list = box;
    list->setCurrentIndex(1);
    Q_EMIT list->activated(1);  // makes the rows anew
    for (QCheckBox* document : form->findChildren<QCheckBox*>())
      if (document->text() == QStringLiteral("glTF 2.0") || document->text() == QStringLiteral("MaterialX 1.39"))
        document->setChecked(true);
    form->start();
    settle([&] { return !form->isWriting(); });
    form->setFolder(QStringLiteral("lantern-quay/roof"));
    keep(*dialog, out + QStringLiteral("/deliver.png"));
    dialog->close();
    own.document().reset(loom::edit::empty_material());
  }
  if (wanted("dials")) {
    DialsPanel* dials = window.openDials();
    settle([&] { return window.isIdle() && dials->presets()->isIdle(); });
    keep(*dials, out + QStringLiteral("/dials.png"));
    dials->close();
  }
  if (wanted("bolt")) {
    BoltDialog* bolt = window.openBolt();
    settle([&] { return window.isIdle() && bolt->isIdle(); });
    for (QToolButton* b : bolt->findChildren<QToolButton*>())
      if (b->text() == QStringLiteral("as they will be read")) b->click();
    keep(*bolt, out + QStringLiteral("/bolt.png"));
    bolt->close();
  }
  if (wanted("fitting")) {
    FittingWindow* fitting = window.files().openFitting(demo + QStringLiteral("/quay-floor.loom"));
    fitting->form()->setFolder(QStringLiteral("lantern-quay/maps"));
    settle([&] { return fitting->isIdle() && fitting->others()->list()->count() > 3; });
    keep(*fitting, out + QStringLiteral("/fitting-quay-floor.png"));
  }
  return 0;
}
