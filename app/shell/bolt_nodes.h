// Bolts as nodes of the board: put there, opened, and exchanged for another version.
#pragma once
#include <QObject>
#include <QString>

#include "app/engine/document.h"
#include "core/bolt/bolt_node.h"

namespace loom::app {

class Board;
class Navigation;

class BoltNodes : public QObject {
  Q_OBJECT
 public:
  BoltNodes(Document& document, Navigation& navigation, Board& board, QWidget* window);

  /// A node that stands for the bolt in a file, at the place that the board has in focus.
  void add(const QString& path);
  void chooseAndAdd();
  /// A part of a mesh wears what a bolt gives, or what a document does, in a hem of its own. An empty part: the hem of
  /// all takes the bolt's slots.
  void wear(const QString& path, const std::string& part);
  /// Shows the bolt behind a node in a fitting.
  void open(const std::string& node);
  /// The file of another version; empty: it is asked for. What changes is shown before it is taken.
  void exchange(const std::string& node, const QString& path);

 Q_SIGNALS:
  void message(const QString& text);
  void fittingWanted(const QString& path);

 private:
  Result<Material> worn(const QString& path, const std::string& part, std::vector<std::string>& fresh);
  bool agreed(const BoltReference& was, const BoltReference& fresh, const Material& with);
  Document& document_;
  Navigation& navigation_;
  Board& board_;
  QWidget* window_;
};

}  // namespace loom::app
