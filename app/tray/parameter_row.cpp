// A row keeps its control as long as the value keeps its shape, so that typing is never interrupted.
#include "app/tray/parameter_row.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <cstring>
#include <utility>

#include "app/base/theme.h"
#include "app/tray/elided_button.h"
#include "core/program/formula.h"

namespace loom::app {

QString numberText(double value, Unit unit, bool whole) {
  if (whole) return QString::number(static_cast<qlonglong>(std::llround(value)));
  if (unit == Unit::share_of_tile) return QString::number(value * 100, 'g', 4) + QStringLiteral(" %");
  if (unit == Unit::degrees) return QString::number(value, 'g', 4) + QStringLiteral("°");
  if (unit == Unit::metres) return QString::number(value, 'g', 4) + QStringLiteral(" m");
  if (unit == Unit::millimetres) return QString::number(value * 1000, 'g', 4) + QStringLiteral(" mm");
  return QString::number(value, 'g', 4);
}

bool numberFromText(const QString& text, double& value, Unit unit) {
  QString t = text.trimmed();
  double scale = unit == Unit::share_of_tile ? 0.01 : unit == Unit::millimetres ? 0.001 : 1;
  if (unit == Unit::metres || unit == Unit::millimetres)
    for (const auto& [ending, metres] : {std::pair{"mm", 0.001}, {"cm", 0.01}, {"m", 1.0}})
      if (t.endsWith(QLatin1String(ending))) {
        t.chop(static_cast<int>(std::strlen(ending)));
        scale = metres;
        break;
      }
  if (t.endsWith(QLatin1Char('%'))) t.chop(1), scale = 0.01;
  if (t.endsWith(QChar(0x00b0))) t.chop(1);
  const auto result = evaluate_formula(t.toStdString(), {});
  if (!result) return false;
  bool plain = false;  // a plain number keeps all its digits
  const double exact = t.trimmed().toDouble(&plain);
  value = (plain ? exact : *result) * scale;
  return true;
}

namespace {

constexpr int kWay = 32;                           // pixels, of the last word in a line
constexpr int kLeastLabel = 60, kMostLabel = 160;  // pixels

}  // namespace

// As wide as its row wants it, and no reason for the row to be any wider.
class ParameterRow::Label : public QLabel {
 public:
  using QLabel::QLabel;
  void setRoom(int wide) {
    if (std::exchange(wide_, wide) != wide) updateGeometry();
  }
  QSize sizeHint() const override { return {wide_, kLine}; }
  QSize minimumSizeHint() const override { return {kLeastLabel, kLine}; }

