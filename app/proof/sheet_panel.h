// The variation sheet: over seeds, dials or presets; a click takes a picture's state over.
#pragma once
#include <QTimer>
#include <QWidget>
#include <set>

#include "app/proof/sheet_maker.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QScrollArea;

namespace loom::app {

/// The pictures with the values on their axes. One axis runs on in rows as wide as there is room.
class SheetGrid : public QWidget {
  Q_OBJECT
 public:
  explicit SheetGrid(QWidget* parent = nullptr);
  void begin(const SheetPlan& plan);
  void put(int index, const QImage& picture);
  const SheetPlan& plan() const { return plan_; }
  const std::vector<QImage>& pictures() const { return pictures_; }
  int current() const { return current_; }
  void setCurrent(int index);
  /// What stands for the state at hand: framed. -1: none.
  void setTaken(int index);
  const std::set<int>& marked() const { return marked_; }
  void setOnlyMarked(bool only);
  /// Those that are shown, in their order.
  const std::vector<int>& shown() const { return shown_; }
  QRect placeOf(int index) const;
  QSize sizeHint() const override;
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;

 Q_SIGNALS:
  void takeWanted(int index);
  void currentChanged(int index);
  void keepWanted(int index);  ///< as a preset

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  bool event(QEvent*) override;

 private:
  bool onAxes() const { return plan_.axes.size() == 2 && shown_.size() == pictures_.size(); }
  int columns(int width) const;
  int indexAt(QPoint at) const;
  void choose();
  void toggleMark(int index);
  void throwAway(int index);
  SheetPlan plan_;
  std::vector<QImage> pictures_;
  std::set<int> marked_, thrown_;
  std::vector<int> shown_;
  int current_ = 0, taken_ = -1;
  bool only_ = false;
};

class SheetPanel : public QWidget {
  Q_OBJECT
 public:
  explicit SheetPanel(QWidget* parent = nullptr);
  /// Draws anew once it is in sight and what it shows has changed.
  void showMaterial(const Material& material);
  SheetGrid* grid() const { return grid_; }
  bool isIdle() const { return maker_.isIdle() && !later_.isActive() && !waiting_; }
  /// Sets both axes as a person would: "wear", "0..1:6"; an empty dial: none.
  void setAxes(const std::string& across, const QString& values, const std::string& down, const QString& downValues);
  void setLit(bool lit);
  bool printTo(const QString& path);

 Q_SIGNALS:
  /// The state of a picture is to be taken over.
  void takeWanted(const loom::Material& state, const QString& words);
  /// The same as a preset of that name.
  void presetWanted(const loom::Material& state, const QString& name);
  void message(const QString& text);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  struct AxisControls {
    QComboBox* of;
    QLineEdit* values;
  };
  AxisControls addAxis(class QHBoxLayout* row, const QString& caption, const QString& name);
  void fillChoices();
  void suggest(const AxisControls& axis);
  std::optional<SheetPlan> planned();
  void drawLater();
  void drawNow();
  void take(int index);
  void keepAsPreset(int index);
  void print();
  Material material_;
  AxisControls across_, down_;
  QCheckBox *lit_, *only_;
  QLabel* told_;
  QPushButton *preset_, *print_;
  QScrollArea* area_;
  SheetGrid* grid_;
  QTimer later_;
  std::string drawn_;  // of what the sheet is, its axes left out
  int round_ = 0, made_ = 0;
  bool filling_ = false, waiting_ = false, stale_ = false;
  SheetMaker maker_;
};

}  // namespace loom::app
