// Fitting to a picture: which dials, how long, and how near it has come, live.
#pragma once
#include <QDialog>
#include <QImage>

#include "app/base/hearer.h"
#include "app/base/latest_worker.h"
#include "core/bolt/fit.h"

class QCheckBox;
class QDoubleSpinBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QSpinBox;
class QVBoxLayout;

namespace loom::app {

class FitDialog : public QDialog {
  Q_OBJECT
 public:
  explicit FitDialog(QWidget* parent = nullptr);
  ~FitDialog() override;
  /// What is at hand; a search under way goes on from where it began.
  void showMaterial(const Material& material);
  void takePicture(const QString& path);
  void setSeconds(int seconds);
  /// The boxes of the dials, by identifier.
  QCheckBox* box(const std::string& dial) const;
  QPushButton* startButton() const { return start_; }
  QPushButton* takeButton() const { return take_; }
  QString told() const;
  bool isIdle() const { return worker_.isIdle(); }
  void reject() override;

 Q_SIGNALS:
  /// The dials that were turned are to be set so.
  void takeWanted(const std::map<std::string, loom::ParamValue>& dials, const QString& words);

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  struct Row {
    std::string dial;
    QCheckBox* on;
    QLabel *now, *found;
  };
  struct Job {
    Material material;
    std::shared_ptr<const Image> picture;
    FitWish wish;
    int round = 0;
  };
  QLabel* pictureField(class QHBoxLayout* row, const QString& caption);
  void choosePicture();
  void listDials();
  void start();
  void stop();
  void run(const Job& job, const Stop& stop);
  void better(int round, const FitState& state, const QImage& picture);
  void ended(int round, const Result<Fitted>& found);
  void renew();

  Material material_, from_;  // at hand; where the search began
  std::shared_ptr<const Image> picture_;
  QString name_;
  QLabel *target_, *before_, *after_, *told_;
  QVBoxLayout* list_;
  std::vector<Row> rows_;
  QDoubleSpinBox* scale_;
  QSpinBox* seconds_;
  QProgressBar* bar_;
  QPushButton *start_, *take_;
  std::map<std::string, ParamValue> found_;
  int round_ = 0;
  bool busy_ = false;
  Hearer hearer_{this};
  LatestWorker<Material> before_maker_;
  LatestWorker<Job> worker_;
};

}  // namespace loom::app
