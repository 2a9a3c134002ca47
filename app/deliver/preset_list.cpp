#include "app/deliver/preset_list.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "core/graph/edit.h"

namespace loom::app {
namespace {

constexpr int kRest = 500;  // ms after the last change before pictures are made anew

// Shown as it is, chosen or not.
QIcon untinted(const QPixmap& picture) {
  QIcon icon(picture);
  icon.addPixmap(picture, QIcon::Selected);
  return icon;
}

int turnedBy(const Material& m, const Preset& p) {
  return static_cast<int>(std::count_if(m.values.begin(), m.values.end(), [&](const Value& v) {
    const auto set = p.values.find(v.id);
    return v.dial && set != p.values.end() && set->second != v.dial->at_start;
  }));
}

}  // namespace

PresetList::PresetList(QWidget* parent) : QWidget(parent), list_(new QListWidget(this)) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  list_->setAccessibleName(tr("Presets"));
  list_->setIconSize(QSize(48, 48));
  list_->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
  box->addWidget(list_, 1);
  const auto row = [&](std::initializer_list<std::pair<QString, std::function<void()>>> words) {
    auto* line = new QHBoxLayout;
    line->setSpacing(2);
    for (const auto& [text, does] : words) {
      auto* b = new QPushButton(text, this);
      b->setProperty("word", true);
      connect(b, &QPushButton::clicked, this, does);
      line->addWidget(b);
    }
    line->addStretch(1);
    box->addLayout(line);
  };
  row({{tr("keep this state"), [this] { keepNew(); }},
       {tr("turn the dials to it"),
        [this] {
          for (const Preset& p : material_.presets)
            if (p.name == chosen()) return Q_EMIT editWanted(tr("Preset"), edit::apply_preset(material_, p));
        }},
       {tr("update"), [this] {
          if (const std::string name = chosen(); !name.empty())
            Q_EMIT editWanted(tr("Update preset"), edit::keep_preset(material_, name));
        }}});
  row({{tr("up"), [this] { order(-1); }},
       {tr("down"), [this] { order(1); }},
       {tr("rename"),
        [this] {
          if (list_->currentItem()) list_->editItem(list_->currentItem());
        }},
       {tr("remove"), [this] {
          if (const std::string name = chosen(); !name.empty())
            Q_EMIT editWanted(tr("Remove preset"), edit::remove_preset(material_, name));
        }}});
  renew_.setSingleShot(true);
  renew_.setInterval(kRest);
  connect(&renew_, &QTimer::timeout, this, &PresetList::orderPictures);
  connect(&pictures_, &PictureMaker::made, this, [this](int i, const QImage& picture) {
    filling_ = true;
    if (auto* item = list_->item(i)) item->setIcon(untinted(QPixmap::fromImage(picture)));
    filling_ = false;
  });
  connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (!filling_) rename(item->data(Qt::UserRole).toString().toStdString(), item->text());
  });
}

std::string PresetList::chosen() const {
  const auto* item = list_->currentItem();
  return item ? item->data(Qt::UserRole).toString().toStdString() : std::string();
}

void PresetList::showMaterial(const Material& material) {
  const std::string kept = chosen();
  std::map<std::string, QIcon> icons;
  for (int i = 0; i < list_->count(); ++i)
    icons[list_->item(i)->data(Qt::UserRole).toString().toStdString()] = list_->item(i)->icon();
  material_ = material;
  filling_ = true;
  list_->clear();
  QPixmap none(48, 48);
  none.fill(theme().picture);
  for (const Preset& p : material.presets) {
    auto* item = new QListWidgetItem(QString::fromStdString(p.name), list_);
    item->setData(Qt::UserRole, QString::fromStdString(p.name));
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    const auto icon = icons.find(p.name);
    item->setIcon(icon == icons.end() ? QIcon(none) : icon->second);
    const int turned = turnedBy(material, p);
    item->setToolTip(turned == 0 ? tr("all dials at start") : tr("%n dials off their start", nullptr, turned));
    if (p.name == kept) list_->setCurrentItem(item);
  }
  if (list_->currentRow() < 0 && list_->count()) list_->setCurrentRow(0);
  filling_ = false;
  if (isVisible()) renew_.start();
}

void PresetList::orderPictures() {
  std::vector<PictureOrder> orders;
  for (const Preset& p : material_.presets)
    orders.push_back({static_cast<int>(orders.size()), edit::apply_preset(material_, p), {}});
  pictures_.order(std::move(orders));
}

void PresetList::keepNew() {
  const QString name = QInputDialog::getText(this, tr("Keep this state"), tr("Name of the preset")).trimmed();
  if (name.isEmpty()) return;
  Q_EMIT editWanted(tr("Keep preset"), edit::keep_preset(material_, name.toStdString()));
}

// A name that another one has is not taken; the list shows the old one again.
void PresetList::rename(const std::string& from, const QString& to) {
  const Material next = edit::rename_preset(material_, from, to.trimmed().toStdString());
  QMetaObject::invokeMethod(
      this,
      [this, next] {  // the list is still editing
        if (next.presets.size() != material_.presets.size()) return;
        Q_EMIT editWanted(tr("Rename preset"), next);
        showMaterial(material_);
      },
      Qt::QueuedConnection);
}

void PresetList::order(int by) {
  if (const std::string name = chosen(); !name.empty())
    Q_EMIT editWanted(tr("Order presets"), edit::move_preset(material_, name, by));
}

}  // namespace loom::app

#include "moc_preset_list.cpp"
