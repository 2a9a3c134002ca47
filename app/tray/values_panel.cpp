#include "app/tray/values_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/base/theme.h"
#include "core/graph/edit.h"
#include "core/graph/validate.h"
#include "core/graph/worked_values.h"
#include "core/nodes/catalogue.h"
#include "core/program/formula.h"

namespace loom::app {
namespace {

QString text(const ParamValue& v) {
  if (const auto* number = std::get_if<double>(&v)) return QString::number(*number, 'g', 8);
  if (const auto* word = std::get_if<std::string>(&v)) return QString::fromStdString(*word);
  if (const auto* formula = std::get_if<Formula>(&v)) return QString::fromStdString(formula->text);
  QStringList parts;
  if (const auto* vector = std::get_if<Vector>(&v))
    for (const double x : *vector) parts << QString::number(x, 'g', 6);
  return parts.join(QStringLiteral(", "));
}

// Of the same kind as what was there, a number also as a formula that names others; nothing if the text is none.
std::optional<ParamValue> read(const QString& typed, const ParamValue& before) {
  if (std::holds_alternative<std::string>(before)) return ParamValue(typed.toStdString());
  const auto parsed = parse_formula(typed.toStdString());
  if (!std::holds_alternative<Vector>(before) && parsed && !names_in(*parsed).empty())
    return ParamValue(Formula{typed.trimmed().toStdString(), {}});
  Vector all;
  for (const QString& part : typed.split(QLatin1Char(','))) {
    const auto number = evaluate_formula(part.trimmed().toStdString(), {});  // 1/8 is a number too
    if (!number) return {};
    all.push_back(*number);
  }
  if (!std::holds_alternative<Vector>(before))
    return all.size() == 1 ? std::optional<ParamValue>(all[0]) : std::nullopt;
  return all.size() == std::get<Vector>(before).size() ? std::optional<ParamValue>(all) : std::nullopt;
}

}  // namespace

std::vector<std::pair<std::string, std::string>> followersOf(const Material& material, const std::string& value) {
  std::vector<std::pair<std::string, std::string>> all;
  const auto named = [&](const std::string& formula) {
    const auto parsed = parse_formula(formula);
    const auto names = parsed ? names_in(*parsed) : std::vector<std::string>{};
    return std::find(names.begin(), names.end(), value) != names.end();
  };
  for (const NodePtr& n : material.nodes)
    for (const auto& [id, held] : n->params) {
      const auto* follow = std::get_if<Follow>(&held);
      const auto* rule = std::get_if<Rule>(&held);
      const auto* formula = std::get_if<Formula>(&held);
      if ((follow && follow->value == value) || (rule && (rule->from.follow == value || rule->to.follow == value)) ||
          (formula && named(formula->text)))
        all.emplace_back(n->id, id);
    }
  for (const Value& v : material.values)
    if (const auto* formula = std::get_if<Formula>(&v.value); formula && named(formula->text))
      all.emplace_back("", v.id);
  return all;
}

ValuesPanel::ValuesPanel(QWidget* parent)
    : QDialog(parent),
      table_(new QTableWidget(this)),
      followers_(new QListWidget(this)),
      offer_(new QPushButton(this)),
      remove_(new QPushButton(tr("remove"), this)) {
  setWindowTitle(tr("Values"));
  resize(760, 440);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(24, 18, 24, 18);
  row->setSpacing(20);
  auto* left = new QVBoxLayout;
  table_->setColumnCount(4);
  table_->setHorizontalHeaderLabels({tr("Value"), tr("Holds"), tr("Comes to"), tr("Offered")});
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->setColumnWidth(1, 130);
  table_->setColumnWidth(2, 70);
  table_->setColumnWidth(3, 110);
  table_->verticalHeader()->hide();
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setAccessibleName(tr("Values"));
  table_->setToolTip(
      tr("A value may hold a formula over others, such as edge_width * 2. F2 changes a name or what it holds."));
  left->addWidget(table_, 1);
  fault_ = new QLabel(this);
  fault_->setWordWrap(true);
  setRole(fault_, "fault");
  fault_->hide();
  left->addWidget(fault_);
  auto* buttons = new QHBoxLayout;
  for (QPushButton* b : {offer_, remove_}) b->setProperty("word", true), buttons->addWidget(b);
  buttons->addStretch(1);
  left->addLayout(buttons);
  row->addLayout(left, 3);
  auto* right = new QVBoxLayout;
  auto* head = new QLabel(tr("Followed by"), this);
  setRole(head, "group");
  followers_->setAccessibleName(tr("Followed by"));
  right->addWidget(head);
  right->addWidget(followers_, 1);
  row->addLayout(right, 2);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &ValuesPanel::showFollowers);
  connect(table_, &QTableWidget::cellChanged, this, &ValuesPanel::take);
  connect(followers_, &QListWidget::itemActivated, this, [this](const QListWidgetItem* item) {
    if (const QString node = item->data(Qt::UserRole).toString(); !node.isEmpty())
      Q_EMIT nodeWanted(node.toStdString());
  });
  connect(remove_, &QPushButton::clicked, this, [this] {
    if (const Value* v = chosen()) Q_EMIT editWanted(tr("Remove a value"), edit::remove_value(material_, v->id));
  });
  connect(offer_, &QPushButton::clicked, this, [this] {
    const Value* v = chosen();
    if (!v) return;
    Material next = material_;
    for (Value& own : next.values) {
      if (own.id != v->id) continue;
      if (own.dial)
        own.dial.reset();
      else
        own.dial = Dial{own.id, "", "", 0, 1, own.value};
    }
    Q_EMIT editWanted(v->dial ? tr("Offer it no more") : tr("Offer it as a dial"), next);
  });
}

