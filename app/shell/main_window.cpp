// The shell makes every edit: panels ask, the document changes, the new value goes to all of them.
#include "app/shell/main_window.h"

#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QDialog>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/board/add_line.h"
#include "app/deliver/deliver_form.h"
#include "app/deliver/dials_panel.h"
#include "app/fitting/fitting_window.h"
#include "app/shell/help_panel.h"
#include "app/shell/keys_dialog.h"
#include "app/shell/times_panel.h"
#include "app/shell/theme.h"
#include "app/tray/values_panel.h"
#include "core/bolt/package.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr int kMostRecent = 8;

// Each rack's mark, drawn from what it does.
QIcon rackIcon(int rack) {
  QPixmap pixmap(52, 44);
  pixmap.setDevicePixelRatio(2);
  pixmap.fill(Qt::transparent);
  QPainter p(&pixmap);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().ink, 1.6));
  switch (rack) {
    case 0: p.drawRect(QRectF(2, 5, 10, 6)); p.drawRect(QRectF(13, 5, 10, 6)); p.drawRect(QRectF(7, 12, 10, 6)); break;
    case 1: p.drawLine(3, 11, 21, 11); p.drawLine(21, 11, 15, 5); p.drawLine(21, 11, 15, 17); break;
    case 2: { QPainterPath c(QPointF(3, 17)); c.cubicTo(10, 17, 10, 4, 13, 4); c.cubicTo(16, 4, 16, 17, 23, 17); p.drawPath(c); break; }
    case 3: { const QPointF e[] = {{4, 17}, {4, 9}, {10, 5}, {22, 5}, {22, 17}}; p.drawPolygon(e, 5); break; }
    case 4: p.drawRect(QRectF(4, 4, 11, 10)); p.drawRect(QRectF(10, 8, 11, 10)); break;
    case 5: p.drawLine(3, 16, 23, 6); for (int i = 0; i < 4; ++i) p.drawLine(QPointF(6 + i * 5, 14.6 - i * 2.5), QPointF(5 + i * 5, 11 - i * 2.5)); break;
    case 6: p.drawLine(13, 4, 13, 12); p.drawLine(9, 8, 17, 8); p.drawLine(8, 17, 18, 17); break;
    case 7: p.drawRect(QRectF(4, 4, 18, 11)); p.drawLine(3, 18, 23, 18); break;
    default: p.drawRect(QRectF(7, 7, 15, 11)); p.drawLine(4, 15, 4, 4); p.drawLine(4, 4, 19, 4); break;
  }
  return QIcon(pixmap);
}

// A line to type in above a list that narrows.
// `also`: text by which an entry is found beside its own; where that is what fits, it is shown.
void pick(QWidget* parent, const QString& title, const QStringList& entries, const std::function<void(int)>& chosen, const QStringList& also = {}) {
  QDialog dialog(parent);
  dialog.setWindowTitle(title);
  dialog.resize(440, 380);
  auto* box = new QVBoxLayout(&dialog);
  auto* line = new QLineEdit(&dialog);
  line->setAccessibleName(title);
  auto* list = new QListWidget(&dialog);
  list->setAccessibleName(title);
  box->addWidget(line);
  box->addWidget(list);
  const auto refill = [&](const QString& typed) {
    list->clear();
    for (int i = 0; i < entries.size(); ++i)
      if (const qsizetype at = also.value(i).indexOf(typed, 0, Qt::CaseInsensitive); entries[i].contains(typed, Qt::CaseInsensitive) || at >= 0) {
        const QString found = typed.isEmpty() || at < 0 ? QString() : QStringLiteral("    … ") + also[i].mid(std::max<qsizetype>(0, also[i].lastIndexOf(QLatin1Char('\n'), at) + 1), 60).section(QLatin1Char('\n'), 0, 0);
        auto* item = new QListWidgetItem(entries[i] + found, list);
        item->setData(Qt::UserRole, i);
      }
    list->setCurrentRow(0);
  };
  refill({});
  int result = -1;
  const auto accept = [&] {
    if (list->currentItem()) result = list->currentItem()->data(Qt::UserRole).toInt();
    dialog.accept();
  };
  QObject::connect(line, &QLineEdit::textChanged, &dialog, refill);
  QObject::connect(line, &QLineEdit::returnPressed, &dialog, accept);
  QObject::connect(list, &QListWidget::itemActivated, &dialog, accept);
  line->setFocus();
  dialog.exec();
  if (result >= 0) chosen(result);
}

}  // namespace

