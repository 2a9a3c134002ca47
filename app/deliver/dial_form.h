// One dial as its maker describes it: name, kind, range, limits, steps, start, when it acts, help.
#pragma once
#include <QWidget>

#include "core/graph/material.h"

class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPlainTextEdit;

namespace loom::app {

class ParameterRow;

class DialForm : public QWidget {
  Q_OBJECT
 public:
  explicit DialForm(QWidget* parent = nullptr);
  /// Null: there is none, and the form is empty.
  void showDial(const Material& material, const Value* value);

 Q_SIGNALS:
  /// `gesture`: what is typed on end is one step.
  void dialWanted(const loom::Dial& dial, const QString& gesture);

 private:
  QLineEdit* addLine(QFormLayout* form, const QString& label, const QString& caption);
  void showStart(const Material& material, const Value& value);
  void showNumbers(bool number, const Dial& dial, Unit unit);
  bool typed(const QLineEdit& field, double& value) const;
  void send(const QString& gesture = {});
  Dial dial_;
  Unit unit_ = Unit::none;
  std::string of_;  // the value that is shown; empty: none
  QLineEdit *label_, *group_, *least_, *most_, *lowest_, *highest_, *step_, *acts_, *reason_;
  QComboBox *kind_, *units_;
  ParameterRow* start_ = nullptr;
  ParameterKind started_ = ParameterKind::scalar;  // what the row was made for
  std::string start_of_;
  QWidget* start_holder_;
  QPlainTextEdit* help_;
  QLabel *turns_, *fault_;
  bool filling_ = false;
};

}  // namespace loom::app
