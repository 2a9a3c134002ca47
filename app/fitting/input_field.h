// An input of a bolt as a field: a map is dropped on it or chosen.
#pragma once
#include <QFrame>
#include <QImage>

#include "app/tray/parameter_row.h"
#include "core/graph/material.h"

class QLabel;
class QPushButton;

namespace loom::app {

class InputField : public QFrame {
  Q_OBJECT
 public:
  explicit InputField(const Node& input, QWidget* parent = nullptr);
  const std::string& id() const { return id_; }
  /// `picture`: of what stands in, where that is a file.
  void showInput(const Node& input, const QImage& picture);

 Q_SIGNALS:
  void pictureWanted(const QString& path);
  /// Back to how the bolt brings it.
  void resetWanted();

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void choose();
  std::string id_;
  QLabel *name_, *picture_, *state_;
  QPushButton *choose_, *back_;
};

/// Of an input that a value can be typed for: its parameter, which stands among the dials.
std::optional<RowView> typedRow(const Node& input);

}  // namespace loom::app
