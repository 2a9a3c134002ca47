// Rows are rebuilt when another node is shown, else only refreshed.
#include "app/tray/tray.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/shell/theme.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/node_call.h"
#include "core/weave/weaver.h"

namespace loom::app {

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
  area_->setFrameShape(QFrame::NoFrame);
  area_->viewport()->setAutoFillBackground(false);
  box->addWidget(area_, 1);
  connect(reset_, &QPushButton::clicked, this, [this] { if (!node_.empty()) Q_EMIT resetWanted(node_, {}); });
  rebuild();
}

ParameterRow* Tray::row(const std::string& parameter) const {
  for (ParameterRow* r : rows_) if (r->id() == parameter) return r;
  return nullptr;
}

void Tray::focusFirst() { if (!rows_.empty()) rows_.front()->focusValue(); }

void Tray::showNode(const Material& material, const std::string& node, const std::map<std::string, Error>& faults) {
  material_ = material;
  faults_ = faults;
  const Node* n = material.node(node);
  const std::string type = n ? n->type : "";
  if (node != node_ || type != type_) {
    node_ = n ? node : "";
    type_ = type;
    rebuild();
  }
  const NodeType* t = catalogue().find(type_);
  title_->setText(n ? QString::fromStdString(label_of(material, catalogue(), *n)) : tr("No node selected"));
  const QString note = t && n ? noteOf(*t, *n) : QString();
  help_->setText(!n ? tr("/ adds one, arrows choose one") : note.isEmpty() ? (t ? QString::fromStdString(t->help) : tr("A group")) : note);
  reset_->setVisible(t && !t->parameters.empty());
  for (ParameterRow* r : rows_) r->showView(viewOf(*t->parameter(r->id())));
}

// What the type tells of its values, such as counts that were snapped.
QString Tray::noteOf(const NodeType& type, const Node& node) const {
  if (!type.note) return {};
  Resolved params;
  for (const auto& [id, held] : node.params) {
    const auto* follow = std::get_if<Follow>(&held);
    const Value* value = follow ? material_.value(follow->value) : nullptr;
    if (value) params[id] = value->value;
    else if (!follow) params[id] = held;
  }
  return QString::fromStdString(type.note(NodeCall(type, params, 0, kWorkingSize, {})));
}

RowView Tray::viewOf(const Parameter& p) const {
  RowView v{p, p.initial};
  const Node* n = material_.node(node_);
  if (!n) return v;
  if (const auto it = n->params.find(p.id); it != n->params.end()) v.value = it->second;
  if (const auto* follow = std::get_if<Follow>(&v.value)) {
    v.followsValue = true;
    if (const Value* value = material_.value(follow->value)) {
      v.followed = value->value;
      v.origin = value->dial ? tr("dial %1").arg(QString::fromStdString(value->dial->label)) : tr("value %1").arg(QString::fromStdString(value->id));
    }
  } else if (std::holds_alternative<Formula>(v.value)) {
    v.origin = tr("formula");
  } else if (std::holds_alternative<Rule>(v.value)) {
    v.origin = tr("rule");
  }
  const NodeType* type = catalogue().find(n->type);
  v.acts = parameter_acts(*type, p, n->params, [&](std::string_view peg) { return material_.into(node_, peg) != nullptr; });
  v.why = QString::fromStdString(p.acts.reason);
  if (const auto it = faults_.find(node_); it != faults_.end())
    if (p.kind == ParameterKind::formula || it->second.where.find("parameter " + p.id + ",") != std::string::npos) v.fault = QString::fromStdString(it->second.text());
  return v;
}

void Tray::rebuild() {
  rows_.clear();
  auto* inside = new QWidget;
  auto* columns = new QHBoxLayout(inside);
  columns->setContentsMargins(0, 2, 8, 2);
  columns->setSpacing(16);
  if (const NodeType* type = catalogue().find(type_)) {
    std::vector<std::string> order;
    for (const Parameter& p : type->parameters) if (std::find(order.begin(), order.end(), p.column) == order.end()) order.push_back(p.column);
    for (const std::string& name : order) {
      auto* column = new QVBoxLayout;
      column->setSpacing(2);
      auto* head = new QLabel(QString::fromStdString(name), inside);
      setRole(head, "group");
      column->addWidget(head);
      for (const Parameter& p : type->parameters) {
        if (p.column != name) continue;
        auto* r = new ParameterRow(viewOf(p), inside);
        const std::string id = p.id;
        connect(r, &ParameterRow::valueWanted, this, [this, id](const ParamValue& v) { Q_EMIT paramWanted(node_, id, v); });
        connect(r, &ParameterRow::gestureEnded, this, &Tray::gestureEnded);
        connect(r, &ParameterRow::resetWanted, this, [this, id] { Q_EMIT resetWanted(node_, id); });
        connect(r, &ParameterRow::dialWanted, this, [this, id] { Q_EMIT dialWanted(node_, id); });
        connect(r, &ParameterRow::unfollowWanted, this, [this, id] { Q_EMIT unfollowWanted(node_, id); });
        column->addWidget(r);
        rows_.push_back(r);
      }
      column->addStretch(1);
      auto* holder = new QWidget(inside);
      holder->setLayout(column);
      column->setContentsMargins(0, 0, 0, 0);
      holder->setMinimumWidth(142);
      holder->setMaximumWidth(300);
      columns->addWidget(holder, 1);
    }
  }
  columns->addStretch(1);
  area_->setWidget(inside);  // takes the old one away
}

Parameter parameterOf(const Material& material, const Value& value) {
  Parameter p;
  p.id = value.id;
  const Dial dial = value.dial.value_or(Dial{value.id, "", "", 0, 1, value.value, false});
  p.label = dial.label;
  p.help = dial.help;
  p.useful = {dial.least, dial.most};
  p.initial = dial.at_start;
  p.kind = dial.whole ? ParameterKind::integer : ParameterKind::scalar;
  // Kind, unit and limits are those of what follows it.
  for (const NodePtr& n : material.nodes)
    for (const auto& [id, held] : n->params)
      if (const auto* follow = std::get_if<Follow>(&held); follow && follow->value == value.id)
        if (const NodeType* type = catalogue().find(n->type))
          if (const Parameter* source = type->parameter(id)) {
            p.kind = source->kind == ParameterKind::integer && !dial.whole ? ParameterKind::scalar : source->kind;
            p.unit = source->unit;
            p.limits = source->limits;
            p.options = source->options;
            return p;
          }
  if (std::holds_alternative<Vector>(value.value)) p.kind = std::get<Vector>(value.value).size() == 3 ? ParameterKind::colour : ParameterKind::vector2;
  if (std::holds_alternative<std::string>(value.value)) p.kind = ParameterKind::text;
  return p;
}

}  // namespace loom::app
