// Which of a node's copied parameters to paste.
#pragma once
#include <string>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

class QWidget;

namespace loom::app {

/// Asks with a list of all that the copied node has set, all of them ticked. None: it was left, or nothing is ticked.
std::vector<std::string> choose_parameters(const NodeType& type, const Node& copied, QWidget* parent);

}  // namespace loom::app
