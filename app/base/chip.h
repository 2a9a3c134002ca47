// A small button over a picture: a grey slip with a word.
#pragma once
#include <QAbstractButton>

namespace loom::app {

/// Reached by Tab, pressed by Space or a click. `on` is only shown; whoever owns it decides what a press does.
class Chip : public QAbstractButton {
  Q_OBJECT
 public:
  /// `segment`: one of several that lie side by side, of which one is on.
  enum class Form { single, segment };
  Chip(const QString& accessibleName, Form form, QWidget* parent);
  void setOn(bool on);
  bool isOn() const { return on_; }
  QSize sizeHint() const override { return {92, 22}; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  Form form_;
  bool on_ = false;
};

}  // namespace loom::app
