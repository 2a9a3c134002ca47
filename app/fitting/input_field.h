// An input of a bolt as a field: a map is dropped on it or chosen. And the mesh likewise.
#pragma once
#include "app/fitting/drop_field.h"
#include "app/tray/parameter_row.h"
#include "core/graph/material.h"
#include "core/surface/drape.h"

namespace loom::app {

class InputField : public DropField {
  Q_OBJECT
 public:
  explicit InputField(const Node& input, QWidget* parent = nullptr);
  const std::string& id() const { return id_; }
  /// `picture`: of what stands in, where that is a file.
  void showInput(const Node& input, const QImage& picture);

 private:
  std::string id_;
};

/// What the material is seen on, and its maps can be made for.
class MeshField : public DropField {
  Q_OBJECT
 public:
  explicit MeshField(QWidget* parent = nullptr);
  /// `name` of the mesh; `brought`: it came with the bolt.
  void showView(const DrapeView& view, const QString& name, bool brought);

 private:
  std::shared_ptr<const MeshShape> shown_;
  QImage picture_;
};

/// Of an input that a value can be typed for: its parameter, which stands among the dials.
std::optional<RowView> typedRow(const Node& input);

}  // namespace loom::app
