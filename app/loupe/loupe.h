// The loupe: any output seen flat, with its repeats, range, histogram and the exact value under the pointer.
#pragma once
#include <QWidget>

#include "app/loupe/handles.h"
#include "app/shell/engine.h"

namespace loom::app {

class Loupe : public QWidget {
  Q_OBJECT
 public:
  explicit Loupe(QWidget* parent = nullptr);
  void showSeen(const SeenPtr& seen, const QString& title);
  void showTitle(const QString& title, bool locked);
  /// The handles of the node whose output is shown; they are drawn over the first tile while it fits the picture.
  void showHandles(std::vector<HandleView> handles);
  /// Where a handle is drawn, in the widget. For tests.
  QPointF handlePlace(std::size_t i) const;
  int repeats() const { return repeats_; }
  int channel() const { return channel_; }
  void nextRepeats();
  void nextChannel();
  void toggleHistogram();
  void resetZoom();
  /// The texel under a place of the widget, wrapped into the tile; (-1, -1) outside the picture.
  QPoint texelAt(QPointF place) const;
  QString valueText(QPoint texel) const;
  double zoom() const { return zoom_; }

 Q_SIGNALS:
  void channelChanged();
  void lockWanted();
  void handleDragged(const loom::app::HandleView& handle, QPointF to, bool fine);
  void gestureEnded();

 protected:
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF pictureArea() const;
  double scale() const;      // widget pixels a texel
  QRectF button(int i) const;
  void paintPicture(QPainter& p);
  void paintTexels(QPainter& p, const QRectF& area, double s);
  void paintFacts(QPainter& p);
  void paintHandles(QPainter& p);
  QPointF widgetPlace(QPointF tile) const;
  QPointF tilePlace(QPointF widget) const;
  std::vector<HandleView> handles_;
  int held_ = -1;              // the handle that is being dragged
  SeenPtr seen_;
  QString title_;
  bool locked_ = false, histogram_ = true;
  int repeats_ = 1, channel_ = -1;
  double zoom_ = 1;
  QPointF corner_, dragged_;   // texel at the picture's top left
  QPoint under_{-1, -1};
};

}  // namespace loom::app
