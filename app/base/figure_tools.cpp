#include "app/base/figure_tools.h"

namespace loom::app {

FigureTools& figureTools() {
  static FigureTools the_tools;
  return the_tools;
}

}  // namespace loom::app

#include "moc_figure_tools.cpp"