MainWindow::MainWindow(QWidget* parent) : QMainWindow(parent) {
  setAcceptDrops(true);
  resize(1280, 800);
  board_ = new Board;
  tray_ = new Tray;
  loupe_ = new Loupe;
  drape_ = new DrapePanel;
  left_ = new QSplitter(Qt::Vertical);
  left_->addWidget(boardWithPath());
  left_->addWidget(tray_);
  left_->setSizes({560, 198});
  left_->setStretchFactor(0, 1);
  right_ = new QSplitter(Qt::Vertical);
  right_->addWidget(drape_);
  right_->addWidget(loupe_);
  right_->setSizes({380, 378});
  columns_ = new QSplitter(Qt::Horizontal);
  columns_->addWidget(racks());
  columns_->addWidget(left_);
  columns_->addWidget(right_);
  columns_->setStretchFactor(1, 1);
  columns_->setSizes({58, 852, 370});
  for (auto* s : {left_, right_, columns_}) s->setHandleWidth(1), s->setChildrenCollapsible(false);
  auto* central = new QWidget;
  auto* box = new QVBoxLayout(central);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(0);
  box->addWidget(topBar());
  box->addWidget(columns_, 1);
  setCentralWidget(central);
  makeActions();
  QSettings settings;
  for (const auto& [key, s] : {std::pair{"columns", columns_}, {"left", left_}, {"right", right_}})
    if (const QByteArray kept = settings.value(QStringLiteral("layout/") + QLatin1String(key)).toByteArray(); !kept.isEmpty()) s->restoreState(kept);
  messageTimer_.setSingleShot(true);
  connect(&messageTimer_, &QTimer::timeout, this, [this] { message_->clear(); });

  connect(&document_, &Document::changed, this, &MainWindow::showDocument);
  connect(&document_, &Document::trouble, this, &MainWindow::say);
  connectBoard();
  connectTray();
  connect(&files_, &QFileSystemWatcher::fileChanged, this, [this] {
    // Programs that save by renaming take the watched file away: it is looked for again a moment later.
    QTimer::singleShot(150, this, [this] { reloadFiles(); });
  });
  connect(loupe_, &Loupe::handleDragged, this, [this](const HandleView& handle, QPointF to, bool fine) {
    const Node* n = shown().node(split_output(local(shownOutput())).first);
    const NodeType* type = n ? catalogue().find(n->type) : nullptr;
    const Parameter* p = type ? type->parameter(handle.handle.parameter) : nullptr;
    if (p) Q_EMIT tray_->paramWanted(n->id, p->id, draggedTo(handle, *p, to, fine));
  });
  connect(loupe_, &Loupe::gestureEnded, this, [this] { document_.endGesture(); });
  connect(&engine_, &Engine::spreads, this, [this](const std::string& path, const Spreads& spreads) { tray_->showSpreads(local(path), spreads); });
  connect(&engine_, &Engine::seen, this, &MainWindow::showSeen);
  connect(&engine_, &Engine::pictures, this, [this](const Pictures& all) {
    if (inside_.empty()) return board_->showPictures(all);
    auto here = std::make_shared<std::map<std::string, QImage>>();
    for (const auto& [output, picture] : *all) if (const std::string own = local(output); !own.empty()) (*here)[own] = picture;
    board_->showPictures(here);
  });
  connect(&engine_, &Engine::refused, this, [this](const QString& why) { drape_->showMessage(why); });
  connect(&engine_, &Engine::busy, this, [this](bool busy, const QString& with) {
    busy_ = busy ? with : QString();
    status_->setText(status());
  });
  connect(loupe_, &Loupe::channelChanged, this, &MainWindow::wish);
  connect(loupe_, &Loupe::compared, this, [this] { drape_->showCompared(loupe_->comparison()); });
  connect(loupe_, &Loupe::followWanted, this, [this](QPointF place) { follow(place); });
  connect(drape_, &DrapePanel::followWanted, this, [this](QPointF place) { follow(place); });
  connect(loupe_, &Loupe::followEnded, this, [this] { follow({}); });
  connect(board_, &Board::followEnded, this, [this] { follow({}); });
  connect(&engine_, &Engine::followed, this, &MainWindow::showFollowed);
  connect(&engine_, &Engine::weaving, this, [this](const std::string& path) {
    const std::string before = prefix();
    const bool here = path.compare(0, before.size(), before) == 0;
    board_->showWeaving(here ? path.substr(before.size(), path.find('/', before.size()) - before.size()) : std::string());
  });
  connect(loupe_, &Loupe::lockWanted, this, [this] { lockLoupe(locked_.empty()); });
  showDocument();
}

// The panels go first: what they still have to say on their way must not meet members that are gone.
MainWindow::~MainWindow() { delete takeCentralWidget(); }

void MainWindow::connectBoard() {
  connect(board_, &Board::editWanted, this, [this](const QString& name, const Material& next) { edit(name, next); });
  connect(board_, &Board::selectionChanged, this, [this] {
    tray_->showNode(shown(), selectedNode(), faults_);
    wish();
  });
  connect(board_, &Board::message, this, &MainWindow::say);
  connect(board_, &Board::insideWanted, this, &MainWindow::goInside);
  connect(board_, &Board::numberTyped, tray_, [this](const QString& begun) { tray_->typeNumber(begun, board_); });
  connect(board_, &Board::markWanted, this, &MainWindow::markAt);
}

void MainWindow::connectTray() {
  connect(tray_, &Tray::paramWanted, this, [this](const std::string& node, const std::string& param, const ParamValue& value) {
    const Node* n = shown().node(node);
    if (!n) return;
    const auto type = type_of(shown(), catalogue(), *n);
    const Parameter* p = type ? type->parameter(param) : nullptr;
    const QString label = QString::fromStdString(p ? p->label : param);
    // A parameter that follows a dial turns the dial.
    if (const auto it = n->params.find(param); it != n->params.end())
      if (const auto* follow = std::get_if<Follow>(&it->second); follow && !std::holds_alternative<Rule>(value) && !std::holds_alternative<Formula>(value))
        return edit(tr("Turn %1").arg(label), edit::set_value(shown(), follow->value, value), QString::fromStdString(node + param));
    const bool file = p && p->kind == ParameterKind::file;
    edit(tr("Set %1").arg(label), edit::set_param(shown(), node, param, file ? besideDocument(value) : value), QString::fromStdString(node + "." + param));
  });
  connect(tray_, &Tray::gestureEnded, this, [this] { document_.endGesture(); });
  connect(tray_, &Tray::resetWanted, this, [this](const std::string& node, const std::string& param) {
    Material next = shown();
    const Node* n = next.node(node);
    if (!n) return;
    const auto params = n->params;
    for (const auto& [id, value] : params) if (param.empty() ? id != "seed" : id == param) next = edit::reset_param(std::move(next), node, id);
    edit(tr("Reset"), next);
  });
  connect(tray_, &Tray::dialWanted, this, [this](const std::string& node, const std::string& param) {
    edit(tr("Make a dial"), edit::make_dial(shown(), catalogue(), node, param));
    say(inside_.empty() ? tr("A dial was made; name and limit it in the panel of dials") : tr("Offered on the group: every use has it as a parameter"));
  });
  connect(tray_, &Tray::unfollowWanted, this, [this](const std::string& node, const std::string& param) {
    const Node* n = shown().node(node);
    const auto it = n->params.find(param);
    if (it == n->params.end()) return;
    const auto* follow = std::get_if<Follow>(&it->second);
    const Value* value = follow ? shown().value(follow->value) : nullptr;
    if (value) edit(tr("Stop following"), edit::set_param(shown(), node, param, value->value));
  });
  connect(tray_, &Tray::itemsWanted, this, [this](const std::string& node, const std::vector<int>& order) {
    edit(tr("Arrange the list"), edit::arrange_items(shown(), catalogue(), node, order));
  });
}

// ---- inside groups ----

QWidget* MainWindow::boardWithPath() {
  auto* holder = new QWidget;
  auto* box = new QVBoxLayout(holder);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(0);
  path_ = new QWidget;
  setRole(path_, "bar");
  path_->setAutoFillBackground(true);
  path_->setFixedHeight(30);
  path_->hide();
  box->addWidget(path_);
  box->addWidget(board_, 1);
  return holder;
}

std::string MainWindow::prefix() const {
  std::string all;
  for (const std::string& id : inside_) all += id + "/";
  return all;
}

// A path as the board knows it; empty: it lies elsewhere.
std::string MainWindow::local(const std::string& path) const {
  const std::string before = prefix();
  if (path.compare(0, before.size(), before) != 0 || path.find('/', before.size()) != std::string::npos) return {};
  return path.substr(before.size());
}

