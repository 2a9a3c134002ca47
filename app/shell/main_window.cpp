// The shell makes every edit: panels ask, the document changes, the new value goes to all of them.
#include "app/shell/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "app/base/theme.h"
#include "app/deliver/bolt_dialog.h"
#include "app/deliver/dials_panel.h"
#include "app/proof/fit_dialog.h"
#include "app/shell/bolt_nodes.h"
#include "app/shell/figure_drawing.h"
#include "app/shell/hand_painting.h"
#include "app/shell/kept_camera.h"
#include "app/shell/map_sets.h"
#include "app/shell/part_focus.h"
#include "app/shell/proof_workspace.h"
#include "app/shell/rack_icon.h"
#include "app/shell/times_panel.h"
#include "app/shell/view_room.h"
#include "app/shell/volume_moving.h"
#include "app/stockroom/stockroom_page.h"
#include "app/tray/values_panel.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

namespace {

constexpr int kBeside = 318;  // two pictures side by side

// What a parameter may name on what the view shows.
std::map<NameOf, QStringList> namesOn(const DrapeView& view) {
  std::map<NameOf, QStringList> names;
  for (const std::string& part : view.parts()) names[NameOf::part] << QString::fromStdString(part);
  if (view.mesh)
    for (const MeshAttribute& a : view.mesh->mesh().attributes)
      names[NameOf::attribute] << QString::fromStdString(a.name);
  return names;
}

}  // namespace

