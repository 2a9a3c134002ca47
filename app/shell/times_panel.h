// Where the time and the memory go: what every node took in the last pass that wove it.
#pragma once
#include <QDialog>

#include "app/engine/engine.h"

class QLabel;
class QTableWidget;

namespace loom::app {

class TimesPanel : public QDialog {
  Q_OBJECT
 public:
  explicit TimesPanel(QWidget* parent = nullptr);
  /// Adds what a pass wove; nodes that were kept from earlier keep their line.
  void showSeen(const Seen& seen, const Material& material, std::size_t keptBytes);
  int rows() const;

 Q_SIGNALS:
  void nodeWanted(const std::string& path);

 private:
  struct Line {
    double milliseconds = 0;
    std::size_t bytes = 0;
  };
  std::map<std::string, Line> lines_;  // by path
  QTableWidget* table_;
  QLabel* sum_;
};

}  // namespace loom::app