// What the board asks for becomes an edit of the document, wherever the board looks.
void MainWindow::edit(const QString& name, const Material& next, const QString& gesture) {
  if (inside_.empty()) return document_.edit(name, next, gesture);
  const Material whole = edit::with_inside(document_.material(), catalogue(), view_.inside->id, next);
  if (edit::holds_itself(whole)) return say(tr("A group cannot hold itself"));
  document_.edit(name, whole, gesture);
}

// The way inside as far as it still exists.
void MainWindow::renewInside() {
  const std::vector<NodePtr>* nodes = &document_.material().nodes;
  const Group* group = nullptr;
  for (std::size_t i = 0; i < inside_.size(); ++i) {
    const auto it = std::find_if(nodes->begin(), nodes->end(), [&](const NodePtr& n) { return n->id == inside_[i] && n->type == "group"; });
    const Group* next = it == nodes->end() ? nullptr : document_.material().group((*it)->group);
    if (!next) {
      inside_.resize(i);
      outside_.resize(i);
      break;
    }
    group = next;
    nodes = &group->nodes;
  }
  view_ = inside_.empty() ? Material() : edit::inside_of(document_.material(), group->id);
}

void MainWindow::goInside(const std::string& instance) {
  outside_.push_back(board_->standpoint());
  inside_.push_back(instance);
  showDocument();
  board_->select({});
  board_->fitAll();
}

void MainWindow::goOut() {
  if (inside_.empty()) return say(tr("This is the whole material"));
  const Board::Standpoint before = outside_.back();
  inside_.pop_back();
  outside_.pop_back();
  showDocument();
  board_->stand(before);
}

// Where the board looks, each step a word that leads back there, and what can be done with the group.
void MainWindow::showPath() {
  delete path_->layout();
  qDeleteAll(path_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
  path_->hide();
  if (inside_.empty()) return;
  auto* row = new QHBoxLayout(path_);
  row->setContentsMargins(14, 0, 14, 0);
  const auto word = [&](const QString& text, const std::function<void()>& run) {
    auto* b = new QPushButton(text, path_);
    b->setProperty("word", true);
    connect(b, &QPushButton::clicked, this, [run] { QTimer::singleShot(0, run); });  // the row itself is made anew
    row->addWidget(b);
  };
  const auto label = [&](const QString& text, const char* role) {
    auto* l = new QLabel(text, path_);
    setRole(l, role);
    row->addWidget(l);
  };
  QStringList names{QString::fromStdString(document_.material().name)};
  const std::vector<NodePtr>* nodes = &document_.material().nodes;
  for (const std::string& id : inside_)
    for (const NodePtr& n : *nodes)
      if (n->id == id) {
        const Group* g = document_.material().group(n->group);
        names << QString::fromStdString(g->name);
        nodes = &g->nodes;
        break;
      }
  for (int i = 0; i + 1 < names.size(); ++i) {
    word(names[i], [this, back = names.size() - 1 - i] { for (int k = 0; k < back; ++k) goOut(); });
    label(QStringLiteral("›"), "mute");
  }
  label(names.back(), "title");
  const int uses = edit::uses_of(document_.material(), view_.inside->id);
  label(uses > 1 ? tr("used %1 times: a change reaches every use").arg(uses) : tr("used once"), "mute");
  row->addStretch(1);
  word(tr("Add an input"), [this] { edit(tr("Add an input"), edit::add_group_input(shown(), "Input")); });
  word(tr("Help text …"), [this] {
    bool good = false;
    const QString help = QInputDialog::getText(this, tr("Help of the group"), tr("One sentence"), QLineEdit::Normal, QString::fromStdString(view_.inside->help), &good);
    if (good) document_.edit(tr("Help of a group"), edit::describe_group(document_.material(), view_.inside->id, view_.inside->name, help.trimmed().toStdString()));
  });
  word(tr("Out (Alt+Up)"), [this] { goOut(); });
  path_->show();
}

void MainWindow::keepTemplate() {
  const Node* n = shown().node(selectedNode());
  const Group* g = n && n->type == "group" ? shown().group(n->group) : nullptr;
  if (!g) return say(tr("Select a group to keep as a template"));
  const QString folder = templateFolder();
  QDir().mkpath(folder);
  const auto done = write_file((folder + QLatin1Char('/') + QString::fromStdString(g->id) + QStringLiteral(".loom")).toStdString(), write_snippet(shown(), {n->id}));
  say(done ? tr("Kept: the add line offers %1 in every material").arg(QString::fromStdString(g->name)) : QString::fromStdString(done.error().text()));
}

// ---- following a place ----

void MainWindow::follow(std::optional<QPointF> place) {
  follow_ = place;
  loupe_->showFollowed(place);
  if (place) say(tr("Following u %1, v %2 of %3; Escape ends it").arg(place->x(), 0, 'f', 3).arg(place->y(), 0, 'f', 3).arg(QString::fromStdString(shownOutput())));
  else {
    board_->showFollowed({}, {});
    if (way_) way_->showWay({}, {});
    say({});
  }
  wish();
}

void MainWindow::showFollowed(const FollowedPtr& followed) {
  if (!follow_) return;
  std::map<std::string, QString> values;
  for (const auto& [path, t] : followed->values)
    if (const std::string own = local(path); !own.empty() && t.kind != Kind::set) values[own] = tracedText(t);
  std::vector<std::string> path;
  for (const auto& [to, influence] : followed->path) if (const std::string own = local(to); !own.empty()) path.push_back(own);
  board_->showFollowed(values, path);
  if (way_) way_->showWay(shown(), wayOf(*followed));
}

// The output that is looked at, then the one at the far end of each thread of the way, as far as the board shows them.
std::vector<WayStep> MainWindow::wayOf(const Followed& followed) const {
  std::vector<WayStep> steps;
  const auto add = [&](const std::string& output, double influence) {
    if (const auto it = followed.values.find(prefix() + output); it != followed.values.end()) steps.push_back({output, it->second, influence});
  };
  add(local(shownOutput()), 1);
  for (const auto& [to, influence] : followed.path) {
    const auto [node, peg] = split_output(local(to));
    if (const Thread* t = shown().into(node, peg)) add(t->from_node + "." + t->from_peg, influence);
  }
  return steps;
}

WayPanel* MainWindow::openWay() {
  if (!way_) {
    way_ = new WayPanel(this);
    connect(way_, &WayPanel::nodeWanted, this, [this](const std::string& node) { leaveTrail(), board_->fly(node); });
  }
  way_->show();
  way_->raise();
  if (follow_) wish();
  return way_;
}

// ---- there and back ----

void MainWindow::leaveTrail() {
  trail_.emplace_back(inside_, board_->standpoint());
  if (trail_.size() > 50) trail_.erase(trail_.begin());
}

void MainWindow::goBack() {
  if (trail_.empty()) return say(tr("The board has not jumped yet"));
  const auto [way, at] = trail_.back();
  trail_.pop_back();
  while (!inside_.empty() && !std::equal(inside_.begin(), inside_.end(), way.begin(), way.begin() + static_cast<std::ptrdiff_t>(std::min(inside_.size(), way.size())))) goOut();
  for (std::size_t i = inside_.size(); i < way.size(); ++i) goInside(way[i]);
  board_->stand(at);
}

// ---- marks ----

void MainWindow::markAt(const QString& letter, bool set) {
  Material next = document_.material();
  const std::string key = letter.toStdString();
  if (set) {
    next.marks[key] = prefix() + board_->focusedOutput();
    document_.edit(tr("Set mark %1").arg(letter.toUpper()), next);
    return say(tr("Mark %1 set").arg(letter.toUpper()));
  }
  const auto it = next.marks.find(key);
  if (it == next.marks.end()) return say(tr("There is no mark %1; Shift+M and a letter sets one").arg(letter.toUpper()));
  leaveTrail();
  const std::string way = it->second.substr(0, it->second.rfind('/') == std::string::npos ? 0 : it->second.rfind('/') + 1);
  if (way != prefix()) {
    while (!inside_.empty() && way.compare(0, prefix().size(), prefix()) != 0) goOut();
    for (std::size_t from = prefix().size(), to; (to = way.find('/', from)) != std::string::npos; from = to + 1) goInside(way.substr(from, to - from));
  }
  const std::string output = local(it->second);
  if (!shown().node(split_output(output).first)) return say(tr("What mark %1 stood on is gone").arg(letter.toUpper()));
  board_->showOutput(output);
}

void MainWindow::listMarks() {
  QStringList entries;
  std::vector<QString> letters;
  for (const auto& [letter, at] : document_.material().marks) {
    letters.push_back(QString::fromStdString(letter));
    entries << letters.back().toUpper() + QStringLiteral("    ") + QString::fromStdString(at);
  }
  if (entries.isEmpty()) return say(tr("No mark is set; Shift+M and a letter sets one"));
  pick(this, tr("Marks"), entries, [&](int i) { markAt(letters[static_cast<std::size_t>(i)], false); });
}

QWidget* MainWindow::topBar() {
  auto* bar = new QWidget;
  setRole(bar, "bar");
  bar->setFixedHeight(42);
  bar->setAutoFillBackground(true);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(24, 0, 24, 0);
  row->setSpacing(10);
  auto* title = new QLabel(QStringLiteral("Wild Loom"));
  setRole(title, "name");
  name_ = new QLabel;
  edited_ = new QLabel;
  setRole(edited_, "caution");
  status_ = new QLabel;
  message_ = new QLabel;
  setRole(message_, "accent");
  message_->setAccessibleName(tr("Message"));
  message_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);  // a long message must not widen the window
  message_->setAlignment(Qt::AlignCenter);
  const auto word = [&](const QString& text) {
    auto* b = new QToolButton;
    b->setText(text);
    b->setProperty("word", true);
    b->setPopupMode(QToolButton::InstantPopup);
    return b;
  };
  auto* file = word(tr("File"));
  fileMenu_ = new QMenu(file);
  file->setMenu(fileMenu_);
  auto* dials = word(tr("Dials"));
  auto* deliverWord = word(tr("Deliver"));
  auto* commands = word(tr("Commands"));
  connect(dials, &QToolButton::clicked, this, [this] { openDials(); });
  connect(deliverWord, &QToolButton::clicked, this, [this] { openDelivery(); });
  connect(commands, &QToolButton::clicked, this, &MainWindow::commandLine);
  row->addWidget(title);
  row->addWidget(name_);
  row->addWidget(edited_);
  row->addSpacing(8);
  row->addWidget(file);
  row->addWidget(dials);
  row->addWidget(deliverWord);
  row->addWidget(commands);
  row->addWidget(message_, 1);
  row->addWidget(status_);
  return bar;
}

