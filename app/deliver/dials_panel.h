// The panel of dials: describe, group and order what the user of a bolt may turn; keep states as presets.
#pragma once
#include <QDialog>

#include "core/graph/material.h"

class QListWidget;
class QVBoxLayout;

namespace loom::app {

class DialForm;
class PresetList;

class DialsPanel : public QDialog {
  Q_OBJECT
 public:
  explicit DialsPanel(QWidget* parent = nullptr);
  void showMaterial(const Material& material);
  PresetList* presets() const { return presets_; }

 Q_SIGNALS:
  /// `gesture`: what is typed or turned on end is one step.
  void editWanted(const QString& name, const loom::Material& next, const QString& gesture);

 private:
  void addDials(QVBoxLayout* into);
  void showDial();
  void order(int by);
  const Value* chosen() const;
  Material material_;
  QListWidget* list_;
  PresetList* presets_;
  DialForm* form_;
  bool filling_ = false;
};

}  // namespace loom::app
