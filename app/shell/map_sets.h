// Pictures that come in: a set of maps through its dialogue, a single one as a node.
#pragma once
#include <QObject>

#include "app/engine/document.h"
#include "core/bolt/bring_in.h"

class QMimeData;

namespace loom::app {

class Board;
class MapSetDialog;
class Navigation;

class MapSets : public QObject {
  Q_OBJECT
 public:
  MapSets(Document& document, Navigation& navigation, Board& board, QWidget* window);

  /// The pictures and folders among what is dropped; empty: there are none.
  static QStringList among(const QMimeData& dropped);
  /// One picture becomes a node where the board was pointed at, more of them or a folder a set.
  void take(const QStringList& paths);
  void bringIn(const QStringList& paths);
  void bringPicture(const QString& path);
  void chooseFiles();
  void chooseFolder();

 Q_SIGNALS:
  void message(const QString& text);

 private:
  Result<Done> taken(const MapSetDialog& dialog, const std::vector<SetOnBoard>& sets);
  Document& document_;
  Navigation& navigation_;
  Board& board_;
  QWidget* window_;
};

}  // namespace loom::app
