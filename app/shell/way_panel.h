// The way back of a followed place: what it holds at every step, from what is looked at up to where it begins.
#pragma once
#include <QDialog>

#include "core/graph/material.h"
#include "core/weave/trace.h"

class QLabel;
class QTableWidget;

namespace loom::app {

/// One step: an output with the value it has at the place, and how much of the step below it is due to it.
struct WayStep {
  std::string output;  ///< NODE.PEG on the board
  TracedOutput held;
  double influence =
      1;  ///< how far the step below moves when this one is replaced by its mean, about 0..1; of the first: 1
};

class WayList : public QWidget {
  Q_OBJECT
 public:
  explicit WayList(QWidget* parent = nullptr);
  /// In the order of the way; none: nothing is followed.
  void showWay(const Material& material, const std::vector<WayStep>& steps);

 Q_SIGNALS:
  void nodeWanted(const std::string& node);

 private:
  QTableWidget* table_;
  QLabel* hint_;
};

/// The same in a window of its own.
class WayPanel : public QDialog {
 public:
  explicit WayPanel(QWidget* parent = nullptr);
  WayList* list() const { return list_; }

 private:
  WayList* list_;
};

/// The numbers of an output at a place, short.
QString tracedText(const TracedOutput& held);

}  // namespace loom::app
