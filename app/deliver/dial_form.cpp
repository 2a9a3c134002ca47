#include "app/deliver/dial_form.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "app/tray/parameter_row.h"
#include "core/graph/edit.h"
#include "core/graph/offered.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/program/formula.h"

namespace loom::app {
namespace {

constexpr std::pair<ParameterKind, const char*> kKinds[] = {{ParameterKind::scalar, QT_TR_NOOP("any number")},
                                                            {ParameterKind::integer, QT_TR_NOOP("whole number")},
                                                            {ParameterKind::toggle, QT_TR_NOOP("on or off")},
                                                            {ParameterKind::seed, QT_TR_NOOP("seed")}};

// Two fields of a range side by side.
QWidget* pairOf(QLineEdit* low, QLineEdit* high, QWidget* parent) {
  auto* both = new QWidget(parent);
  auto* row = new QHBoxLayout(both);
  row->setContentsMargins(0, 0, 0, 0);
  row->addWidget(low);
  row->addWidget(new QLabel(DialForm::tr("to"), both));
  row->addWidget(high);
  return both;
}

// What follows a value or reads it in a formula, as NODE, PARAMETER.
QStringList turnedBy(const Material& m, const std::string& id) {
  QStringList turns;
  const auto reads = [&](const std::string& text) {
    const auto parsed = parse_formula(text);
    if (!parsed) return false;
    const auto names = names_in(*parsed);
    return std::find(names.begin(), names.end(), id) != names.end();
  };
  for (const NodePtr& n : m.nodes)
    for (const auto& [param, held] : n->params) {
      const auto* follow = std::get_if<Follow>(&held);
      const auto* formula = std::get_if<Formula>(&held);
      const auto* rule = std::get_if<Rule>(&held);
      const bool by_formula = formula && reads(formula->text);
      const bool by_rule = rule && (rule->from.follow == id || rule->to.follow == id);
      if (!(follow && follow->value == id) && !by_formula && !by_rule) continue;
      turns << QString::fromStdString(label_of(m, catalogue(), *n)) + QStringLiteral(", ") +
                   QString::fromStdString(param).replace(QLatin1Char('_'), QLatin1Char(' ')) +
                   (by_formula ? QStringLiteral(" = ") + QString::fromStdString(formula->text) : QString());
    }
  for (const Value& v : m.values)
    if (const auto* formula = std::get_if<Formula>(&v.value); formula && reads(formula->text))
      turns << DialForm::tr("value %1 = %2").arg(QString::fromStdString(v.id), QString::fromStdString(formula->text));
  return turns;
}

}  // namespace

DialForm::DialForm(QWidget* parent) : QWidget(parent) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  auto* form = new QFormLayout;
  form->setSpacing(8);
  box->addLayout(form);
  label_ = addLine(form, tr("Label"), {});
  group_ = addLine(form, tr("Group"), {});
  kind_ = new QComboBox(this);
  kind_->setAccessibleName(tr("Kind"));
  for (const auto& [kind, word] : kKinds) kind_->addItem(tr(word), static_cast<int>(kind));
  form->addRow(tr("Kind"), kind_);
  units_ = new QComboBox(this);
  units_->setAccessibleName(tr("Unit"));
  units_->addItem(tr("as of what it turns"), -1);
  for (int i = 0; i <= static_cast<int>(Unit::millimetres); ++i) {
    const std::string_view name = unit_name(static_cast<Unit>(i));
    units_->addItem(QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size())), i);
  }
  form->addRow(tr("Unit"), units_);
  least_ = addLine(nullptr, tr("From"), {});
  most_ = addLine(nullptr, tr("To"), {});
  form->addRow(tr("Range"), pairOf(least_, most_, this));
  lowest_ = addLine(nullptr, tr("Lowest allowed"), tr("any"));
  highest_ = addLine(nullptr, tr("Highest allowed"), tr("any"));
  form->addRow(tr("Limits"), pairOf(lowest_, highest_, this));
  step_ = addLine(form, tr("Step"), tr("any setting"));
  start_holder_ = new QWidget(this);
  (new QVBoxLayout(start_holder_))->setContentsMargins(0, 0, 0, 0);
  form->addRow(start_holder_);
  turns_ = new QLabel(this);
  turns_->setWordWrap(true);
  form->addRow(tr("Turns"), turns_);
  acts_ = addLine(form, tr("Acts when"), tr("always; or a formula over values, wear > 0"));
  reason_ = addLine(form, tr("Else says"), tr("why it does not act"));
  help_ = new QPlainTextEdit(this);
  help_->setFixedHeight(62);
  help_->setAccessibleName(tr("Help"));
  form->addRow(tr("Help"), help_);
  fault_ = new QLabel(this);
  fault_->setWordWrap(true);
  setRole(fault_, "fault");
  box->addWidget(fault_);
  box->addStretch(1);
  for (QComboBox* b : {kind_, units_}) connect(b, &QComboBox::activated, this, [this] { send(); });
  connect(help_, &QPlainTextEdit::textChanged, this,
          [this] { send(QStringLiteral("help of ") + QString::fromStdString(of_)); });
}

