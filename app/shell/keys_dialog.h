// The list of keys, each of which can be changed; what clashes is shown before it is taken.
#pragma once
#include <QDialog>
#include <vector>

class QAction;
class QKeySequenceEdit;
class QLabel;
class QPushButton;
class QTableWidget;

namespace loom::app {

class KeysDialog : public QDialog {
  Q_OBJECT
 public:
  /// `actions` with the shortcuts that they have now; their first ones were noted by noteFirstKeys().
  KeysDialog(const std::vector<QAction*>& actions, QWidget* parent);
  void choose(const QString& name);

  /// Remembers the shortcuts an action begins with, and gives it those that the person chose.
  static void noteFirstKeys(QAction& action);

 private:
  void fill();
  void showChosen();
  void take();
  void putBack();
  QString clashes(const QAction& own, const QKeySequence& keys) const;
  QAction* chosen() const;
  std::vector<QAction*> actions_;
  QTableWidget* table_;
  QKeySequenceEdit* keys_;
  QLabel* clash_;
  QPushButton *take_, *back_;
};

}  // namespace loom::app
