// Rows are rebuilt when another node is shown, else only refreshed.
#include "app/tray/tray.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QSettings>
#include <QVBoxLayout>
#include <cmath>
#include <numeric>

#include "app/base/theme.h"
#include "app/tray/elided_button.h"
#include "app/tray/packed_columns.h"
#include "core/graph/offered.h"
#include "core/graph/validate.h"
#include "core/graph/worked_values.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/node_call.h"
#include "core/weave/weaver.h"

namespace loom::app {

namespace {

// Whether two types are shown by the same rows; a group's may change while it is looked at.
bool sameRows(const NodeType* a, const NodeType* b) {
  if (!a || !b || a == b) return a == b;
  const auto same = [](const Parameter& p, const Parameter& q) {
    return p.id == q.id && p.label == q.label && p.kind == q.kind && p.column == q.column;
  };
  return a->id == b->id &&
         std::equal(a->parameters.begin(), a->parameters.end(), b->parameters.begin(), b->parameters.end(), same);
}

constexpr std::size_t kManyRows = 16;  // of more one is found by its name
const QString kFolded = QStringLiteral("tray/folded"), kUnfolded = QStringLiteral("+");

}  // namespace

Tray::Tray(QWidget* parent) : QWidget(parent), folded_(QSettings().value(kFolded).toStringList()) {
  setAutoFillBackground(true);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(16, 6, 6, 2);
  box->setSpacing(2);
  auto* head = new QHBoxLayout;
  title_ = new QLabel(this);
  title_->setFont(textFont(13, QFont::Bold));
  setRole(title_, "title");
  help_ = new QLabel(this);
  setRole(help_, "mute");
  reset_ = new QPushButton(tr("reset"), this);
  reset_->setProperty("word", true);
  reset_->setAccessibleName(tr("Reset the node"));
  head->addWidget(title_);
  head->addSpacing(8);
  help_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  filter_ = new QLineEdit(this);
  filter_->setPlaceholderText(tr("find a parameter"));
  filter_->setAccessibleName(tr("Find a parameter"));
  filter_->setFixedWidth(130);
  filter_->setClearButtonEnabled(true);
  connect(filter_, &QLineEdit::textChanged, this, &Tray::showSections);
  head->addWidget(help_, 1);
  head->addWidget(filter_);
  head->addWidget(reset_);
  box->addLayout(head);
  area_ = new QScrollArea(this);
  area_->setWidgetResizable(true);
  area_->setAccessibleName(tr("Parameters"));
  area_->setFrameShape(QFrame::NoFrame);
  area_->viewport()->setAutoFillBackground(false);
  area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area_->verticalScrollBar()->setSingleStep(ParameterRow::kLine * 4 / 3);  // a turn of the wheel goes on by four rows
  box->addWidget(area_, 1);
  connect(reset_, &QPushButton::clicked, this, [this] {
    if (!node_.empty()) Q_EMIT resetWanted(node_, {});
  });
  rebuild();
}

ParameterRow* Tray::row(const std::string& parameter) const {
  for (ParameterRow* r : rows_)
    if (r->id() == parameter) return r;
  return nullptr;
}

void Tray::focusFirst() {
  const auto first = std::ranges::find_if(rows_, [this](const ParameterRow* r) { return r->isVisibleTo(this); });
  if (first != rows_.end()) (*first)->focusValue();
}

void Tray::typeNumber(const QString& begun) {
  for (ParameterRow* r : rows_)
    if (r->isVisibleTo(this) && r->beginNumber(begun)) return;
}

std::vector<Tray::Entry> Tray::entries() const {
  std::vector<Entry> all;
  for (const ParameterRow* r : rows_)
    all.push_back({r->accessibleName() + QStringLiteral("    ") + r->valueText(), r->id(), Way::turn});
  for (const ParameterRow* r : rows_)
    if (r->canHaveRule()) all.push_back({tr("%1, by rule").arg(r->accessibleName()), r->id(), Way::rule});
  for (const ParameterRow* r : rows_) {
    if (!r->canBeDial()) continue;
    all.push_back({tr("%1, as a dial").arg(r->accessibleName()), r->id(), Way::dial});
    all.push_back({tr("%1, as a value").arg(r->accessibleName()), r->id(), Way::value});
  }
  return all;
}

void Tray::turnTo(const Entry& entry) {
  ParameterRow* r = row(entry.parameter);
  if (!r) return;
  if (entry.way == Way::dial) return Q_EMIT dialWanted(node_, entry.parameter);
  if (entry.way == Way::value) return Q_EMIT namedValueWanted(node_, entry.parameter);
  if (entry.way == Way::rule) r->makeRule();
  if ((r = row(entry.parameter))) {
    bringUp(r);
    r->focusValue();
    area_->ensureWidgetVisible(r);
  }
}

// Nothing in the tray takes these two for itself but lists that are open.
void Tray::keyPressEvent(QKeyEvent* e) {
  if (e->key() != Qt::Key_Return && e->key() != Qt::Key_Enter && e->key() != Qt::Key_Escape)
    return QWidget::keyPressEvent(e);
  Q_EMIT left();
}

int Tray::itemsOf(const NodeType* type, const Node* n) const {
  if (!type || !n || !type->list) return 0;
  const RowView view = viewOf(*type->parameter(type->list->count), n);
  const ParamValue& v = view.followsValue ? view.followed : view.value;
  return std::clamp(std::holds_alternative<double>(v) ? static_cast<int>(std::lround(std::get<double>(v))) : 1, 1,
                    type->list->most);
}

// A formula that gives way to something else can be called back, whatever was done since.
void Tray::noteCleared(const std::string& node, const Node* now) {
  if (node != node_ || !now) return;
  for (ParameterRow* r : rows_) {
    const auto* was = std::get_if<Formula>(&r->value());
    const auto it = now->params.find(r->id());
    if (was && (it == now->params.end() || !std::holds_alternative<Formula>(it->second)))
      cleared_[{node, r->id()}] = *was;
  }
}

void Tray::showSpreads(const std::string& node, const Spreads& spreads) {
  if (node != node_) return;
  spreads_ = spreads;
  for (ParameterRow* r : rows_)
    if (const Parameter* p = type_ ? type_->parameter(r->id()) : nullptr) r->showView(viewOf(*p));
}

void Tray::showNode(const Material& material, const std::string& node, const std::map<std::string, Error>& faults) {
  material_ = material;
  numbers_ = work_out(material_.values).numbers;
  faults_ = faults;
  const bool hem = node.empty() && !material.inside;  // a group's inside has measures of its user
  if (hem) hem_ = hem_node(material);
  const Node* n = hem ? &hem_ : material.node(node);
  const std::string id = n ? n->id : std::string();
  const auto type = hem ? std::shared_ptr<const NodeType>(std::shared_ptr<const NodeType>(), &hem_type())
                    : n ? type_of(material, catalogue(), *n)
                        : nullptr;
  if (id != node_) spreads_.reset();
  noteCleared(id, n);
  const int items = itemsOf(type.get(), n);
  const bool other = id != node_ || items != items_ || !sameRows(type.get(), type_.get());
  type_ = type;
  node_ = id;
  items_ = items;
  if (other || threads_ != threadsIn()) rebuild();
  const NodeType* t = type_.get();
  title_->setText(hem ? tr("Hem")
                  : n ? QString::fromStdString(label_of(material, catalogue(), *n))
                      : tr("No node selected"));
  const QString note = t && n ? noteOf(*t, *n) : QString();
  help_->setText(!n                    ? tr("/ adds one, arrows choose one")
                 : note.isEmpty() && t ? QString::fromStdString(t->help)
                                       : note);
  reset_->setVisible(t && !t->parameters.empty() && !hem);  // of the hem one value at a time: it is not one thing
  for (ParameterRow* r : rows_) r->showView(viewOf(*t->parameter(r->id())));
  showSections();
}

// What the type tells of its values, such as counts that were snapped.
QString Tray::noteOf(const NodeType& type, const Node& node) const {
  if (!type.note) return {};
  Resolved params;
  for (const auto& [id, held] : node.params) {
    const auto* follow = std::get_if<Follow>(&held);
    const Value* value = follow ? material_.value(follow->value) : nullptr;
    if (value)
      params[id] = valueNow(*value);
    else if (!follow)
      params[id] = held;
  }
  return QString::fromStdString(type.note(NodeCall(type, params, 0, kWorkingSize, {})));
}

// What a value comes to, its formula worked out.
ParamValue Tray::valueNow(const Value& v) const {
  const auto it = numbers_.find(v.id);
  return it == numbers_.end() ? v.value : ParamValue(it->second);
}

RowView Tray::viewOf(const Parameter& p) const { return viewOf(p, nodeShown()); }

RowView Tray::viewOf(const Parameter& p, const Node* n) const {
  RowView v{p, p.initial};
  if (!n) return v;
  if (const auto it = n->params.find(p.id); it != n->params.end()) v.value = it->second;
  if (const auto* follow = std::get_if<Follow>(&v.value)) {
    v.followsValue = true;
    if (const Value* value = material_.value(follow->value)) {
      v.followed = valueNow(*value);
      v.origin = value->dial ? tr("dial %1").arg(QString::fromStdString(value->dial->label))
                             : tr("value %1").arg(QString::fromStdString(value->id));
    }
  } else if (std::holds_alternative<Formula>(v.value)) {
    v.origin = tr("formula");
  } else if (std::holds_alternative<Rule>(v.value)) {
    v.origin = tr("rule");
  }
  if (const auto it = cleared_.find({n->id, p.id}); it != cleared_.end()) v.cleared = it->second;
  if (spreads_ && n->id == node_)
    if (const auto it = spreads_->find(p.id); it != spreads_->end()) v.spread = {spreads_, &it->second};
  const auto connected = [&](std::string_view peg) {
    return n->id == kHemNode ? material_.hem.count(std::string(peg)) != 0 : material_.into(n->id, peg) != nullptr;
  };
  v.canBeDial = n->id != kHemNode && p.kind != ParameterKind::strokes && p.kind != ParameterKind::figure;
  if (const auto it = names_.find(p.names); it != names_.end()) v.names = it->second;
  if (p.kind == ParameterKind::strokes) v.beside = QString::fromStdString(painted_kind(*n, *type_));
  v.acts = !type_ || parameter_acts(*type_, p, n->params, connected);
  v.why = QString::fromStdString(p.acts.reason);
  if (type_ && !v.acts && (n->id == kHemNode || type_->input(p.id))) v.thread = threadInto(n->id, p.id);
  if (const Value* value = v.followsValue ? material_.value(std::get<Follow>(v.value).value) : nullptr;
      value && std::holds_alternative<Formula>(value->value)) {
    v.acts = false;
    v.why = tr("The value %1 is worked out: %2. Change that under Values, or stop following.")
                .arg(QString::fromStdString(value->id), QString::fromStdString(std::get<Formula>(value->value).text));
  }
  if (const auto it = faults_.find(n->id); it != faults_.end())
    if (p.kind == ParameterKind::formula || p.kind == ParameterKind::file ||
        it->second.where.find("parameter " + p.id + ",") != std::string::npos)
      v.fault = QString::fromStdString(it->second.text());
  return v;
}

// A head that folds what stands below it.
Tray::Section Tray::makeSection(const QString& name, QWidget* parent) {
  Section s{.name = name, .whole = new QWidget(parent)};
  auto* column = new QVBoxLayout(s.whole);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  s.line = new QHBoxLayout;
  s.line->setSpacing(2);
  s.head = new QPushButton(s.whole);
  setRole(s.head, "section");
  s.head->setFixedHeight(ParameterRow::kLine);
  s.head->setAccessibleName(name);
  s.head->setFocusPolicy(Qt::TabFocus);
  connect(s.head, &QPushButton::clicked, this, [this, name] { fold(name); });
  s.line->addWidget(s.head);
  column->addLayout(s.line);
  s.inside = new QWidget(s.whole);
  auto* lines = new QVBoxLayout(s.inside);
  lines->setContentsMargins(0, 0, 0, 0);
  lines->setSpacing(0);
  column->addWidget(s.inside);
  return s;
}

// What can be done with an item of the node's list.
void Tray::addItemWords(QHBoxLayout* head, const NodeType& type, const std::string& name, int item, QWidget* parent) {
  if (!type.list) return;
  std::vector<int> order(static_cast<std::size_t>(items_));
  std::iota(order.begin(), order.end(), 1);
  const QString noun = QString::fromStdString(type.list->noun);
  const auto button = [&](const QString& word, const QString& does, bool can, std::vector<int> next) {
    auto* b = new QPushButton(word, parent);
    b->setProperty("word", true);
    b->setToolTip(does);
    b->setAccessibleName(does);
    b->setFixedHeight(18);
    b->setEnabled(can);
    connect(b, &QPushButton::clicked, this, [this, next = std::move(next)] { Q_EMIT itemsWanted(node_, next); });
    head->addWidget(b);
  };
  const bool room = items_ < type.list->most;
  if (item > 0) {
    const auto at = order.begin() + item - 1;
    std::vector<int> earlier = order, later = order, copied = order, removed = order;
    if (item > 1) std::swap(earlier[static_cast<std::size_t>(item) - 1], earlier[static_cast<std::size_t>(item) - 2]);
    if (item < items_) std::swap(later[static_cast<std::size_t>(item) - 1], later[static_cast<std::size_t>(item)]);
    copied.insert(copied.begin() + (at - order.begin()) + 1, item);
    removed.erase(removed.begin() + (at - order.begin()));
    button(QStringLiteral("◂"), tr("Move this %1 earlier").arg(noun), item > 1, std::move(earlier));
    button(QStringLiteral("▸"), tr("Move this %1 later").arg(noun), item < items_, std::move(later));
    button(tr("copy"), tr("Copy this %1, formulas and threads included").arg(noun), room, std::move(copied));
    button(tr("remove"), tr("Remove this %1").arg(noun), items_ > 1, std::move(removed));
  } else if (name == type.parameter(type.list->count)->column) {
    order.push_back(0);
    button(tr("add a %1").arg(noun), tr("Add a %1 at the end").arg(noun), room, std::move(order));
  }
}

ParameterRow* Tray::makeRow(const Parameter& p, QWidget* parent) {
  auto* r = new ParameterRow(viewOf(p), parent);
  const std::string id = p.id;
  connect(r, &ParameterRow::valueWanted, this, [this, id](const ParamValue& v) { Q_EMIT paramWanted(node_, id, v); });
  connect(r, &ParameterRow::gestureEnded, this, &Tray::gestureEnded);
  connect(r, &ParameterRow::resetWanted, this, [this, id] { Q_EMIT resetWanted(node_, id); });
  connect(r, &ParameterRow::dialWanted, this, [this, id] { Q_EMIT dialWanted(node_, id); });
  connect(r, &ParameterRow::unfollowWanted, this, [this, id] { Q_EMIT unfollowWanted(node_, id); });
  connect(r, &ParameterRow::sourceWanted, this, [this, id] { goToSource(id); });
  rows_.push_back(r);
  return r;
}

// What a peg of a node or a slot of the hem takes, named as the board names it; empty: nothing.
QString Tray::threadInto(const std::string& node, const std::string& peg, std::string* from) const {
  std::string id;
  if (node == kHemNode) {
    if (const auto slot = material_.hem.find(peg); slot != material_.hem.end()) id = split_output(slot->second).first;
  } else if (const Thread* thread = material_.into(node, peg)) {
    id = thread->from_node;
  }
  const Node* source = id.empty() ? nullptr : material_.node(id);
  if (!source) return {};
  if (from) *from = id;
  return QString::fromStdString(label_of(material_, catalogue(), *source));
}

void Tray::goToSource(const std::string& peg) {
  std::string from;
  if (!threadInto(node_, peg, &from).isEmpty()) Q_EMIT nodeWanted(from);
}

// The threads that come in where no parameter has the peg's name.
std::vector<std::pair<std::string, QString>> Tray::threadsIn() const {
  std::vector<std::pair<std::string, QString>> all;
  if (!type_ || node_ == kHemNode) return all;
  for (const Peg& peg : type_->inputs)
    if (const QString source = threadInto(node_, peg.id); !source.isEmpty() && !type_->parameter(peg.id))
      all.emplace_back(peg.id, source);
  return all;
}

// Where from, each a word that leads there.
void Tray::addThreads(QWidget* parent, QLayout* columns) {
  threads_ = threadsIn();
  if (threads_.empty()) return;
  Section s = makeSection(tr("Threads"), parent);
  for (const auto& [peg, source] : threads_) {
    auto* line = new QWidget(s.inside);
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 0, 0);
    auto* label = new QLabel(QString::fromStdString(type_->input(peg)->label), line);
    line->setAccessibleName(label->text());  // by which it is found
    auto* word = new ElidedButton("thread", ParameterRow::kLine, line);
    word->showWords(QStringLiteral("\u2190 ") + source);
    word->setToolTip(tr("Go to %1").arg(source));
    word->setAccessibleName(tr("%1 from %2").arg(label->text(), source));
    connect(word, &QPushButton::clicked, this, [this, peg = peg] { goToSource(peg); });
    label->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(label, ParameterRow::kLabelPercent);
    row->addWidget(word, 100 - ParameterRow::kLabelPercent);
    s.inside->layout()->addWidget(line);
    s.lines.push_back(line);
  }
  addSection(columns, s);
}

