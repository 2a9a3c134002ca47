#include "app/stockroom/stockroom_page.h"

#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/labels.h"

namespace loom::app {
namespace {

QPushButton* wordButton(const QString& text, QWidget* parent) {
  auto* button = new QPushButton(text, parent);
  button->setProperty("word", true);
  button->setSizePolicy(QSizePolicy::Maximum, QSizePolicy::Fixed);
  return button;
}

QStringList foldersAmong(const QMimeData& dropped) {
  QStringList folders;
  for (const QUrl& url : dropped.urls())
    if (const QFileInfo info(url.toLocalFile()); info.isDir()) folders << info.absoluteFilePath();
  return folders;
}

}  // namespace

StockroomPage::StockroomPage(Stock& stock, QWidget* parent)
    : QWidget(parent),
      stock_(stock),
      places_(new QListWidget(this)),
      remove_(wordButton(tr("take it off the list"), this)),
      recentHead_(titleLabel(tr("Recent work"), this)),
      recent_(new StockPictures(stock, true, this)),
      view_(new StockView(stock, false, this)) {
  setAcceptDrops(true);
  setAutoFillBackground(true);
  auto* columns = new QHBoxLayout(this);
  columns->setContentsMargins(24, 18, 24, 12);
  columns->setSpacing(24);
  columns->addWidget(sideColumn());
  auto* right = new QVBoxLayout;
  right->setSpacing(8);
  columns->addLayout(right, 1);
  right->addWidget(recentHead_);
  right->addWidget(recent_);
  right->addWidget(view_, 1);
  recent_->setAccessibleName(tr("Recent work"));
  forward(recent_);
  forward(&view_->pictures());
  connect(&stock_, &Stock::changed, this, &StockroomPage::renew);
  connect(places_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
    if (!item) return;
    const QString folder = item->data(Qt::UserRole).toString();
    view_->showFolder(folder);
    remove_->setVisible(stock_.folders().contains(folder));
  });
  connect(remove_, &QPushButton::clicked, this, [this] {
    if (const auto* item = places_->currentItem()) stock_.removeFolder(item->data(Qt::UserRole).toString());
  });
  renew();
  places_->setCurrentRow(0);
}

QWidget* StockroomPage::sideColumn() {
  auto* side = new QWidget(this);
  side->setFixedWidth(200);
  auto* box = new QVBoxLayout(side);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(4);
  box->addWidget(titleLabel(tr("Begin"), side));
  const auto begin = [&](const QString& text, void (StockroomPage::*wanted)()) {
    auto* button = wordButton(text, side);
    connect(button, &QPushButton::clicked, this, wanted);
    box->addWidget(button);
  };
  begin(tr("with an empty board"), &StockroomPage::emptyWanted);
  begin(tr("with a file …"), &StockroomPage::fileWanted);
  begin(tr("with a set of maps …"), &StockroomPage::mapsWanted);
  box->addSpacing(16);
  box->addWidget(titleLabel(tr("Stockroom"), side));
  places_->setStyleSheet(QStringLiteral("QListWidget { background: transparent; border: none; }"));
  places_->setAccessibleName(tr("Places"));
  box->addWidget(places_, 1);
  auto* add = wordButton(tr("add a folder …"), side);
  connect(add, &QPushButton::clicked, this, [this] {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("A folder for the stockroom"), QDir::homePath());
    if (!folder.isEmpty()) stock_.addFolder(folder);
  });
  box->addWidget(add);
  box->addWidget(remove_);
  remove_->hide();
  return side;
}

void StockroomPage::forward(StockPictures* pictures) {
  connect(pictures, &StockPictures::openWanted, this, &StockroomPage::openWanted);
  connect(pictures, &StockPictures::weaveWanted, this, &StockroomPage::weaveWanted);
  connect(pictures, &StockPictures::fittingWanted, this, &StockroomPage::fittingWanted);
  connect(pictures, &StockPictures::nodeWanted, this, &StockroomPage::nodeWanted);
}

void StockroomPage::renew() {
  recent_->show(stock_.recent(), {});
  recent_->setVisible(!stock_.recent().empty());
  recentHead_->setVisible(!stock_.recent().empty());
  const QString demo = Stock::demoFolder(),
                at = places_->currentItem() ? places_->currentItem()->data(Qt::UserRole).toString() : QString();
  QList<std::pair<QString, QString>> wanted;
  const QStringList own = stock_.folders();
  if (!own.isEmpty() || demo.isEmpty()) wanted << std::pair{tr("Everything"), QString()};
  if (!demo.isEmpty()) wanted << std::pair{tr("Lantern Quay"), demo};
  for (const QString& folder : own) wanted << std::pair{QDir(folder).dirName(), folder};
  const auto same = [&] {
    if (places_->count() != wanted.size()) return false;
    for (int i = 0; i < places_->count(); ++i)
      if (places_->item(i)->data(Qt::UserRole).toString() != wanted[i].second) return false;
    return true;
  };
  if (same()) return;
  places_->clear();
  for (const auto& [name, folder] : wanted) {
    auto* item = new QListWidgetItem(name, places_);
    item->setData(Qt::UserRole, folder);
    item->setToolTip(folder);
    if (folder == at) places_->setCurrentItem(item);
  }
  if (!places_->currentItem()) places_->setCurrentRow(0);
}

void StockroomPage::dragEnterEvent(QDragEnterEvent* e) {
  if (!foldersAmong(*e->mimeData()).isEmpty()) e->acceptProposedAction();
}

void StockroomPage::dropEvent(QDropEvent* e) {
  for (const QString& folder : foldersAmong(*e->mimeData())) stock_.addFolder(folder);
  e->acceptProposedAction();
}

}  // namespace loom::app

#include "moc_stockroom_page.cpp"
