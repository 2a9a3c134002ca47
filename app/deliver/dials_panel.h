// The panel of dials: name, group, limit and order what the user of a bolt may turn; keep states as presets.
#pragma once
#include <QDialog>

#include "core/graph/material.h"

class QListWidget;
class QLineEdit;
class QPlainTextEdit;
class QLabel;

namespace loom::app {

class DialsPanel : public QDialog {
  Q_OBJECT
 public:
  explicit DialsPanel(QWidget* parent = nullptr);
  void showMaterial(const Material& material);

 Q_SIGNALS:
  void editWanted(const QString& name, const loom::Material& next);

 private:
  void showDial();
  void send();
  const Value* chosen() const;
  Material material_;
  QListWidget *list_, *presets_;
  QLineEdit *label_, *group_, *least_, *most_, *start_;
  QPlainTextEdit* help_;
  QLabel* turns_;
  bool filling_ = false;
};

}  // namespace loom::app