MainWindow::MainWindow(QWidget* parent) : QMainWindow(parent) {
  setAcceptDrops(true);
  resize(1280, 800);
  board_ = new Board;
  navigation_ = new Navigation(document_, *board_, this);
  files_ = new DocumentFiles(document_, this);
  tray_ = new Tray;
  loupe_ = new Loupe;
  drape_ = new DrapePanel;
  standing_ = new ShownShape(document_, *files_, *drape_, this);
  camera_ = new KeptCamera(document_, *drape_, this);
  parts_ = new PartFocus(document_, *navigation_, *board_, *drape_, this);
  boltNodes_ = new BoltNodes(document_, *navigation_, *board_, this);
  mapSets_ = new MapSets(document_, *navigation_, *board_, this);
  painting_ = new HandPainting(*navigation_, *loupe_, *drape_, this);
  volumes_ = new VolumeMoving(*navigation_, *drape_, this);
  figures_ = new FigureDrawing(*navigation_, *loupe_, this);
  left_ = new QSplitter(Qt::Vertical);
  left_->addWidget(boardWithPath());
  left_->addWidget(tray_);
  left_->setSizes({476, 282});
  left_->setStretchFactor(0, 1);
  right_ = new QSplitter(Qt::Vertical);
  right_->addWidget(drape_);
  right_->addWidget(loupe_);
  right_->setSizes({376, 382});
  columns_ = new QSplitter(Qt::Horizontal);
  proof_ = new ProofWorkspace(this);
  racks_ = racks();
  stock_ = new Stock(this);
  stockroom_ = new StockroomPage(*stock_);
  stockroom_->hide();
  beside_ = new StockView(*stock_, true);
  columns_->addWidget(racks_);
  columns_->addWidget(beside_);
  columns_->addWidget(left_);
  columns_->addWidget(right_);
  columns_->addWidget(proof_->side());
  proof_->side()->hide();
  beside_->setMinimumWidth(kBeside);
  beside_->setMaximumWidth(2 * kBeside);
  beside_->setContentsMargins(8, 10, 0, 0);
  beside_->hide();
  proof_->sheet()->hide();
  columns_->setStretchFactor(2, 1);
  columns_->setSizes({58, kBeside, 752, 470, 0});
  room_ = new ViewRoom(*columns_, {racks_, beside_, left_}, *right_, this);
  room_->add(drape_, tr("Drape"), drape_->addChip(tr("Where the drape stands")));
  room_->add(loupe_, tr("Loupe"), loupe_->addChip(tr("Where the loupe stands")));
  for (auto* s : {left_, right_, columns_}) s->setHandleWidth(1), s->setChildrenCollapsible(false);
  auto* central = new QWidget;
  auto* box = new QVBoxLayout(central);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(0);
  box->addWidget(topBar());
  box->addWidget(columns_, 1);
  box->addWidget(stockroom_, 1);
  proof_->sheet()->setFixedHeight(204);
  box->addWidget(proof_->sheet());
  setCentralWidget(central);
  makeActions();
  QSettings settings;
  for (const auto& [key, s] : {std::pair{"columns with stock", columns_}, {"left", left_}, {"right", right_}})
    if (const QByteArray kept = settings.value(QStringLiteral("layout/") + QLatin1String(key)).toByteArray();
        !kept.isEmpty())
      s->restoreState(kept);
  messageTimer_.setSingleShot(true);
  connect(&messageTimer_, &QTimer::timeout, this, [this] { message_->clear(); });

  connect(&document_, &Document::changed, this, &MainWindow::showDocument);
  connect(&document_, &Document::trouble, this, &MainWindow::say);
  connectBoard();
  connectTray();
  connectFiles();
  connectParts();
  connectProof();
  connectStockroom();
  connect(loupe_, &Loupe::handleDragged, this,
          [this](const HandleView& handle, QPointF to, Qt::KeyboardModifiers keys) {
            const Node* n = shown().node(handle.node);
            const auto type = n ? type_of(shown(), catalogue(), *n) : nullptr;
            if (type)
              setParameters(n->id, draggedTo(handle, *type, to,
                                             {.fine = keys.testFlag(Qt::ShiftModifier),
                                              .about_middle = keys.testFlag(Qt::ControlModifier)}));
          });
  connect(loupe_, &Loupe::gestureEnded, this, [this] { document_.endGesture(); });
  connect(painting_, &HandPainting::gestureEnded, this, [this] { document_.endGesture(); });
  connect(figures_, &FigureDrawing::gestureEnded, this, [this] { document_.endGesture(); });
  connect(volumes_, &VolumeMoving::gestureEnded, this, [this] { document_.endGesture(); });
  connect(painting_, &HandPainting::message, this, &MainWindow::say);
  const auto brushTurned = [this] { tray_->showNode(shown(), selectedNode(), faults_); };
  connect(loupe_, &Loupe::brushChanged, this, brushTurned);
  connect(drape_, &DrapePanel::brushChanged, this, brushTurned);
  connect(&engine_, &Engine::spreads, this, [this](const std::string& path, const Spreads& spreads) {
    tray_->showSpreads(navigation_->local(path), spreads);
  });
  connect(&engine_, &Engine::seen, this, &MainWindow::showSeen);
  connect(&engine_, &Engine::pictures, this, [this](const Pictures& all) {
    if (!navigation_->isInside()) return board_->showPictures(all);
    auto here = std::make_shared<std::map<std::string, QImage>>();
    for (const auto& [output, picture] : *all)
      if (const std::string own = navigation_->local(output); !own.empty()) (*here)[own] = picture;
    board_->showPictures(here);
  });
  connect(&engine_, &Engine::refused, this, [this](const QString& why) { drape_->showMessage(why); });
  connect(&engine_, &Engine::busy, this, [this](bool busy, const QString& with) {
    busy_ = busy ? with : QString();
    status_->setText(status());
  });
  connect(loupe_, &Loupe::channelChanged, this, &MainWindow::wish);
  connect(loupe_, &Loupe::compared, this, [this] { drape_->showCompared(loupe_->comparison()); });
  connect(drape_, &DrapePanel::wiped, loupe_, &Loupe::setWipe);
  connect(loupe_, &Loupe::followWanted, this, [this](QPointF place) { follow(place); });
  connect(drape_, &DrapePanel::told, this, &MainWindow::say);
  connect(drape_, &DrapePanel::lightTurned, this, [this] {
    if (seen_ && seen_->asks_for_light) wish();
  });
  const auto laidOutAnew = [this](SurfaceUse least) {
    return [this, least] {
      if (seen_ && seen_->loupe_use >= least) wish();
    };
  };
  connect(drape_, &DrapePanel::eyeMoved, this, laidOutAnew(SurfaceUse::eye_or_light));
  connect(drape_, &DrapePanel::stood, this, laidOutAnew(SurfaceUse::shape));
  connect(&drape_->measuring(), &Measuring::better, this, [this] {
    if (seen_ && !seen_->loupe_measures.empty()) wish();
  });
  connect(drape_, &DrapePanel::followWanted, this, [this](QPointF place) { follow(place); });
  connect(loupe_, &Loupe::followEnded, this, [this] { follow({}); });
  connect(board_, &Board::followEnded, this, [this] { follow({}); });
  connect(&engine_, &Engine::followed, this, &MainWindow::showFollowed);
  connect(&engine_, &Engine::weaving, this, [this](const std::string& path) {
    const std::string before = navigation_->prefix();
    const bool here = path.compare(0, before.size(), before) == 0;
    board_->showWeaving(here ? path.substr(before.size(), path.find('/', before.size()) - before.size())
                             : std::string());
  });
  connect(loupe_, &Loupe::lockWanted, this, [this] { lockLoupe(locked_.empty()); });
  connect(drape_, &DrapePanel::stood, this, [this] {
    tray_->setNames(namesOn(drape_->view()));
    tray_->showNode(shown(), selectedNode(), faults_);
  });
  showDocument();
}

