#include "app/board/choose_parameters.h"

#include <QDialogButtonBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/tray/parameter_row.h"

namespace loom::app {
namespace {

// What it holds, in a few words.
QString brief(const Parameter& p, const ParamValue& v) {
  if (const auto* number = std::get_if<double>(&v))
    return numberText(*number, p.unit, p.kind == ParameterKind::integer || p.kind == ParameterKind::seed);
  if (const auto* word = std::get_if<std::string>(&v)) return QString::fromStdString(*word);
  if (const auto* formula = std::get_if<Formula>(&v)) return QString::fromStdString(formula->text);
  if (const auto* follow = std::get_if<Follow>(&v))
    return ChooseParameters::tr("follows %1").arg(QString::fromStdString(follow->value));
  if (const auto* rule = std::get_if<Rule>(&v))
    return ChooseParameters::tr("by %1").arg(QString::fromStdString(rule->by));
  if (const auto* stops = std::get_if<Stops>(&v))
    return ChooseParameters::tr("%n stops", nullptr, static_cast<int>(stops->size()));
  if (const auto* points = std::get_if<Points>(&v))
    return ChooseParameters::tr("%n points", nullptr, static_cast<int>(points->size()));
  QStringList parts;
  for (const double x : std::get<Vector>(v)) parts << QString::number(x, 'g', 3);
  return parts.join(QStringLiteral(", "));
}

}  // namespace

ChooseParameters::ChooseParameters(const NodeType& type, const Node& copied, QWidget* parent)
    : QDialog(parent), list_(new QListWidget(this)) {
  setWindowTitle(tr("Paste chosen parameters"));
  resize(380, 420);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(24, 18, 24, 18);
  column->addWidget(new QLabel(tr("Space ticks or unticks what is pasted."), this));
  column->addWidget(list_, 1);
  list_->setAccessibleName(tr("Parameters to paste"));
  for (const Parameter& p : type.parameters) {
    const auto held = copied.params.find(p.id);
    if (held == copied.params.end()) continue;
    auto* item =
        new QListWidgetItem(QString::fromStdString(p.label) + QStringLiteral("   ") + brief(p, held->second), list_);
    item->setData(Qt::UserRole, QString::fromStdString(p.id));
    item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
    item->setCheckState(Qt::Checked);
  }
  list_->setCurrentRow(0);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
  buttons->button(QDialogButtonBox::Ok)->setText(tr("paste"));
  buttons->button(QDialogButtonBox::Cancel)->setText(tr("leave"));
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  column->addWidget(buttons);
}

std::vector<std::string> ChooseParameters::chosen() const {
  std::vector<std::string> ids;
  for (int i = 0; i < list_->count(); ++i)
    if (list_->item(i)->checkState() == Qt::Checked)
      ids.push_back(list_->item(i)->data(Qt::UserRole).toString().toStdString());
  return ids;
}

}  // namespace loom::app

#include "moc_choose_parameters.cpp"
