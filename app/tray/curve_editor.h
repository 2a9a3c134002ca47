// A curve through points: moved by hand, by arrow keys or by typing where a point lies.
#pragma once
#include "app/tray/parameter_row.h"

namespace loom::app {

ValueEditor* makeCurveEditor(QWidget* parent);

}  // namespace loom::app
