// Which of a node's copied parameters to paste: a list with ticks.
#pragma once
#include <QDialog>
#include <string>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

class QListWidget;

namespace loom::app {

class ChooseParameters : public QDialog {
  Q_OBJECT
 public:
  /// All that the copied node has set are listed and ticked.
  ChooseParameters(const NodeType& type, const Node& copied, QWidget* parent = nullptr);
  /// Those that are ticked.
  std::vector<std::string> chosen() const;

 private:
  QListWidget* list_;
};

}  // namespace loom::app