// The panels go first: what they still have to say on their way must not meet members that are gone.
MainWindow::~MainWindow() {
  room_->bringBack();
  delete takeCentralWidget();
}

void MainWindow::connectBoard() {
  connect(board_, &Board::editWanted, this, [this](const QString& name, const Material& next) { edit(name, next); });
  connect(board_, &Board::selectionChanged, this, [this] {
    tray_->showNode(shown(), selectedNode(), faults_);
    wish();
  });
  connect(board_, &Board::message, this, &MainWindow::say);
  connect(board_, &Board::insideWanted, navigation_, &Navigation::goInside);
  connect(board_, &Board::boltWanted, boltNodes_, &BoltNodes::open);
  connect(board_, &Board::otherVersionWanted, boltNodes_, &BoltNodes::exchange);
  connect(boltNodes_, &BoltNodes::message, this, &MainWindow::say);
  connect(mapSets_, &MapSets::message, this, &MainWindow::say);
  connect(boltNodes_, &BoltNodes::fittingWanted, files_, &DocumentFiles::openFitting);
  connect(board_, &Board::numberTyped, tray_, &Tray::typeNumber);
  connect(tray_, &Tray::left, board_, [this] { board_->setFocus(); });
  connect(board_, &Board::markWanted, navigation_, [this](const QString& letter, bool set) {
    set ? navigation_->setMark(letter) : navigation_->goToMark(letter);
  });
  connect(navigation_, &Navigation::moved, this, &MainWindow::showDocument);
  connect(navigation_, &Navigation::message, this, &MainWindow::say);
}

void MainWindow::connectParts() {
  connect(parts_, &PartFocus::moved, this, &MainWindow::showDocument);
  connect(parts_, &PartFocus::message, this, &MainWindow::say);
}

void MainWindow::connectFiles() {
  connect(files_, &DocumentFiles::opened, this, [this] {
    parts_->focus({});
    navigation_->leaveAll();
    board_->select({});
    board_->fitAll();
  });
  connect(files_, &DocumentFiles::begun, this, [this] {
    parts_->focus({});
    navigation_->leaveAll();
    board_->setZoom(1);
  });
  connect(files_, &DocumentFiles::changedOnDisc, this, &MainWindow::wish);
  connect(files_, &DocumentFiles::changedOnDisc, standing_, &ShownShape::renew);
  connect(files_, &DocumentFiles::message, this, &MainWindow::say);
}

QWidget* MainWindow::boardWithPath() {
  auto* holder = new QWidget;
  auto* box = new QVBoxLayout(holder);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(0);
  box->addWidget(navigation_->bar());
  box->addWidget(board_, 1);
  return holder;
}

void MainWindow::setParameters(const std::string& node, const std::vector<std::pair<std::string, ParamValue>>& values) {
  Material next = shown();
  const Node* n = next.node(node);
  const auto type = n ? type_of(next, catalogue(), *n) : nullptr;
  if (!type || values.empty()) return;
  QString name, gesture = QString::fromStdString(node);
  for (const auto& [param, value] : values) {
    const Parameter* p = type->parameter(param);
    const QString label = QString::fromStdString(p ? p->label : param);
    gesture += QLatin1Char('.') + QString::fromStdString(param);
    // A parameter that follows a dial turns the dial.
    const Follow* follow = followed(*n, param);
    const bool turns = follow && !std::holds_alternative<Rule>(value) && !std::holds_alternative<Formula>(value);
    if (name.isEmpty()) name = (turns ? tr("Turn %1") : tr("Set %1")).arg(label);
    const bool file = p && p->kind == ParameterKind::file;
    if (file) files_->allowChosen(value);
    next = turns ? edit::set_value(std::move(next), follow->value, value)
                 : edit::set_param(std::move(next), node, param, file ? files_->besideDocument(value) : value);
    n = next.node(node);
  }
  edit(name, std::move(next), gesture);
}

