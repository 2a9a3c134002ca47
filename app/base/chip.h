// A small button on the picture's grey: a slip with a word, or a word in a strip.
#pragma once
#include <QAbstractButton>
#include <functional>
#include <vector>

class QHBoxLayout;
class QMenu;

namespace loom::app {

/// Reached by Tab, pressed by Space or a click. `on` is only shown; whoever owns it decides what a press does.
class Chip : public QAbstractButton {
  Q_OBJECT
 public:
  enum class Form { slip, word };  ///< `word`: without a slip, for a strip
  Chip(const QString& accessibleName, Form form, QWidget* parent);
  void setOn(bool on);
  bool isOn() const { return on_; }
  /// What it can say: a press shows them as a menu, `.` and `,` step through them.
  struct Choice {
    QString text;
    bool now = false;
    std::function<void()> choose;
  };
  void setChoices(std::function<std::vector<Choice>()> choices);
  /// A press opens the menu: an arrow says so.
  void setMenu(QMenu* menu);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return {30, 22}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent* e) override;

 private:
  void openChoices();
  void popUp(QMenu& menu);
  bool step(int way);
  QString shown() const;
  Form form_;
  bool on_ = false, opens_ = false;
  std::function<std::vector<Choice>()> choices_;
};

/// A bar of the picture's grey along the lower edge of its parent, for chips that are words.
class Strip : public QWidget {
  Q_OBJECT
 public:
  static constexpr int kHeight = 30;  ///< pixels
  explicit Strip(QWidget* parent);
  /// Behind those that are there.
  Chip* add(const QString& accessibleName);
  /// What is added from here on stands at the right.
  void addSpace();
  /// To be called when the parent has another size.
  void place();

 private:
  QHBoxLayout* row_;
};

}  // namespace loom::app