void Tray::addSection(QLayout* columns, const Section& s) {
  s.line->addStretch(1);  // behind what else stands there
  columns->addWidget(s.whole);
  sections_.push_back(s);
}

void Tray::rebuild() {
  rows_.clear();
  sections_.clear();
  threads_.clear();
  filter_->clear();
  auto* inside = new QWidget;
  auto* columns = new PackedColumns(inside);
  columns->setContentsMargins(0, 0, 8, 2);
  if (const NodeType* type = type_.get()) {
    std::vector<std::string> order;
    for (const Parameter& p : type->parameters)
      if (std::find(order.begin(), order.end(), p.column) == order.end()) order.push_back(p.column);
    for (const std::string& name : order) {
      const auto first = std::find_if(type->parameters.begin(), type->parameters.end(),
                                      [&](const Parameter& p) { return p.column == name; });
      const int item = type->item_of(first->id);
      if (item > items_) continue;  // not there yet
      Section s = makeSection(QString::fromStdString(name), inside);
      addItemWords(s.line, *type, name, item, s.whole);
      for (const Parameter& p : type->parameters) {
        if (p.column != name) continue;
        if (p.titles) s.title = p.id;
        s.lines.push_back(makeRow(p, s.inside));
        s.inside->layout()->addWidget(s.lines.back());
      }
      addSection(columns, s);
    }
    addThreads(inside, columns);
  }
  filter_->setVisible(rows_.size() > kManyRows);
  area_->setWidget(inside);  // takes the old one away
  showSections();
}

