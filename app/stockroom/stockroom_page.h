// What the program starts with: where to begin, recent work, and the folders of materials and bolts as pictures.
#pragma once
#include <QWidget>

#include "app/stockroom/stock_view.h"

class QListWidget;
class QPushButton;

namespace loom::app {

class StockroomPage : public QWidget {
  Q_OBJECT
 public:
  explicit StockroomPage(Stock& stock, QWidget* parent = nullptr);
  StockView& view() { return *view_; }
  StockPictures& recent() { return *recent_; }
  QListWidget* places() { return places_; }

 Q_SIGNALS:
  void emptyWanted();
  void fileWanted();  ///< to be asked for
  void mapsWanted();
  void openWanted(const QString& file);
  void weaveWanted(const QString& file);
  void fittingWanted(const QString& file);
  void nodeWanted(const QString& file);

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  QWidget* sideColumn();
  void renew();
  void forward(StockPictures* pictures);
  Stock& stock_;
  QListWidget* places_;
  QPushButton* remove_;
  QLabel* recentHead_;
  StockPictures* recent_;
  StockView* view_;
};

}  // namespace loom::app
