// The bar shows what the node reads; the stops hang below it.
#include "app/tray/stops_editor.h"

#include <QColorDialog>
#include <QComboBox>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <array>
#include <cmath>

#include "app/base/theme.h"
#include "app/tray/screen_colour.h"
#include "app/tray/stroke_picker.h"

namespace loom::app {
namespace {

// The stops' row: click to add, drag to move, double click for the colour, Delete to remove.
class StopsEditor : public ValueEditor {
  Q_OBJECT
 public:
  // `stepped`: the node keeps each colour up to the next stop, whatever the stops say.
  StopsEditor(bool stepped, QWidget* parent) : ValueEditor(parent), stepped_(stepped) {
    setFixedHeight(84);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(
        tr("Click or Insert adds a stop, drag or arrows move it, double click or Enter picks its colour, X swaps its "
           "colour with the next, B changes how it goes on to the next, Delete removes it; up and down go from stop to "
           "stop"));
    auto* stroke = new QPushButton(tr("pick along a stroke"), this);
    stroke->setProperty("word", true);
    stroke->setAccessibleName(tr("Pick the stops along a stroke"));
    stroke->setGeometry(4, 42, kStroke, 17);
    between_ = new QComboBox(this);
    for (const char* word : kBetween)
      between_->addItem(*word ? tr("next: %1").arg(QLatin1String(word)) : tr("next: as all"));
    between_->setAccessibleName(tr("How the chosen stop goes on to the next"));
    between_->setVisible(!stepped_);
    for (QLineEdit** field : {&place_, &colour_}) {
      *field = new QLineEdit(this);
      connect(*field, &QLineEdit::editingFinished, this, &StopsEditor::typed);
    }
    place_->setGeometry(4, 63, 56, 19);
    place_->setAccessibleName(tr("Place of the chosen stop"));
    colour_->setAccessibleName(tr("Colour of the chosen stop"));
    colour_->setPlaceholderText(tr("#rrggbb, or linear numbers"));
    connect(between_, &QComboBox::activated, this, [this](int word) { goOn(word); });
    connect(stroke, &QPushButton::clicked, this, [this] {
      auto* picker = new StrokePicker(this);
      connect(picker, &StrokePicker::picked, this, [this](const Stops& stops) {
        Q_EMIT valueWanted(stops);
        Q_EMIT gestureEnded();
      });
      picker->show();
    });
  }
  bool isTall() const override { return true; }
  void showView(const RowView& v) override {
    if (const auto* s = std::get_if<Stops>(&v.value)) stops_ = *s;
    chosen_ = std::min(chosen_, static_cast<int>(stops_.size()) - 1);
    showChosen();
    update();
  }