void MainWindow::connectTray() {
  connect(tray_, &Tray::paramWanted, this,
          [this](const std::string& node, const std::string& param, const ParamValue& value) {
            if (node == kHemNode)
              return edit(tr("Set %1").arg(QString::fromStdString(hem_type().parameter(param)->label)),
                          edit::set_of_hem(shown(), param, value), QString::fromStdString(node + "." + param));
            setParameters(node, {{param, value}});
          });
  connect(tray_, &Tray::gestureEnded, this, [this] { document_.endGesture(); });
  connect(tray_, &Tray::resetWanted, this, [this](const std::string& node, const std::string& param) {
    if (node == kHemNode) return edit(tr("Reset"), edit::reset_of_hem(shown(), param));
    Material next = shown();
    const Node* n = next.node(node);
    if (!n) return;
    const auto params = n->params;
    for (const auto& [id, value] : params)
      if (param.empty() ? id != "seed" : id == param) next = edit::reset_param(std::move(next), node, id);
    edit(tr("Reset"), next);
  });
  connect(tray_, &Tray::namedValueWanted, this, &MainWindow::makeValue);
  connect(tray_, &Tray::dialWanted, this, [this](const std::string& node, const std::string& param) {
    edit(tr("Make a dial"), edit::make_dial(shown(), catalogue(), node, param));
    say(!navigation_->isInside() ? tr("A dial was made; name and limit it in the panel of dials")
                                 : tr("Offered on the group: every use has it as a parameter"));
  });
  connect(tray_, &Tray::unfollowWanted, this, [this](const std::string& node, const std::string& param) {
    const Node* n = shown().node(node);
    const Follow* follow = followed(*n, param);
    const Value* value = follow ? shown().value(follow->value) : nullptr;
    if (value) edit(tr("Stop following"), edit::set_param(shown(), node, param, value->value));
  });
  connect(tray_, &Tray::nodeWanted, this, [this](const std::string& node) {
    board_->select({node});
    board_->reveal(node);
    board_->setFocus();
  });
  connect(tray_, &Tray::itemsWanted, this, [this](const std::string& node, const std::vector<int>& order) {
    edit(tr("Arrange the list"), edit::arrange_items(shown(), catalogue(), node, order));
  });
}

bool MainWindow::isIdle() const {
  return !wishing_ && engine_.isIdle() && drape_->isIdle() && (workspace_ != Workspace::proof || proof_->isIdle()) &&
         (workspace_ != Workspace::stockroom || stock_->isIdle());
}

// ---- the document and what is seen ----

void MainWindow::showDocument() {
  const Material& m = document_.material();
  parts_->renew();
  name_->setText(QString::fromStdString(m.name));
  edited_->setText(document_.isEdited() ? tr("edited") : QString());
  setWindowTitle(QString::fromStdString(m.name) + QStringLiteral("[*] – Wild Loom"));
  setWindowModified(document_.isEdited());
  Material onBoard = shown();
  onBoard.marks.clear();
  for (const auto& [letter, at] : m.marks)
    if (const std::string here = navigation_->local(at); !here.empty()) onBoard.marks[letter] = here;
  board_->showMaterial(onBoard);
  tray_->showNode(shown(), selectedNode(), faults_);
  if (dials_) dials_->showMaterial(m);
  if (bolt_ && bolt_->isVisible()) bolt_->showMaterial(m);
  if (fit_ && fit_->isVisible()) fit_->showMaterial(m);
  if (values_) values_->showMaterial(shown());
  proof_->showMaterial(m);
  files_->watch();
  camera_->leave();
  standing_->renew();
  camera_->renew();
  wish();
}

