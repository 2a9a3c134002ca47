// The controls by parameter kind.
#include <QCheckBox>
#include <QColorDialog>
#include <QComboBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QRandomGenerator>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>

#include "app/base/theme.h"
#include "app/tray/brush_editor.h"
#include "app/tray/curve_editor.h"
#include "app/tray/figure_editor.h"
#include "app/tray/parameter_row.h"
#include "app/tray/screen_colour.h"
#include "app/tray/slider.h"
#include "app/tray/stops_editor.h"
#include "app/tray/turn_controls.h"
#include "app/tray/unit_editors.h"

namespace loom::app {
namespace {

const ParamValue& plain(const RowView& v) { return v.followsValue ? v.followed : v.value; }
double numberOf(const ParamValue& v) { return std::holds_alternative<double>(v) ? std::get<double>(v) : 0; }

// A list is as wide as its line, not as its longest word.
void narrow(QComboBox* box) {
  box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  box->setMinimumContentsLength(4);
}

class NumberField : public QLineEdit {
 public:
  explicit NumberField(QWidget* parent) : QLineEdit(parent) {
    setAlignment(Qt::AlignRight);
    setFixedSize(46, 20);
  }
  /// One step up or down, by how much for the modifiers; told when an arrow key asks for it.
  std::function<void(int way, Qt::KeyboardModifiers)> stepped;
  void keyPressEvent(QKeyEvent* e) override {
    const int way = e->key() == Qt::Key_Up ? 1 : e->key() == Qt::Key_Down ? -1 : 0;
    if (way == 0 || !stepped) return QLineEdit::keyPressEvent(e);
    setModified(false);
    stepped(way, e->modifiers());
  }
  void showNumber(double value, Unit unit, bool whole) {
    if (hasFocus() && isModified()) return;  // someone is typing
    // What is there already stays as it is: to set it anew would take the selection from whoever is about to type.
    if (const QString now = numberText(value, unit, whole); now != text()) setText(now);
    setModified(false);
  }
};

// Slider and field; an angle has a wheel before them, a seed a word that draws another.
class NumberEditor : public ValueEditor {
 public:
  NumberEditor(const Parameter& parameter, QWidget* parent)
      : ValueEditor(parent), parameter_(parameter), slider_(new Slider(this)), field_(new NumberField(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    if (parameter.unit == Unit::degrees && parameter.kind == ParameterKind::scalar) {
      wheel_ = new AngleWheel(this);
      row->addWidget(wheel_);
      connect(wheel_, &AngleWheel::angleWanted, this, [this](double v) { Q_EMIT valueWanted(limited(v)); });
      connect(wheel_, &AngleWheel::gestureEnded, this, &ValueEditor::gestureEnded);
    }
    row->addWidget(slider_, 1);
    row->addWidget(field_);
    if (wheel_ || parameter.kind == ParameterKind::seed) row->setAlignment(field_, Qt::AlignRight);
    if (parameter.kind == ParameterKind::seed) {
      again_ = new QPushButton(tr("again"), this);
      again_->setProperty("word", true);
      again_->setToolTip(tr("Draw another seed"));
      row->addWidget(again_);
      connect(again_, &QPushButton::clicked, this, [this] { settle(QRandomGenerator::global()->bounded(1, 1000)); });
    }
    field_->stepped = [this](int way, Qt::KeyboardModifiers m) { settle(slider_->value() + way * slider_->stepOf(m)); };
    connect(slider_, &Slider::valueWanted, this, [this](double v) { Q_EMIT valueWanted(limited(v)); });
    connect(slider_, &Slider::gestureEnded, this, &ValueEditor::gestureEnded);
    connect(slider_, &Slider::resetWanted, this, &ValueEditor::resetWanted);
    connect(field_, &QLineEdit::editingFinished, this, [this] {
      if (!field_->isModified()) return;
      field_->setModified(false);
      double v = 0;
      if (numberFromText(field_->text(), v, parameter_.unit)) {
        Q_EMIT valueWanted(limited(v));
        Q_EMIT gestureEnded();
      } else if (const QString text = field_->text();
                 parameter_.kind != ParameterKind::seed &&
                 std::any_of(text.begin(), text.end(), [](QChar c) { return c.isLetter(); })) {
        Q_EMIT formulaTyped(text);
      }
      field_->showNumber(slider_->value(), parameter_.unit, whole());
    });
  }
  void showView(const RowView& v) override {
    parameter_ = v.parameter;
    const double now = numberOf(plain(v));
    slider_->setStep(parameter_.step);
    slider_->showValue(now, parameter_.useful.least, parameter_.useful.most, numberOf(parameter_.initial), whole());
    field_->showNumber(now, parameter_.unit, whole());
    if (wheel_)
      wheel_->showAngle(now),
          wheel_->setAccessibleName(tr("%1, as a wheel").arg(QString::fromStdString(parameter_.label)));
    if (again_) again_->setAccessibleName(tr("Another %1").arg(QString::fromStdString(parameter_.label).toLower()));
    slider_->setAccessibleName(QString::fromStdString(parameter_.label));
    field_->setAccessibleName(QString::fromStdString(parameter_.label));
  }
  void setTick(double tick, bool on) override { slider_->setTick(tick, on); }
  // Where the line is short, the wheel or the word is more use than a slider of a few pixels.
  void resizeEvent(QResizeEvent* e) override {
    ValueEditor::resizeEvent(e);
    slider_->setVisible((!wheel_ && !again_) || width() >= kRoomForAll);
  }
  void scrub(double pixels, Qt::KeyboardModifiers m, bool fresh) override {
    if (fresh) scrubbed_ = slider_->value();
    scrubbed_ += pixels * slider_->stepOf(m) / (whole() ? 6 : 2);
    Q_EMIT valueWanted(limited(scrubbed_));
  }
  QWidget* first() override {
    field_->selectAll();
    return field_;
  }

 private:
  static constexpr int kRoomForAll = 140;  // pixels
  void settle(double v) {
    Q_EMIT valueWanted(limited(v));
    Q_EMIT gestureEnded();
  }
  bool whole() const { return parameter_.kind == ParameterKind::integer || parameter_.kind == ParameterKind::seed; }
  double limited(double v) const {
    if (parameter_.step > 0)
      v = parameter_.useful.least + std::round((v - parameter_.useful.least) / parameter_.step) * parameter_.step;
    return std::clamp(whole() ? std::round(v) : v, parameter_.limits.least, parameter_.limits.most);
  }
  Parameter parameter_;
  Slider* slider_;
  NumberField* field_;
  AngleWheel* wheel_ = nullptr;
  QPushButton* again_ = nullptr;
  double scrubbed_ = 0;  // exact, before it is rounded
};

class ToggleEditor : public ValueEditor {
 public:
  explicit ToggleEditor(QWidget* parent) : ValueEditor(parent), box_(new QCheckBox(tr("yes"), this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(box_);
    connect(box_, &QCheckBox::toggled, this, [this](bool on) {
      Q_EMIT valueWanted(on ? 1.0 : 0.0);
      Q_EMIT gestureEnded();
    });
  }
  void showView(const RowView& v) override {
    const QSignalBlocker quiet(box_);
    box_->setChecked(numberOf(plain(v)) != 0);
    box_->setText(box_->isChecked() ? tr("yes") : tr("no"));
    box_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return box_; }

 private:
  QCheckBox* box_;
};

class ChoiceEditor : public ValueEditor {
 public:
  explicit ChoiceEditor(QWidget* parent) : ValueEditor(parent), box_(new QComboBox(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(box_, 1);
    narrow(box_);
    connect(box_, &QComboBox::activated, this, [this](int i) {
      Q_EMIT valueWanted(options_[static_cast<std::size_t>(i)]);
      Q_EMIT gestureEnded();
    });
  }
  void showView(const RowView& v) override {
    const QSignalBlocker quiet(box_);
    if (options_ != v.parameter.options) {
      options_ = v.parameter.options;
      box_->clear();
      for (const auto& o : options_)
        box_->addItem(QString::fromStdString(o).replace(QLatin1Char('_'), QLatin1Char(' ')));
    }
    const auto* word = std::get_if<std::string>(&plain(v));
    box_->setCurrentIndex(word ? static_cast<int>(std::find(options_.begin(), options_.end(), *word) - options_.begin())
                               : -1);
    box_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return box_; }

 private:
  std::vector<std::string> options_;
  QComboBox* box_;
};

// A field for each of two numbers; a pad for both at once unfolds. Linked, they keep their ratio.
class VectorEditor : public ValueEditor {
 public:
  explicit VectorEditor(QWidget* parent)
      : ValueEditor(parent),
        below_(new QWidget(this)),
        pad_(new PlacePad(below_)),
        link_(new QCheckBox(tr("linked"), below_)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    for (std::size_t i = 0; i < 2; ++i) {
      fields_[i] = new NumberField(this);
      fields_[i]->setMinimumWidth(34);
      row->addWidget(fields_[i], 1);
      connect(fields_[i], &QLineEdit::editingFinished, this, [this, i] { typed(i); });
      fields_[i]->stepped = [this, i](int way, Qt::KeyboardModifiers m) {
        Vector v = now_;
        v[i] += way * (parameter_.useful.most - parameter_.useful.least) / 100 *
                (m & Qt::ShiftModifier     ? 0.1
                 : m & Qt::ControlModifier ? 10
                                           : 1);
        send(linked(v, i), true);
      };
    }
    more_ = unfoldButton(tr("A pad for both"), this);
    row->addWidget(more_);
    auto* under = new QHBoxLayout(below_);
    under->setContentsMargins(0, 0, 0, 4);
    under->addWidget(pad_);
    under->addWidget(link_, 1);
    link_->setToolTip(tr("Change both by the same factor"));
    connect(pad_, &PlacePad::placeWanted, this, [this](QPointF p) {
      const std::size_t moved = std::abs(p.x() - now_[0]) >= std::abs(p.y() - now_[1]) ? 0 : 1;
      send(linked({p.x(), p.y()}, moved), false);
    });
    connect(pad_, &PlacePad::gestureEnded, this, &ValueEditor::gestureEnded);
  }
  void showView(const RowView& v) override {
    parameter_ = v.parameter;
    const auto* vector = std::get_if<Vector>(&plain(v));
    const auto* initial = std::get_if<Vector>(&parameter_.initial);
    for (std::size_t i = 0; i < 2; ++i) {
      now_[i] = vector && i < vector->size() ? (*vector)[i] : 0;
      fields_[i]->showNumber(now_[i], v.parameter.unit, false);
      fields_[i]->setAccessibleName(QString::fromStdString(v.parameter.label) + (i ? tr(" along v") : tr(" along u")));
    }
    pad_->showPlace({now_[0], now_[1]}, parameter_.useful.least, parameter_.useful.most,
                    initial && initial->size() == 2 ? QPointF((*initial)[0], (*initial)[1]) : QPointF());
    more_->setAccessibleName(tr("%1, unfolded").arg(QString::fromStdString(v.parameter.label)));
    pad_->setAccessibleName(tr("%1, as a pad").arg(QString::fromStdString(v.parameter.label)));
    link_->setAccessibleName(tr("%1, linked").arg(QString::fromStdString(v.parameter.label)));
  }
  QWidget* first() override {
    fields_[0]->selectAll();
    return fields_[0];
  }
  QWidget* under() override { return below_; }

