#include "app/tray/curve_editor.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"
#include "core/nodes/each_strand.h"

namespace loom::app {
namespace {

// The points themselves: click adds one, drag moves it, Delete removes it; without points the curve is the straight
// line.
class CurveField : public QWidget {
  Q_OBJECT
 public:
  explicit CurveField(QWidget* parent) : QWidget(parent) {
    setFixedHeight(88);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(
        tr("Click adds a point, drag or arrows move it (Shift finely), comma and full stop choose its neighbours, "
           "Delete removes it; without points the curve is a straight line"));
  }
  void showPoints(const Points& points) {
    points_ = points;
    chosen_ = std::min(chosen_, static_cast<int>(points_.size()) - 1);
    Q_EMIT chosenChanged();
    update();
  }
  /// What lies at the left and at the right.
  void setEnds(const QString& left, const QString& right) {
    left_ = left;
    right_ = right;
    update();
  }
  const CurvePoint* chosen() const { return chosen_ < 0 ? nullptr : &points_[static_cast<std::size_t>(chosen_)]; }
  void moveChosen(CurvePoint to) {
    if (chosen_ < 0) return;
    points_[static_cast<std::size_t>(chosen_)] = to;
    Q_EMIT pointsWanted(points_);
    Q_EMIT chosenChanged();
    update();
  }

 Q_SIGNALS:
  void pointsWanted(const loom::Points& points);
  void gestureEnded();
  void chosenChanged();

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(hasFocus() ? theme().indigo : theme().line, 1));
    p.setBrush(theme().paper);
    p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    p.setPen(QPen(theme().line, 1));
    p.drawLine(box().bottomLeft(), box().topRight());
    p.setPen(theme().mute);
    p.setFont(textFont(10));
    p.drawText(box().adjusted(40, 0, 0, 0), Qt::AlignLeft | Qt::AlignBottom, left_);  // clear of the line's beginning
    p.drawText(box(), Qt::AlignRight | Qt::AlignBottom, right_);
    p.setPen(QPen(isEnabled() ? theme().indigo : theme().mute, 2));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line());
    for (std::size_t i = 0; i < points_.size(); ++i) {
      p.setBrush(static_cast<int>(i) == chosen_ ? theme().indigo : theme().paper);
      p.drawEllipse(place(points_[i]), 4, 4);
    }
  }
  void mousePressEvent(QMouseEvent* e) override {
    setFocus();
    chosen_ = -1;
    for (std::size_t i = 0; i < points_.size(); ++i)
      if ((place(points_[i]) - e->position()).manhattanLength() < 9) chosen_ = static_cast<int>(i);
    if (chosen_ < 0) {
      if (points_.empty()) points_ = {{0, 0}, {1, 1}};
      points_.push_back(pointAt(e->position()));
      chosen_ = static_cast<int>(points_.size()) - 1;
      Q_EMIT pointsWanted(points_);
    }
    dragging_ = true;
    Q_EMIT chosenChanged();
    update();
  }
  void mouseMoveEvent(QMouseEvent* e) override {
    if (dragging_) moveChosen(pointAt(e->position()));
  }
  void mouseReleaseEvent(QMouseEvent*) override {
    if (dragging_) Q_EMIT gestureEnded();
    dragging_ = false;
  }
  void keyPressEvent(QKeyEvent* e) override {
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.001 : 0.01;
    switch (e->key()) {
      case Qt::Key_Comma:
        return choose(-1);
      case Qt::Key_Period:
        return choose(1);
      case Qt::Key_Left:
        return nudge(-step, 0);
      case Qt::Key_Right:
        return nudge(step, 0);
      case Qt::Key_Up:
        return nudge(0, step);
      case Qt::Key_Down:
        return nudge(0, -step);
      case Qt::Key_Delete:
      case Qt::Key_Backspace:
        return removeChosen();
      default:
        QWidget::keyPressEvent(e);
    }
  }

 private:
  QRectF box() const { return QRectF(rect()).adjusted(6, 6, -6, -6); }
  QPointF place(const CurvePoint& c) const {
    return {box().x() + std::clamp(c.x, 0.0, 1.0) * box().width(),
            box().bottom() - std::clamp(c.y, 0.0, 1.0) * box().height()};
  }
  CurvePoint pointAt(QPointF at) const {
    const auto tidy = [](double x) { return std::round(std::clamp(x, 0.0, 1.0) * 1000) / 1000; };
    return {tidy((at.x() - box().x()) / box().width()), tidy((box().bottom() - at.y()) / box().height())};
  }
  // As the node reads it: cubic pieces that never overshoot, level before the first point and after the last.
  QPolygonF line() const {
    QPolygonF all;
    if (points_.size() < 2) return {{box().bottomLeft(), box().topRight()}};
    const auto table = smooth_curve(points_);
    for (int i = 0; i <= 80; ++i) {
      const double x = i / 80.0;
      double y =
          static_cast<double>(x < static_cast<double>(table->pieces.front().from) ? table->before : table->after);
      for (const CurveTable::Piece& piece : table->pieces)
        if (x >= static_cast<double>(piece.from) && x <= static_cast<double>(piece.to)) y = at(piece, x);
      all << place({x, y});
    }
    return all;
  }
  static double at(const CurveTable::Piece& p, double x) {
    const double wide = static_cast<double>(p.to - p.from), t = wide > 0 ? (x - static_cast<double>(p.from)) / wide : 0,
                 s = 1 - t;
    return s * s * (1 + 2 * t) * static_cast<double>(p.y0) + t * t * (1 + 2 * s) * static_cast<double>(p.y1) +
           t * s * s * static_cast<double>(p.slope0) - t * t * s * static_cast<double>(p.slope1);
  }
  // In the order of x, round.
  void choose(int by) {
    if (points_.empty()) return;
    std::vector<int> order(points_.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = static_cast<int>(i);
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
      return points_[static_cast<std::size_t>(a)].x < points_[static_cast<std::size_t>(b)].x;
    });
    const auto now = std::find(order.begin(), order.end(), chosen_);
    const int n = static_cast<int>(order.size()),
              next = now == order.end() ? 0 : (static_cast<int>(now - order.begin()) + by + n) % n;
    chosen_ = order[static_cast<std::size_t>(next)];
    Q_EMIT chosenChanged();
    update();
  }
  void nudge(double x, double y) {
    if (const CurvePoint* c = chosen()) {
      const auto tidy = [](double v) { return std::round(v * 1000) / 1000; };
      moveChosen({tidy(std::clamp(c->x + x, 0.0, 1.0)), tidy(c->y + y)});
      Q_EMIT gestureEnded();
    }
  }
  void removeChosen() {
    if (chosen_ < 0) return;
    points_.erase(points_.begin() + chosen_);
    if (points_.size() < 2) points_.clear();
    chosen_ = -1;
    Q_EMIT pointsWanted(points_);
    Q_EMIT gestureEnded();
    Q_EMIT chosenChanged();
    update();
  }

  Points points_;
  QString left_, right_;
  int chosen_ = -1;
  bool dragging_ = false;
};

