#include "app/fitting/start_column.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPixmap>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/base/labels.h"
#include "app/base/theme.h"
#include "core/bolt/own_presets.h"
#include "core/graph/edit.h"

namespace loom::app {

StartColumn::StartColumn(QWidget* parent)
    : QWidget(parent),
      area_(new QScrollArea(this)),
      grid_(new QGridLayout),
      state_(new QLabel(this)),
      keep_(new QPushButton(tr("Keep as mine"), this)),
      back_(new QPushButton(tr("Back to it"), this)),
      remove_(new QPushButton(tr("remove it"), this)) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->addWidget(titleLabel(tr("Start from a preset"), this));
  auto* tiles = new QWidget;
  tiles->setLayout(grid_);
  grid_->setContentsMargins(0, 0, 0, 0);
  grid_->setSpacing(8);
  grid_->setColumnStretch(2, 1);
  area_->setWidgetResizable(true);
  area_->setFrameShape(QFrame::NoFrame);
  area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area_->setWidget(tiles);
  box->addWidget(area_, 1);
  state_->setWordWrap(true);
  setRole(state_, "mute");
  remove_->setProperty("word", true);
  auto* said = new QHBoxLayout;
  said->addWidget(state_, 1);
  said->addWidget(remove_);
  box->addLayout(said);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(8);
  for (auto* b : {keep_, back_}) buttons->addWidget(b, 1);
  box->addLayout(buttons);
  box->addStretch(0);
  keep_->setToolTip(tr(
      "The dials as they are, as a preset of your own.\nIt is kept with your settings, and the bolt stays as it is."));
  connect(keep_, &QPushButton::clicked, this, &StartColumn::keepWanted);
  connect(back_, &QPushButton::clicked, this, [this] { Q_EMIT chosen(preset_); });
  connect(remove_, &QPushButton::clicked, this, [this] { Q_EMIT removeWanted(preset_); });
  connect(&pictures_, &PictureMaker::made, this, [this](int i, const QImage& picture) {
    const auto at = static_cast<std::size_t>(i);
    if (at < tiles_.size()) tiles_[at]->setIcon(QPixmap::fromImage(picture));
  });
}

void StartColumn::add(const QString& name, int line, int column) {
  auto* tile = new QPushButton;
  tile->setFixedSize(100, 100);
  tile->setIconSize(QSize(96, 96));
  tile->setCheckable(true);
  tile->setAccessibleName(name);
  setRole(tile, "preset");
  auto* label = new QLabel;
  label->setFixedWidth(100);
  label->setText(label->fontMetrics().elidedText(name, Qt::ElideRight, 98));
  label->setToolTip(name);
  grid_->addWidget(tile, 2 * line, column);
  grid_->addWidget(label, 2 * line + 1, column);
  const int index = static_cast<int>(tiles_.size()) - 1;
  connect(tile, &QPushButton::clicked, this, [this, index] { Q_EMIT chosen(index); });
  tiles_.push_back(tile);
  names_.push_back(label);
}

void StartColumn::showPresets(const Bolt& bolt, const std::vector<Preset>& own) {
  qDeleteAll(tiles_);
  qDeleteAll(names_);
  tiles_.clear(), names_.clear();
  own_from_ = bolt.material.presets.size() + 1;
  std::vector<Preset> all{Preset{}};
  all.insert(all.end(), bolt.material.presets.begin(), bolt.material.presets.end());
  all.insert(all.end(), own.begin(), own.end());
  std::vector<PictureOrder> orders;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool mine = i >= own_from_;
    add(i == 0 ? tr("As made") : QString::fromStdString(all[i].name), static_cast<int>(i) / 2, static_cast<int>(i) % 2);
    const auto packed = bolt.pictures.find(all[i].name);
    QPixmap picture;
    if (!mine && packed != bolt.pictures.end() &&
        picture.loadFromData(reinterpret_cast<const uchar*>(packed->second.data()),
                             static_cast<uint>(packed->second.size()), "PNG"))
      tiles_[i]->setIcon(picture);
    else
      orders.push_back({static_cast<int>(i), edit::apply_preset(bolt.material, as_it_fits(all[i], bolt.material)), {}});
  }
  area_->setMaximumHeight(area_->widget()->sizeHint().height());  // what is below follows at once
  pictures_.order(std::move(orders));
}

void StartColumn::showState(int preset, int turned) {
  preset_ = preset;
  const auto at = static_cast<std::size_t>(preset + 1);
  for (std::size_t i = 0; i < tiles_.size(); ++i) {
    tiles_[i]->setChecked(i == at);
    setRole(names_[i], i == at ? "group" : "");
  }
  const QString name = tiles_[at]->accessibleName();
  state_->setText(turned == 0   ? name
                  : turned == 1 ? tr("%1, 1 dial turned").arg(name)
                                : tr("%1, %2 dials turned").arg(name).arg(turned));
  back_->setEnabled(turned != 0);
  keep_->setEnabled(turned != 0);
  remove_->setVisible(at >= own_from_);
}

}  // namespace loom::app

#include "moc_start_column.cpp"
