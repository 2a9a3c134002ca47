// The loupe: any output seen flat, with its repeats, range, histogram and the exact value under the pointer.
#pragma once
#include <QWidget>

#include "app/base/chip.h"
#include "app/engine/engine.h"
#include "app/loupe/figure_pen.h"
#include "app/loupe/handles.h"

namespace loom::app {

class Loupe : public QWidget {
  Q_OBJECT
 public:
  explicit Loupe(QWidget* parent = nullptr);
  void showSeen(const SeenPtr& seen, const QString& title);
  void showTitle(const QString& title, bool locked);
  /// The handles of the node whose output is shown; they are drawn over the first tile while it fits the picture.
  void showHandles(std::vector<HandleView> handles);
  /// The hand over a drawn figure.
  FigurePen& pen() { return pen_; }
  /// Where a place of the tile is drawn, in the widget.
  QPointF widgetPlace(QPointF tile) const;
  /// Where a handle is drawn, in the widget. For tests.
  QPointF handlePlace(std::size_t i) const;
  /// Whether what is shown is painted on: a drag of the left button draws, of the right one erases.
  void setPaints(bool paints);
  bool paints() const { return paints_; }
  /// Over what is laid out on a shape there are none.
  int repeats() const { return onShape() ? 1 : repeats_; }
  /// What is shown depends on a shape, and lies as it does on that.
  bool onShape() const { return seen_ && seen_->on; }
  int channel() const { return channel_; }
  void nextRepeats();
  void setRepeats(int repeats);  ///< 1 to 4
  /// Places of the tile, ringed in every repeat; `radius` in shares of the tile, 0: a small one.
  void showRings(std::vector<QPointF> places, double radius);
  Look look() const { return look_; }
  void setLook(Look look);
  bool seamChecked() const { return seam_; }
  void toggleSeam();  ///< half shifted, with the figures of its edges
  /// A, then B, is held as it is now; a third time lets both go.
  void hold();
  /// A is what is shown now, whatever was held before; what comes after is B.
  void holdBefore();
  Compare compare() const { return compare_; }
  /// What is compared now, for the drape to show the same.
  Comparison comparison() const {
    return a_.seen ? Comparison{compare_, a_.seen, b_.seen, wipe_, gain_} : Comparison{};
  }
  /// The output as it is shown; null before there is one.
  QImage picture() const { return seen_ ? *seen_->loupe_picture : QImage(); }
  /// The share of the picture that A has in a wipe.
  void setWipe(double share);
  void flip();  ///< between A and B; B is what is live until it is held
  void nextCompare();
  void showFollowed(std::optional<QPointF> place);
  void toggleHistogram();
  void resetZoom();
  /// The texel under a place of the widget, wrapped into the tile; (-1, -1) outside the picture.
  QPoint texelAt(QPointF place) const;
  QString valueText(QPoint texel) const;
  double zoom() const { return zoom_; }
  /// A word in the strip under the picture, at its right.
  Chip* addChip(const QString& name) { return strip_->add(name); }
  /// Where the picture lies in the widget.
  QRectF pictureArea() const;

 Q_SIGNALS:
  void channelChanged();            ///< or the look, or the seam check: the picture is wanted anew
  void followWanted(QPointF tile);  ///< a place that Ctrl and a click pointed at
  void followEnded();
  void compared();  ///< what is compared, or how, has changed
  void lockWanted();
  void handleDragged(const loom::app::HandleView& handle, QPointF to, Qt::KeyboardModifiers keys);
  void gestureEnded();
  void strokeBegun(bool erase);
  void strokeDrawn(QPointF tile, double pressure);  ///< further along
  void strokeEnded();
  void drawnOnShape();  ///< a stroke was to begin on what is laid out from the shape, where none is drawn
  void brushChanged();  ///< by a key

 protected:
  void tabletEvent(QTabletEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  bool event(QEvent*) override;
  void leaveEvent(QEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  double scale() const;  // widget pixels a texel
  /// Whether facts and actions stand beside the picture; else under it.
  bool besidePicture() const;
  QRectF factsArea() const;
  void placeChips();
  std::vector<Chip::Choice> choicesOf(int i);
  void compareBy(Compare how);
  void setChannel(int channel);
  void renew();
  void paintPicture(QPainter& p);
  void paintTiles(QPainter& p, const QImage& image, const QRectF& clip);
  void paintFollowed(QPainter& p);
  void paintRings(QPainter& p);
  void paintArrows(QPainter& p);
  bool hasArrows() const;
  struct Held {
    SeenPtr seen;
    QString title;
  };
  Held side(bool b) const;  ///< A or B as they stand now
  const QImage& difference();
  void comparedAnew();
  double share();
  QString heading();
  QPointF half() const;
  enum { kRepeatsChip, kChannelChip, kLock, kLookChip, kSeam, kCompareChip, kButtons };
  QString word(int i) const;
  void paintTexels(QPainter& p, const QRectF& area, double s);
  QStringList valuesAt(QPoint texel) const;  ///< a strand each
  std::vector<std::pair<QString, QString>> facts() const;
  void paintHistogram(QPainter& p, const QRectF& graph);
  void paintFacts(QPainter& p);
  void paintHandles(QPainter& p);
  bool penIsOn() const;
  double reach() const;            // of a grip, in shares of the tile
  int handleAt(QPointF at) const;  // -1: none
  QString handleTip(int i) const;
  void paintBrush(QPainter& p);
  bool brushKey(const QKeyEvent& e);
  bool beginStroke(QPointF at, bool erase, double pressure);
  void goOnWithStroke(QPointF at, double pressure);
  QPointF tilePlace(QPointF widget) const;
  FigurePen pen_{this};
  std::vector<HandleView> handles_;
  int held_ = -1;  // the handle that is being dragged
  bool paints_ = false, drawing_ = false;
  std::optional<QPointF> brush_at_;  // in the widget
  SeenPtr seen_;
  QString title_;
  bool locked_ = false, histogram_ = true;
  int repeats_ = 1, channel_ = -1;
  Look look_ = Look::plain;
  bool seam_ = false;
  Held a_, b_;
  Compare compare_ = Compare::off;
  double wipe_ = 0.5;  // share of the picture that A has
  bool wiping_ = false;
  int gain_ = 4;
  std::pair<SeenPtr, SeenPtr> differed_, shared_;  // what the difference and the share below are of
  double share_ = -1;
  KeptImage difference_;
  std::optional<QPointF> followed_;
  std::vector<QPointF> rings_;
  double ring_ = 0;
  double zoom_ = 1;
  QPointF corner_, dragged_;  // texel at the picture's top left
  QPoint under_{-1, -1};
  Strip* strip_;
  std::array<Chip*, kButtons> chips_;
};

}  // namespace loom::app
