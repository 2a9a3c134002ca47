// All values of what the board shows: what they hold, which of them are dials, and who follows them.
#pragma once
#include <QDialog>

#include "core/graph/material.h"

class QLabel;
class QListWidget;
class QPushButton;
class QTableWidget;

namespace loom::app {

class ValuesPanel : public QDialog {
  Q_OBJECT
 public:
  explicit ValuesPanel(QWidget* parent = nullptr);
  void showMaterial(const Material& material);

 Q_SIGNALS:
  void editWanted(const QString& name, const loom::Material& next);
  void nodeWanted(const std::string& node);

 private:
  void showFollowers();
  void take(int row, int column);
  void rename(const Value& v, const QString& name);
  void refuse(const QString& why);
  const Value* chosen() const;
  Material material_;
  QTableWidget* table_;
  QListWidget* followers_;
  QPushButton *offer_, *remove_;
  QLabel* fault_ = nullptr;
  bool filling_ = false;
};

/// Who follows a value, as pairs of a node and what of it: parameters, ends of rules, formulas that name it; without a
/// node: another value.
std::vector<std::pair<std::string, std::string>> followersOf(const Material& material, const std::string& value);

}  // namespace loom::app
