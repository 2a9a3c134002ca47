// One patch of the base colour at two sizes, side by side.
#pragma once
#include <QWidget>

#include "app/proof/judge.h"

class QLabel;

namespace loom::app {

class TwoSizesView : public QWidget {
 public:
  explicit TwoSizesView(QWidget* parent = nullptr);
  void show(const std::optional<TwoSizes>& sizes);

 private:
  QLabel *told_, *small_, *large_, *smallWord_, *largeWord_;
};

}  // namespace loom::app