 protected:
  void resizeEvent(QResizeEvent*) override {
    const int right = std::min(width() - 4, 246);
    between_->setGeometry(kStroke + 12, 40, right - kStroke - 12, 20);
    colour_->setGeometry(70, 63, right - 70, 19);
  }
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    Stops sorted = stops_;
    std::stable_sort(sorted.begin(), sorted.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    for (int x = 0; x < bar().width() && !sorted.empty(); ++x) {
      const double t = (x + 0.5) / bar().width();
      const auto next = std::find_if(sorted.begin(), sorted.end(), [&](const ColourStop& s) { return s.at > t; });
      const ColourStop &b = next == sorted.end() ? sorted.back() : *next,
                       &a = next == sorted.begin() ? *next : *(next - 1);
      const double part = b.at > a.at ? std::clamp((t - a.at) / (b.at - a.at), 0.0, 1.0) : 0;
      const double k = stepped_ || a.between == "stepped" ? 0
                       : a.between == "smooth"            ? part * part * (3 - 2 * part)
                                                          : part;
      Vector c;
      for (std::size_t i = 0; i < 3; ++i) c.push_back(a.colour[i] + (b.colour[i] - a.colour[i]) * k);
      p.fillRect(QRect(bar().x() + x, bar().y(), 1, bar().height()), screenColour(c));
    }
    for (std::size_t i = 0; i < stops_.size(); ++i) {
      const double x = xOf(stops_[i].at);
      p.setPen(QPen(static_cast<int>(i) == chosen_ && hasFocus() ? theme().indigo : theme().ink,
                    static_cast<int>(i) == chosen_ ? 2.2 : 1));
      p.setBrush(screenColour({stops_[i].colour[0], stops_[i].colour[1], stops_[i].colour[2]}));
      const QPointF points[] = {{x, bar().bottom() - 2.0},
                                {x + 6, bar().bottom() + 7.0},
                                {x + 6, bar().bottom() + 15.0},
                                {x - 6, bar().bottom() + 15.0},
                                {x - 6, bar().bottom() + 7.0}};
      p.drawPolygon(points, 5);
    }
  }
  void mousePressEvent(QMouseEvent* e) override {
    setFocus();
    chosen_ = near(e->position().x());
    showChosen();
    if (chosen_ < 0 && bar().contains(e->position().toPoint())) {
      ColourStop s;
      s.at = atOf(e->position().x());
      const auto after = std::min_element(stops_.begin(), stops_.end(), [&](const auto& a, const auto& b) {
        return std::abs(a.at - s.at) < std::abs(b.at - s.at);
      });
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
    if (n == 0) return ValueEditor::keyPressEvent(e);
    switch (e->key()) {
      case Qt::Key_Up:
        return choose((chosen_ + 1) % n);
      case Qt::Key_Down:
        return choose((std::max(chosen_, 0) + n - 1) % n);
      case Qt::Key_B:
        return goOn((between_->currentIndex() + 1) % static_cast<int>(kBetween.size()));
      case Qt::Key_Left:
      case Qt::Key_Right: {
        if (chosen_ < 0) chosen_ = 0;
        double& at = stops_[static_cast<std::size_t>(chosen_)].at;
        at = std::clamp(at + (e->key() == Qt::Key_Left ? -1 : 1) * (e->modifiers() & Qt::ShiftModifier ? 0.001 : 0.01),
                        0.0, 1.0);
        return send();
      }
      case Qt::Key_Return:
      case Qt::Key_Enter:
        if (place_->hasFocus() || colour_->hasFocus()) return setFocus();
        if (chosen_ >= 0) pick();
        return;
      case Qt::Key_Insert:
        return insertAfterChosen();
      case Qt::Key_X:
        return swapWithNext();
      case Qt::Key_Delete:
      case Qt::Key_Backspace:
        if (chosen_ >= 0 && n > 1) {
          stops_.erase(stops_.begin() + chosen_);
          chosen_ = -1;
          showChosen();
          send();
        }
        return;
      default:
        break;
    }
    // A figure begins the place, # the colour.
    const QString typed = e->text();
    QLineEdit* const field = typed == QLatin1String("#")                                                 ? colour_
                             : typed.size() == 1 && (typed[0].isDigit() || typed[0] == QLatin1Char('.')) ? place_
                                                                                                         : nullptr;
    if (!field || e->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return ValueEditor::keyPressEvent(e);
    if (chosen_ < 0) choose(0);
    field->setFocus();
    field->setText(typed);
    field->setModified(true);
  }

 private:
  void choose(int stop) {
    typed();
    chosen_ = stop;
    showChosen();
    update();
  }
  static constexpr int kStroke = 118;  // the width of its button
  static constexpr std::array kBetween = {"", "smooth", "straight", "stepped"};
  void goOn(int word) {
    if (chosen_ < 0 || stepped_) return;
    stops_[static_cast<std::size_t>(chosen_)].between = kBetween[static_cast<std::size_t>(word)];
    Q_EMIT valueWanted(stops_);
    Q_EMIT gestureEnded();
    showChosen();
  }
  void showChosen() {
    between_->setEnabled(chosen_ >= 0);
    const auto own =
        chosen_ < 0 ? kBetween.begin() : std::find_if(kBetween.begin(), kBetween.end(), [&](const char* w) {
          return stops_[static_cast<std::size_t>(chosen_)].between == w;
        });
    between_->setCurrentIndex(own == kBetween.end() ? 0 : static_cast<int>(own - kBetween.begin()));
    const ColourStop* s = chosen_ < 0 ? nullptr : &stops_[static_cast<std::size_t>(chosen_)];
    for (QLineEdit* field : {place_, colour_}) field->setEnabled(s);
    if ((place_->hasFocus() && place_->isModified()) || (colour_->hasFocus() && colour_->isModified()))
      return;  // someone is typing
    place_->setText(s ? QString::number(s->at, 'g', 4) : QString());
    colour_->setText(s ? colourText(*s) : QString());
  }
  // As on screens where that says it exactly, else in linear numbers.
  static QString colourText(const ColourStop& s) {
    const Vector held{s.colour[0], s.colour[1], s.colour[2]};
    const QColor screen = screenColour(held);
    const Vector back = linearColour(QColor(screen.name()));
    const bool exact =
        std::equal(held.begin(), held.end(), back.begin(), [](double a, double b) { return std::abs(a - b) < 2e-5; });
    return exact ? screen.name()
                 : QStringLiteral("%1, %2, %3").arg(held[0], 0, 'g', 4).arg(held[1], 0, 'g', 4).arg(held[2], 0, 'g', 4);
  }
  void typed() {
    if (chosen_ < 0 || (!place_->isModified() && !colour_->isModified())) return;
    ColourStop& s = stops_[static_cast<std::size_t>(chosen_)];
    double at = 0;
    if (place_->isModified() && numberFromText(place_->text(), at)) s.at = std::clamp(at, 0.0, 1.0);
    if (const auto typed = colour_->isModified() ? colourFromText(colour_->text()) : std::nullopt)
      s.colour = {(*typed)[0], (*typed)[1], (*typed)[2], s.colour[3]};
    for (QLineEdit* field : {place_, colour_}) field->setModified(false);
    showChosen();
    send();
  }
  void send() {
    Q_EMIT valueWanted(stops_);
    Q_EMIT gestureEnded();
    update();
  }
  // Half way to the next stop, or from the last one to the end, in its colour.
  void insertAfterChosen() {
    ColourStop s = stops_[static_cast<std::size_t>(std::max(chosen_, 0))];
    double next = 1;
    for (const ColourStop& other : stops_)
      if (other.at > s.at) next = std::min(next, other.at);
    s.at = std::round(500 * (s.at + next)) / 1000;
    stops_.push_back(s);
    chosen_ = static_cast<int>(stops_.size()) - 1;
    showChosen();
    send();
  }
  void swapWithNext() {
    if (chosen_ < 0) return;
    ColourStop* next = nullptr;
    ColourStop& here = stops_[static_cast<std::size_t>(chosen_)];
    for (ColourStop& s : stops_)
      if (s.at > here.at && (!next || s.at < next->at)) next = &s;
    if (!next) return;
    std::swap(here.colour, next->colour);
    send();
  }
  QRect bar() const { return {7, 2, width() - 14, 18}; }
  double xOf(double at) const { return bar().x() + std::clamp(at, 0.0, 1.0) * bar().width(); }
  double atOf(double x) const {
    return std::round(std::clamp((x - bar().x()) / bar().width(), 0.0, 1.0) * 1000) / 1000;
  }
  int near(double x) const {
    for (std::size_t i = 0; i < stops_.size(); ++i)
      if (std::abs(xOf(stops_[i].at) - x) < 7) return static_cast<int>(i);
    return -1;
  }
  void pick() {
    auto& c = stops_[static_cast<std::size_t>(chosen_)].colour;
    const QColor picked = QColorDialog::getColor(screenColour({c[0], c[1], c[2]}), this, tr("Colour of the stop"),
                                                 QColorDialog::DontUseNativeDialog);
    if (!picked.isValid()) return;
    const Vector v = linearColour(picked);
    c = {v[0], v[1], v[2], c[3]};
    showChosen();
    send();
  }
  Stops stops_;
  const bool stepped_;
  QComboBox* between_ = nullptr;
  QLineEdit *place_ = nullptr, *colour_ = nullptr;
  int chosen_ = -1;
  bool dragging_ = false;
};

}  // namespace

ValueEditor* makeStopsEditor(const Parameter& parameter, QWidget* parent) {
  return new StopsEditor(parameter.options == std::vector<std::string>{"stepped"}, parent);
}

}  // namespace loom::app

#include "stops_editor.moc"
