// The control of a parameter that holds strokes: how many there are, and the brush for the next.
#pragma once
#include "app/tray/parameter_row.h"

namespace loom::app {

ValueEditor* makeBrushEditor(QWidget* parent);

}  // namespace loom::app
