// Rows are rebuilt when another node is shown, else only refreshed.
#include "app/tray/tray.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <cmath>
#include <numeric>

#include "app/base/theme.h"
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

}  // namespace

Tray::Tray(QWidget* parent) : QWidget(parent) {
  setAutoFillBackground(true);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(24, 8, 12, 4);
  box->setSpacing(4);
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
  head->addWidget(help_, 1);
  head->addWidget(reset_);
  box->addLayout(head);
  area_ = new QScrollArea(this);
  area_->setWidgetResizable(true);
  area_->setAccessibleName(tr("Parameters"));
  area_->setFrameShape(QFrame::NoFrame);
  area_->viewport()->setAutoFillBackground(false);
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
  if (!rows_.empty()) rows_.front()->focusValue();
}

void Tray::typeNumber(const QString& begun) {
  for (ParameterRow* r : rows_)
    if (r->beginNumber(begun)) return;
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
  if (other) {
    node_ = id;
    items_ = items;
    rebuild();
  }
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
  v.canBeDial = n->id != kHemNode && p.kind != ParameterKind::strokes;
  if (const auto it = names_.find(p.names); it != names_.end()) v.names = it->second;
  if (p.kind == ParameterKind::strokes) v.beside = QString::fromStdString(painted_kind(*n, *type_));
  v.acts = !type_ || parameter_acts(*type_, p, n->params, connected);
  v.why = QString::fromStdString(p.acts.reason);
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

// The column's name, and what can be done with an item of the node's list.
QWidget* Tray::columnHead(const NodeType& type, const std::string& name, int item, QWidget* parent) {
  auto* head = new QWidget(parent);
  auto* lines = new QVBoxLayout(head);
  lines->setContentsMargins(0, 0, 0, 0);
  lines->setSpacing(0);
  auto* label = new QLabel(QString::fromStdString(name), head);
  setRole(label, "group");
  lines->addWidget(label);
  if (!type.list) return head;
  auto* row = new QHBoxLayout;
  row->setSpacing(2);
  lines->addLayout(row);
  std::vector<int> order(static_cast<std::size_t>(items_));
  std::iota(order.begin(), order.end(), 1);
  const QString noun = QString::fromStdString(type.list->noun);
  const auto button = [&](const QString& word, const QString& does, bool can, std::vector<int> next) {
    auto* b = new QPushButton(word, head);
    b->setProperty("word", true);
    b->setToolTip(does);
    b->setAccessibleName(does);
    b->setFixedHeight(18);
    b->setEnabled(can);
    connect(b, &QPushButton::clicked, this, [this, next = std::move(next)] { Q_EMIT itemsWanted(node_, next); });
    row->addWidget(b);
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
  } else {
    label->setContentsMargins(0, 0, 0, 18);
  }
  row->addStretch(1);
  return head;
}

void Tray::rebuild() {
  rows_.clear();
  auto* inside = new QWidget;
  auto* columns = new PackedColumns(inside);
  columns->setContentsMargins(0, 2, 8, 2);
  if (const NodeType* type = type_.get()) {
    std::vector<std::string> order;
    for (const Parameter& p : type->parameters)
      if (std::find(order.begin(), order.end(), p.column) == order.end()) order.push_back(p.column);
    for (const std::string& name : order) {
      const auto first = std::find_if(type->parameters.begin(), type->parameters.end(),
                                      [&](const Parameter& p) { return p.column == name; });
      const int item = type->item_of(first->id);
      if (item > items_) continue;  // not there yet
      auto* column = new QVBoxLayout;
      column->setSpacing(2);
      column->addWidget(columnHead(*type, name, item, inside));
      for (const Parameter& p : type->parameters) {
        if (p.column != name) continue;
        auto* r = new ParameterRow(viewOf(p), inside);
        const std::string id = p.id;
        connect(r, &ParameterRow::valueWanted, this,
                [this, id](const ParamValue& v) { Q_EMIT paramWanted(node_, id, v); });
        connect(r, &ParameterRow::gestureEnded, this, &Tray::gestureEnded);
        connect(r, &ParameterRow::resetWanted, this, [this, id] { Q_EMIT resetWanted(node_, id); });
        connect(r, &ParameterRow::dialWanted, this, [this, id] { Q_EMIT dialWanted(node_, id); });
        connect(r, &ParameterRow::unfollowWanted, this, [this, id] { Q_EMIT unfollowWanted(node_, id); });
        column->addWidget(r);
        rows_.push_back(r);
      }
      auto* holder = new QWidget(inside);
      holder->setLayout(column);
      column->setContentsMargins(0, 0, 0, 0);
      columns->addWidget(holder);
    }
  }
  area_->setWidget(inside);  // takes the old one away
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
