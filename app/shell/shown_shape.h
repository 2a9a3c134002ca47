// The shape or the mesh that goes with the document: shown on the drape, and taken from there.
#pragma once
#include <QObject>

#include "app/engine/document.h"

namespace loom::app {

class DocumentFiles;
class DrapePanel;

class ShownShape : public QObject {
  Q_OBJECT
 public:
  ShownShape(Document& document, DocumentFiles& files, DrapePanel& drape, QObject* parent);
  /// To be called whenever the document may be another: its shape comes on the drape where it is not the one before.
  void renew();

 private:
  struct Asked {
    std::string shape, mesh, where;  ///< the file and its time
    friend bool operator==(const Asked&, const Asked&) = default;
  };
  Asked asked() const;
  void take(const QString& mesh);
  void keep(const QString& shape);

  Document& document_;
  DocumentFiles& files_;
  DrapePanel& drape_;
  Asked stood_;
  bool on_drape_ = false;  // what the next state asks for was taken from there
};

}  // namespace loom::app