 private:
  int wide_ = kLeastLabel;
};

ParameterRow::ParameterRow(const RowView& view, QWidget* parent) : QWidget(parent), view_(view) {
  box_ = new QVBoxLayout(this);
  box_->setContentsMargins(0, 0, 0, 0);
  box_->setSpacing(0);
  line_ = new QHBoxLayout;
  line_->setSpacing(4);
  label_ = new Label(this);
  label_->installEventFilter(this);
  way_ = new QToolButton(this);
  way_->setProperty("word", true);
  way_->setFocusPolicy(Qt::TabFocus);
  way_->setFixedSize(kWay, 20);
  connect(way_, &QToolButton::clicked, this, &ParameterRow::openMenu);
  line_->addWidget(label_);
  stretch_ = new QSpacerItem(0, 0);
  line_->addItem(stretch_);
  line_->addWidget(way_);
  box_->addLayout(line_);
  help_ = new QLabel(this);
  help_->setWordWrap(true);
  setRole(help_, "mute");
  help_->hide();
  box_->addWidget(help_);
  rebuild();
  showView(view);
}

void ParameterRow::rebuild() {
  const bool first = !editor_;
  delete under_;
  delete editor_;
  editor_ = makeEditor(view_, this);
  shape_ = view_.followsValue ? 100 + view_.followed.index() : view_.value.index();
  if (editor_->isTall())
    box_->insertWidget(1, editor_);
  else
    line_->insertWidget(1, editor_, 1);
  stretch_->changeSize(0, 0, editor_->isTall() ? QSizePolicy::Expanding : QSizePolicy::Minimum);
  under_ = editor_->under();
  if (under_) {
    box_->insertWidget(box_->count() - 1, under_);
    under_->hide();
  }
  const bool asked = std::holds_alternative<Rule>(view_.value) || std::holds_alternative<Formula>(view_.value);
  unfold(!first && asked);  // who has just asked for a rule wants to see it
  connect(editor_, &ValueEditor::unfoldWanted, this, [this] { unfold(!isUnfolded()); });
  connect(editor_, &ValueEditor::valueWanted, this, &ParameterRow::valueWanted);
  connect(editor_, &ValueEditor::gestureEnded, this, &ParameterRow::gestureEnded);
  // Later: the editor in which it was typed makes room for another.
  connect(
      editor_, &ValueEditor::formulaTyped, this,
      [this](const QString& text) {
        Q_EMIT valueWanted(Formula{text.toStdString(), {}});
        Q_EMIT gestureEnded();
      },
      Qt::QueuedConnection);
  connect(editor_, &ValueEditor::resetWanted, this, &ParameterRow::resetWanted);
}

void ParameterRow::unfold(bool on) {
  if (under_) under_->setVisible(on);
}
bool ParameterRow::isUnfolded() const { return under_ && under_->isVisibleTo(this); }

void ParameterRow::showView(const RowView& view) {
  view_ = view;
  if (shape_ != (view.followsValue ? 100 + view.followed.index() : view.value.index())) rebuild();
  const QString label = QString::fromStdString(view.parameter.label);
  const bool fed = !view.thread.isEmpty();
  if (!view.fault.isEmpty()) unfold(true);
  if (fed) unfold(false);
  showLabel();
  showWay();
  editor_->setVisible(!fed);
  showThread();
  for (QWidget* w : {static_cast<QWidget*>(label_), static_cast<QWidget*>(editor_), under_})
    if (w) w->setEnabled(view.acts);
  setRole(label_, view.acts ? "" : "mute");
  label_->setCursor(view.parameter.kind == ParameterKind::scalar || view.parameter.kind == ParameterKind::integer
                        ? Qt::SizeHorCursor
                        : Qt::ArrowCursor);
  const QString tip = !view.acts              ? view.why
                      : !view.fault.isEmpty() ? view.fault
                                              : QString::fromStdString(view.parameter.help);
  setToolTip(tip);
  setAccessibleName(label);
  way_->setAccessibleName(tr("More for %1").arg(label));
  editor_->setAccessibleName(label);
  editor_->showView(view);
}

// In place of the control, a word that leads to where it comes from.
void ParameterRow::showThread() {
  const bool fed = !view_.thread.isEmpty();
  if (fed && !thread_) {
    thread_ = new ElidedButton("thread", kLine, this);
    line_->insertWidget(1, thread_, 1);
    connect(thread_, &QPushButton::clicked, this, &ParameterRow::sourceWanted);
  }
  if (!thread_) return;
  const QString label = QString::fromStdString(view_.parameter.label);
  thread_->setVisible(fed);
  thread_->showWords(QStringLiteral("\u2190 ") + view_.thread);
  thread_->setToolTip(tr("It comes in at the peg %1; go to %2").arg(label, view_.thread));
  thread_->setAccessibleName(tr("%1 from %2").arg(label, view_.thread));
}

void ParameterRow::resizeEvent(QResizeEvent* e) {
  QWidget::resizeEvent(e);
  showLabel();
}

// All rows of a column are as wide: their controls stand below each other. The label of what stands below it may take
// the line.
void ParameterRow::showLabel() {
  const int room = width() - kWay - 8, wide = editor_->isTall() && view_.thread.isEmpty()
                                                  ? room
                                                  : std::clamp(kLabelPercent * width() / 100, kLeastLabel, kMostLabel);
  label_->setRoom(std::max(wide, kLeastLabel));
  const QString label = QString::fromStdString(view_.parameter.label);
  label_->setText(label_->fontMetrics().elidedText(label, Qt::ElideRight, std::max(wide, kLeastLabel)));
  label_->setToolTip(label_->text() == label ? QString() : label);
}

// A rule and a formula are told by what stands in the line.
void ParameterRow::showWay() {
  const QString kind = view_.origin.section(QLatin1Char(' '), 0, 0);
  const bool follows = view_.followsValue && !kind.isEmpty();
  way_->setText(follows ? kind : QStringLiteral("\u22ef"));
  way_->setToolTip(view_.origin.isEmpty() ? tr("What else its value can be") : view_.origin);
  setRole(way_, follows ? "state" : "");
}

// A number is scrubbed by its name: Shift finely, Ctrl coarsely.
bool ParameterRow::eventFilter(QObject*, QEvent* e) {
  const bool number = view_.parameter.kind == ParameterKind::scalar || view_.parameter.kind == ParameterKind::integer;
  if (!number || !view_.acts || !std::holds_alternative<double>(view_.followsValue ? view_.followed : view_.value))
    return false;
  if (e->type() == QEvent::MouseButtonPress) {
    scrubAt_ = static_cast<QMouseEvent*>(e)->position().x();
    scrubbing_ = false;
    return true;
  }
  if (e->type() == QEvent::MouseMove && scrubAt_) {
    const auto* move = static_cast<QMouseEvent*>(e);
    const double moved = move->position().x() - *scrubAt_;
    if (!scrubbing_ && std::abs(moved) < 3) return true;
    editor_->scrub(moved, move->modifiers(), !scrubbing_);
    scrubbing_ = true;
    scrubAt_ = move->position().x();
    return true;
  }
  if (e->type() == QEvent::MouseButtonRelease && scrubAt_) {
    scrubAt_.reset();
    if (std::exchange(scrubbing_, false)) Q_EMIT gestureEnded();
    return true;
  }
  return false;
}

void ParameterRow::setTick(double tick, bool on) { editor_->setTick(tick, on); }
void ParameterRow::focusValue() {
  if (!view_.thread.isEmpty()) return thread_->setFocus(Qt::TabFocusReason);
  QWidget* const first = editor_->first();
  if (under_ && under_->isAncestorOf(first)) unfold(true);
  first->setFocus(Qt::TabFocusReason);
  if (auto* field = qobject_cast<QLineEdit*>(first))
    field->selectAll();  // what is typed takes the place of what is there
}

QLineEdit* ParameterRow::numberField() const {
  const bool number = view_.parameter.kind == ParameterKind::scalar || view_.parameter.kind == ParameterKind::integer;
  return number && std::holds_alternative<double>(view_.followsValue ? view_.followed : view_.value)
             ? qobject_cast<QLineEdit*>(editor_->first())
             : nullptr;
}

bool ParameterRow::beginNumber(const QString& begun) {
  QLineEdit* field = numberField();
  if (!field || !field->isEnabled()) return false;
  focusValue();
  field->setText(begun);
  field->setModified(true);
  return true;
}

// What its controls leave: a figure goes into the number's field from wherever in the row it is typed; Escape forgets
// what was typed.
void ParameterRow::keyPressEvent(QKeyEvent* e) {
  const QString typed = e->text();
  const bool begins =
      typed.size() == 1 && (typed[0].isDigit() || typed[0] == QLatin1Char('.') || typed[0] == QLatin1Char('-'));
  if (begins && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) && beginNumber(typed)) return;
  if (e->key() == Qt::Key_Escape) {
    for (QLineEdit* field : findChildren<QLineEdit*>()) field->setModified(false);
    editor_->showView(view_);
  }
  QWidget::keyPressEvent(e);
}

