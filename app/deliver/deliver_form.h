// The delivery: slot by slot what is written, where, how large; one button, real progress, a report.
#pragma once
#include <QWidget>

#include "app/base/hearer.h"
#include "core/bolt/delivery.h"

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
  void refreshNames();
  void write();
  void offerScale(const std::vector<std::string>& cut);
  void chooseFolder();
  bool brief_, writing_ = false;
  Material material_;
  std::vector<SlotDelivery> slots_;
  std::map<std::string, SurfaceUse> no_maps_;  // slots that depend on the shape
  std::vector<Row> rows_;
  std::vector<std::string> cut_, scaled_;  // slots: by the last delivery, and for the next one
  QGridLayout* table_;
  QLineEdit *folder_, *pattern_;
  QComboBox *size_, *green_;
  QProgressBar* bar_;
  QLabel *state_, *report_;
  QPushButton *deliver_, *cancel_, *scale_;
  Stop stop_;
  Hearer hearer_{this};
};

}  // namespace loom::app
