// A volume in space that is moved, stretched and turned by hand over the lit picture.
#pragma once
#include <QObject>
#include <QPointF>
#include <array>
#include <optional>

#include "core/surface/drape.h"

class QPainter;

namespace loom::app {

/// Metres and degrees, as the shape has them; turned about the upright axis.
struct Volume {
  enum class Form { ball, box, wedge };
  Form form = Form::ball;
  Vec3 centre, size{1, 1, 1};
  float turn = 0;
  bool turns = true;  ///< a ball as broad as deep does not
  /// Of length 1: its own x, y or z.
  Vec3 axis(std::size_t i) const;
  /// A place in it, whose own measures run from -0.5 to 0.5.
  Vec3 at(Vec3 share) const;
};

class VolumeHandles : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;
  /// None: there is nothing to move.
  void show(std::optional<Volume> volume) { volume_ = std::move(volume); }
  bool isShown() const { return volume_.has_value(); }
  /// Where a handle stands in a picture of `density` pixels a unit of the widget; none behind the eye.
  enum Handle : std::size_t { centre, size_x, size_y, size_z, turn, count };
  std::optional<QPointF> place(Handle handle, const Drape& drape, double density) const;
  /// False where the hand takes hold of none.
  bool begin(QPointF at, const Drape& drape, double density);
  /// `fine` lifts the snapping to millimetres and degrees.
  void goOn(QPointF at, const Drape& drape, double density, bool fine);
  void end();
  bool isHeld() const { return held_ != count; }
  void paint(QPainter& p, const Drape& drape, double density) const;

 Q_SIGNALS:
  void dragged(const loom::app::Volume& volume);
  void ended();

 private:
  std::optional<float> measure(QPointF at, const Drape& drape, double density) const;
  std::optional<Volume> volume_;
  Handle held_ = count;
  Volume from_;      // as it was when the hand took hold
  Vec3 grip_;        // of the centre: where on its plane
  float begun_ = 0;  // of the others: metres along the axis, or degrees
};

}  // namespace loom::app
