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
};

/// The handles over the picture of a node's output: its own, and those which the nodes that read `peg` have over what
/// comes in there. Left out: those of parameters that do not act now, or hold no plain number and follow none.
std::vector<HandleView> handlesOf(const Material& material, const std::string& node, const std::string& peg = {});

/// What the parameter becomes when its handle is dragged to `to`. `fine` lifts the snapping (an angle to whole degrees,
/// a place or a length to a thousandth). Values stay within the parameter's limits.
ParamValue draggedTo(const HandleView& handle, const Parameter& parameter, QPointF to, bool fine);

}  // namespace loom::app
