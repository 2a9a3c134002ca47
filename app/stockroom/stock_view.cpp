#include "app/stockroom/stock_view.h"

#include <QContextMenuEvent>
#include <QDesktopServices>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QToolButton>
#include <QUrl>

#include "app/base/labels.h"

namespace loom::app {
namespace {

constexpr int kPicture = 132, kCellWidth = kPicture + 16, kCellHeight = kPicture + 48;

QString text(const std::string& s) { return QString::fromStdString(s); }

class Card : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {kCellWidth, kCellHeight}; }
  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& at) const override {
    const QRect picture(option.rect.left() + 2, option.rect.top() + 4, kPicture, kPicture);
    const QImage image = at.data(Qt::DecorationRole).value<QImage>();
    p->setRenderHint(QPainter::SmoothPixmapTransform);
    p->fillRect(picture, theme().picture);
    if (!image.isNull()) p->drawImage(picture, image);
    if (option.state & QStyle::State_Selected) {
      p->setPen(QPen(theme().indigo, option.state & QStyle::State_HasFocus ? 3 : 2));
      p->setBrush(Qt::NoBrush);
      p->drawRect(picture.adjusted(-2, -2, 1, 1));
    }
    const QString name = at.data(Qt::DisplayRole).toString(), fault = at.data(StockModel::kFault).toString();
    const QFont bold = fitted(textFont(12, QFont::DemiBold), name, kPicture), plain = textFont(11);
    p->setFont(bold);
    p->setPen(theme().ink);
    p->drawText(QRect(picture.left(), picture.bottom() + 5, kPicture, 18), Qt::AlignLeft | Qt::AlignVCenter,
                QFontMetrics(bold).elidedText(name, Qt::ElideRight, kPicture));
    p->setFont(plain);
    p->setPen(fault.isEmpty() ? theme().mute : theme().madder);
    const QString second =
        fault.isEmpty() ? at.data(StockModel::kSecondLine).toString() : StockView::tr("cannot be opened");
    p->drawText(QRect(picture.left(), picture.bottom() + 22, kPicture, 16), Qt::AlignLeft | Qt::AlignVCenter,
                QFontMetrics(plain).elidedText(second, Qt::ElideRight, kPicture));
  }
};

}  // namespace

// ---- the items

StockModel::StockModel(Thumbnails& thumbnails, QObject* parent) : QAbstractListModel(parent), thumbnails_(thumbnails) {
  connect(&thumbnails, &Thumbnails::made, this, [this](const QString& file) {
    if (const auto row = rows_.constFind(file); row != rows_.constEnd())
      Q_EMIT dataChanged(index(*row), index(*row), {Qt::DecorationRole});
  });
}

void StockModel::show(std::vector<StockItem> items) {
  if (items == items_) return;
  beginResetModel();
  items_ = std::move(items);
  rows_.clear();
  for (const StockItem& i : items_) rows_.insert(text(i.file.string()), static_cast<int>(rows_.size()));
  endResetModel();
}

int StockModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(items_.size());
}

QVariant StockModel::data(const QModelIndex& at, int role) const {
  if (!at.isValid()) return {};
  const StockItem& i = item(at.row());
  const QString kind = i.is_bolt ? tr("bolt %1").arg(text(i.imprint.version)) : tr("material");
  switch (role) {
    case Qt::DisplayRole:
      return text(i.name);
    case Qt::DecorationRole:
      return i.fault.empty() ? thumbnails_.of(text(i.file.string())) : QImage();
    case kFile:
      return text(i.file.string());
    case kSecondLine:
      return kind + QStringLiteral(", ") + text(size_words(i.tile_metres));
    case kFault:
      return text(i.fault);
    case kIsBolt:
      return i.is_bolt;
    case Qt::AccessibleTextRole:
      return text(i.name) + QStringLiteral(", ") + kind;
    case Qt::ToolTipRole: {
      QStringList lines{QStringLiteral("<b>%1</b>").arg(text(i.name).toHtmlEscaped())};
      if (!i.fault.empty()) lines << text(i.fault).toHtmlEscaped();
      lines << tr("%1, tile of %2").arg(kind, text(size_words(i.tile_metres)));
      QStringList tags;
      for (const std::string& tag : i.imprint.tags) tags << text(tag);
      if (!tags.isEmpty()) lines << tags.join(QStringLiteral(", ")).toHtmlEscaped();
      if (!i.imprint.licence.empty()) lines << tr("licence %1").arg(text(i.imprint.licence)).toHtmlEscaped();
      lines << text(i.file.string()).toHtmlEscaped();
      return lines.join(QStringLiteral("<br>"));
    }
    default:
      return {};
  }
}

Qt::ItemFlags StockModel::flags(const QModelIndex& at) const {
  return at.isValid() ? Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsDragEnabled : Qt::NoItemFlags;
}

QMimeData* StockModel::mimeData(const QModelIndexList& rows) const {
  QList<QUrl> urls;
  for (const QModelIndex& row : rows) urls << QUrl::fromLocalFile(row.data(kFile).toString());
  auto* data = new QMimeData;
  data->setUrls(urls);
  return data;
}
QStringList StockModel::mimeTypes() const { return {QStringLiteral("text/uri-list")}; }

// ---- the pictures

