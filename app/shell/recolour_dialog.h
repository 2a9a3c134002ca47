// The colours of the selected nodes turned together, with what they were above what they become.
#pragma once
#include <QDialog>
#include <array>
#include <functional>
#include <vector>

#include "core/nodes/recolour.h"

namespace loom::app {

class Slider;
class Swatches;

class RecolourDialog : public QDialog {
  Q_OBJECT
 public:
  RecolourDialog(const std::vector<std::array<double, 3>>& colours, QWidget* parent);
  bool hasShifted() const { return has_shifted_; }

 Q_SIGNALS:
  void shifted(const loom::ColourShift& by);

 private:
  void addRow(const QString& label, double ColourShift::*what, double least, double most, const QString& unit);
  void set(double ColourShift::*what, double value);
  void renew();

  ColourShift shift_;
  bool has_shifted_ = false;
  Swatches* swatches_;
  std::vector<std::function<void()>> rows_;  // what brings each up to date
};

}  // namespace loom::app
