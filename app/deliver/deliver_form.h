// The delivery: file by file what is written, where, how large; one button, real progress, a report.
#pragma once
#include <QElapsedTimer>
#include <QWidget>

#include "app/base/hearer.h"
#include "core/bolt/errands.h"
#include "core/bolt/on_mesh.h"
#include "core/surface/drape.h"

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QVBoxLayout;

namespace loom::app {

class ReportView;

/// Used by the delivery dialogue and by the fitting. Writing runs on a thread of its own.
class DeliverForm : public QWidget {
  Q_OBJECT
 public:
  /// `brief`: the few lines of the fitting instead of a row for each file.
  DeliverForm(bool brief, QWidget* parent = nullptr);
  ~DeliverForm() override;
  void showMaterial(const Material& material);
  /// Offers to write the maps in the coordinates of a mesh, too: of all its parts, as `whole` has them. Null: there is
  /// none. Where a slot depends on the shape, that is what is chosen to begin with.
  /// The shape is what a glTF shows it on, where it is not on the mesh.
  void showOn(const DrapeView& view, const QString& meshName, const Material& whole);
  void setFolder(const QString& folder);
  /// Of the first size.
  DeliveryPlan plan() const;
  bool isWriting() const { return writing_; }
  void start();
  /// Again, with the files that were cut scaled into range.
  void startScaled();
  void cancel();
  /// Keeps what stands in the form with the material, under this name.
  void keepList(const QString& name);

 Q_SIGNALS:
  void finished(bool good, const QString& report);
  void listsWanted(const QString& name, const std::vector<loom::DeliveryList>& lists);

 private:
  struct Row {
    QCheckBox* on;
    QLabel* file;
    QComboBox *format, *bits;
    QLabel* encoding;
    QCheckBox* dither;
    std::map<std::string, QComboBox*> channels;
  };
  void addTop(QVBoxLayout* into);
  void addBottom(QVBoxLayout* into);
  bool ontoMesh() const;
  const Material& delivered() const { return ontoMesh() ? whole_ : material_; }
  void fillLists();
  std::optional<DeliveryList> chosenList() const;
  std::vector<FileDelivery> chosenFiles() const;
  void chooseFiles();
  std::optional<SurfaceUse> noMap(const FileDelivery& file) const;
  void fillTable();
  int addRow(std::size_t i, int line);
  int addChannels(std::size_t i, int line);
  void addFile();
  void refreshNames();
  std::vector<int> sizes() const;
  Every every() const;
  Result<std::vector<Errand>> allErrands() const;
  void write();
  void showProgress(double share, const QString& what);
  void offerScale(const std::vector<std::string>& cut);
  void chooseFolder();
  bool brief_, writing_ = false;
  Material material_, whole_;
  std::shared_ptr<const MeshShape> mesh_;
  ShapeName shape_ = ShapeName::tile;
  std::vector<FileDelivery> files_;
  std::map<std::string, SurfaceUse> no_maps_;  // slots that cannot be maps, there where they are to be written
  std::vector<Row> rows_;
  std::vector<std::string> cut_, scaled_;  // files: by the last delivery, and for the next one
  QGridLayout* table_;
  QLineEdit *folder_, *pattern_;
  QComboBox *size_, *green_, *list_, *onto_;
  QLabel *onto_caption_, *every_caption_;
  QCheckBox *presets_, *lists_, *parts_, *gltf_, *glb_, *materialx_, *nodes_;
  QProgressBar* bar_;
  QLabel* state_;
  ReportView* report_;
  QPushButton *deliver_, *cancel_, *scale_;
  QString kept_;  // the list that was kept just now
  QElapsedTimer began_;
  Stop stop_;
  Hearer hearer_{this};
};

}  // namespace loom::app
