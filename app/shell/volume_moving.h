// The volume of the node that is shown is moved by hand on the drape.
#pragma once
#include <QObject>
#include <optional>
#include <string>

#include "app/drape/volume_handles.h"

namespace loom::app {

class DrapePanel;
class Navigation;

class VolumeMoving : public QObject {
  Q_OBJECT
 public:
  VolumeMoving(Navigation& navigation, DrapePanel& drape, QObject* parent);
  /// The node whose output is shown, as the board knows it; its handles stand on the drape if it is a volume whose
  /// measures are numbers.
  void show(const std::string& node);

 Q_SIGNALS:
  void gestureEnded();

 private:
  void move(const Volume& to);
  Navigation& navigation_;
  DrapePanel& drape_;
  std::string node_;
  std::optional<Volume> volume_;  // as it stands
};

}  // namespace loom::app