 private:
  void typed(std::size_t i) {
    if (!fields_[i]->isModified()) return;
    fields_[i]->setModified(false);
    Vector v = now_;
    if (numberFromText(fields_[i]->text(), v[i], parameter_.unit))
      send(linked(v, i), true);
    else
      fields_[i]->showNumber(now_[i], parameter_.unit, false);
  }
  // The other follows in the same ratio; from 0 there is none, and both are the same.
  Vector linked(Vector v, std::size_t changed) const {
    if (!link_->isChecked()) return v;
    v[1 - changed] = now_[changed] == 0 ? v[changed] : now_[1 - changed] * v[changed] / now_[changed];
    return v;
  }
  void send(Vector v, bool whole_gesture) {
    for (double& x : v) x = std::clamp(x, parameter_.limits.least, parameter_.limits.most);
    Q_EMIT valueWanted(v);
    if (whole_gesture) Q_EMIT gestureEnded();
  }
  Parameter parameter_;
  QPushButton* unfoldButton(const QString& does, QWidget* parent) {
    auto* b = new QPushButton(QStringLiteral("\u25be"), parent);
    b->setProperty("word", true);
    b->setFixedSize(14, 20);
    b->setToolTip(does);
    connect(b, &QPushButton::clicked, this, &ValueEditor::unfoldWanted);
    return b;
  }
  Vector now_{0, 0};
  QWidget* below_;
  QPushButton* more_ = nullptr;
  PlacePad* pad_;
  QCheckBox* link_;
  std::array<NumberField*, 2> fields_{};
};

class ColourEditor : public ValueEditor {
 public:
  explicit ColourEditor(QWidget* parent)
      : ValueEditor(parent), swatch_(new QPushButton(this)), text_(new QLineEdit(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    swatch_->setFixedSize(34, 18);
    row->addWidget(swatch_);
    row->addWidget(text_, 1);
    text_->setPlaceholderText(tr("#rrggbb, a name, oklch(), or linear numbers"));
    connect(swatch_, &QPushButton::clicked, this, [this] {
      const QColor picked =
          QColorDialog::getColor(screenColour(now_), this, tr("Colour"), QColorDialog::DontUseNativeDialog);
      if (picked.isValid()) send(linearColour(picked));
    });
    connect(text_, &QLineEdit::editingFinished, this, [this] {
      if (!text_->isModified()) return;
      text_->setModified(false);
      if (const auto v = colourFromText(text_->text()))
        send(*v);
      else
        showText();
    });
  }
  void showView(const RowView& v) override {
    if (const auto* vector = std::get_if<Vector>(&plain(v))) now_ = *vector;
    swatch_->setStyleSheet(QStringLiteral("background: %1; border: 1px solid %2; border-radius: 3px;")
                               .arg(screenColour(now_).name(), theme().line.name()));
    if (!text_->isModified()) showText();
    swatch_->setAccessibleName(QString::fromStdString(v.parameter.label));
    text_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return text_; }

 private:
  void showText() {
    QStringList parts;
    for (const double x : now_) parts << QString::number(x, 'g', 3);
    const QString now = parts.join(QStringLiteral(", "));
    if (now == text_->text()) return;
    text_->setText(now);
    text_->setCursorPosition(0);  // where the field is short, what comes first is read
  }
  void send(const Vector& v) {
    Q_EMIT valueWanted(v);
    Q_EMIT gestureEnded();
  }
  Vector now_{0, 0, 0};
  QPushButton* swatch_;
  QLineEdit* text_;
};

// Several lines of text; they are taken when the field is left.
class TextEditor : public ValueEditor {
 public:
  explicit TextEditor(QWidget* parent) : ValueEditor(parent), text_(new QPlainTextEdit(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(text_);
    text_->setFixedHeight(54);
    text_->setTabChangesFocus(true);
    text_->installEventFilter(this);
  }
  void showView(const RowView& v) override {
    const auto* text = std::get_if<std::string>(&plain(v));
    if (!text_->document()->isModified()) text_->setPlainText(QString::fromStdString(text ? *text : ""));
    text_->document()->setModified(text_->hasFocus() && text_->document()->isModified());
    text_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return text_; }
  bool isTall() const override { return true; }
  bool eventFilter(QObject*, QEvent* e) override {
    if (e->type() == QEvent::FocusOut && text_->document()->isModified()) {
      text_->document()->setModified(false);
      Q_EMIT valueWanted(text_->toPlainText().toStdString());
      Q_EMIT gestureEnded();
    }
    return false;
  }

 private:
  QPlainTextEdit* text_;
};

// A line of text.
class TitleEditor : public ValueEditor {
 public:
  explicit TitleEditor(QWidget* parent) : ValueEditor(parent), text_(new QLineEdit(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(text_);
    connect(text_, &QLineEdit::editingFinished, this, [this] {
      if (!text_->isModified()) return;
      text_->setModified(false);
      Q_EMIT valueWanted(text_->text().trimmed().toStdString());
      Q_EMIT gestureEnded();
    });
  }
  void showView(const RowView& v) override {
    const auto* text = std::get_if<std::string>(&plain(v));
    const QString now = QString::fromStdString(text ? *text : "");
    if (!text_->isModified() && text_->text() != now) text_->setText(now);
    text_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return text_; }

 private:
  QLineEdit* text_;
};

// A name of something that the mesh has, taken from what there is or typed.
class NameEditor : public ValueEditor {
 public:
  explicit NameEditor(QWidget* parent) : ValueEditor(parent), box_(new QComboBox(this)), note_(new QLabel(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(1);
    column->addWidget(box_);
    column->addWidget(note_);
    narrow(box_);
    box_->setEditable(true);
    box_->setInsertPolicy(QComboBox::NoInsert);
    note_->setWordWrap(true);
    setRole(note_, "mute");
    note_->setObjectName(QStringLiteral("names-note"));
    connect(box_, &QComboBox::activated, this, [this](int i) { send(box_->itemText(i)); });
    connect(box_->lineEdit(), &QLineEdit::editingFinished, this, [this] {
      if (box_->lineEdit()->isModified()) send(box_->currentText());
    });
  }
  void showView(const RowView& v) override {
    const QSignalBlocker quiet(box_);
    const auto* text = std::get_if<std::string>(&plain(v));
    const QString name = QString::fromStdString(text ? *text : "");
    const bool typing = box_->lineEdit()->isModified();
    const QString typed = box_->currentText();
    if (names_ != v.names) {
      names_ = v.names;
      box_->clear();
      box_->addItems(names_);
    }
    box_->setCurrentIndex(static_cast<int>(names_.indexOf(name)));
    box_->setEditText(typing ? typed : name);
    box_->lineEdit()->setModified(typing);
    box_->setAccessibleName(QString::fromStdString(v.parameter.label));
    note_->setText(names_.isEmpty() ? tr("The shape in sight has none") : tr("Not on the mesh in sight"));
    note_->setVisible(!name.isEmpty() && !names_.contains(name));
  }
  QWidget* first() override { return box_; }

 private:
  void send(const QString& name) {
    box_->lineEdit()->setModified(false);
    Q_EMIT valueWanted(name.trimmed().toStdString());
    Q_EMIT gestureEnded();
  }
  QStringList names_;
  QComboBox* box_;
  QLabel* note_;
};

// The name of a file, typed or chosen.
class FileEditor : public ValueEditor {
 public:
  explicit FileEditor(QWidget* parent)
      : ValueEditor(parent),
        name_(new QLineEdit(this)),
        choose_(new QPushButton(tr("choose"), this)),
        fault_(new QLabel(this)) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(1);
    auto* row = new QHBoxLayout;
    row->addWidget(name_, 1);
    row->addWidget(choose_);
    box->addLayout(row);
    box->addWidget(fault_);
    choose_->setProperty("word", true);
    name_->setPlaceholderText(tr("a sample, until a file is chosen"));
    setRole(fault_, "fault");
    fault_->setWordWrap(true);
    fault_->hide();
    connect(name_, &QLineEdit::editingFinished, this, [this] {
      if (name_->isModified()) send(name_->text());
    });
    connect(choose_, &QPushButton::clicked, this, [this] {
      QStringList endings;
      for (const auto& e : endings_) endings << QStringLiteral("*.") + QString::fromStdString(e);
      const QString file = QFileDialog::getOpenFileName(this, tr("Choose a file"), {},
                                                        tr("Files (%1)").arg(endings.join(QLatin1Char(' '))), nullptr,
                                                        QFileDialog::DontUseNativeDialog);
      if (!file.isEmpty()) send(file);
    });
  }
  void showView(const RowView& v) override {
    const auto* text = std::get_if<std::string>(&plain(v));
    endings_ = v.parameter.options;
    if (!name_->isModified()) name_->setText(QString::fromStdString(text ? *text : ""));
    name_->setToolTip(name_->text());
    name_->setAccessibleName(QString::fromStdString(v.parameter.label));
    choose_->setAccessibleName(tr("Choose a file for %1").arg(QString::fromStdString(v.parameter.label)));
    fault_->setText(v.fault);
    fault_->setVisible(!v.fault.isEmpty());
  }
  QWidget* first() override { return name_; }
  bool isTall() const override { return true; }

