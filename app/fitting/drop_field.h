// A field that a file is dropped on, or chosen for.
#pragma once
#include <QFrame>
#include <QImage>

class QLabel;
class QPushButton;

namespace loom::app {

class DropField : public QFrame {
  Q_OBJECT
 public:
  static constexpr int kPicture = 56;  ///< pixels a side
  /// `wanted` names what is asked for, and `filter` its files, as a file dialogue has them.
  DropField(const QString& wanted, const QString& filter, QWidget* parent);

 Q_SIGNALS:
  void fileWanted(const QString& path);
  /// Back to how it came.
  void resetWanted();

 protected:
  void setName(const QString& name);
  /// Whether files are taken at all.
  void setTakes(bool takes);
  /// `back`: there is something to go back from.
  void show(const QString& state, const QImage& picture, bool back);
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void choose();
  QString wanted_, filter_;
  QLabel *name_, *picture_, *state_;
  QPushButton *choose_, *back_;
};

}  // namespace loom::app
