// The part of the mesh that is in focus: chosen on the drape or by key, and its hem closes the board.
#pragma once
#include <QObject>
#include <string>
#include <vector>

#include "app/engine/document.h"

namespace loom::app {

class Board;
class DrapePanel;
class Navigation;

class PartFocus : public QObject {
  Q_OBJECT
 public:
  PartFocus(Document& document, Navigation& navigation, Board& board, DrapePanel& drape, QObject* parent);
  /// Empty: all parts.
  const std::string& part() const { return part_; }
  bool hasOwnHem() const { return document_.material().part_hems.count(part_) != 0; }
  void focus(const std::string& part);
  /// The next part of the mesh, and after the last all of them.
  void next(int by);
  /// Gives the part in focus a hem of its own, or takes it away.
  void toggleOwnHem();
  /// Asks onto which parts the copied nodes go.
  void pasteOnto();
  void pasteOnto(const std::vector<std::string>& parts);
  /// The document or the mesh may be another.
  void renew();
  /// Those of the mesh, and those with a hem that it does not have.
  std::vector<std::string> parts() const;

 Q_SIGNALS:
  void moved();  ///< another hem is to close the board: all is to be shown anew, this with it
  void message(const QString& text);

 private:
  void menuAt(QPoint screen);
  bool isOnMesh(const std::string& part) const;
  QString titleOf(const std::string& part) const;

  Document& document_;
  Navigation& navigation_;
  Board& board_;
  DrapePanel& drape_;
  std::string part_;
};

}  // namespace loom::app
