// Where a fitting starts: the bolt's presets and one's own as pictures.
#pragma once
#include <QWidget>
#include <string>
#include <vector>

#include "app/engine/picture_maker.h"
#include "core/bolt/package.h"

class QGridLayout;
class QLabel;
class QPushButton;
class QScrollArea;

namespace loom::app {

class StartColumn : public QWidget {
  Q_OBJECT
 public:
  explicit StartColumn(QWidget* parent = nullptr);

  /// As made, the bolt's presets, and one's own: numbered in this order from -1. What the bolt brings as pictures shows
  /// at once; what it lacks is made.
  void showPresets(const Bolt& bolt, const std::vector<Preset>& own);
  /// How far the dials are from the preset that was started from.
  void showState(int preset, int turned);
  bool isIdle() const { return pictures_.isIdle(); }

 Q_SIGNALS:
  void chosen(int preset);
  void keepWanted();
  void removeWanted(int preset);  ///< one of one's own

 private:
  void add(const QString& name, int line, int column);
  QScrollArea* area_;
  QGridLayout* grid_;
  std::vector<QPushButton*> tiles_;
  std::vector<QLabel*> names_;
  QLabel* state_;
  QPushButton *keep_, *back_, *remove_;
  int preset_ = -1;
  std::size_t own_from_ = 1;  // the first of one's own, by place
  PictureMaker pictures_{100};
};

}  // namespace loom::app