QString ParameterRow::valueText() const {
  const ParamValue& v = view_.followsValue ? view_.followed : view_.value;
  if (const auto* number = std::get_if<double>(&v))
    return numberText(*number, view_.parameter.unit, view_.parameter.kind != ParameterKind::scalar);
  if (view_.parameter.kind == ParameterKind::figure) return tr("a drawing");
  if (const auto* text = std::get_if<std::string>(&v)) return QString::fromStdString(*text);
  if (const auto* formula = std::get_if<Formula>(&v)) return QString::fromStdString(formula->text);
  return view_.origin;
}

bool ParameterRow::canBeDial() const {
  const ParamValue& v = view_.value;
  const bool plain = std::holds_alternative<double>(v) || std::holds_alternative<Vector>(v) ||
                     (std::holds_alternative<std::string>(v) && view_.parameter.kind == ParameterKind::choice);
  return plain && view_.canBeDial && !view_.followsValue;
}

bool ParameterRow::canHaveRule() const {
  return view_.parameter.per_unit && view_.acts && !std::holds_alternative<Rule>(view_.value);
}

void ParameterRow::makeRule() {
  Rule rule;
  rule.from.number = view_.parameter.useful.least;
  rule.to.number = view_.parameter.useful.most;
  Q_EMIT valueWanted(rule);
  Q_EMIT gestureEnded();
}

