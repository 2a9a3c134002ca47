// The handles of a node over its picture: where they stand now, and what a drag makes of their parameters.
#pragma once
#include <QPointF>
#include <QString>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom::app {

struct HandleView {
  Handle handle;
  std::string node;   ///< whose parameter it turns
  QString label;      ///< of its parameter
  QPointF about, at;  ///< in shares of the tile; of a line, `at` is where it is held
  double value = 0;   ///< of an angle, degrees; of a radius, the parameter
  /// Of a box: which corner or side is held, -1 to 1 along its own u and v; its lengths and its turn in degrees.
  QPoint grip{};
  QSizeF lengths{};
  double turn = 0;
  QPointF moved{};  ///< what the parameter `about` holds
  /// A place of the box in shares of the tile; (-1, -1) to (1, 1) are its corners.
  QPointF ofBox(QPointF of) const;
};

/// What parameters become.
using Turned = std::vector<std::pair<std::string, ParamValue>>;
struct HowDragged {
  bool fine = false;          ///< lifts the snapping: an angle to whole degrees, a place or a length to a thousandth
  bool about_middle = false;  ///< a box grows on both sides; else what lies across from the grip stays where it is
};

/// The handles over the picture of a node's output: its own, and those which the nodes that read `peg` have over what
/// comes in there. Left out: those of parameters that do not act now, or hold no plain number and follow none.
std::vector<HandleView> handlesOf(const Material& material, const std::string& node, const std::string& peg = {});

/// What becomes of the node's parameters when a handle is dragged to `to`. A corner of a box keeps its proportions.
/// Values stay within their parameters' limits.
Turned draggedTo(const HandleView& handle, const NodeType& type, QPointF to, HowDragged how);

}  // namespace loom::app
