// Where the eye is in the material: inside which groups, there and back again, and marks.
#pragma once
#include <QObject>
#include <string>
#include <utility>
#include <vector>

#include "app/board/board.h"
#include "app/engine/document.h"

namespace loom::app {

class Navigation : public QObject {
  Q_OBJECT
 public:
  Navigation(Document& document, Board& board, QObject* parent);

  /// The row over the board that leads back out; hidden while the board shows the whole material.
  QWidget* bar() { return bar_; }
  bool isInside() const { return !inside_.empty(); }
  /// What the board shows: the document, with the hem of the part in focus in its place, or the inside of the group
  /// that is looked into.
  const Material& shown() const { return looks_elsewhere_ ? shown_ : document_.material(); }
  /// The part of the mesh whose hem closes the board, where it has one of its own; empty: that of all.
  void setPart(const std::string& part);
  /// What stands before the identifiers on the board in a path through the whole material.
  std::string prefix() const;
  /// A path as the board knows it; empty: it lies elsewhere.
  std::string local(const std::string& path) const;
  /// The whole material with `next` in the place of what is shown.
  Material whole(const Material& next) const;
  /// What is shown becomes `next`: an edit of the document, wherever the board looks.
  void edit(const QString& name, const Material& next, const QString& gesture = {});

  void goInside(const std::string& instance);
  void goOut();
  /// Another document is there: it is shown whole, and there is nowhere to go back to.
  void leaveAll();
  /// The document has changed.
  void renew();

  void leaveTrail();  ///< where the board stands now can be gone back to
  void goBack();

  void setMark(const QString& letter);
  void goToMark(const QString& letter);
  void listMarks();

 Q_SIGNALS:
  void moved();  ///< another level is shown
  void message(const QString& text);

 private:
  void showPath();

  Document& document_;
  Board& board_;
  QWidget* bar_;
  std::vector<std::string> inside_;  // the instances looked into, outermost first
  Material shown_;                   // where it is not the document as it is
  bool looks_elsewhere_ = false;
  std::string part_;
  std::vector<Board::Standpoint> outside_;                                     // where the board stood before each
  std::vector<std::pair<std::vector<std::string>, Board::Standpoint>> trail_;  // before each jump
};

}  // namespace loom::app