QWidget* MainWindow::racks() {
  auto* panel = new QWidget;
  setRole(panel, "racks");
  panel->setMinimumWidth(62);
  panel->setMaximumWidth(76);
  panel->setAutoFillBackground(true);
  auto* box = new QVBoxLayout(panel);
  box->setContentsMargins(2, 10, 2, 10);
  box->setSpacing(4);
  for (std::size_t i = 0; i <= kRackLabels.size(); ++i) {
    auto* b = new QToolButton;
    b->setText(i < kRackLabels.size() ? QString::fromLatin1(kRackLabels[i]) : tr("Groups"));
    b->setIcon(rackIcon(static_cast<int>(i)));
    b->setIconSize(QSize(26, 22));
    b->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    b->setAutoRaise(true);
    b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setRole(b, "rack");
    b->setAccessibleName(tr("Rack %1").arg(b->text()));
    connect(b, &QToolButton::clicked, this, [this, i] { board_->openAddLine(static_cast<int>(i)); });
    box->addWidget(b);
    rackButtons_.push_back(b);
  }
  box->addStretch(1);
  return panel;
}

QAction* MainWindow::action(const QString& name, const QString& keys, const std::function<void()>& run, QWidget* scope) {
  auto* a = new QAction(name, this);
  QList<QKeySequence> sequences;
  for (const QString& key : keys.split(QLatin1Char(' '), Qt::SkipEmptyParts)) sequences << QKeySequence(key);
  a->setShortcuts(sequences);
  a->setShortcutContext(scope ? Qt::WidgetShortcut : Qt::WindowShortcut);
  KeysDialog::noteFirstKeys(*a);
  connect(a, &QAction::triggered, this, run);
  (scope ? scope : this)->addAction(a);
  commands_.push_back(a);
  return a;
}