StockPictures::StockPictures(Stock& stock, bool one_row, QWidget* parent)
    : QListView(parent), model_(new StockModel(stock.thumbnails(), this)) {
  setModel(model_);
  setItemDelegate(new Card(this));
  setViewMode(QListView::IconMode);
  setMovement(QListView::Static);
  setResizeMode(QListView::Adjust);
  setUniformItemSizes(true);
  setDragEnabled(true);
  setMouseTracking(true);
  setFrameShape(QFrame::NoFrame);
  setSpacing(0);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  viewport()->setAutoFillBackground(false);
  if (one_row) {
    setFixedHeight(kCellHeight);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  }
  connect(this, &QListView::doubleClicked, this,
          [this](const QModelIndex& at) { Q_EMIT openWanted(at.data(StockModel::kFile).toString()); });
}

void StockPictures::show(std::vector<StockItem> items, const QString& nothing) {
  const QString at = currentIndex().data(StockModel::kFile).toString();
  nothing_ = nothing;
  model_->show(std::move(items));
  for (int row = 0; row < model_->rowCount() && !at.isEmpty(); ++row)  // where someone stands, there they stay
    if (model_->index(row).data(StockModel::kFile).toString() == at) setCurrentIndex(model_->index(row));
  viewport()->update();
}

void StockPictures::paintEvent(QPaintEvent* e) {
  QListView::paintEvent(e);
  if (model_->rowCount() > 0) return;
  QPainter p(viewport());
  p.setPen(theme().mute);
  p.setFont(textFont(13));
  p.drawText(viewport()->rect().adjusted(16, 24, -16, 0), Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap, nothing_);
}

void StockPictures::keyPressEvent(QKeyEvent* e) {
  const bool enter = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter;
  if (!enter || !currentIndex().isValid()) return QListView::keyPressEvent(e);
  Q_EMIT openWanted(currentIndex().data(StockModel::kFile).toString());
}

void StockPictures::contextMenuEvent(QContextMenuEvent* e) {
  const QModelIndex at = e->reason() == QContextMenuEvent::Keyboard ? currentIndex() : indexAt(e->pos());
  if (!at.isValid()) return;
  const QString file = at.data(StockModel::kFile).toString();
  const bool bolt = at.data(StockModel::kIsBolt).toBool();
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->addAction(bolt ? tr("Open in a fitting") : tr("Open in Weave"), this,
                  [this, file] { Q_EMIT openWanted(file); });
  if (bolt) {
    menu->addAction(tr("Open its graph in Weave"), this, [this, file] { Q_EMIT weaveWanted(file); });
    menu->addAction(tr("Add to the board as a node"), this, [this, file] { Q_EMIT nodeWanted(file); });
  } else {
    menu->addAction(tr("Open in a fitting"), this, [this, file] { Q_EMIT fittingWanted(file); });
  }
  menu->addAction(tr("Show its folder"), this,
                  [file] { QDesktopServices::openUrl(QUrl::fromLocalFile(QFileInfo(file).path())); });
  menu->popup(e->reason() == QContextMenuEvent::Keyboard ? viewport()->mapToGlobal(visualRect(at).center())
                                                         : e->globalPos());
}

// ---- with the line above

StockView::StockView(Stock& stock, bool narrow, QWidget* parent)
    : QWidget(parent),
      stock_(stock),
      line_(new QLineEdit(this)),
      count_(new QLabel(this)),
      pictures_(new StockPictures(stock, false, this)) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(8);
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  line_->setPlaceholderText(tr("name, tag, licence, < 1 m"));
  line_->setAccessibleName(tr("Find in the stockroom"));
  line_->setClearButtonEnabled(true);
  if (narrow) {
    box->addWidget(line_);
  } else {
    line_->setMaximumWidth(360);
    row->addWidget(line_, 1);
  }
  const QString names[] = {tr("all"), tr("bolts"), tr("materials")};
  for (const Kind kind : {kAll, kBolts, kMaterials}) {
    auto* button = new QToolButton(this);
    button->setText(names[kind]);
    button->setCheckable(true);
    button->setAutoExclusive(true);
    button->setChecked(kind == kAll);
    button->setProperty("word", true);
    connect(button, &QToolButton::clicked, this, [this, kind] {
      kind_ = kind;
      renew();
    });
    kinds_[kind] = button;
    row->addWidget(button);
  }
  setRole(count_, "mute");
  row->addStretch(1);
  row->addWidget(count_);
  box->addLayout(row);
  box->addWidget(pictures_, 1);
  pictures_->setAccessibleName(tr("Stockroom"));
  connect(line_, &QLineEdit::textChanged, this, [this] { renew(); });
  connect(line_, &QLineEdit::returnPressed, this, [this] {
    pictures_->setFocus();
    if (pictures_->items().rowCount() > 0 && !pictures_->currentIndex().isValid())
      pictures_->setCurrentIndex(pictures_->items().index(0));
  });
  connect(&stock_, &Stock::changed, this, [this] { renew(); });
  renew();
}

void StockView::showFolder(const QString& folder) {
  folder_ = folder;
  renew();
}

void StockView::renew() {
  std::vector<StockItem> items = stock_.in(folder_);
  const std::size_t all = items.size();
  const StockSearch search(line_->text().toStdString());
  std::erase_if(items, [&](const StockItem& i) {
    return (kind_ == kBolts && !i.is_bolt) || (kind_ == kMaterials && i.is_bolt) || !search.fits(i);
  });
  count_->setText(items.size() == all ? tr("%n here", nullptr, static_cast<int>(all))
                                      : tr("%1 of %2").arg(items.size()).arg(all));
  pictures_->show(std::move(items), all == 0
                                        ? tr("No material and no bolt lies here.")
                                        : tr("Nothing here fits. Each word has to begin a word of the name, a tag, "
                                             "the licence or the file; sizes are asked for as < 1 m or > 50 cm."));
}

}  // namespace loom::app

#include "moc_stock_view.cpp"