QString Tray::foldKey(const QString& section) const {
  return (type_ ? QString::fromStdString(type_->id) : QString()) + QLatin1Char('/') + section;
}

void Tray::fold(const QString& name) {
  const auto s = std::ranges::find(sections_, name, &Section::name);
  const bool open = s != sections_.end() && isOpen(*s);
  folded_.removeOne(foldKey(name)), folded_.removeOne(kUnfolded + foldKey(name));
  folded_ << (open ? QString() : kUnfolded) + foldKey(name);
  QSettings().setValue(kFolded, folded_);
  showSections();
}

// What is looked for is shown wherever it is; else what is not folded.
void Tray::showSections() {
  const QString wanted = filter_->text().trimmed();
  for (const Section& s : sections_) {
    bool any = false;
    for (QWidget* line : s.lines) {
      const bool fits = wanted.isEmpty() || line->accessibleName().contains(wanted, Qt::CaseInsensitive) ||
                        s.name.contains(wanted, Qt::CaseInsensitive);
      line->setVisible(fits);
      any |= fits;
    }
    s.inside->setVisible(!wanted.isEmpty() || isOpen(s));
    s.whole->setVisible(any);
  }
  showHeads();
}

// As the person left it; else while anything in it acts.
bool Tray::isOpen(const Section& s) const {
  if (folded_.contains(foldKey(s.name))) return false;
  if (folded_.contains(kUnfolded + foldKey(s.name))) return true;
  return std::ranges::any_of(s.lines, [](QWidget* line) {
    const auto* row = qobject_cast<ParameterRow*>(line);
    return !row || !row->isIdle();
  });
}