void MainWindow::makeActions() {
  // Files.
  fileMenu_->addAction(action(tr("New"), QStringLiteral("Ctrl+N"), [this] { newDocument(); }));
  fileMenu_->addAction(action(tr("Open …"), QStringLiteral("Ctrl+O"), [this] { openDialogue(); }));
  recent_ = fileMenu_->addMenu(tr("Open recent"));
  fileMenu_->addAction(action(tr("Save"), QStringLiteral("Ctrl+S"), [this] { save(); }));
  fileMenu_->addAction(action(tr("Save as …"), QStringLiteral("Ctrl+Shift+S"), [this] { saveAs(); }));
  fileMenu_->addAction(action(tr("Save as bolt …"), {}, [this] {
    const QString path = QFileDialog::getSaveFileName(this, tr("Save as bolt"), QFileInfo(document_.path()).path() + QLatin1Char('/') + QString::fromStdString(document_.material().name).toLower().replace(QLatin1Char(' '), QLatin1Char('-')) + QStringLiteral(".bolt"), tr("Bolts (*.bolt)"));
    if (!path.isEmpty()) writeBolt(path);
  }));
  fileMenu_->addSeparator();
  fileMenu_->addAction(action(tr("Rename the material …"), {}, [this] {
    bool good = false;
    const QString name = QInputDialog::getText(this, tr("Rename the material"), tr("Name"), QLineEdit::Normal, QString::fromStdString(document_.material().name), &good);
    if (!good || name.trimmed().isEmpty()) return;
    Material next = document_.material();
    next.name = name.trimmed().toStdString();
    document_.edit(tr("Rename the material"), next);
  }));
  fileMenu_->addAction(action(tr("Reload changed files"), QStringLiteral("F5"), [this] { reloadFiles(); say(tr("Files were looked at again")); }));
  fileMenu_->addAction(action(tr("Deliver …"), QStringLiteral("Ctrl+E"), [this] { openDelivery(); }));
  fileMenu_->addAction(action(tr("Dials …"), {}, [this] { openDials(); }));
  fileMenu_->addSeparator();
  fileMenu_->addAction(action(tr("Night shift"), {}, [this] { toggleNight(); }));
  fileMenu_->addAction(action(tr("Close"), QStringLiteral("Ctrl+Q"), [this] { close(); }));
  refreshRecent();
  action(tr("Undo"), QStringLiteral("Ctrl+Z"), [this] { if (document_.canUndo()) { say(tr("Undone: %1").arg(document_.undoName())); document_.undo(); } });
  action(tr("Redo"), QStringLiteral("Ctrl+Shift+Z Ctrl+Y"), [this] { if (document_.canRedo()) { say(tr("Redone: %1").arg(document_.redoName())); document_.redo(); } });
  action(tr("Help of the node"), QStringLiteral("F1"), [this] { openHelp(); });
  action(tr("Commands"), QStringLiteral("Ctrl+K"), [this] { commandLine(); });
  action(tr("Find a node"), QStringLiteral("Ctrl+F"), [this] { find(); });
  action(tr("Make a dial of the parameter in focus"), {}, [this] { makeDialOfFocus(); });
  // The board's own keys act only with the board in focus.
  QWidget* b = board_;
  action(tr("Add a node"), QStringLiteral("/ Ins"), [this] { board_->openAddLine(); }, b);
  action(tr("Weave the selected together"), QStringLiteral("W"), [this] { board_->weaveSelected(); }, b);
  action(tr("Start a thread by keyboard"), QStringLiteral("Shift+W"), [this] { board_->startThread(); }, b);
  action(tr("Delete"), QStringLiteral("Del"), [this] { board_->removeSelected(); }, b);
  action(tr("Duplicate"), QStringLiteral("Ctrl+D"), [this] { board_->duplicateSelected(false); }, b);
  action(tr("Duplicate with inputs"), QStringLiteral("Ctrl+Shift+D"), [this] { board_->duplicateSelected(true); }, b);
  action(tr("Copy"), QStringLiteral("Ctrl+C"), [this] { board_->copySelected(); }, b);
  action(tr("Paste"), QStringLiteral("Ctrl+V"), [this] { board_->pasteHere(); }, b);
  action(tr("Bypass"), QStringLiteral("B"), [this] { board_->bypassSelected(); }, b);
  action(tr("Rename"), QStringLiteral("F2"), [this] { board_->renameSelected(); }, b);
  action(tr("Tidy"), QStringLiteral("C"), [this] { edit(tr("Tidy"), edit::tidy(shown())); }, b);
  action(tr("Fold into a group"), QStringLiteral("Ctrl+G"), [this] { board_->foldSelected(); }, b);
  action(tr("Take the group apart"), QStringLiteral("Ctrl+Shift+G"), [this] { board_->takeApartSelected(); }, b);
  action(tr("Look inside the group"), QStringLiteral("Alt+Down"), [this] { board_->lookInside(); }, b);
  action(tr("Out of the group"), QStringLiteral("Alt+Up"), [this] { goOut(); }, b);
  action(tr("Make the group a copy of its own"), {}, [this] { board_->copyOfItsOwn(); });
  action(tr("Keep the group as a template"), {}, [this] { keepTemplate(); });
  action(tr("Add an input to the group"), {}, [this] {
    if (inside_.empty()) return say(tr("Look inside a group first"));
    edit(tr("Add an input"), edit::add_group_input(shown(), "Input"));
  });
  action(tr("Visit a mark"), QStringLiteral("M"), [this] { board_->awaitMark(false); }, b);
  action(tr("Set a mark"), QStringLiteral("Shift+M"), [this] { board_->awaitMark(true); }, b);
  action(tr("Marks …"), {}, [this] { listMarks(); });
  action(tr("Write a note"), QStringLiteral("Shift+N"), [this] { board_->writeNote(); }, b);
  action(tr("Show threads by name, or as lines"), QStringLiteral("A"), [this] { board_->toggleAliases(); }, b);
  action(tr("Splice in"), QStringLiteral("I"), [this] { board_->spliceIn(); }, b);
  action(tr("Lift out"), QStringLiteral("Ctrl+Del"), [this] { board_->liftOutSelected(); }, b);
  action(tr("Replace"), QStringLiteral("R"), [this] { board_->replaceSelected(); }, b);
  action(tr("Swap inputs"), QStringLiteral("S"), [this] { board_->swapInputs(); }, b);
  action(tr("Blend the two selected"), QStringLiteral("Y"), [this] { board_->blendSelected(); }, b);
  action(tr("Next mode"), QStringLiteral("."), [this] { board_->stepMode(1); }, b);
  action(tr("Previous mode"), QStringLiteral(","), [this] { board_->stepMode(-1); }, b);
  action(tr("Select what feeds the selection"), QStringLiteral("Shift+Up"), [this] { board_->selectUpstream(); }, b);
  action(tr("Select what the selection feeds"), QStringLiteral("Shift+Down"), [this] { board_->selectDownstream(); }, b);
  action(tr("Copy parameters"), QStringLiteral("Ctrl+Shift+C"), [this] { board_->copyParameters(); }, b);
  action(tr("Paste parameters"), QStringLiteral("Ctrl+Shift+V"), [this] { board_->pasteParameters(); }, b);
  action(tr("Begin, rename or end a stage"), QStringLiteral("Shift+R"), [this] { board_->nameStage(); }, b);
  action(tr("Paste chosen parameters"), QStringLiteral("Ctrl+Alt+V"), [this] { board_->pasteChosenParameters(); }, b);
  action(tr("Delete what feeds nothing …"), {}, [this] { removeIdle(); });
  action(tr("Fit all"), QStringLiteral("Home"), [this] { board_->fitAll(); }, b);
  action(tr("Fit the selection"), QStringLiteral("Shift+Home"), [this] { board_->fitSelection(); }, b);
  action(tr("Zoom in"), QStringLiteral("Ctrl++ Ctrl+="), [this] { board_->setZoom(board_->zoom() * 1.15); }, b);
  action(tr("Zoom out"), QStringLiteral("Ctrl+-"), [this] { board_->setZoom(board_->zoom() / 1.15); }, b);
  action(tr("Show the next output in the loupe"), QStringLiteral("Return Enter"), [this] { board_->nextOutput(); }, b);
  action(tr("Lock the loupe"), QStringLiteral("L"), [this] { lockLoupe(locked_.empty()); }, b);
  action(tr("Repeats of the loupe"), QStringLiteral("T"), [this] { loupe_->nextRepeats(); }, b);
  action(tr("Histogram"), QStringLiteral("H"), [this] { loupe_->toggleHistogram(); }, b);
  action(tr("Range check of the loupe"), QStringLiteral("Shift+H"), [this] { loupe_->setLook(loupe_->look() == Look::marked ? Look::plain : Look::marked); }, b);
  action(tr("Vectors as arrows in the loupe"), {}, [this] { loupe_->setLook(loupe_->look() == Look::arrows ? Look::plain : Look::arrows); });
  action(tr("Values about zero in the loupe"), {}, [this] { loupe_->setLook(loupe_->look() == Look::about_zero ? Look::plain : Look::about_zero); });
  action(tr("Seam check of the loupe"), QStringLiteral("Shift+T"), [this] { loupe_->toggleSeam(); }, b);
  action(tr("Flip between A and B"), QStringLiteral("V"), [this] { loupe_->flip(); }, b);
  action(tr("Hold A, then B, then let go"), QStringLiteral("Shift+V"), [this] { loupe_->hold(); }, b);
  action(tr("Compare: A, wipe, difference"), {}, [this] { loupe_->nextCompare(); });
  action(tr("End following"), {}, [this] { follow({}); });
  action(tr("Show the output unlit on the shape"), QStringLiteral("O"), [this] { toggleUnlit(); }, b);
  action(tr("Make a value of the parameter in focus"), QStringLiteral("U"), [this] { makeValueOfFocus(); }, b);
  action(tr("Values …"), QStringLiteral("Shift+U"), [this] { openValues(); }, b);
  action(tr("The way back of a followed place …"), QStringLiteral("Shift+P"), [this] { openWay(); });
  action(tr("Time and memory by node …"), {}, [this] { openTimes(); });
  action(tr("Back to where the board was"), QStringLiteral("Backspace"), [this] { goBack(); }, b);
  action(tr("Keys …"), QStringLiteral("Ctrl+?"), [this] { openKeys(); });
  action(tr("New seed"), QStringLiteral("N"), [this] { newSeed(); }, b);
  action(tr("Make a dial of the node's first parameter"), QStringLiteral("D"), [this] { makeDialOfFocus(); }, b);
  action(tr("To the parameters"), QStringLiteral("P"), [this] { tray_->focusFirst(); }, b);
  action(tr("To the board"), QStringLiteral("Alt+B"), [this] { board_->setFocus(); });
  action(tr("Add a lane"), {}, [this] { edit(tr("Add lane"), edit::add_lane(shown(), "New lane")); });
}

