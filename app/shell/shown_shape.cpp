// Looking at another shape is no change of the material; taking a mesh to it is.
#include "app/shell/shown_shape.h"

#include <QFileInfo>

#include "app/drape/drape_panel.h"
#include "app/shell/document_files.h"

namespace loom::app {

ShownShape::ShownShape(Document& document, DocumentFiles& files, DrapePanel& drape, QObject* parent)
    : QObject(parent), document_(document), files_(files), drape_(drape) {
  connect(&drape_, &DrapePanel::meshTaken, this, &ShownShape::take);
  connect(&drape_, &DrapePanel::shapeKept, this, &ShownShape::keep);
}

ShownShape::Asked ShownShape::asked() const {
  const Material& m = document_.material();
  Asked now{m.shape, m.mesh, {}};
  if (m.mesh.empty()) return now;
  const auto path = find_path(m.files ? *m.files : FileRoot{}, m.mesh);
  now.where = !path ? std::string() : path->empty() ? document_.path().toStdString() : path->string();
  std::error_code failed;
  if (const auto time = std::filesystem::last_write_time(now.where, failed); !failed)
    now.where += " " + std::to_string(time.time_since_epoch().count());
  return now;
}

void ShownShape::renew() {
  const Asked now = asked();
  if (now == stood_) return;
  if (std::exchange(on_drape_, false)) return void(stood_ = now);
  const bool had_mesh = !std::exchange(stood_, now).mesh.empty();
  const Material& m = document_.material();
  drape_.standAs(m);  // first of all: a mesh that is still being read comes too late
  if (had_mesh && m.mesh.empty() && m.shape.empty()) drape_.setShape(drape_.view().shape);
}

// Whoever chose a mesh wants it with the material; a bolt keeps what it packs.
void ShownShape::take(const QString& mesh) {
  if (document_.isBolt()) return;
  const ParamValue name = QFileInfo(mesh).absoluteFilePath().toStdString();
  files_.allowChosen(name);
  Material next = document_.material();
  next.mesh = std::get<std::string>(files_.besideDocument(name));
  next.shape.clear();
  on_drape_ = true;
  document_.edit(tr("Show it on %1").arg(QFileInfo(mesh).completeBaseName()), std::move(next));
}

void ShownShape::keep(const QString& shape) {
  Material next = document_.material();
  if (shape.isEmpty() || next.shape == shape.toStdString()) return;
  next.shape = shape.toStdString();
  next.mesh.clear();
  on_drape_ = true;
  document_.edit(tr("Keep the shape"), std::move(next));
}

}  // namespace loom::app

#include "moc_shown_shape.cpp"