std::string MainWindow::shownOutput() const {
  if (!locked_.empty()) return locked_;
  const std::string focused = board_->focusedOutput();
  if (!focused.empty()) return navigation_->prefix() + focused;
  if (navigation_->isInside() && !shown().hem.empty()) return navigation_->prefix() + shown().hem.begin()->second;
  const auto& hem = shown().hem;
  const auto it = hem.find("base_colour");
  return it != hem.end() ? it->second : hem.empty() ? std::string() : hem.begin()->second;
}

// An edit and the selection that follows it are one wish.
void MainWindow::wish() {
  if (std::exchange(wishing_, true)) return;
  QMetaObject::invokeMethod(this, &MainWindow::wishNow, Qt::QueuedConnection);
}

void MainWindow::wishNow() {
  wishing_ = false;
  const std::string node = selectedNode();
  const auto [of, peg] = split_output(navigation_->local(shownOutput()));
  loupe_->showHandles(handlesOf(shown(), of, peg));
  painting_->show(of);
  volumes_->show(of);
  figures_->show(of);
  engine_.wish({document_.material(), shownOutput(), loupe_->channel(), kWorkingSize,
                node.empty() ? node : navigation_->prefix() + node, loupe_->look(), drape_->isUnlit(),
                loupe_->seamChecked(), follow_, navigation_->prefix(), parts_->part(), drape_->towardsLight(),
                drape_->view()});
}

// Faults within a group stand at its instance while the board looks from outside.
void MainWindow::showSeen(const SeenPtr& seen) {
  seen_ = seen;
  std::map<std::string, Error> faults;
  const std::string before = navigation_->prefix();
  for (const auto& [path, error] : seen->faults)
    if (path.compare(0, before.size(), before) == 0)
      faults.emplace(path.substr(before.size(), path.find('/', before.size()) - before.size()), error);
  const auto same = [](const auto& a, const auto& b) {
    return a.first == b.first && a.second.text() == b.second.text();
  };
  if (!std::equal(faults.begin(), faults.end(), faults_.begin(), faults_.end(), same)) {
    faults_ = std::move(faults);
    board_->showFaults(faults_);
    tray_->showNode(shown(), selectedNode(), faults_);
  }
  status_->setText(status());
  if (times_ && times_->isVisible()) times_->showSeen(*seen, document_.material(), engine_.weaver().cached_bytes());
  drape_->alsoMeasure(seen->loupe_measures);
  if (drape_->isUnlit()) drape_->setUnlit(outputTitle(seen->loupe_output));
  if (!seen->faults.empty()) return;  // the last good picture stays
  if (!navigation_->isInside()) {
    const auto own = seen->parts.find(parts_->part());
    board_->showHem(own == seen->parts.end() ? seen->hem_pictures : own->second.hem_pictures);
  }
  drape_->showOutfit(seen->outfit());
  loupe_->showSeen(seen, outputTitle(seen->loupe_output));
}

QString MainWindow::outputTitle(const std::string& path) const {
  const auto [node, peg] = split_output(navigation_->local(path));
  const Node* n = shown().node(node);
  return n ? QString::fromStdString(label_of(shown(), catalogue(), *n)) + QStringLiteral(", ") +
                 QString::fromStdString(peg).replace(QLatin1Char('_'), QLatin1Char(' '))
           : QString::fromStdString(path);
}

void MainWindow::toggleUnlit() {
  drape_->setUnlit(drape_->isUnlit() ? QString() : outputTitle(shownOutput()));
  wish();
}

QString MainWindow::status() const {
  if (!seen_) return busy_;
  const QString fault = faults_.empty() ? QString() : tr(", %n at fault", nullptr, static_cast<int>(faults_.size()));
  const QString time = busy_.isEmpty() ? tr("%1 s").arg(seen_->milliseconds / 1000, 0, 'f', 2) : busy_;
  return tr("%1 px   seed %2   %3 nodes%4   %5")
      .arg(seen_->size)
      .arg(document_.material().seed)
      .arg(seen_->nodes)
      .arg(fault, time);
}

void MainWindow::say(const QString& text) {
  message_->setText(text);
  messageTimer_.start(6000);
}

void MainWindow::tellShortOfMemory() {
  say(tr("There was not enough memory for that: it was given up. Close other windows or programs"));
}

void MainWindow::lockLoupe(bool locked) {
  locked_ = locked ? shownOutput() : std::string();
  loupe_->showTitle(QString::fromStdString(locked ? locked_ : shownOutput()), locked);
  wish();
}

