// Materials and bolts as pictures, with a line that finds among them.
#pragma once
#include <QAbstractListModel>
#include <QHash>
#include <QListView>
#include <QWidget>

#include "app/stockroom/stock.h"

class QLabel;
class QLineEdit;
class QToolButton;

namespace loom::app {

class StockModel : public QAbstractListModel {
  Q_OBJECT
 public:
  enum Role { kFile = Qt::UserRole, kSecondLine, kFault, kIsBolt };
  explicit StockModel(Thumbnails& thumbnails, QObject* parent);
  void show(std::vector<StockItem> items);
  const StockItem& item(int row) const { return items_[static_cast<std::size_t>(row)]; }
  int rowCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& at, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& at) const override;
  QMimeData* mimeData(const QModelIndexList& rows) const override;
  QStringList mimeTypes() const override;

 private:
  Thumbnails& thumbnails_;
  std::vector<StockItem> items_;
  QHash<QString, int> rows_;  // by file
};

/// The pictures alone. A double click or Enter opens, a drag takes the file along.
class StockPictures : public QListView {
  Q_OBJECT
 public:
  /// `one_row`: as many as fit side by side, and no more.
  StockPictures(Stock& stock, bool one_row, QWidget* parent);
  void show(std::vector<StockItem> items, const QString& nothing);
  StockModel& items() { return *model_; }

 Q_SIGNALS:
  void openWanted(const QString& file);
  void weaveWanted(const QString& file);    ///< a bolt's graph
  void fittingWanted(const QString& file);  ///< a material in a fitting
  void nodeWanted(const QString& file);     ///< a bolt as a node of the material at hand

 protected:
  void paintEvent(QPaintEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  StockModel* model_;
  QString nothing_;
};

class StockView : public QWidget {
  Q_OBJECT
 public:
  /// `narrow`: two pictures wide, what narrows the choice under the line.
  StockView(Stock& stock, bool narrow, QWidget* parent = nullptr);
  /// Of which folder; empty: of all.
  void showFolder(const QString& folder);
  StockPictures& pictures() { return *pictures_; }
  QLineEdit* line() { return line_; }

 private:
  void renew();
  enum Kind { kAll, kBolts, kMaterials };
  Stock& stock_;
  QString folder_;
  Kind kind_ = kAll;
  QLineEdit* line_;
  QLabel* count_;
  std::array<QToolButton*, 3> kinds_{};
  StockPictures* pictures_;
};

}  // namespace loom::app
