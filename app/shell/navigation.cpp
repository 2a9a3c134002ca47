#include "app/shell/navigation.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>

#include "app/base/theme.h"
#include "app/shell/pick.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

Navigation::Navigation(Document& document, Board& board, QObject* parent)
    : QObject(parent), document_(document), board_(board), bar_(new QWidget) {
  setRole(bar_, "bar");
  bar_->setAutoFillBackground(true);
  bar_->setFixedHeight(30);
  bar_->hide();
}

// ---- inside groups

std::string Navigation::prefix() const {
  std::string all;
  for (const std::string& id : inside_) all += id + "/";
  return all;
}

// A path as the board knows it; empty: it lies elsewhere.
std::string Navigation::local(const std::string& path) const {
  const std::string before = prefix();
  if (path.compare(0, before.size(), before) != 0 || path.find('/', before.size()) != std::string::npos) return {};
  return path.substr(before.size());
}

// What the board asks for becomes an edit of the document, wherever the board looks.
Material Navigation::whole(const Material& next) const {
  return inside_.empty() ? edit::exchange_hems(next, part_)
                         : edit::with_inside(document_.material(), catalogue(), shown_.inside->id, next);
}

void Navigation::edit(const QString& name, const Material& next, const QString& gesture) {
  const Material all = whole(next);
  if (!inside_.empty() && edit::holds_itself(all)) return Q_EMIT message(tr("A group cannot hold itself"));
  document_.edit(name, all, gesture);
}

// The way inside as far as it still exists.
void Navigation::renew() {
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
  const bool own_hem = document_.material().part_hems.count(part_) != 0;
  looks_elsewhere_ = !inside_.empty() || own_hem;
  shown_ = !inside_.empty() ? edit::inside_of(document_.material(), group->id)
           : own_hem        ? edit::exchange_hems(document_.material(), part_)
                            : Material();
  showPath();
}

void Navigation::setPart(const std::string& part) {
  part_ = part;
  renew();
}

void Navigation::goInside(const std::string& instance) {
  outside_.push_back(board_.standpoint());
  inside_.push_back(instance);
  Q_EMIT moved();
  board_.select({});
  board_.fitAll();
}

void Navigation::goOut() {
  if (inside_.empty()) return Q_EMIT message(tr("This is the whole material"));
  const Board::Standpoint before = outside_.back();
  inside_.pop_back();
  outside_.pop_back();
  Q_EMIT moved();
  board_.stand(before);
}

void Navigation::leaveAll() {
  trail_.clear();
  outside_.clear();
  if (inside_.empty()) return;
  inside_.clear();
  Q_EMIT moved();
}

// Where the board looks, each step a word that leads back there, and what can be done with the group.
void Navigation::showPath() {
  delete bar_->layout();
  qDeleteAll(bar_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
  bar_->hide();
  if (inside_.empty()) return;
  auto* row = new QHBoxLayout(bar_);
  row->setContentsMargins(14, 0, 14, 0);
  const auto word = [&](const QString& text, const std::function<void()>& run) {
    auto* b = new QPushButton(text, bar_);
    b->setProperty("word", true);
    connect(b, &QPushButton::clicked, this, [run] { QTimer::singleShot(0, run); });  // the row itself is made anew
    row->addWidget(b);
  };
  const auto label = [&](const QString& text, const char* role) {
    auto* l = new QLabel(text, bar_);
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
  const int uses = edit::uses_of(document_.material(), shown_.inside->id);
  label(uses > 1 ? tr("used %1 times: a change reaches every use").arg(uses) : tr("used once"), "mute");
  row->addStretch(1);
  word(tr("Add an input"), [this] { edit(tr("Add an input"), edit::add_group_input(shown(), "Input")); });
  word(tr("Help text …"), [this] {
    bool good = false;
    const QString help = QInputDialog::getText(bar_, tr("Help of the group"), tr("One sentence"), QLineEdit::Normal,
                                               QString::fromStdString(shown_.inside->help), &good);
    if (good)
      document_.edit(tr("Help of a group"), edit::describe_group(document_.material(), shown_.inside->id,
                                                                 shown_.inside->name, help.trimmed().toStdString()));
  });
  word(tr("Out (Alt+Up)"), [this] { goOut(); });
  bar_->show();
}

// ---- there and back

void Navigation::leaveTrail() {
  trail_.emplace_back(inside_, board_.standpoint());
  if (trail_.size() > 50) trail_.erase(trail_.begin());
}

void Navigation::goBack() {
  if (trail_.empty()) return Q_EMIT message(tr("The board has not jumped yet"));
  const auto [way, at] = trail_.back();
  trail_.pop_back();
  while (!inside_.empty() &&
         !std::equal(inside_.begin(), inside_.end(), way.begin(),
                     way.begin() + static_cast<std::ptrdiff_t>(std::min(inside_.size(), way.size()))))
    goOut();
  for (std::size_t i = inside_.size(); i < way.size(); ++i) goInside(way[i]);
  board_.stand(at);
}

// ---- marks

void Navigation::setMark(const QString& letter) {
  Material next = document_.material();
  next.marks[letter.toStdString()] = prefix() + board_.focusedOutput();
  document_.edit(tr("Set mark %1").arg(letter.toUpper()), next);
  Q_EMIT message(tr("Mark %1 set").arg(letter.toUpper()));
}

void Navigation::goToMark(const QString& letter) {
  const auto& marks = document_.material().marks;
  const auto it = marks.find(letter.toStdString());
  if (it == marks.end())
    return Q_EMIT message(tr("There is no mark %1; Shift+M and a letter sets one").arg(letter.toUpper()));
  const std::string at = it->second;  // going there shows the document anew
  leaveTrail();
  const std::string way = at.substr(0, at.rfind('/') == std::string::npos ? 0 : at.rfind('/') + 1);
  if (way != prefix()) {
    while (!inside_.empty() && way.compare(0, prefix().size(), prefix()) != 0) goOut();
    for (std::size_t from = prefix().size(), to; (to = way.find('/', from)) != std::string::npos; from = to + 1)
      goInside(way.substr(from, to - from));
  }
  const std::string output = local(at);
  if (!shown().node(split_output(output).first))
    return Q_EMIT message(tr("What mark %1 stood on is gone").arg(letter.toUpper()));
  board_.showOutput(output);
}

void Navigation::listMarks() {
  QStringList entries;
  std::vector<QString> letters;
  for (const auto& [letter, at] : document_.material().marks) {
    letters.push_back(QString::fromStdString(letter));
    entries << letters.back().toUpper() + QStringLiteral("    ") + QString::fromStdString(at);
  }
  if (entries.isEmpty()) return Q_EMIT message(tr("No mark is set; Shift+M and a letter sets one"));
  pick(board_.window(), tr("Marks"), entries, [&](int i) { goToMark(letters[static_cast<std::size_t>(i)]); });
}

}  // namespace loom::app

#include "moc_navigation.cpp"
