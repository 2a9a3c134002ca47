// Some of many: a list with ticks.
#pragma once
#include <QDialog>
#include <vector>

class QListWidget;

namespace loom::app {

class TickList : public QDialog {
  Q_OBJECT
 public:
  struct Entry {
    QString text;
    bool ticked = true;
  };
  /// `does`: what accepting it does, as the button says it.
  TickList(const QString& title, const QString& does, const std::vector<Entry>& entries, QWidget* parent);
  /// The places of those that are ticked.
  std::vector<std::size_t> ticked() const;

 private:
  QListWidget* list_;
};

}  // namespace loom::app