class CurveEditor : public ValueEditor {
  Q_OBJECT
 public:
  explicit CurveEditor(QWidget* parent) : ValueEditor(parent), field_(new CurveField(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    column->addWidget(field_);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    for (std::size_t i = 0; i < 2; ++i) {
      row->addWidget(new QLabel(i ? QStringLiteral("y") : QStringLiteral("x"), this));
      exact_[i] = new QLineEdit(this);
      exact_[i]->setFixedWidth(52);
      exact_[i]->setAlignment(Qt::AlignRight);
      exact_[i]->setAccessibleName(i ? tr("Height of the chosen point") : tr("Place of the chosen point"));
      row->addWidget(exact_[i]);
      connect(exact_[i], &QLineEdit::editingFinished, this, &CurveEditor::typed);
    }
    row->addStretch(1);
    column->addLayout(row);
    connect(field_, &CurveField::pointsWanted, this, [this](const Points& points) { Q_EMIT valueWanted(points); });
    connect(field_, &CurveField::gestureEnded, this, &ValueEditor::gestureEnded);
    connect(field_, &CurveField::chosenChanged, this, &CurveEditor::showChosen);
    showChosen();
  }
  void showView(const RowView& v) override {
    const auto* points = std::get_if<Points>(&v.value);
    limits_ = v.parameter.limits;
    field_->setAccessibleName(QString::fromStdString(v.parameter.label));
    field_->setEnds(QString::fromStdString(v.parameter.left), QString::fromStdString(v.parameter.right));
    field_->showPoints(points ? *points : Points{});
  }
  QWidget* first() override { return field_; }
  bool isTall() const override { return true; }

 protected:
  // Enter leads from a typed figure back to the curve; from there it leaves the tray.
  void keyPressEvent(QKeyEvent* e) override {
    const bool enter = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter;
    if (enter && (exact_[0]->hasFocus() || exact_[1]->hasFocus())) return field_->setFocus();
    ValueEditor::keyPressEvent(e);
  }

 private:
  void showChosen() {
    const CurvePoint* c = field_->chosen();
    const double at[] = {c ? c->x : 0, c ? c->y : 0};
    for (std::size_t i = 0; i < 2; ++i) {
      exact_[i]->setEnabled(c);
      exact_[i]->setText(c ? QString::number(at[i], 'g', 6) : QString());
      exact_[i]->setModified(false);
    }
  }
  void typed() {
    if (!field_->chosen() || (!exact_[0]->isModified() && !exact_[1]->isModified())) return;
    double x = 0, y = 0;
    if (!numberFromText(exact_[0]->text(), x) || !numberFromText(exact_[1]->text(), y)) return showChosen();
    field_->moveChosen({std::clamp(x, limits_.least, limits_.most), std::clamp(y, limits_.least, limits_.most)});
    Q_EMIT gestureEnded();
  }
  CurveField* field_;
  std::array<QLineEdit*, 2> exact_{};
  Limits limits_;
};

}  // namespace

ValueEditor* makeCurveEditor(QWidget* parent) { return new CurveEditor(parent); }

}  // namespace loom::app

#include "curve_editor.moc"
