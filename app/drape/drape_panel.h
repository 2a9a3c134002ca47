// The drape: the whole material, lit, always in sight.
#pragma once
#include <QAction>
#include <QFutureWatcher>
#include <QMenu>
#include <QWidget>
#include <functional>
#include <vector>

#include "app/base/chip.h"
#include "app/drape/measuring.h"
#include "app/drape/shape_brush.h"
#include "app/drape/volume_handles.h"
#include "app/engine/engine.h"

namespace loom::app {

class DrapePanel : public QWidget {
  Q_OBJECT
 public:
  explicit DrapePanel(QWidget* parent = nullptr);
  void showOutfit(const Outfit& outfit);
  void showMessage(const QString& text);
  const QString& message() const { return message_; }
  const Outfit& outfit() const { return outfit_; }
  /// Of the maps that are shown, 0 before there are any.
  int mapSize() const { return outfit_ ? outfit_.maps->size() : 0; }
  /// Shows one output as it is, named so; empty: the lit material.
  void setUnlit(const QString& output);
  bool isUnlit() const { return view_.unlit; }
  /// Which part is in focus, told over the picture; empty: none.
  void showPart(const QString& part);
  /// A's maps beside those of B: as the loupe compares its two pictures.
  void showCompared(const Comparison& comparison);
  void setShape(ShapeName shape);
  void setExposure(float stops);
  void setEnvironment(const std::string& name);
  /// The artist's own picture of surroundings; what cannot be read is told over the drape.
  void takeEnvironment(const QString& path);
  void takeMesh(const QString& path);
  /// What the material is to be shown on: a mesh, named so, or a shape.
  void stand(std::shared_ptr<const MeshShape> mesh, const QString& name);
  /// The shape or the mesh that goes with a material; a mesh is read off the interface thread.
  void standAs(const Material& material);
  Measuring& measuring() { return measuring_; }
  /// What is asked of the shape beside what the materials ask.
  void alsoMeasure(const std::set<MeshMeasure>& asked);
  /// After how many samples a pixel the picture is left as it is.
  void setSamples(int count);
  /// Lines over the picture, and the picture without them.
  void toggleContours();
  /// Looks at the shape from where one looks at it to begin with.
  void lookFromStart();
  void lookFrom(const Camera& camera);
  /// Whether there is something to draw on with the brush, and whether the hand draws now instead of turning: then the
  /// left button draws where it lands on the shape and the right one erases; beside the shape they do what they did.
  void setPaints(bool paints);
  void setDrawing(bool draws);
  bool paints() const { return paints_; }
  bool draws() const { return draws_; }
  ShapeBrush& shapeBrush() { return brush_; }
  /// A volume whose handles stand over the picture; none: no longer.
  void showVolume(std::optional<Volume> volume);
  VolumeHandles& volumeHandles() { return volume_; }
  /// Where a handle of it is drawn, in the widget. For tests.
  std::optional<QPointF> handlePlace(VolumeHandles::Handle handle) const;
  /// A word in the strip under the picture, behind those that are there.
  Chip* addChip(const QString& name) { return strip_->add(name); }
  /// Where the picture is: all above the strip.
  QRect pictureRect() const { return {0, 0, width(), height() - Strip::kHeight}; }
  QMenu* shapeMenu() { return shape_menu_; }
  QMenu* viewMenu() { return view_menu_; }
  const DrapeView& view() const { return view_; }
  const QString& meshName() const { return mesh_name_; }
  Direction towardsLight() const;
  const DrapeEngine& engine() const { return engine_; }
  bool isIdle() const { return engine_.isIdle() && held_engine_.isIdle() && measuring_.isIdle() && !reads_; }
  int samples() const { return samples_; }
  const QImage& image() const { return *image_; }
  const QImage& heldImage() const { return *held_image_; }  ///< A's, in a wipe or a difference

 Q_SIGNALS:
  void pictureShown();
  void lightTurned();
  void eyeMoved();
  void partPressed(const std::string& part);  ///< a click on a part of the mesh; empty: beside it
  void stood();                               ///< a mesh or another shape stands there
  void meshTaken(const QString& path);
  /// A bolt or a document was dropped on a part of a mesh; empty: on what has no parts, or beside it.
  void materialDropped(const QString& path, const std::string& part);
  void shapeKept(const QString& shape);  ///< the shape in sight is to go with the material
  void told(const QString& text);        ///< what became of a file, for the person
  void brushChanged();                   ///< by a key
  void wiped(double share);              ///< the line between A and B was moved
  void followWanted(QPointF tile);       ///< a place that Ctrl and a click pointed at

 protected:
  void tabletEvent(QTabletEvent*) override;
  void leaveEvent(QEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void ask();
  std::optional<ShapeBrush::Sight> sight() const;
  std::optional<Body::Hit> hitUnder(QPointF widget) const;
  bool comparesTwo() const { return comparison_.how == Compare::wipe || comparison_.how == Compare::difference; }
  QString comparedText() const;
  void paintImage(QPainter& p);
  std::vector<Chip::Choice> environments();
  std::vector<Chip::Choice> exposures();
  void renew();
  void standOnRead();
  void makeShapeMenu();
  void makeViewMenu();
  void makeEnvironmentMenu();
  void makeContoursMenu();
  void setContours(const Contours& lines);
  QAction* choice(QMenu* menu, const QString& text, const std::function<bool()>& is,
                  const std::function<void()>& choose);
  template <class T>
  void values(QMenu* menu, T DrapeView::*what, std::initializer_list<std::pair<QString, T>> all);
  QAction* toggle(const QString& text, bool DrapeView::*what);
  Camera& cameraHere();  // of the shape or the mesh that is shown
  void turnLight(float left, float higher);
  void turnEnvironment(float left);
  void turnShape(float left, float higher);
  void moveShape(float right, float up);
  void changed();
  DrapeEngine engine_, held_engine_;
  Measuring measuring_;
  ShapeBrush brush_;
  VolumeHandles volume_{this};
  bool paints_ = false, draws_ = false;
  using ReadMesh = Result<std::shared_ptr<const MeshShape>>;
  QFutureWatcher<ReadMesh> reading_;
  QString reading_name_;
  bool reads_ = false;  // until what was read stands: the future itself is done a little before that
  DrapeView view_;
  Contours lines_;                         // as they are drawn, whether they are shown or not
  Direction told_light_ = towardsLight();  // as it was told last
  Camera told_camera_ = view_.camera;
  std::set<MeshMeasure> also_measured_;
  Outfit outfit_, quick_;  // quick_: of the pass before outfit_
  KeptImage image_, held_image_, difference_;
  Comparison comparison_;
  QString message_, unlit_, own_name_, mesh_name_, part_;
  int samples_ = 0;
  double noise_ = 0;
  QPointF dragged_;
  bool wipes_ = false;           // the line between A and B is held
  bool clicks_ = false;          // the left button went down and nothing has been dragged since
  std::vector<Camera> cameras_;  // of each shape, and of a mesh
  Strip* strip_;
  Chip *shape_, *light_, *exposure_, *more_, *draw_;
  QMenu *shape_menu_, *view_menu_, *repeats_;
  QAction *relief_, *mesh_action_, *keep_;
  std::shared_ptr<const MeshShape> mesh_;                            // that was taken last, whether it is shown or not
  std::vector<std::pair<QAction*, std::function<bool()>>> choices_;  // and whether they hold now
};

}  // namespace loom::app
