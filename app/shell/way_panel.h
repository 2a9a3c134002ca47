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

class WayPanel : public QDialog {
  Q_OBJECT
 public:
  explicit WayPanel(QWidget* parent = nullptr);
  /// In the order of the way; none: nothing is followed.
  void showWay(const Material& material, const std::vector<WayStep>& steps);

 Q_SIGNALS:
  void nodeWanted(const std::string& node);

 private:
  QTableWidget* table_;
  QLabel* hint_;
};

/// The numbers of an output at a place, short.
QString tracedText(const TracedOutput& held);

}  // namespace loom::app