 private:
  void send(const QString& name) {
    name_->setModified(false);
    Q_EMIT valueWanted(name.trimmed().toStdString());
    Q_EMIT gestureEnded();
  }
  std::vector<std::string> endings_;
  QLineEdit* name_;
  QPushButton* choose_;
  QLabel* fault_;
};

}  // namespace

ValueEditor* makeEditor(const RowView& v, QWidget* parent) {
  if (std::holds_alternative<Rule>(v.value)) return makeRuleEditor(parent);
  if (std::holds_alternative<Formula>(v.value)) return makeFormulaEditor(parent, true);
  switch (v.parameter.kind) {
    case ParameterKind::toggle:
      return new ToggleEditor(parent);
    case ParameterKind::choice:
      return new ChoiceEditor(parent);
    case ParameterKind::vector2:
      return new VectorEditor(parent);
    case ParameterKind::colour:
      return new ColourEditor(parent);
    case ParameterKind::stops:
      return makeStopsEditor(v.parameter, parent);
    case ParameterKind::points:
      return makeCurveEditor(parent);
    case ParameterKind::strokes:
      return makeBrushEditor(parent);
    case ParameterKind::figure:
      return makeFigureEditor(parent);
    case ParameterKind::text:
      if (v.parameter.names != NameOf::nothing) return new NameEditor(parent);
      if (v.parameter.titles) return new TitleEditor(parent);
      return new TextEditor(parent);
    case ParameterKind::file:
      return new FileEditor(parent);
    case ParameterKind::formula:
      return makeFormulaEditor(parent, false);
    default:
      return new NumberEditor(v.parameter, parent);
  }
}

}  // namespace loom::app