QLineEdit* DialForm::addLine(QFormLayout* form, const QString& label, const QString& caption) {
  auto* field = new QLineEdit(this);
  field->setAccessibleName(label);
  field->setPlaceholderText(caption);
  if (form) form->addRow(label, field);
  connect(field, &QLineEdit::editingFinished, this, [this] { send(); });
  return field;
}

void DialForm::showDial(const Material& material, const Value* value) {
  filling_ = true;
  setEnabled(value != nullptr);
  const bool other = value && value->id != of_;
  of_ = value ? value->id : std::string();
  dial_ = value ? *value->dial : Dial{};
  fault_->clear();
  for (QLineEdit* f : {label_, group_, least_, most_, lowest_, highest_, step_, acts_, reason_}) f->clear();
  if (!value) {
    help_->clear();
    if (start_) start_->deleteLater();
    start_ = nullptr;
    turns_->setText(tr("Make a parameter a dial in the tray, or with D"));
    filling_ = false;
    return;
  }
  label_->setText(QString::fromStdString(dial_.label));
  group_->setText(QString::fromStdString(dial_.group));
  acts_->setText(QString::fromStdString(dial_.acts.formula));
  reason_->setText(QString::fromStdString(dial_.acts.reason));
  if (other || help_->toPlainText().toStdString() != dial_.help)
    help_->setPlainText(QString::fromStdString(dial_.help));
  const QStringList turns = turnedBy(material, value->id);
  turns_->setText(turns.isEmpty() ? tr("nothing yet") : turns.join(QLatin1Char('\n')));
  showStart(material, *value);
  for (const Error& e : dial_faults(material.nodes, material.values, catalogue(), *value))
    fault_->setText(QString::fromStdString(e.text()));
  filling_ = false;
}

// A control of the dial's own kind; what stands for numbers alone is shown for numbers alone.
void DialForm::showStart(const Material& material, const Value& value) {
  Parameter p = offered_parameter(material.nodes, catalogue(), value);
  const bool number = std::holds_alternative<double>(value.value);
  unit_ = p.unit;
  showNumbers(number, dial_, p.unit);
  kind_->setEnabled(number &&
                    (p.kind == ParameterKind::scalar || p.kind == ParameterKind::integer || p.kind == dial_.kind));
  kind_->setCurrentIndex(kind_->findData(static_cast<int>(number ? p.kind : ParameterKind::scalar)));
  units_->setCurrentIndex(units_->findData(dial_.unit ? static_cast<int>(*dial_.unit) : -1));
  p.column.clear(), p.help.clear(), p.label = tr("At start").toStdString();
  RowView view{p, dial_.at_start};
  view.canBeDial = false;
  if (start_ && started_ == p.kind && start_of_ == of_) return start_->showView(view);
  if (start_) start_->deleteLater(), start_->hide();  // it may be the one that asked
  started_ = p.kind, start_of_ = of_;
  start_ = new ParameterRow(view, start_holder_);
  start_->showHelp(false);  // nor its menu
  start_holder_->layout()->addWidget(start_);
  connect(start_, &ParameterRow::valueWanted, this, [this](const ParamValue& start) {
    dial_.at_start = start;
    send(QStringLiteral("start of ") + QString::fromStdString(of_));
  });
}

void DialForm::showNumbers(bool number, const Dial& dial, Unit unit) {
  for (QWidget* w : std::initializer_list<QWidget*>{kind_, units_, least_, most_, lowest_, highest_, step_})
    w->setEnabled(number);
  if (!number) return;
  const auto text = [&](double v) { return numberText(v, unit, false); };
  least_->setText(text(dial.least));
  most_->setText(text(dial.most));
  if (dial.limits) lowest_->setText(text(dial.limits->least)), highest_->setText(text(dial.limits->most));
  if (dial.step != 0) step_->setText(text(dial.step));
}

// False where nothing that can be read stands in the field. What still reads as it did keeps all its digits.
bool DialForm::typed(const QLineEdit& field, double& value) const {
  if (field.text() == numberText(value, unit_, false)) return true;
  return numberFromText(field.text(), value, unit_);
}

void DialForm::send(const QString& gesture) {
  if (filling_ || of_.empty()) return;
  Dial d = dial_;
  d.label = label_->text().toStdString();
  d.group = group_->text().toStdString();
  d.help = help_->toPlainText().toStdString();
  d.acts = {acts_->text().trimmed().toStdString(), reason_->text().toStdString()};
  if (least_->isEnabled()) {
    typed(*least_, d.least);
    typed(*most_, d.most);
    if (d.least > d.most) std::swap(d.least, d.most);
    Limits limits = d.limits.value_or(Limits{-1e6, 1e6});
    const bool low = typed(*lowest_, limits.least), high = typed(*highest_, limits.most);
    if (limits.least > limits.most) std::swap(limits.least, limits.most);
    d.limits = low || high ? std::optional(limits) : std::nullopt;
    if (!typed(*step_, d.step)) d.step = 0;
    d.step = std::abs(d.step);
    if (kind_->isEnabled()) d.kind = static_cast<ParameterKind>(kind_->currentData().toInt());
    const int unit = units_->currentData().toInt();
    d.unit = unit < 0 ? std::nullopt : std::optional(static_cast<Unit>(unit));
  }
  Q_EMIT dialWanted(d, gesture);
}

}  // namespace loom::app

#include "moc_dial_form.cpp"
