// Other bolts at hand, under the presets: a few of the Stockroom's.
#pragma once
#include <QWidget>

#include "app/stockroom/stock.h"

class QListWidget;
class QListWidgetItem;
class QPushButton;

namespace loom::app {

/// A double click or Enter opens one in a fitting of its own, beside the one at hand.
class OthersList : public QWidget {
  Q_OBJECT
 public:
  /// Without the file that is fitted already.
  OthersList(Stock& stock, const QString& fitted, QWidget* parent = nullptr);
  QListWidget* list() const { return list_; }

 Q_SIGNALS:
  void openWanted(const QString& file);
  void allWanted();  ///< the Stockroom itself

 private:
  void renew();
  void showPicture(QListWidgetItem* item);
  Stock& stock_;
  QString fitted_;
  QListWidget* list_;
  QPushButton* all_;
};

}  // namespace loom::app
