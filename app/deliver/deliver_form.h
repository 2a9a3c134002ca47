// The delivery: slot by slot what is written, where, how large; one button, real progress, a report.
#pragma once
#include <QWidget>

#include "app/base/hearer.h"
#include "core/bolt/on_mesh.h"

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;

namespace loom::app {

/// Used by the delivery dialogue and by the fitting. Writing runs on a thread of its own.
class DeliverForm : public QWidget {
  Q_OBJECT
 public:
  /// `brief`: the few lines of the fitting instead of a row for each slot.
  DeliverForm(bool brief, QWidget* parent = nullptr);
  ~DeliverForm() override;
  void showMaterial(const Material& material);
  /// Offers to write the maps in the coordinates of a mesh, too: of all its parts, as `whole` has them. Null: there is
  /// none. Where a slot depends on the shape, that is what is chosen to begin with.
  void showMesh(std::shared_ptr<const MeshShape> mesh, const QString& name, const Material& whole);
  void setFolder(const QString& folder);
  DeliveryPlan plan() const;
  bool isWriting() const { return writing_; }
  void start();
  /// Again, with the slots that were cut scaled into range.
  void startScaled();
  void cancel();

 Q_SIGNALS:
  void finished(bool good, const QString& report);

 private:
  struct Row {
    std::string slot;
    QCheckBox* on;
    QLabel* file;
    QComboBox *format, *bits;
    QLabel* encoding;
  };
  bool ontoMesh() const;
  const Material& delivered() const { return ontoMesh() ? whole_ : material_; }
  void chooseSlots();
  void fillTable();
  void refreshNames();
  void write();
  void offerScale(const std::vector<std::string>& cut);
  void chooseFolder();
  bool brief_, writing_ = false;
  Material material_, whole_;
  std::shared_ptr<const MeshShape> mesh_;
  std::vector<SlotDelivery> slots_;
  std::map<std::string, SurfaceUse> no_maps_;  // slots that cannot be maps, there where they are to be written
  std::vector<Row> rows_;
  std::vector<std::string> cut_, scaled_;  // slots: by the last delivery, and for the next one
  QGridLayout* table_;
  QLineEdit *folder_, *pattern_;
  QComboBox *size_, *green_, *onto_;
  QLabel* onto_caption_;
  QProgressBar* bar_;
  QLabel *state_, *report_;
  QPushButton *deliver_, *cancel_, *scale_;
  Stop stop_;
  Hearer hearer_{this};
};

}  // namespace loom::app
