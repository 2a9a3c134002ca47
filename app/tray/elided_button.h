// A button whose words are cut with a mark where there is no room; its tooltip and its name have them all.
#pragma once
#include <QPushButton>

#include "app/base/theme.h"

namespace loom::app {

class ElidedButton : public QPushButton {
 public:
  ElidedButton(const char* role, int height, QWidget* parent) : QPushButton(parent) {
    setRole(this, role);
    setFixedHeight(height);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  }
  void showWords(const QString& words) {
    words_ = words;
    setToolTip(words);
    setAccessibleName(words);
    elide();
  }

 protected:
  void resizeEvent(QResizeEvent* e) override {
    QPushButton::resizeEvent(e);
    elide();
  }

 private:
  void elide() { setText(fontMetrics().elidedText(words_, Qt::ElideRight, width() - kMargins)); }
  static constexpr int kMargins = 10;
  QString words_;
};

}  // namespace loom::app
