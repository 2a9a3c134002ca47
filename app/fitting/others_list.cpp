#include "app/fitting/others_list.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/labels.h"
#include "app/base/theme.h"

namespace loom::app {
namespace {

constexpr std::size_t kMost = 4;
constexpr int kPicture = 36, kRow = 44;

QString fileOf(const StockItem& item) { return QString::fromStdString(item.file.string()); }

QString secondLine(const StockItem& item) {
  QStringList tags;
  for (std::size_t i = 0; i < std::min<std::size_t>(item.imprint.tags.size(), 2); ++i)
    tags << QString::fromStdString(item.imprint.tags[i]);
  if (!tags.isEmpty()) return tags.join(QStringLiteral(", "));
  return QString::fromStdString(size_words(item.tile_metres));
}

}  // namespace

OthersList::OthersList(Stock& stock, const QString& fitted, QWidget* parent)
    : QWidget(parent),
      stock_(stock),
      fitted_(QFileInfo(fitted).absoluteFilePath()),
      list_(new QListWidget(this)),
      all_(new QPushButton(this)) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel(tr("Others"), this), 1);
  head->addWidget(all_);
  box->addLayout(head);
  all_->setProperty("word", true);
  all_->setToolTip(tr("Show the Stockroom"));
  list_->setAccessibleName(tr("Other materials"));
  list_->setFrameShape(QFrame::NoFrame);
  list_->setIconSize(QSize(kPicture, kPicture));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setRole(list_, "plain");
  box->addWidget(list_);
  connect(all_, &QPushButton::clicked, this, &OthersList::allWanted);
  const auto open = [this](const QListWidgetItem* item) { Q_EMIT openWanted(item->data(Qt::UserRole).toString()); };
  connect(list_, &QListWidget::itemActivated, this, open);
  connect(&stock_, &Stock::changed, this, &OthersList::renew);
  connect(&stock_.thumbnails(), &Thumbnails::made, this, [this](const QString& file) {
    for (int i = 0; i < list_->count(); ++i)
      if (list_->item(i)->data(Qt::UserRole) == file) showPicture(list_->item(i));
  });
  renew();
}

// Bolts first, those that were used lately before all others.
void OthersList::renew() {
  const std::vector<StockItem> all = stock_.in({});
  std::vector<StockItem> shown;
  const auto take = [&](const std::vector<StockItem>& from, bool bolts) {
    for (const StockItem& item : from) {
      if (shown.size() == kMost) return;
      const bool known = std::any_of(shown.begin(), shown.end(), [&](const auto& s) { return s.file == item.file; });
      if (item.is_bolt == bolts && item.fault.empty() && !known && fileOf(item) != fitted_) shown.push_back(item);
    }
  };
  for (const bool bolts : {true, false}) take(stock_.recent(), bolts), take(all, bolts);
  setVisible(!shown.empty());
  all_->setText(tr("all %1").arg(all.size()));
  const int kept = list_->currentRow();
  list_->clear();
  for (const StockItem& one : shown) {
    auto* item = new QListWidgetItem(QString::fromStdString(one.name) + QLatin1Char('\n') + secondLine(one), list_);
    item->setData(Qt::UserRole, fileOf(one));
    item->setSizeHint(QSize(0, kRow));
    showPicture(item);
  }
  list_->setCurrentRow(kept);
  list_->setFixedHeight(kRow * list_->count() + 2);
}

void OthersList::showPicture(QListWidgetItem* item) {
  const QImage picture = stock_.thumbnails().of(item->data(Qt::UserRole).toString());
  QPixmap pixmap(kPicture, kPicture);
  pixmap.fill(theme().picture);
  if (!picture.isNull())
    pixmap = QPixmap::fromImage(picture.scaled(kPicture, kPicture, Qt::KeepAspectRatio, Qt::SmoothTransformation));
  QIcon icon(pixmap);
  icon.addPixmap(pixmap, QIcon::Selected);  // not tinted: it is a picture
  item->setIcon(icon);
}

}  // namespace loom::app

#include "moc_others_list.cpp"
