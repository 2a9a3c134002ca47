// Labels by what they are.
#pragma once
#include <QLabel>

#include "app/base/theme.h"

namespace loom::app {

/// Above a part of a window. It takes no more height than it needs.
inline QLabel* titleLabel(const QString& text, QWidget* parent) {
  auto* label = new QLabel(text, parent);
  setRole(label, "title");
  label->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  return label;
}

/// Beside a field.
inline QLabel* captionLabel(const QString& text, QWidget* parent) {
  auto* label = new QLabel(text, parent);
  setRole(label, "mute");
  return label;
}

}  // namespace loom::app
