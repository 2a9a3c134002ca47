// Stops of colour along a bar: moved by hand, by arrow keys or by typing where a stop lies and which colour it has.
#pragma once
#include "app/tray/parameter_row.h"

namespace loom::app {

/// A parameter with the one option "stepped" is shown in steps.
ValueEditor* makeStopsEditor(const Parameter& parameter, QWidget* parent);

}  // namespace loom::app
