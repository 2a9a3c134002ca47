// Formula text with its functions offered while typing; rules; and how either spreads over the units.
#include "app/tray/unit_editors.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QStringListModel>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"
#include "app/tray/elided_button.h"
#include "core/program/formula.h"

namespace loom::app {
namespace {

// A small histogram of a parameter over all units, with its range; values below 0 stand out, since a size there stamps
// nothing.
class SpreadView : public QWidget {
 public:
  explicit SpreadView(QWidget* parent) : QWidget(parent) {
    setFixedHeight(34);
    hide();
  }
  void showValues(const std::shared_ptr<const std::vector<float>>& values, Unit unit) {
    values_ = values;
    setVisible(values_ && !values_->empty());
    if (!values_ || values_->empty()) return;
    const auto [least, most] = std::minmax_element(values_->begin(), values_->end());
    least_ = *least;
    most_ = *most;
    below_ = static_cast<int>(std::count_if(values_->begin(), values_->end(), [](float x) { return x < 0; }));
    text_ = most_ > least_ ? tr("%1 to %2").arg(numberText(least_, unit, false), numberText(most_, unit, false))
                           : numberText(least_, unit, false);
    if (below_) text_ += tr(", %1 of %2 below 0").arg(below_).arg(values_->size());
    setAccessibleName(tr("Over all units: %1").arg(text_));
    setToolTip(accessibleName());
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    constexpr int kBars = 32;
    std::array<int, kBars> count{};
    for (const float x : *values_)
      ++count[static_cast<std::size_t>(
          most_ > least_ ? std::min(static_cast<int>((x - least_) / (most_ - least_) * kBars), kBars - 1) : kBars / 2)];
    const int highest = *std::max_element(count.begin(), count.end());
    const double wide = static_cast<double>(width()) / kBars, tall = height() - 15;
    for (int i = 0; i < kBars; ++i) {
      const double value = least_ + (i + 0.5) / kBars * (most_ - least_),
                   h = tall * count[static_cast<std::size_t>(i)] / highest;
      p.fillRect(QRectF(i * wide, tall - h, wide - 1, h), value < 0 ? theme().madder : theme().indigo);
    }
    p.setPen(theme().line);
    p.drawLine(QPointF(0, tall + 0.5), QPointF(width(), tall + 0.5));
    p.setPen(below_ ? theme().madder : theme().mute);
    p.setFont(textFont(10.5));
    p.drawText(QRectF(0, tall + 1, width(), 14), Qt::AlignVCenter | Qt::AlignLeft,
               p.fontMetrics().elidedText(text_, Qt::ElideRight, width()));
  }

 private:
  std::shared_ptr<const std::vector<float>> values_;
  float least_ = 0, most_ = 0;
  int below_ = 0;
  QString text_;
};

// What a rule or a formula is, in the editor's line; pressed, its fields unfold below.
ElidedButton* addUnfoldLine(ValueEditor* editor) {
  auto* line = new QHBoxLayout(editor);
  line->setContentsMargins(0, 0, 0, 0);
  auto* button = new ElidedButton("unfold", 20, editor);
  line->addWidget(button, 1);
  QObject::connect(button, &QPushButton::clicked, editor, &ValueEditor::unfoldWanted);
  return button;
}

// The text of a formula. What is wrong is underlined at its character; function names are offered with a line of help.
class FormulaField : public QLineEdit {
 public:
  explicit FormulaField(QWidget* parent) : QLineEdit(parent), completer_(new QCompleter(this)) {
    setFont(monoFont(11));
    setRole(this, "mono");
    QStringList lines;
    for (const FunctionHelp& f : formula_functions())
      lines << QString::fromUtf8(f.name.data(), static_cast<int>(f.name.size())) + QLatin1Char('(') +
                   QString::fromUtf8(f.operands.data(), static_cast<int>(f.operands.size())) + QStringLiteral(")  ") +
                   QString::fromUtf8(f.help.data(), static_cast<int>(f.help.size()));
    completer_->setModel(new QStringListModel(lines, completer_));
    completer_->setWidget(this);
    completer_->popup()->setMinimumWidth(340);
    connect(this, &QLineEdit::textEdited, this, [this] { offer(); });
    connect(completer_, qOverload<const QString&>(&QCompleter::activated), this,
            [this](const QString& line) { take(line); });
  }
  void markFault(int character) {
    mark_ = character;
    update();
  }

 protected:
  void keyPressEvent(QKeyEvent* e) override {
    const bool chooses = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter || e->key() == Qt::Key_Escape;
    if (chooses && completer_->popup()->isVisible()) return e->ignore();  // the list of functions takes them
    QLineEdit::keyPressEvent(e);
  }
  void paintEvent(QPaintEvent* e) override {
    QLineEdit::paintEvent(e);
    if (mark_ < 1 || hasFocus()) return;
    QPainter p(this);
    const double wide = fontMetrics().horizontalAdvance(QLatin1Char('0')),
                 x = 6 + (mark_ - 1) * wide;  // all characters are as wide
    p.setPen(QPen(theme().madder, 2));
    p.drawLine(QPointF(x, height() - 3.0), QPointF(x + wide, height() - 3.0));
  }

