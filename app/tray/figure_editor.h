// The control of a parameter that holds a drawn figure: how many shapes there are, and the pen for the next.
#pragma once
#include "app/tray/parameter_row.h"

namespace loom::app {

ValueEditor* makeFigureEditor(QWidget* parent);

}  // namespace loom::app
