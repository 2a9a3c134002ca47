// The marks of the racks.
#pragma once
#include <QIcon>

namespace loom::app {

/// A rack's mark, drawn from what it does, in the ink of the theme.
QIcon rackIcon(int rack);

}  // namespace loom::app
