// Stops of colour along a bar: moved by hand, by arrow keys or by typing where a stop lies and which colour it has.
#pragma once
#include "app/tray/parameter_row.h"

namespace loom::app {

ValueEditor* makeStopsEditor(QWidget* parent);

}  // namespace loom::app