 private:
  QString word() const {
    const QString before = text().left(cursorPosition());
    auto from = before.size();
    while (from > 0 && (before[from - 1].isLetterOrNumber() || before[from - 1] == QLatin1Char('_'))) --from;
    return before.mid(from);
  }
  void offer() {
    const QString begun = word();
    if (begun.isEmpty() || !begun[0].isLetter()) return completer_->popup()->hide();
    completer_->setCompletionPrefix(begun);
    if (completer_->completionCount() == 0) return completer_->popup()->hide();
    completer_->complete();
  }
  void take(const QString& line) {
    const int end = cursorPosition(), from = end - static_cast<int>(word().size());
    const QString call = line.section(QLatin1Char('('), 0, 0) + QLatin1Char('(');
    setText(text().left(from) + call + text().mid(end));
    setCursorPosition(from + static_cast<int>(call.size()));
    setModified(true);
  }
  QCompleter* completer_;
  int mark_ = 0;
};

// `wrapped`: it stands where a number could; its line says what it is, and the field unfolds. Else it is the parameter
// itself, and its field is always there.
class FormulaEditor : public ValueEditor {
 public:
  FormulaEditor(QWidget* parent, bool wrapped)
      : ValueEditor(parent),
        whole_(wrapped ? new QWidget(this) : this),
        text_(new FormulaField(whole_)),
        fault_(new QLabel(whole_)),
        spread_(new SpreadView(whole_)),
        wrapped_(wrapped) {
    if (wrapped) line_ = addUnfoldLine(this);
    auto* box = new QVBoxLayout(whole_);
    box->setContentsMargins(0, 0, 0, wrapped ? 4 : 0);
    box->setSpacing(1);
    setRole(fault_, "fault");
    fault_->setWordWrap(true);
    fault_->hide();
    box->addWidget(text_);
    box->addWidget(fault_);
    box->addWidget(spread_);
    connect(text_, &QLineEdit::editingFinished, this, [this] {
      if (!text_->isModified()) return;
      text_->setModified(false);
      const std::string text = text_->text().toStdString();
      Q_EMIT valueWanted(wrapped_ ? ParamValue(Formula{text, {}}) : ParamValue(text));
      Q_EMIT gestureEnded();
    });
  }
  void showView(const RowView& v) override {
    const auto* formula = std::get_if<Formula>(&v.value);
    const auto* text = std::get_if<std::string>(&v.value);
    if (!text_->isModified()) {
      text_->setText(QString::fromStdString(formula ? formula->text : text ? *text : ""));
      text_->setCursorPosition(0);
    }
    text_->setToolTip(text_->text());
    text_->setAccessibleName(QString::fromStdString(v.parameter.label));
    if (line_) line_->showWords(QStringLiteral("= ") + text_->text());
    fault_->setText(v.fault);
    fault_->setVisible(!v.fault.isEmpty());
    const auto at = v.fault.indexOf(QStringLiteral("character "));
    text_->markFault(at < 0 ? 0
                            : v.fault.mid(at + 10)
                                  .section(QLatin1Char(':'), 0, 0)
                                  .section(QLatin1Char(' '), 0, 0)
                                  .section(QLatin1Char(','), 0, 0)
                                  .toInt());
    spread_->showValues(v.fault.isEmpty() ? v.spread : nullptr, v.parameter.unit);
  }
  QWidget* first() override { return text_; }
  bool isTall() const override { return !wrapped_; }
  QWidget* under() override { return wrapped_ ? whole_ : nullptr; }

