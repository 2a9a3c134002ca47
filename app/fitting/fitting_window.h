// The window of the surfacing artist: presets, drape, dials, delivery. No graph.
#pragma once
#include <QMainWindow>
#include <vector>

#include "app/deliver/deliver_form.h"
#include "app/drape/drape_panel.h"
#include "app/engine/engine.h"
#include "app/engine/picture_maker.h"
#include "app/tray/parameter_row.h"
#include "core/bolt/package.h"

class QPushButton;
class QVBoxLayout;

namespace loom::app {

class FittingWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit FittingWindow(const Bolt& bolt, const QString& path, QWidget* parent = nullptr);
  const Material& material() const { return bolt_.material; }
  DeliverForm* form() const { return form_; }
  DrapePanel* drape() const { return drape_; }
  const std::vector<ParameterRow*>& rows() const { return rows_; }
  void choosePreset(int index);  ///< -1: all dials at start
  void turn(const std::string& dial, const ParamValue& value);
  /// A map for an input, by the identifier of its node.
  void giveMap(const std::string& input, const QString& path);
  QDialog* openNotes();
  bool isIdle() const { return engine_.isIdle() && drape_->engine().isIdle() && presetPictures_.isIdle(); }

 Q_SIGNALS:
  void openInWeave(const loom::Material& material);

 private:
  void refresh();
  ParamValue atPreset(const Value& value) const;
  void addDials(QVBoxLayout* into);
  void addPresets(QVBoxLayout* into);
  QWidget* inputFields();
  void addTypedInputs(QVBoxLayout* into);
  void resetInput(const std::string& input);
  QImage pictureOf(const Node& input);
  void orderPresetPictures();
  Bolt bolt_;
  Engine engine_;
  PictureMaker presetPictures_{100};
  DrapePanel* drape_;
  DeliverForm* form_;
  std::vector<ParameterRow*> rows_;
  std::vector<std::pair<std::string, ParameterRow*>> typed_;  // by the input
  std::vector<class InputField*> fields_;
  std::vector<NodePtr> inputs_;                  // as the bolt brings them
  std::map<std::string, QImage> inputPictures_;  // by the name of the file, which keeps its bytes
  std::vector<QPushButton*> presets_;
  int preset_ = -1;
  class QLabel* state_ = nullptr;
  QPushButton* back_ = nullptr;
};

}  // namespace loom::app