// ---- the document and what is seen ----

// A file beside the document or below it is named from there, so that both can move.
ParamValue MainWindow::besideDocument(const ParamValue& value) const {
  const auto* name = std::get_if<std::string>(&value);
  const auto& root = document_.material().files;
  if (!name || !root || root->folder.empty() || !std::filesystem::path(*name).is_absolute()) return value;
  const std::filesystem::path beside = std::filesystem::path(*name).lexically_relative(root->folder);
  return beside.empty() || beside.native().rfind("..", 0) == 0 ? value : ParamValue(beside.string());
}

void MainWindow::reloadFiles() {
  watchFiles();
  wish();
}

// What changes on disc is woven anew: an edited drawing shows at once.
void MainWindow::watchFiles() {
  const Material& m = document_.material();
  if (m.files && m.files->sealed) return;
  QStringList wanted;
  for (const std::string& name : edit::file_names(m, catalogue())) {
    const std::filesystem::path path = std::filesystem::path(name).is_absolute() || !m.files ? std::filesystem::path(name) : m.files->folder / name;
    if (std::filesystem::exists(path)) wanted << QString::fromStdString(path.string());
  }
  const QStringList now = files_.files();
  for (const QString& path : now) if (!wanted.contains(path)) files_.removePath(path);
  for (const QString& path : wanted) if (!now.contains(path)) files_.addPath(path);
}

void MainWindow::showDocument() {
  const Material& m = document_.material();
  renewInside();
  showPath();
  name_->setText(QString::fromStdString(m.name));
  edited_->setText(document_.isEdited() ? tr("edited") : QString());
  setWindowTitle(QString::fromStdString(m.name) + QStringLiteral("[*] – Wild Loom"));
  setWindowModified(document_.isEdited());
  Material onBoard = shown();
  onBoard.marks.clear();
  for (const auto& [letter, at] : m.marks) if (const std::string here = local(at); !here.empty()) onBoard.marks[letter] = here;
  board_->showMaterial(onBoard);
  tray_->showNode(shown(), selectedNode(), faults_);
  if (dials_) dials_->showMaterial(m);
  if (values_) values_->showMaterial(shown());
  watchFiles();
  wish();
}

std::string MainWindow::shownOutput() const {
  if (!locked_.empty()) return locked_;
  const std::string focused = board_->focusedOutput();
  if (!focused.empty()) return prefix() + focused;
  if (!inside_.empty() && !view_.hem.empty()) return prefix() + view_.hem.begin()->second;
  const auto& hem = document_.material().hem;
  const auto it = hem.find("base_colour");
  return it != hem.end() ? it->second : hem.empty() ? std::string() : hem.begin()->second;
}

void MainWindow::wish() {
  const std::string node = selectedNode();
  loupe_->showHandles(handlesOf(shown(), split_output(local(shownOutput())).first));
  engine_.wish({document_.material(), shownOutput(), loupe_->channel(), kWorkingSize, node.empty() ? node : prefix() + node, loupe_->look(), drape_->isUnlit(), loupe_->seamChecked(), follow_, prefix()});
}

