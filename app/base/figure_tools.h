// What the hand does over a drawn figure: a state of the program, which no document holds.
#pragma once
#include <QObject>

namespace loom::app {

class FigureTools : public QObject {
  Q_OBJECT
 public:
  enum class Tool { choose, rectangle, ellipse, polygon, curve };
  Tool tool() const { return tool_; }
  bool cuts() const { return cuts_; }  ///< whether the next shape cuts instead of adding
  int grid() const { return grid_; }   ///< parts of the tile where points snap; 0: none
  void setTool(Tool tool) { set(tool_, tool); }
  void setCuts(bool cuts) { set(cuts_, cuts); }
  void setGrid(int grid) { set(grid_, grid); }

 Q_SIGNALS:
  void changed();

 private:
  template <class T>
  void set(T& held, T now) {
    if (held == now) return;
    held = now;
    Q_EMIT changed();
  }
  Tool tool_ = Tool::choose;
  bool cuts_ = false;
  int grid_ = 16;
};

/// Those of the program; of the interface thread.
FigureTools& figureTools();

}  // namespace loom::app
