// From where one looked at a document's shape: kept beside the program's settings, not in the document.
#pragma once
#include <QObject>
#include <QTimer>
#include <optional>

#include "core/surface/camera.h"

namespace loom::app {

class Document;
class DrapePanel;

class KeptCamera : public QObject {
  Q_OBJECT
 public:
  KeptCamera(const Document& document, DrapePanel& drape, QObject* parent);
  /// To be called whenever the document may be another: before its shape is asked for, and after.
  void leave();
  void renew();
  /// What is still to be noted.
  void finish();

 private:
  QString standing() const;  // what is shown: a shape's identifier, or a mesh's name
  void bring();
  void note() const;

  const Document& document_;
  DrapePanel& drape_;
  QString path_;                  // of the document that is shown
  std::optional<Camera> wanted_;  // until what it looked at stands there
  QString wanted_on_;
  QTimer soon_;
};

}  // namespace loom::app
