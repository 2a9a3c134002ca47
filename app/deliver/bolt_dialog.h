// The bolt: what it says of itself, its notes, what it packs; and the button that writes it.
#pragma once
#include <QDialog>

#include "app/engine/picture_maker.h"
#include "core/graph/material.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPlainTextEdit;
class QPushButton;
class QStackedWidget;
class QToolButton;
class QVBoxLayout;

namespace loom::app {

class NotesView;

class BoltDialog : public QDialog {
  Q_OBJECT
 public:
  explicit BoltDialog(QWidget* parent = nullptr);
  void showMaterial(const Material& material);
  bool isIdle() const { return pictures_.isIdle(); }

 Q_SIGNALS:
  /// `gesture`: what is typed on end is one step.
  void editWanted(const QString& name, const loom::Material& next, const QString& gesture);
  /// As the material stands; where to is still to be asked.
  void writeWanted();

 private:
  void addFields(QVBoxLayout* into);
  void addNotes(QVBoxLayout* into);
  void addContents(QVBoxLayout* into);
  void send();
  void seeNotes(bool rendered);
  void showContents();
  void showFault(const QString& text);
  Material material_;
  QLineEdit *id_, *version_, *tags_;
  QComboBox* licence_;
  QLabel *picture_, *contents_, *fault_;
  QPlainTextEdit* notes_;
  NotesView* rendered_;
  QStackedWidget* pages_;
  QToolButton *writing_, *seeing_;
  QPushButton* write_;
  PictureMaker pictures_{176};
  bool filling_ = false;
};

}  // namespace loom::app
