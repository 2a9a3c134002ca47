#include "app/tray/values_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/shell/theme.h"
#include "core/graph/edit.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/program/formula.h"

namespace loom::app {
namespace {

QString text(const ParamValue& v) {
  if (const auto* number = std::get_if<double>(&v)) return QString::number(*number, 'g', 8);
  if (const auto* word = std::get_if<std::string>(&v)) return QString::fromStdString(*word);
  QStringList parts;
  if (const auto* vector = std::get_if<Vector>(&v)) for (const double x : *vector) parts << QString::number(x, 'g', 6);
  return parts.join(QStringLiteral(", "));
}

// Of the same kind as what was there; nothing if the text is none.
std::optional<ParamValue> read(const QString& typed, const ParamValue& before) {
  if (std::holds_alternative<std::string>(before)) return ParamValue(typed.toStdString());
  Vector all;
  for (const QString& part : typed.split(QLatin1Char(','))) {
    const auto number = evaluate_formula(part.trimmed().toStdString(), {});  // 1/8 is a number too
    if (!number) return {};
    all.push_back(*number);
  }
  if (std::holds_alternative<double>(before)) return all.size() == 1 ? std::optional<ParamValue>(all[0]) : std::nullopt;
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
      if ((follow && follow->value == value) || (rule && (rule->from.follow == value || rule->to.follow == value)) || (formula && named(formula->text))) all.emplace_back(n->id, id);
    }
  return all;
}

ValuesPanel::ValuesPanel(QWidget* parent) : QDialog(parent), table_(new QTableWidget(this)), followers_(new QListWidget(this)), offer_(new QPushButton(this)), remove_(new QPushButton(tr("remove"), this)) {
  setWindowTitle(tr("Values"));
  resize(620, 420);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(24, 18, 24, 18);
  row->setSpacing(20);
  auto* left = new QVBoxLayout;
  table_->setColumnCount(3);
  table_->setHorizontalHeaderLabels({tr("Value"), tr("Holds"), tr("Offered")});
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->verticalHeader()->hide();
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setAccessibleName(tr("Values"));
  left->addWidget(table_, 1);
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
  connect(followers_, &QListWidget::itemActivated, this, [this](const QListWidgetItem* item) { Q_EMIT nodeWanted(item->data(Qt::UserRole).toString().toStdString()); });
  connect(remove_, &QPushButton::clicked, this, [this] { if (const Value* v = chosen()) Q_EMIT editWanted(tr("Remove a value"), edit::remove_value(material_, v->id)); });
  connect(offer_, &QPushButton::clicked, this, [this] {
    const Value* v = chosen();
    if (!v) return;
    Material next = material_;
    for (Value& own : next.values) {
      if (own.id != v->id) continue;
      if (own.dial) own.dial.reset();
      else own.dial = Dial{own.id, "", "", 0, 1, own.value, false};
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
  filling_ = true;
  table_->setRowCount(static_cast<int>(material_.values.size()));
  for (int i = 0; i < table_->rowCount(); ++i) {
    const Value& v = material_.values[static_cast<std::size_t>(i)];
    auto* name = new QTableWidgetItem(QString::fromStdString(v.id));
    name->setData(Qt::UserRole, QString::fromStdString(v.id));
    name->setFlags(name->flags() & ~Qt::ItemIsEditable);
    auto* offered = new QTableWidgetItem(v.dial ? QString::fromStdString(v.dial->label) : QString());
    offered->setFlags(offered->flags() & ~Qt::ItemIsEditable);
    table_->setItem(i, 0, name);
    table_->setItem(i, 1, new QTableWidgetItem(text(v.value)));
    table_->setItem(i, 2, offered);
    if (v.id == kept) table_->selectRow(i);
  }
  filling_ = false;
  if (table_->currentRow() < 0 && table_->rowCount() > 0) table_->selectRow(0);
  showFollowers();
}

void ValuesPanel::showFollowers() {
  followers_->clear();
  const Value* v = chosen();
  for (QPushButton* b : {offer_, remove_}) b->setEnabled(v);
  offer_->setText(v && v->dial ? tr("offer it no more") : tr("offer as a dial"));
  if (!v) return;
  for (const auto& [node, param] : followersOf(material_, v->id)) {
    const Node* n = material_.node(node);
    const auto type = type_of(material_, catalogue(), *n);
    const Parameter* p = type ? type->parameter(param) : nullptr;
    auto* item = new QListWidgetItem(QString::fromStdString(label_of(material_, catalogue(), *n) + ", " + (p ? p->label : param)), followers_);
    item->setData(Qt::UserRole, QString::fromStdString(node));
  }
}

void ValuesPanel::take(int row, int column) {
  if (filling_ || column != 1) return;
  const Value* v = material_.value(table_->item(row, 0)->data(Qt::UserRole).toString().toStdString());
  if (!v) return;
  const auto now = read(table_->item(row, 1)->text(), v->value);
  if (now) Q_EMIT editWanted(tr("Set %1").arg(QString::fromStdString(v->id)), edit::set_value(material_, v->id, *now));
  else showMaterial(Material(material_));  // what was there comes back
}

}  // namespace loom::app
