// One parameter: its label, where its value comes from, and the control that fits its kind.
#pragma once
#include <QWidget>
#include <memory>
#include <optional>

#include "core/graph/node_type.h"

class QLabel;
class QLineEdit;
class QHBoxLayout;
class QSpacerItem;
class QToolButton;
class QVBoxLayout;

namespace loom::app {

/// What a row shows. It asks for changes and shows them only when they come back.
struct RowView {
  Parameter parameter;
  ParamValue value;
  QString origin;             ///< "dial Salt", "formula", "rule"; empty: a plain value. Its first word is shown
  QString thread;             ///< what comes in instead, at the peg of the same name; empty: nothing
  ParamValue followed = 0.0;  ///< the number behind a followed value
  bool followsValue = false;
  bool acts = true;
  QString beside;       ///< of strokes: the word of what is painted
  QString why;          ///< why it does not act
  QStringList names{};  ///< of a text that names something of the mesh: what there is
  bool canBeDial = true;
  QString fault;                                       ///< of its formula
  std::optional<Formula> cleared{};                    ///< one that was there before and can be called back
  std::shared_ptr<const std::vector<float>> spread{};  ///< its values over all units, once they are known
};

class ValueEditor;

/// One line: label, control, and the way its value comes about, which opens the menu. What needs more room stands or
/// unfolds below.
class ParameterRow : public QWidget {
  Q_OBJECT
 public:
  static constexpr int kLine = 24;          ///< pixels
  static constexpr int kLabelPercent = 42;  ///< of a line
  explicit ParameterRow(const RowView& view, QWidget* parent = nullptr);
  void showView(const RowView& view);
  const ParamValue& value() const { return view_.value; }
  const std::string& id() const { return view_.parameter.id; }
  /// Whether it neither acts nor is fed by a thread.
  bool isIdle() const { return !view_.acts && view_.thread.isEmpty(); }
  void setTick(double tick, bool on);
  void focusValue();
  /// What it holds, in short.
  QString valueText() const;
  /// Begins a number in the row's field; false if it has none that can be typed in.
  bool beginNumber(const QString& begun);
  bool canHaveRule() const;
  bool canBeDial() const;
  void makeRule();
  /// The field of a number; null: it is something else.
  QLineEdit* numberField() const;
  /// Below the row: for the dials of a bolt.
  void showHelp(bool on);
  /// Shows or hides what a rule, a formula or a pair of numbers has beside what stands in the line.
  void unfold(bool on);
  bool isUnfolded() const;

 Q_SIGNALS:
  void valueWanted(const loom::ParamValue& value);
  void gestureEnded();
  void resetWanted();
  void dialWanted();
  void unfollowWanted();
  void sourceWanted();  ///< where the thread comes from

 protected:
  void resizeEvent(QResizeEvent*) override;
  bool eventFilter(QObject* watched, QEvent* e) override;
  void keyPressEvent(QKeyEvent* e) override;

 private:
  void showLabel();
  void showWay();
  void showThread();
  void rebuild();
  void openMenu();
  RowView view_;
  std::size_t shape_ = 0;  // which alternative of the value the control was made for
  QVBoxLayout* box_;
  QHBoxLayout* line_;
  class Label;
  Label* label_;
  class ElidedButton* thread_ = nullptr;  // made when one comes in first
  QSpacerItem* stretch_;
  QLabel* help_;
  QToolButton* way_;
  ValueEditor* editor_ = nullptr;
  QWidget* under_ = nullptr;       // the editor's
  std::optional<double> scrubAt_;  // while the label is dragged
  bool scrubbing_ = false;
};

/// The control within a row.
class ValueEditor : public QWidget {
  Q_OBJECT
 public:
  using QWidget::QWidget;
  virtual void showView(const RowView& view) = 0;
  virtual void setTick(double, bool) {}
  virtual QWidget* first() { return this; }
  /// More than fits a line: it stands below the label, over the whole width.
  virtual bool isTall() const { return false; }
  /// What unfolds below the line; null: nothing. The row takes it over.
  virtual QWidget* under() { return nullptr; }
  /// The label is dragged by so many pixels; `fresh` begins anew from what is shown.
  virtual void scrub(double, Qt::KeyboardModifiers, bool) {}
 Q_SIGNALS:
  void valueWanted(const loom::ParamValue& value);
  void formulaTyped(const QString& text);  ///< into a field for numbers
  void unfoldWanted();
  void gestureEnded();
  void resetWanted();
};

ValueEditor* makeEditor(const RowView& view, QWidget* parent);

/// A number with its unit, and back: arithmetic such as 1/8 is worked out, 3 % is 0.03, and where shares of the tile
/// are shown in per cent a bare 3 is 0.03 as well. False if it makes no sense.
QString numberText(double value, Unit unit, bool whole);
bool numberFromText(const QString& text, double& value, Unit unit = Unit::none);

}  // namespace loom::app
