// Small pictures on order, made one after the other off the interface thread: suggestions, presets.
#pragma once
#include <QImage>
#include <QObject>

#include "app/base/latest_worker.h"
#include "core/bolt/lit_pictures.h"

namespace loom::app {

/// `output` is NODE.PEG, seen flat; empty: the whole material, lit on its mesh or a ball.
struct PictureOrder {
  int id = 0;
  Material material;
  std::string output;
};

class PictureMaker : public QObject {
  Q_OBJECT
 public:
  explicit PictureMaker(int size, QObject* parent = nullptr);
  /// What was ordered before and is not done yet is dropped.
  void order(std::vector<PictureOrder> orders) { worker_.ask(std::move(orders)); }
  bool isIdle() const { return worker_.isIdle(); }

 Q_SIGNALS:
  void made(int id, const QImage& picture);

 private:
  void make(const PictureOrder& order, const Stop& stop);
  LitPictures pictures_;  // the worker's own
  LatestWorker<std::vector<PictureOrder>> worker_;
};

}  // namespace loom::app
