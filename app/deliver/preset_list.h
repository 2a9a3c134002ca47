// The presets of a material with their pictures: kept, renamed, put in order, brought up to the state at hand.
#pragma once
#include <QTimer>
#include <QWidget>

#include "app/engine/picture_maker.h"
#include "core/graph/material.h"

class QListWidget;

namespace loom::app {

class PresetList : public QWidget {
  Q_OBJECT
 public:
  explicit PresetList(QWidget* parent = nullptr);
  void showMaterial(const Material& material);
  QListWidget* list() const { return list_; }
  bool isIdle() const { return !renew_.isActive() && pictures_.isIdle(); }

 Q_SIGNALS:
  void editWanted(const QString& name, const loom::Material& next);

 private:
  std::string chosen() const;
  void keepNew();
  void rename(const std::string& from, const QString& to);
  void order(int by);
  void orderPictures();
  Material material_;
  QListWidget* list_;
  PictureMaker pictures_{64};
  QTimer renew_;  // pictures wait until the hand rests
  bool filling_ = false;
};

}  // namespace loom::app
