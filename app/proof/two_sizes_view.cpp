#include "app/proof/two_sizes_view.h"

#include <QGridLayout>
#include <QLabel>

#include "app/base/labels.h"

namespace loom::app {
namespace {

constexpr int kShown = 126;

}  // namespace

TwoSizesView::TwoSizesView(QWidget* parent)
    : QWidget(parent),
      told_(new QLabel(this)),
      small_(new QLabel(this)),
      large_(new QLabel(this)),
      smallWord_(new QLabel(this)),
      largeWord_(new QLabel(this)) {
  auto* grid = new QGridLayout(this);
  grid->setContentsMargins(24, 8, 12, 8);
  grid->setHorizontalSpacing(12);
  grid->setVerticalSpacing(3);
  grid->addWidget(titleLabel(QObject::tr("Same at two sizes"), this), 0, 0);
  grid->addWidget(told_, 0, 1, Qt::AlignRight);
  for (auto* picture : {small_, large_}) picture->setFixedSize(kShown, 96);
  for (auto* word : {smallWord_, largeWord_, told_}) setRole(word, "mute");
  grid->addWidget(small_, 1, 0);
  grid->addWidget(large_, 1, 1);
  grid->addWidget(smallWord_, 2, 0);
  grid->addWidget(largeWord_, 2, 1);
  grid->setColumnStretch(2, 1);
}

void TwoSizesView::show(const std::optional<TwoSizes>& sizes) {
  setVisible(sizes.has_value());
  if (!sizes) return;
  const auto shown = [&](const QImage& patch) {
    const qreal ratio = devicePixelRatioF();
    // Texels stay what they are: the smaller map is seen to be coarser.
    const Qt::TransformationMode how =
        patch.width() < kShown * ratio ? Qt::FastTransformation : Qt::SmoothTransformation;
    QPixmap picture = QPixmap::fromImage(patch.scaledToWidth(static_cast<int>(kShown * ratio), how));
    picture.setDevicePixelRatio(ratio);
    return picture;
  };
  small_->setPixmap(shown(sizes->small));
  large_->setPixmap(shown(sizes->large));
  smallWord_->setText(QObject::tr("%1 px").arg(sizes->small_size));
  largeWord_->setText(QObject::tr("%1 px").arg(sizes->large_size));
  told_->setText(QObject::tr("differ by %1 %").arg(100 * sizes->differs, 0, 'f', 1));
}

}  // namespace loom::app