const Value* ValuesPanel::chosen() const {
  const QTableWidgetItem* item = table_->item(table_->currentRow(), 0);
  return item ? material_.value(item->data(Qt::UserRole).toString().toStdString()) : nullptr;
}

void ValuesPanel::showMaterial(const Material& material) {
  const Value* before = chosen();
  const std::string kept = before ? before->id : "";
  material_ = material;
  const WorkedValues worked = work_out(material_.values);
  filling_ = true;
  table_->setRowCount(static_cast<int>(material_.values.size()));
  for (int i = 0; i < table_->rowCount(); ++i) {
    const Value& v = material_.values[static_cast<std::size_t>(i)];
    auto* name = new QTableWidgetItem(QString::fromStdString(v.id));
    name->setData(Qt::UserRole, QString::fromStdString(v.id));
    const auto now = worked.numbers.find(v.id);
    auto* comes_to =
        new QTableWidgetItem(now == worked.numbers.end() ? text(v.value) : QString::number(now->second, 'g', 6));
    auto* offered = new QTableWidgetItem(v.dial ? QString::fromStdString(v.dial->label) : QString());
    for (QTableWidgetItem* fixed : {comes_to, offered}) fixed->setFlags(fixed->flags() & ~Qt::ItemIsEditable);
    table_->setItem(i, 0, name);
    table_->setItem(i, 1, new QTableWidgetItem(text(v.value)));
    table_->setItem(i, 2, comes_to);
    table_->setItem(i, 3, offered);
    if (v.id == kept) table_->selectRow(i);
  }
  filling_ = false;
  if (table_->currentRow() < 0 && table_->rowCount() > 0) table_->selectRow(0);
  showFollowers();
}

void ValuesPanel::showFollowers() {
  followers_->clear();
  const Value* v = chosen();
  remove_->setEnabled(v);
  offer_->setEnabled(v && !std::holds_alternative<Formula>(v->value));
  offer_->setToolTip(v && std::holds_alternative<Formula>(v->value)
                         ? tr("It is worked out by a formula: nobody can turn it")
                         : QString());
  offer_->setText(v && v->dial ? tr("offer it no more") : tr("offer as a dial"));
  if (!v) return;
  for (const auto& [node, param] : followersOf(material_, v->id)) {
    if (node.empty()) {  // another value
      new QListWidgetItem(QString::fromStdString(param), followers_);
      continue;
    }
    const Node* n = material_.node(node);
    const auto type = type_of(material_, catalogue(), *n);
    const Parameter* p = type ? type->parameter(param) : nullptr;
    auto* item = new QListWidgetItem(
        QString::fromStdString(label_of(material_, catalogue(), *n) + ", " + (p ? p->label : param)), followers_);
    item->setData(Qt::UserRole, QString::fromStdString(node));
  }
}

void ValuesPanel::take(int row, int column) {
  if (filling_ || column > 1) return;
  const Value* v = material_.value(table_->item(row, 0)->data(Qt::UserRole).toString().toStdString());
  if (!v) return;
  const QString typed = table_->item(row, column)->text().trimmed();
  if (column == 0) return rename(*v, typed);
  const auto now = read(typed, v->value);
  if (!now) return refuse(tr("'%1' is no such value").arg(typed));
  if (v->dial && std::holds_alternative<Formula>(*now))
    return refuse(tr("A dial is turned by whoever uses the material: offer it no more, then give it a formula"));
  const Material next = edit::set_value(material_, v->id, *now);
  for (const Error& e : work_out(next.values).faults) return refuse(QString::fromStdString(e.text()));
  fault_->hide();
  Q_EMIT editWanted(tr("Set %1").arg(QString::fromStdString(v->id)), next);
}

void ValuesPanel::rename(const Value& v, const QString& name) {
  if (name.toStdString() == v.id) return;
  if (material_.value(name.toStdString())) return refuse(tr("The name %1 is taken").arg(name));
  if (!is_identifier(name.toStdString()))
    return refuse(tr("A name is of small letters, digits and _, such as edge_width"));
  fault_->hide();
  Q_EMIT editWanted(tr("Rename %1").arg(QString::fromStdString(v.id)),
                    edit::rename_value(material_, v.id, name.toStdString()));
}

// What was there comes back, and why.
void ValuesPanel::refuse(const QString& why) {
  showMaterial(Material(material_));
  fault_->setText(why);
  fault_->show();
}

}  // namespace loom::app

#include "moc_values_panel.cpp"
