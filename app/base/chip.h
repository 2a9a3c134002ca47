// A small button on the picture's grey: a slip with a word, or a word in a strip.
#pragma once
#include <QAbstractButton>
#include <functional>
#include <vector>

namespace loom::app {

/// Reached by Tab, pressed by Space or a click. `on` is only shown; whoever owns it decides what a press does.
class Chip : public QAbstractButton {
  Q_OBJECT
 public:
  /// `segment`: one of several that lie side by side, of which one is on. `word`: without a slip, for a strip.
  enum class Form { single, segment, word };
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
  /// A press opens something: an arrow says so.
  void setOpens(bool opens);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return {30, 22}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent* e) override;

 private:
  void openChoices();
  bool step(int way);
  QString shown() const;
  Form form_;
  bool on_ = false, opens_ = false;
  std::function<std::vector<Choice>()> choices_;
};

/// A bar of the picture's grey under a picture, for chips that are words.
QWidget* makeStrip(QWidget* parent);
constexpr int kStrip = 30;  ///< its height in pixels

}  // namespace loom::app