// Faults within a group stand at its instance while the board looks from outside.
void MainWindow::showSeen(const SeenPtr& seen) {
  seen_ = seen;
  faults_.clear();
  const std::string before = prefix();
  for (const auto& [path, error] : seen->faults)
    if (path.compare(0, before.size(), before) == 0) faults_.emplace(path.substr(before.size(), path.find('/', before.size()) - before.size()), error);
  board_->showFaults(faults_);
  tray_->showNode(shown(), selectedNode(), faults_);
  status_->setText(status());
  if (times_ && times_->isVisible()) times_->showSeen(*seen, document_.material(), engine_.weaver().cached_bytes());
  if (drape_->isUnlit()) drape_->setUnlit(outputTitle(seen->loupe_output));
  if (!seen->faults.empty()) return;  // the last good picture stays
  if (inside_.empty()) board_->showHem(seen->hem_pictures);
  drape_->showMaps(seen->maps);
  loupe_->showSeen(seen, outputTitle(seen->loupe_output));
}

QString MainWindow::outputTitle(const std::string& path) const {
  const auto [node, peg] = split_output(local(path));
  const Node* n = shown().node(node);
  return n ? QString::fromStdString(label_of(shown(), catalogue(), *n)) + QStringLiteral(", ") + QString::fromStdString(peg).replace(QLatin1Char('_'), QLatin1Char(' ')) : QString::fromStdString(path);
}

void MainWindow::toggleUnlit() {
  drape_->setUnlit(drape_->isUnlit() ? QString() : outputTitle(shownOutput()));
  wish();
}

QString MainWindow::status() const {
  if (!seen_) return busy_;
  const QString fault = faults_.empty() ? QString() : tr(", %n at fault", nullptr, static_cast<int>(faults_.size()));
  const QString time = busy_.isEmpty() ? tr("%1 s").arg(seen_->milliseconds / 1000, 0, 'f', 2) : busy_;
  return tr("%1 px   seed %2   %3 nodes%4   %5").arg(seen_->size).arg(document_.material().seed).arg(seen_->nodes).arg(fault, time);
}

void MainWindow::say(const QString& text) {
  message_->setText(text);
  messageTimer_.start(6000);
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
    const double now = it != n->params.end() && std::holds_alternative<double>(it->second) ? std::get<double>(it->second) : 1;
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
  edit(tr("Make a dial"), edit::make_dial(shown(), catalogue(), selectedNode(), param));
}

void MainWindow::makeValueOfFocus() {
  const std::string node = selectedNode(), param = focusedParameter();
  if (param.empty()) return say(tr("Select a node first"));
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

// ---- files ----

bool MainWindow::openPath(const QString& path) {
  if (path.endsWith(QStringLiteral(".bolt"))) return openFitting(path) != nullptr;
  if (!mayLeave()) return false;
  inside_.clear();
  outside_.clear();
  const auto done = document_.open(path);
  if (!done) {
    QMessageBox::warning(this, tr("Cannot open"), QString::fromStdString(done.error().text()));
    return false;
  }
  const auto faults = validate(document_.material(), catalogue());
  if (!faults.empty()) say(QString::fromStdString(faults.front().text()));
  noteRecent(path);
  board_->select({});
  board_->fitAll();
  return true;
}

FittingWindow* MainWindow::openFitting(const QString& path) {
  const auto bolt = read_bolt(path.toStdString());
  const auto faults = bolt ? validate(bolt->material, catalogue()) : std::vector<Error>{};
  if (!bolt || !faults.empty()) {
    QMessageBox::warning(this, tr("Cannot open"), QString::fromStdString(bolt ? faults.front().text() : bolt.error().text()));
    return nullptr;
  }
  auto* fitting = new FittingWindow(*bolt, path);
  fitting->setAttribute(Qt::WA_DeleteOnClose);
  connect(fitting, &FittingWindow::openInWeave, this, [this](const Material& m) {
    if (!mayLeave()) return;
    document_.reset(m);
    board_->fitAll();
    show();
    raise();
  });
  fitting->show();
  noteRecent(path);
  return fitting;
}

bool MainWindow::saveTo(const QString& path) {
  const auto done = document_.save(path);
  if (!done) {
    QMessageBox::warning(this, tr("Cannot save"), QString::fromStdString(done.error().text()));
    return false;
  }
  noteRecent(path);
  say(tr("Saved"));
  return true;
}

bool MainWindow::save() { return document_.path().isEmpty() ? saveAs() : saveTo(document_.path()); }

bool MainWindow::saveAs() {
  QString path = QFileDialog::getSaveFileName(this, tr("Save as"), document_.path().isEmpty() ? QStringLiteral("material.loom") : document_.path(), tr("Materials (*.loom)"));
  if (path.isEmpty()) return false;
  if (!path.endsWith(QStringLiteral(".loom"))) path += QStringLiteral(".loom");
  return saveTo(path);
}

bool MainWindow::mayLeave() {
  if (!document_.isEdited()) return true;
  const auto answer = QMessageBox::question(this, tr("Unsaved work"), tr("%1 has changes that are not saved.").arg(QString::fromStdString(document_.material().name)), QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
  if (answer == QMessageBox::Save) return save();
  return answer == QMessageBox::Discard;
}

void MainWindow::newDocument() {
  if (!mayLeave()) return;
  document_.reset(edit::empty_material());
  board_->setZoom(1);
}

void MainWindow::openDialogue() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Open"), QFileInfo(document_.path()).path(), tr("Materials and bolts (*.loom *.bolt)"));
  if (!path.isEmpty()) openPath(path);
}

void MainWindow::noteRecent(const QString& path) {
  QSettings settings;
  QStringList list = settings.value(QStringLiteral("recent")).toStringList();
  list.removeAll(QFileInfo(path).absoluteFilePath());
  list.prepend(QFileInfo(path).absoluteFilePath());
  while (list.size() > kMostRecent) list.removeLast();
  settings.setValue(QStringLiteral("recent"), list);
  refreshRecent();
}

void MainWindow::refreshRecent() {
  recent_->clear();
  for (const QString& path : QSettings().value(QStringLiteral("recent")).toStringList())
    if (QFileInfo::exists(path)) recent_->addAction(QFileInfo(path).fileName() + QStringLiteral("    ") + QFileInfo(path).path(), this, [this, path] { openPath(path); });
  recent_->setEnabled(!recent_->isEmpty());
}

void MainWindow::offerRecovery() {
  for (const QString& file : Document::orphans()) {
    const QString stem = QFileInfo(file).completeBaseName().section(QLatin1Char('-'), 0, -3);
    const auto answer = QMessageBox::question(this, tr("Work that was not saved"), tr("'%1' was open when the program ended unexpectedly on %2. Open what was kept?").arg(stem, QFileInfo(file).lastModified().toString(Qt::TextDate)), QMessageBox::Open | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Open);
    if (answer == QMessageBox::Cancel) return;
    if (answer == QMessageBox::Discard) {
      QFile::remove(file);
      continue;
    }
    const auto done = document_.recover(file);
    if (!done) QMessageBox::warning(this, tr("Cannot open"), QString::fromStdString(done.error().text()));
    else board_->fitAll();
    return;
  }
}

void MainWindow::closeEvent(QCloseEvent* e) {
  if (!mayLeave()) return e->ignore();
  QSettings settings;
  for (const auto& [key, s] : {std::pair{"columns", columns_}, {"left", left_}, {"right", right_}}) settings.setValue(QStringLiteral("layout/") + QLatin1String(key), s->saveState());
  document_.reset(document_.material(), document_.path());  // nothing is left to recover
  e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
  for (const QUrl& url : e->mimeData()->urls())
    if (url.toLocalFile().endsWith(QStringLiteral(".loom")) || url.toLocalFile().endsWith(QStringLiteral(".bolt"))) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
  for (const QUrl& url : e->mimeData()->urls()) {
    openPath(url.toLocalFile());
    break;
  }
}

// ---- dialogues ----

QDialog* MainWindow::openDelivery() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowTitle(tr("Deliver"));
  dialog->resize(820, 520);
  auto* box = new QVBoxLayout(dialog);
  box->setContentsMargins(24, 18, 24, 18);
  auto* head = new QLabel(tr("Delivery of %1").arg(QString::fromStdString(document_.material().name)));
  setRole(head, "title");
  auto* form = new DeliverForm(false, dialog);
  form->setObjectName(QStringLiteral("deliverForm"));
  if (!document_.path().isEmpty()) form->setFolder(QFileInfo(document_.path()).path() + QStringLiteral("/maps"));
  form->showMaterial(document_.material());
  box->addWidget(head);
  box->addWidget(form, 1);
  box->addStretch(1);
  dialog->show();
  return dialog;
}