void ParameterRow::showHelp(bool on) {
  way_->setVisible(false);
  help_->setText(view_.acts ? QString::fromStdString(view_.parameter.help) : view_.why);
  help_->setVisible((on || !view_.acts) && !help_->text().isEmpty());
}

void ParameterRow::openMenu() {
  QMenu menu(this);
  const Parameter& p = view_.parameter;
  if (canBeDial()) menu.addAction(tr("Make a dial"), this, &ParameterRow::dialWanted);
  if (view_.followsValue) menu.addAction(tr("Stop following"), this, &ParameterRow::unfollowWanted);
  const bool numeric = p.kind == ParameterKind::scalar || p.kind == ParameterKind::integer ||
                       (p.kind == ParameterKind::vector2 && p.per_unit);
  const double now = std::holds_alternative<double>(view_.value)      ? std::get<double>(view_.value)
                     : std::holds_alternative<double>(view_.followed) ? std::get<double>(view_.followed)
                                                                      : 0;
  if (numeric && !std::holds_alternative<Formula>(view_.value))
    menu.addAction(tr("By formula"), this, [this, now] {
      const auto* both = std::get_if<Vector>(&view_.value);
      const QString text = both && both->size() == 2 ? QStringLiteral("vector(%1, %2)").arg((*both)[0]).arg((*both)[1])
                                                     : QString::number(now);
      Q_EMIT valueWanted(Formula{text.toStdString(), {}});
      Q_EMIT gestureEnded();
    });
  if (view_.cleared && !std::holds_alternative<Formula>(view_.value))
    menu.addAction(tr("Call back the formula %1").arg(QString::fromStdString(view_.cleared->text).left(28)), this,
                   [this] {
                     Q_EMIT valueWanted(*view_.cleared);
                     Q_EMIT gestureEnded();
                   });
  if (p.per_unit && !std::holds_alternative<Rule>(view_.value))
    menu.addAction(tr("By rule"), this, &ParameterRow::makeRule);
  if (std::holds_alternative<Rule>(view_.value) || std::holds_alternative<Formula>(view_.value))
    menu.addAction(tr("The same for all"), this, [this, &p] {
      const double middle = 0.5 * (p.useful.least + p.useful.most);
      const bool plainly = std::holds_alternative<double>(p.initial) || std::holds_alternative<Vector>(p.initial);
      Q_EMIT valueWanted(plainly                            ? p.initial
                         : p.kind == ParameterKind::vector2 ? ParamValue(Vector{middle, middle})
                                                            : ParamValue(middle));
      Q_EMIT gestureEnded();
    });
  menu.addAction(tr("Reset"), this, &ParameterRow::resetWanted);
  menu.exec(way_->mapToGlobal(QPoint(0, way_->height())));
}

}  // namespace loom::app

#include "moc_parameter_row.cpp"