void MainWindow::newSeed() {
  if (board_->selection().empty()) {
    Material next = document_.material();
    ++next.seed;
    return document_.edit(tr("New seed"), next);
  }
  Material next = shown();
  for (const std::string& id : board_->selection()) {
    const Node* n = next.node(id);
    const auto type = n ? type_of(next, catalogue(), *n) : nullptr;
    if (!type || !type->parameter("seed")) continue;
    const auto it = n->params.find("seed");
    const double now =
        it != n->params.end() && std::holds_alternative<double>(it->second) ? std::get<double>(it->second) : 1;
    next = edit::set_param(std::move(next), id, "seed", now + 1);
  }
  edit(tr("New seed"), next);
}

// The one whose editor has the keyboard, else the node's first; empty: there is none.
std::string MainWindow::focusedParameter() const {
  for (QWidget* w = QApplication::focusWidget(); w; w = w->parentWidget())
    if (auto* row = qobject_cast<ParameterRow*>(w)) return row->id();
  const Node* n = shown().node(selectedNode());
  const auto type = n ? type_of(shown(), catalogue(), *n) : nullptr;
  return type && !type->parameters.empty() ? type->parameters.front().id : std::string();
}

void MainWindow::makeDialOfFocus() {
  const std::string param = focusedParameter();
  if (param.empty()) return say(tr("Select a node first"));
  std::string id;
  const Material next = edit::make_dial(shown(), catalogue(), selectedNode(), param, &id);
  if (id.empty()) return say(tr("This parameter holds what no dial can turn"));
  edit(tr("Make a dial"), next);
}

void MainWindow::makeValueOfFocus() {
  const std::string param = focusedParameter();
  if (param.empty()) return say(tr("Select a node first"));
  makeValue(selectedNode(), param);
}

void MainWindow::makeValue(const std::string& node, const std::string& param) {
  std::string id;
  const Material next = edit::make_value(shown(), catalogue(), node, param, param, &id);
  if (id.empty()) return say(tr("This parameter holds what no value can hold"));
  edit(tr("Make a value"), next);
  say(tr("The value %1 was made; other parameters can follow it").arg(QString::fromStdString(id)));
}

void MainWindow::toggleNight() {
  setNight(!theme().night);
  for (std::size_t i = 0; i < rackButtons_.size(); ++i) rackButtons_[i]->setIcon(rackIcon(static_cast<int>(i)));
  showDocument();
}

void MainWindow::closeEvent(QCloseEvent* e) {
  if (!files_->mayLeave()) return e->ignore();
  camera_->finish();
  room_->bringBack();
  showWorkspace(Workspace::weave);  // whose layout is kept
  QSettings settings;
  for (const auto& [key, s] : {std::pair{"columns with stock", columns_}, {"left", left_}, {"right", right_}})
    settings.setValue(QStringLiteral("layout/") + QLatin1String(key), s->saveState());
  document_.reset(document_.material(), document_.path());  // nothing is left to recover
  e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
  for (const QUrl& url : e->mimeData()->urls())
    if (url.toLocalFile().endsWith(QStringLiteral(".loom")) || url.toLocalFile().endsWith(QStringLiteral(".bolt")))
      e->acceptProposedAction();
  if (!MapSets::among(*e->mimeData()).isEmpty()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
  if (e->mimeData()->urls().isEmpty()) return;
  const QString path = e->mimeData()->urls().front().toLocalFile();
  const QPoint onBoard = board_->mapFrom(this, e->position().toPoint());
  if (const QStringList pictures = MapSets::among(*e->mimeData()); !pictures.isEmpty()) {
    if (board_->isVisible() && board_->rect().contains(onBoard)) board_->pointAt(board_->view().boardPoint(onBoard));
    // The dialogue must not hold up the program that the files are dragged from.
    QMetaObject::invokeMethod(
        mapSets_, [this, pictures] { mapSets_->take(pictures); }, Qt::QueuedConnection);
  } else if (path.endsWith(QStringLiteral(".bolt")) && board_->isVisible() && board_->rect().contains(onBoard)) {
    board_->pointAt(board_->view().boardPoint(onBoard));
    boltNodes_->add(path);
  } else {
    openPath(path);
  }
}

}  // namespace loom::app

#include "moc_main_window.cpp"
