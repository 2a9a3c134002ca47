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

#include "app/shell/theme.h"
#include "app/tray/curve_editor.h"
#include "app/tray/parameter_row.h"
#include "app/tray/slider.h"
#include "app/tray/stroke_picker.h"
#include "app/tray/turn_controls.h"
#include "app/tray/unit_editors.h"
#include "core/plane/colour.h"

namespace loom::app {
namespace {

const ParamValue& plain(const RowView& v) { return v.followsValue ? v.followed : v.value; }
double numberOf(const ParamValue& v) { return std::holds_alternative<double>(v) ? std::get<double>(v) : 0; }

class NumberField : public QLineEdit {
 public:
  explicit NumberField(QWidget* parent) : QLineEdit(parent) {
    setAlignment(Qt::AlignRight);
    setFixedWidth(64);
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
    setText(numberText(value, unit, whole));
    setModified(false);
  }
};

// Slider and field; an angle has a wheel before them, a seed a word that draws another.
class NumberEditor : public ValueEditor {
 public:
  NumberEditor(const Parameter& parameter, QWidget* parent) : ValueEditor(parent), parameter_(parameter), slider_(new Slider(this)), field_(new NumberField(this)) {
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
      } else if (const QString text = field_->text(); parameter_.kind != ParameterKind::seed && std::any_of(text.begin(), text.end(), [](QChar c) { return c.isLetter(); })) {
        Q_EMIT formulaTyped(text);
      }
      field_->showNumber(slider_->value(), parameter_.unit, whole());
    });
  }
  void showView(const RowView& v) override {
    parameter_ = v.parameter;
    const double now = numberOf(plain(v));
    slider_->showValue(now, parameter_.useful.least, parameter_.useful.most, numberOf(parameter_.initial), whole());
    field_->showNumber(now, parameter_.unit, whole());
    if (wheel_) wheel_->showAngle(now), wheel_->setAccessibleName(tr("%1, as a wheel").arg(QString::fromStdString(parameter_.label)));
    if (again_) again_->setAccessibleName(tr("Another %1").arg(QString::fromStdString(parameter_.label).toLower()));
    slider_->setAccessibleName(QString::fromStdString(parameter_.label));
    field_->setAccessibleName(QString::fromStdString(parameter_.label));
  }
  void setTick(double tick, bool on) override { slider_->setTick(tick, on); }
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
  void settle(double v) {
    Q_EMIT valueWanted(limited(v));
    Q_EMIT gestureEnded();
  }
  bool whole() const { return parameter_.kind == ParameterKind::integer || parameter_.kind == ParameterKind::seed; }
  double limited(double v) const { return std::clamp(whole() ? std::round(v) : v, parameter_.limits.least, parameter_.limits.most); }
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
      for (const auto& o : options_) box_->addItem(QString::fromStdString(o).replace(QLatin1Char('_'), QLatin1Char(' ')));
    }
    const auto* word = std::get_if<std::string>(&plain(v));
    box_->setCurrentIndex(word ? static_cast<int>(std::find(options_.begin(), options_.end(), *word) - options_.begin()) : -1);
    box_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return box_; }

 private:
  std::vector<std::string> options_;
  QComboBox* box_;
};

// A pad for both numbers at once and a field for each; linked, they keep their ratio.
class VectorEditor : public ValueEditor {
 public:
  explicit VectorEditor(QWidget* parent) : ValueEditor(parent), pad_(new PlacePad(this)), link_(new QCheckBox(tr("linked"), this)) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(2);
    grid->setColumnStretch(2, 1);
    grid->addWidget(pad_, 0, 0, 2, 1);
    for (std::size_t i = 0; i < 2; ++i) {
      fields_[i] = new NumberField(this);
      grid->addWidget(fields_[i], static_cast<int>(i), 1);
      connect(fields_[i], &QLineEdit::editingFinished, this, [this, i] { typed(i); });
      fields_[i]->stepped = [this, i](int way, Qt::KeyboardModifiers m) {
        Vector v = now_;
        v[i] += way * (parameter_.useful.most - parameter_.useful.least) / 100 * (m & Qt::ShiftModifier ? 0.1 : m & Qt::ControlModifier ? 10 : 1);
        send(linked(v, i), true);
      };
    }
    link_->setToolTip(tr("Change both by the same factor"));
    grid->addWidget(link_, 2, 0, 1, 2);
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
    pad_->showPlace({now_[0], now_[1]}, parameter_.useful.least, parameter_.useful.most, initial && initial->size() == 2 ? QPointF((*initial)[0], (*initial)[1]) : QPointF());
    pad_->setAccessibleName(tr("%1, as a pad").arg(QString::fromStdString(v.parameter.label)));
    link_->setAccessibleName(tr("%1, linked").arg(QString::fromStdString(v.parameter.label)));
  }
  QWidget* first() override {
    fields_[0]->selectAll();
    return fields_[0];
  }

 private:
  void typed(std::size_t i) {
    if (!fields_[i]->isModified()) return;
    fields_[i]->setModified(false);
    Vector v = now_;
    if (numberFromText(fields_[i]->text(), v[i], parameter_.unit)) send(linked(v, i), true);
    else fields_[i]->showNumber(now_[i], parameter_.unit, false);
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
  Vector now_{0, 0};
  PlacePad* pad_;
  QCheckBox* link_;
  std::array<NumberField*, 2> fields_{};
};