// What the person calls a section, after its own name.
QString Tray::calledBy(const Section& s) const {
  const Node* n = s.title.empty() ? nullptr : material_.node(node_);
  if (!n) return s.name;
  const auto held = n->params.find(s.title);
  const auto* text = held == n->params.end() ? nullptr : std::get_if<std::string>(&held->second);
  return text && !text->empty() ? s.name + QStringLiteral(": ") + QString::fromStdString(*text) : s.name;
}

void Tray::showHeads() {
  for (const Section& s : sections_)
    s.head->setText((s.inside->isHidden() ? QStringLiteral("\u25b8 ") : QStringLiteral("\u25be ")) + calledBy(s));
}

// Out of a fold or a search that hides it.
void Tray::bringUp(ParameterRow* row) {
  if (!row->isHidden() && !row->parentWidget()->isHidden()) return;
  filter_->clear();
  for (const Section& s : sections_)
    if (std::ranges::count(s.lines, row) && s.inside->isHidden()) fold(s.name);
}

RowView dialView(const Material& material, const Value& value) {
  RowView view{offered_parameter(material.nodes, catalogue(), value), value.value};
  view.parameter.column.clear();  // dials stand in one column
  view.acts = dial_acts(material.nodes, material.values, catalogue(), value);
  view.why = QString::fromStdString(value.dial->acts.reason);
  view.canBeDial = false;
  return view;
}

}  // namespace loom::app

#include "moc_tray.cpp"