 private:
  QWidget* whole_;
  ElidedButton* line_ = nullptr;
  FormulaField* text_;
  QLabel* fault_;
  SpreadView* spread_;
  bool wrapped_;
};

// By what, from, to, and a seed or a step: the same everywhere. The line says it, the fields unfold.
class RuleEditor : public ValueEditor {
 public:
  explicit RuleEditor(QWidget* parent)
      : ValueEditor(parent),
        whole_(new QWidget(this)),
        line_(addUnfoldLine(this)),
        by_(new QComboBox(whole_)),
        extra_(new QLineEdit(whole_)),
        extraLabel_(new QLabel(whole_)),
        counting_(new QWidget(whole_)),
        over_(new QComboBox(counting_)),
        offset_(new QLineEdit(counting_)),
        spread_(new SpreadView(whole_)) {
    auto* box = new QVBoxLayout(whole_);
    box->setContentsMargins(0, 0, 0, 4);
    box->setSpacing(2);
    auto* first = new QHBoxLayout;
    auto* second = new QHBoxLayout;
    for (const char* word : kRuleWords) by_->addItem(QString::fromLatin1(word));
    by_->setAccessibleName(tr("Varies by"));
    first->addWidget(by_, 1);
    first->addWidget(extraLabel_);
    first->addWidget(extra_);
    extra_->setFixedWidth(44);
    for (auto& end : ends_) {
      end = new QLineEdit(whole_);
      end->setFixedWidth(60);
    }
    ends_[0]->setAccessibleName(tr("From"));
    ends_[1]->setAccessibleName(tr("To"));
    second->addWidget(new QLabel(tr("from"), whole_));
    second->addWidget(ends_[0]);
    second->addWidget(new QLabel(tr("to"), whole_));
    second->addWidget(ends_[1]);
    second->addStretch(1);
    box->addLayout(first);
    box->addLayout(second);
    auto* third = new QHBoxLayout(counting_);
    third->setContentsMargins(0, 0, 0, 0);
    for (const char* word : kCountedWords) over_->addItem(QString::fromLatin1(word));
    over_->setAccessibleName(tr("What is counted"));
    offset_->setAccessibleName(tr("Counted from"));
    offset_->setFixedWidth(44);
    third->addWidget(over_, 1);
    third->addWidget(new QLabel(tr("counted from"), counting_));
    third->addWidget(offset_);
    box->addWidget(counting_);
    box->addWidget(spread_);
    connect(over_, &QComboBox::activated, this, [this] {
      rule_.over = kCountedWords[static_cast<std::size_t>(over_->currentIndex())];
      send();
    });
    connect(by_, &QComboBox::activated, this, [this] {
      rule_.by = kRuleWords[static_cast<std::size_t>(by_->currentIndex())];
      send();
    });
    for (QLineEdit* field : {ends_[0], ends_[1], extra_, offset_})
      connect(field, &QLineEdit::editingFinished, this, [this, field] { read(field); });
  }
  void showView(const RowView& v) override {
    if (const auto* r = std::get_if<Rule>(&v.value)) rule_ = *r;
    spread_->showValues(v.spread, v.parameter.unit);
    const auto by = std::find(kRuleWords.begin(), kRuleWords.end(), rule_.by);
    by_->setCurrentIndex(static_cast<int>(by - kRuleWords.begin()));
    const RuleEnd* ends[] = {&rule_.from, &rule_.to};
    for (std::size_t i = 0; i < 2; ++i)
      if (!ends_[i]->isModified())
        ends_[i]->setText(ends[i]->follow.empty() ? QString::number(ends[i]->number, 'g', 4)
                                                  : QString::fromStdString(ends[i]->follow));
    line_->showWords(words(v.parameter.unit));
    const bool seed = rule_.by == "chance" || rule_.by == "bell", nth = rule_.by == "nth", map = rule_.by == "map";
    extraLabel_->setText(seed ? tr("seed") : nth ? tr("every") : tr("map"));
    extraLabel_->setVisible(seed || nth || map);
    extra_->setVisible(seed || nth || map);
    extra_->setAccessibleName(extraLabel_->text());
    counting_->setVisible(nth);
    const auto over = std::find(kCountedWords.begin(), kCountedWords.end(), rule_.over);
    over_->setCurrentIndex(static_cast<int>(over - kCountedWords.begin()));
    if (!offset_->isModified()) offset_->setText(QString::number(rule_.offset));
    if (!extra_->isModified())
      extra_->setText(map ? QString::fromStdString(rule_.map).section(QLatin1Char('_'), 1)
                          : QString::number(seed ? rule_.seed : rule_.every));
  }
  QWidget* first() override { return by_; }
  QWidget* under() override { return whole_; }

 private:
  QString words(Unit unit) const {
    const auto end = [&](const RuleEnd& e) {
      return e.follow.empty() ? numberText(e.number, unit, false) : QString::fromStdString(e.follow);
    };
    const bool about_zero = rule_.from.follow.empty() && rule_.to.follow.empty() && rule_.from.number < 0 &&
                            rule_.from.number == -rule_.to.number;
    if (about_zero) return tr("%1 ± %2").arg(QString::fromStdString(rule_.by), end(rule_.to));
    return tr("%1 %2 to %3").arg(QString::fromStdString(rule_.by), end(rule_.from), end(rule_.to));
  }
  void read(QLineEdit* field) {
    if (!field->isModified()) return;
    field->setModified(false);
    double x = 0;
    const bool number = numberFromText(field->text(), x);
    if (field == extra_) {
      if (rule_.by == "map")
        rule_.map = "map_" + field->text().trimmed().toLower().left(1).toStdString();
      else if (number)
        (rule_.by == "nth" ? rule_.every : rule_.seed) = std::round(x);
    } else if (field == offset_) {
      if (number) rule_.offset = std::round(x);
    } else if (RuleEnd& end = field == ends_[0] ? rule_.from : rule_.to; number) {
      end = {x, {}};
    }
    send();
  }
  void send() {
    Q_EMIT valueWanted(rule_);
    Q_EMIT gestureEnded();
  }
  Rule rule_;
  QWidget* whole_;
  ElidedButton* line_;
  QComboBox* by_;
  std::array<QLineEdit*, 2> ends_{};
  QLineEdit* extra_;
  QLabel* extraLabel_;
  QWidget* counting_;  // of "nth" alone
  QComboBox* over_;
  QLineEdit* offset_;
  SpreadView* spread_;
};

}  // namespace

ValueEditor* makeRuleEditor(QWidget* parent) { return new RuleEditor(parent); }
ValueEditor* makeFormulaEditor(QWidget* parent, bool wrapped) { return new FormulaEditor(parent, wrapped); }

}  // namespace loom::app
