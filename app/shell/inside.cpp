// Where the eye is in the material: inside groups, following a place, there and back, marks, finding.
#include "app/shell/main_window.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/theme.h"
#include "app/board/add_line.h"
#include "app/shell/pick.h"
#include "core/graph/disc.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

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
    const auto it = std::find_if(nodes->begin(), nodes->end(),
                                 [&](const NodePtr& n) { return n->id == inside_[i] && n->is_group(); });
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
        const Group* g = document_.material().group_of(*n);
        names << QString::fromStdString(g->name);
        nodes = &g->nodes;
        break;
      }
  for (int i = 0; i + 1 < names.size(); ++i) {
    word(names[i], [this, back = names.size() - 1 - i] {
      for (int k = 0; k < back; ++k) goOut();
    });
    label(QStringLiteral("›"), "mute");
  }
  label(names.back(), "title");
  const int uses = edit::uses_of(document_.material(), view_.inside->id);
  label(uses > 1 ? tr("used %1 times: a change reaches every use").arg(uses) : tr("used once"), "mute");
  row->addStretch(1);
  word(tr("Add an input"), [this] { edit(tr("Add an input"), edit::add_group_input(shown(), "Input")); });
  word(tr("Help text …"), [this] {
    bool good = false;
    const QString help = QInputDialog::getText(this, tr("Help of the group"), tr("One sentence"), QLineEdit::Normal,
                                               QString::fromStdString(view_.inside->help), &good);
    if (good)
      document_.edit(tr("Help of a group"), edit::describe_group(document_.material(), view_.inside->id,
                                                                 view_.inside->name, help.trimmed().toStdString()));
  });
  word(tr("Out (Alt+Up)"), [this] { goOut(); });
  path_->show();
}

void MainWindow::keepTemplate() {
  const Node* n = shown().node(selectedNode());
  const Group* g = n ? shown().group_of(*n) : nullptr;
  if (!g) return say(tr("Select a group to keep as a template"));
  const QString folder = templateFolder();
  QDir().mkpath(folder);
  const QString file = folder + QLatin1Char('/') + QString::fromStdString(g->id) + QStringLiteral(".loom");
  const auto done = elsewhere([&] { return write_file(file.toStdString(), write_snippet(shown(), {n->id})); });
  say(done ? tr("Kept: the add line offers %1 in every material").arg(QString::fromStdString(g->name))
           : QString::fromStdString(done.error().text()));
}

// ---- following a place ----

void MainWindow::follow(std::optional<QPointF> place) {
  follow_ = place;
  loupe_->showFollowed(place);
  if (place)
    say(tr("Following u %1, v %2 of %3; Escape ends it")
            .arg(place->x(), 0, 'f', 3)
            .arg(place->y(), 0, 'f', 3)
            .arg(QString::fromStdString(shownOutput())));
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
  for (const auto& [to, influence] : followed->path)
    if (const std::string own = local(to); !own.empty()) path.push_back(own);
  board_->showFollowed(values, path);
  if (way_) way_->showWay(shown(), wayOf(*followed));
}

// The output that is looked at, then the one at the far end of each thread of the way, as far as the board shows them.
std::vector<WayStep> MainWindow::wayOf(const Followed& followed) const {
  std::vector<WayStep> steps;
  const auto add = [&](const std::string& output, double influence) {
    if (const auto it = followed.values.find(prefix() + output); it != followed.values.end())
      steps.push_back({output, it->second, influence});
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
  while (!inside_.empty() &&
         !std::equal(inside_.begin(), inside_.end(), way.begin(),
                     way.begin() + static_cast<std::ptrdiff_t>(std::min(inside_.size(), way.size()))))
    goOut();
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
  if (it == next.marks.end())
    return say(tr("There is no mark %1; Shift+M and a letter sets one").arg(letter.toUpper()));
  leaveTrail();
  const std::string way =
      it->second.substr(0, it->second.rfind('/') == std::string::npos ? 0 : it->second.rfind('/') + 1);
  if (way != prefix()) {
    while (!inside_.empty() && way.compare(0, prefix().size(), prefix()) != 0) goOut();
    for (std::size_t from = prefix().size(), to; (to = way.find('/', from)) != std::string::npos; from = to + 1)
      goInside(way.substr(from, to - from));
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

}  // namespace loom::app
