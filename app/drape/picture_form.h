// The lit picture to a file, at any size.
#pragma once
#include <QDialog>
#include <QFutureWatcher>

#include "core/base/error.h"
#include "core/surface/drape.h"

class QLabel;
class QProgressBar;
class QPushButton;
class QSpinBox;

namespace loom::app {

/// Asks for a size and how many samples, and makes the picture on another thread. PNG as the drape shows it, or EXR
/// with linear radiance.
class PictureForm : public QDialog {
  Q_OBJECT
 public:
  PictureForm(const Outfit& outfit, const DrapeView& view, QWidget* parent);
  ~PictureForm() override;
  void setSize(int width, int height);
  void setSamples(int samples);
  void begin(const QString& path);
  bool isBusy() const { return watcher_.isRunning(); }
  QString told() const;  ///< what the form says of its last picture

 Q_SIGNALS:
  void progressed(int samples);
  void made(const QString& path);

 public Q_SLOTS:
  void reject() override;

 private:
  void finish();
  void renew();
  Outfit outfit_;
  DrapeView view_;
  QString path_;
  Stop stop_;
  QFutureWatcher<Result<Done>> watcher_;
  QSpinBox *width_, *height_, *samples_;
  QPushButton *start_, *cancel_;
  QProgressBar* bar_;
  QLabel* told_;
};

}  // namespace loom::app