DialsPanel* MainWindow::openDials() {
  if (!dials_) {
    dials_ = new DialsPanel(this);
    connect(dials_, &DialsPanel::editWanted, this, [this](const QString& name, const Material& next) { document_.edit(name, next); });
  }
  dials_->showMaterial(document_.material());
  dials_->show();
  dials_->raise();
  return dials_;
}

ValuesPanel* MainWindow::openValues() {
  if (!values_) {
    values_ = new ValuesPanel(this);
    connect(values_, &ValuesPanel::editWanted, this, [this](const QString& name, const Material& next) { edit(name, next); });
    connect(values_, &ValuesPanel::nodeWanted, this, [this](const std::string& node) { leaveTrail(); board_->select({node}); board_->fly(node); });
  }
  values_->showMaterial(shown());
  values_->show();
  values_->raise();
  return values_;
}

TimesPanel* MainWindow::openTimes() {
  if (!times_) {
    times_ = new TimesPanel(this);
    connect(times_, &TimesPanel::nodeWanted, this, [this](const std::string& path) {
      if (const std::string node = local(path); !node.empty()) leaveTrail(), board_->select({node}), board_->fly(node);
    });
  }
  engine_.weaver().forget();  // what was kept would have no time to show
  times_->show();
  times_->raise();
  wish();
  return times_;
}

KeysDialog* MainWindow::openKeys() {
  auto* dialog = new KeysDialog(commands_, this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->show();
  return dialog;
}

HelpPanel* MainWindow::openHelp() {
  const Node* n = shown().node(selectedNode());
  const NodeType* type = n ? catalogue().find(n->type) : nullptr;
  if (!type) {
    say(tr("Select a node to read its help"));
    return nullptr;
  }
  if (!help_) help_ = new HelpPanel(this);
  help_->showType(*type);
  help_->show();
  help_->raise();
  return help_;
}

// They are listed before they go.
void MainWindow::removeIdle() {
  const Material& m = shown();
  const auto idle = edit::feeding_nothing(m);
  if (idle.empty()) return say(tr("Every node feeds a slot of the hem"));
  QStringList names;
  for (const std::string& id : idle) names << QString::fromStdString(label_of(m, catalogue(), *m.node(id)));
  const auto answer = QMessageBox::question(this, tr("Delete what feeds nothing"), tr("%n nodes reach no slot of the hem:\n\n%1\n\nDelete them?", nullptr, static_cast<int>(idle.size())).arg(names.join(QStringLiteral(", "))));
  if (answer == QMessageBox::Yes) edit(tr("Delete what feeds nothing"), edit::remove_nodes(m, idle));
}

bool MainWindow::writeBolt(const QString& path) {
  Bolt bolt;
  bolt.material = document_.material();
  bolt.notes = bolt.material.notes;
  const auto faults = validate(bolt.material, catalogue());
  const auto done = faults.empty() ? write_bolt(path.toStdString(), bolt) : Result<Done>(faults.front());
  if (!done) QMessageBox::warning(this, tr("Cannot write the bolt"), QString::fromStdString(done.error().text()));
  else say(tr("Written: %1").arg(QFileInfo(path).fileName()));
  return done.ok();
}

void MainWindow::commandLine() {
  QStringList entries;
  for (const QAction* a : commands_) entries << a->text() + (a->shortcut().isEmpty() ? QString() : QStringLiteral("    ") + a->shortcut().toString(QKeySequence::NativeText));
  pick(this, tr("Commands"), entries, [this](int i) { commands_[static_cast<std::size_t>(i)]->trigger(); });
}

void MainWindow::find() {
  QStringList entries, also;
  std::vector<std::string> ids;
  const Material& m = shown();
  for (const NodePtr& n : m.nodes) {
    const auto type = type_of(m, catalogue(), *n);
    entries << QString::fromStdString(label_of(m, catalogue(), *n)) + QStringLiteral("    ") + QString::fromStdString(type ? type->label : n->type) + QStringLiteral("    ") + QString::fromStdString(n->id);
    ids.push_back(n->id);
    // Its note and what its parameters hold.
    const auto note = m.notes_on.find(n->id);
    QStringList texts{note == m.notes_on.end() ? QString() : QString::fromStdString(note->second)};
    for (const auto& [id, value] : n->params) {
      const Parameter* p = type ? type->parameter(id) : nullptr;
      texts << QString::fromStdString((p ? p->label : id) + " " + param_to_json(value).dump());
    }
    also << texts.join(QLatin1Char('\n'));
  }
  pick(this, tr("Find a node"), entries, [&](int i) {
    leaveTrail();
    board_->select({ids[static_cast<std::size_t>(i)]});
    board_->fly(ids[static_cast<std::size_t>(i)]);
    board_->setFocus();
  }, also);
}

}  // namespace loom::app