QColor screenColour(const Vector& c) {
  const auto code = [&](std::size_t i) { return std::clamp(srgb_from_linear(static_cast<float>(i < c.size() ? c[i] : 0)), 0.0f, 1.0f); };
  return QColor::fromRgbF(code(0), code(1), code(2));
}
Vector linearColour(const QColor& c) {
  const auto lin = [](float x) { return std::round(static_cast<double>(linear_from_srgb(x)) * 1e5) / 1e5; };
  return {lin(static_cast<float>(c.redF())), lin(static_cast<float>(c.greenF())), lin(static_cast<float>(c.blueF()))};
}

class ColourEditor : public ValueEditor {
 public:
  explicit ColourEditor(QWidget* parent) : ValueEditor(parent), swatch_(new QPushButton(this)), text_(new QLineEdit(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    swatch_->setFixedSize(34, 18);
    row->addWidget(swatch_);
    row->addWidget(text_, 1);
    text_->setPlaceholderText(tr("red, green, blue (linear)"));
    connect(swatch_, &QPushButton::clicked, this, [this] {
      const QColor picked = QColorDialog::getColor(screenColour(now_), this, tr("Colour"), QColorDialog::DontUseNativeDialog);
      if (picked.isValid()) send(linearColour(picked));
    });
    connect(text_, &QLineEdit::editingFinished, this, [this] {
      if (!text_->isModified()) return;
      text_->setModified(false);
      Vector v;
      for (const QString& part : text_->text().split(QLatin1Char(','))) {
        double x = 0;
        if (!numberFromText(part, x)) return;
        v.push_back(std::clamp(x, 0.0, 1000.0));
      }
      if (v.size() == 3) send(v);
    });
  }
  void showView(const RowView& v) override {
    if (const auto* vector = std::get_if<Vector>(&plain(v))) now_ = *vector;
    swatch_->setStyleSheet(QStringLiteral("background: %1; border: 1px solid %2; border-radius: 3px;").arg(screenColour(now_).name(), theme().line.name()));
    QStringList parts;
    for (const double x : now_) parts << QString::number(x, 'g', 3);
    if (!text_->isModified()) text_->setText(parts.join(QStringLiteral(", ")));
    swatch_->setAccessibleName(QString::fromStdString(v.parameter.label));
    text_->setAccessibleName(QString::fromStdString(v.parameter.label));
  }
  QWidget* first() override { return text_; }

 private:
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

// The name of a file, typed or chosen.
class FileEditor : public ValueEditor {
 public:
  explicit FileEditor(QWidget* parent) : ValueEditor(parent), name_(new QLineEdit(this)), choose_(new QPushButton(tr("choose"), this)), fault_(new QLabel(this)) {
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
    connect(name_, &QLineEdit::editingFinished, this, [this] { if (name_->isModified()) send(name_->text()); });
    connect(choose_, &QPushButton::clicked, this, [this] {
      QStringList endings;
      for (const auto& e : endings_) endings << QStringLiteral("*.") + QString::fromStdString(e);
      const QString file = QFileDialog::getOpenFileName(this, tr("Choose a file"), {}, tr("Files (%1)").arg(endings.join(QLatin1Char(' '))), nullptr, QFileDialog::DontUseNativeDialog);
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

// The stops' row: click to add, drag to move, double click for the colour, Delete to remove.
class StopsEditor : public ValueEditor {
 public:
  explicit StopsEditor(QWidget* parent) : ValueEditor(parent) {
    setFixedHeight(60);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("Click adds a stop, drag moves it, double click picks its colour, X swaps its colour with the next, B changes how it goes on to the next, Delete removes it"));
    auto* stroke = new QPushButton(tr("pick along a stroke"), this);
    stroke->setProperty("word", true);
    stroke->setAccessibleName(tr("Pick the stops along a stroke"));
    stroke->setGeometry(4, 42, 118, 17);
    between_ = new QComboBox(this);
    for (const char* word : kBetween) between_->addItem(*word ? tr("next: %1").arg(QLatin1String(word)) : tr("next: as all"));
    between_->setAccessibleName(tr("How the chosen stop goes on to the next"));
    between_->setGeometry(130, 40, 116, 20);
    connect(between_, &QComboBox::activated, this, [this](int word) { goOn(word); });
    connect(stroke, &QPushButton::clicked, this, [this] {
      auto* picker = new StrokePicker(this);
      connect(picker, &StrokePicker::picked, this, [this](const Stops& stops) { Q_EMIT valueWanted(stops); Q_EMIT gestureEnded(); });
      picker->show();
    });
  }
  void showView(const RowView& v) override {
    if (const auto* s = std::get_if<Stops>(&v.value)) stops_ = *s;
    chosen_ = std::min(chosen_, static_cast<int>(stops_.size()) - 1);
    showBetween();
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    Stops sorted = stops_;
    std::stable_sort(sorted.begin(), sorted.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    for (int x = 0; x < bar().width() && !sorted.empty(); ++x) {
      const double t = (x + 0.5) / bar().width();
      const auto next = std::find_if(sorted.begin(), sorted.end(), [&](const ColourStop& s) { return s.at > t; });
      const ColourStop &b = next == sorted.end() ? sorted.back() : *next, &a = next == sorted.begin() ? *next : *(next - 1);
      const double part = b.at > a.at ? std::clamp((t - a.at) / (b.at - a.at), 0.0, 1.0) : 0;
      const double k = a.between == "stepped" ? 0 : a.between == "smooth" ? part * part * (3 - 2 * part) : part;
      Vector c;
      for (std::size_t i = 0; i < 3; ++i) c.push_back(a.colour[i] + (b.colour[i] - a.colour[i]) * k);
      p.fillRect(QRect(bar().x() + x, bar().y(), 1, bar().height()), screenColour(c));
    }
    for (std::size_t i = 0; i < stops_.size(); ++i) {
      const double x = xOf(stops_[i].at);
      p.setPen(QPen(static_cast<int>(i) == chosen_ && hasFocus() ? theme().indigo : theme().ink, static_cast<int>(i) == chosen_ ? 2.2 : 1));
      p.setBrush(screenColour({stops_[i].colour[0], stops_[i].colour[1], stops_[i].colour[2]}));
      const QPointF points[] = {{x, bar().bottom() - 2.0}, {x + 6, bar().bottom() + 7.0}, {x + 6, bar().bottom() + 15.0}, {x - 6, bar().bottom() + 15.0}, {x - 6, bar().bottom() + 7.0}};
      p.drawPolygon(points, 5);
    }
  }
  void mousePressEvent(QMouseEvent* e) override {
    setFocus();
    chosen_ = near(e->position().x());
    showBetween();
    if (chosen_ < 0 && bar().contains(e->position().toPoint())) {
      ColourStop s;
      s.at = atOf(e->position().x());
      const auto after = std::min_element(stops_.begin(), stops_.end(), [&](const auto& a, const auto& b) { return std::abs(a.at - s.at) < std::abs(b.at - s.at); });
      if (after != stops_.end()) s.colour = after->colour;
      stops_.push_back(s);
      chosen_ = static_cast<int>(stops_.size()) - 1;
      Q_EMIT valueWanted(stops_);
    }
    dragging_ = chosen_ >= 0;
    update();
  }
  void mouseMoveEvent(QMouseEvent* e) override {
    if (!dragging_ || chosen_ < 0) return;
    stops_[static_cast<std::size_t>(chosen_)].at = atOf(e->position().x());
    Q_EMIT valueWanted(stops_);
    update();
  }
  void mouseReleaseEvent(QMouseEvent*) override {
    if (dragging_) Q_EMIT gestureEnded();
    dragging_ = false;
  }
  void mouseDoubleClickEvent(QMouseEvent* e) override {
    chosen_ = near(e->position().x());
    dragging_ = false;
    if (chosen_ >= 0) pick();
  }
  void keyPressEvent(QKeyEvent* e) override {
    const int n = static_cast<int>(stops_.size());
    const auto send = [&] { Q_EMIT valueWanted(stops_); Q_EMIT gestureEnded(); update(); };
    if (n == 0) return ValueEditor::keyPressEvent(e);
    switch (e->key()) {
      case Qt::Key_Up: chosen_ = (chosen_ + 1) % n; showBetween(); return update();
      case Qt::Key_Down: chosen_ = (chosen_ + n - 1) % n; showBetween(); return update();
      case Qt::Key_B: return goOn((between_->currentIndex() + 1) % static_cast<int>(kBetween.size()));
      case Qt::Key_Left: case Qt::Key_Right: {
        if (chosen_ < 0) chosen_ = 0;
        double& at = stops_[static_cast<std::size_t>(chosen_)].at;
        at = std::clamp(at + (e->key() == Qt::Key_Left ? -1 : 1) * (e->modifiers() & Qt::ShiftModifier ? 0.001 : 0.01), 0.0, 1.0);
        return send();
      }
      case Qt::Key_Return: case Qt::Key_Enter: if (chosen_ >= 0) pick(); return;
      case Qt::Key_X: return swapWithNext();
      case Qt::Key_Delete: case Qt::Key_Backspace:
        if (chosen_ >= 0 && n > 1) {
          stops_.erase(stops_.begin() + chosen_);
          chosen_ = -1;
          send();
        }
        return;
      default: ValueEditor::keyPressEvent(e);
    }
  }

 private:
  static constexpr std::array kBetween = {"", "smooth", "straight", "stepped"};
  void goOn(int word) {
    if (chosen_ < 0) return;
    stops_[static_cast<std::size_t>(chosen_)].between = kBetween[static_cast<std::size_t>(word)];
    Q_EMIT valueWanted(stops_);
    Q_EMIT gestureEnded();
    showBetween();
  }
  void showBetween() {
    between_->setEnabled(chosen_ >= 0);
    const auto own = chosen_ < 0 ? kBetween.begin() : std::find_if(kBetween.begin(), kBetween.end(), [&](const char* w) { return stops_[static_cast<std::size_t>(chosen_)].between == w; });
    between_->setCurrentIndex(own == kBetween.end() ? 0 : static_cast<int>(own - kBetween.begin()));
  }
  void swapWithNext() {
    if (chosen_ < 0) return;
    ColourStop* next = nullptr;
    ColourStop& here = stops_[static_cast<std::size_t>(chosen_)];
    for (ColourStop& s : stops_) if (s.at > here.at && (!next || s.at < next->at)) next = &s;
    if (!next) return;
    std::swap(here.colour, next->colour);
    Q_EMIT valueWanted(stops_);
    Q_EMIT gestureEnded();
    update();
  }
  QRect bar() const { return {7, 2, width() - 14, 18}; }
  double xOf(double at) const { return bar().x() + std::clamp(at, 0.0, 1.0) * bar().width(); }
  double atOf(double x) const { return std::round(std::clamp((x - bar().x()) / bar().width(), 0.0, 1.0) * 1000) / 1000; }
  int near(double x) const {
    for (std::size_t i = 0; i < stops_.size(); ++i) if (std::abs(xOf(stops_[i].at) - x) < 7) return static_cast<int>(i);
    return -1;
  }
  void pick() {
    auto& c = stops_[static_cast<std::size_t>(chosen_)].colour;
    const QColor picked = QColorDialog::getColor(screenColour({c[0], c[1], c[2]}), this, tr("Colour of the stop"), QColorDialog::DontUseNativeDialog);
    if (!picked.isValid()) return;
    const Vector v = linearColour(picked);
    c = {v[0], v[1], v[2], c[3]};
    Q_EMIT valueWanted(stops_);
    Q_EMIT gestureEnded();
  }
  Stops stops_;
  QComboBox* between_ = nullptr;
  int chosen_ = -1;
  bool dragging_ = false;
};

}  // namespace

ValueEditor* makeEditor(const RowView& v, QWidget* parent) {
  if (std::holds_alternative<Rule>(v.value)) return makeRuleEditor(parent);
  if (std::holds_alternative<Formula>(v.value)) return makeFormulaEditor(parent, true);
  switch (v.parameter.kind) {
    case ParameterKind::toggle: return new ToggleEditor(parent);
    case ParameterKind::choice: return new ChoiceEditor(parent);
    case ParameterKind::vector2: return new VectorEditor(parent);
    case ParameterKind::colour: return new ColourEditor(parent);
    case ParameterKind::stops: return new StopsEditor(parent);
    case ParameterKind::points: return makeCurveEditor(parent);
    case ParameterKind::text: return new TextEditor(parent);
    case ParameterKind::file: return new FileEditor(parent);
    case ParameterKind::formula: return makeFormulaEditor(parent, false);
    default: return new NumberEditor(v.parameter, parent);
  }
}

}  // namespace loom::app
