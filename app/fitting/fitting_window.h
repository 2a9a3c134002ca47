// The window of the surfacing artist: presets, drape, dials, delivery. No graph.
#pragma once
#include <QMainWindow>
#include <memory>
#include <vector>

#include "app/deliver/deliver_form.h"
#include "app/drape/drape_panel.h"
#include "app/engine/engine.h"
#include "app/tray/parameter_row.h"
#include "core/bolt/package.h"

class QVBoxLayout;

namespace loom::app {

class InputField;
class MeshField;
class OthersList;
class StartColumn;
class Stock;

class FittingWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit FittingWindow(const Bolt& bolt, const QString& path, QWidget* parent = nullptr);
  /// Shows what else lies in the Stockroom, under the presets.
  void offer(Stock& stock);
  const Material& material() const { return bolt_.material; }
  DeliverForm* form() const { return form_; }
  DrapePanel* drape() const { return drape_; }
  OthersList* others() const { return others_; }
  const std::vector<ParameterRow*>& rows() const { return rows_; }
  void choosePreset(int index);  ///< -1: all dials at start; one's own follow those of the bolt
  void turn(const std::string& dial, const ParamValue& value);
  /// Keeps the dials as they are as a preset of one's own, and goes on from it.
  void keepAsMine(const QString& name);
  /// The preset that one started from beside what it became.
  void compareWithStart(bool compares);
  /// A map for an input, by the identifier of its node.
  void giveMap(const std::string& input, const QString& path);
  QDialog* openNotes();
  bool isIdle() const;

 Q_SIGNALS:
  void openInWeave(const loom::Material& material);
  void openWanted(const QString& file);  ///< another bolt, in a fitting of its own
  void stockroomWanted();

 protected:
 private:
  QWidget* bar();
  QWidget* startColumn();
  QWidget* turnColumn();
  void refresh();
  void showStanding();
  void renewStart();  // after what changes it as well: all but a dial
  Preset presetAt(int index) const;
  ParamValue atPreset(const Value& value) const;
  Material atStart() const;
  void askToKeep();
  void removeMine(int preset);
  bool readMine();
  void writeMine();
  void addDials(QVBoxLayout* into);
  QWidget* ownFields();
  void addTypedInputs(QVBoxLayout* into);
  void resetInput(const std::string& input);
  QImage pictureOf(const Node& input);
  Bolt bolt_;
  QString path_;
  Engine engine_;
  std::unique_ptr<Engine> startEngine_;  // while one compares
  double wipe_ = 0.5;                    // the share of the picture that the start has
  StartColumn* presets_;
  QVBoxLayout* startBox_ = nullptr;
  OthersList* others_ = nullptr;
  DrapePanel* drape_;
  Chip* compare_;
  DeliverForm* form_;
  MeshField* mesh_ = nullptr;
  std::vector<ParameterRow*> rows_;
  std::vector<std::pair<std::string, ParameterRow*>> typed_;  // by the input
  std::vector<InputField*> fields_;
  std::vector<NodePtr> inputs_;                  // as the bolt brings them
  std::map<std::string, QImage> inputPictures_;  // by the name of the file, which keeps its bytes
  std::vector<Preset> mine_;
  int preset_ = -1;
};

}  // namespace loom::app
