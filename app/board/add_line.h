// The add line: type a few letters, a number or a formula; Enter places the node under the selection.
#pragma once
#include <QDateTime>
#include <QFrame>
#include <string>
#include <vector>

#include "app/base/hearer.h"
#include "app/engine/picture_maker.h"
#include "core/graph/node_type.h"

class QLineEdit;
class QListWidget;

namespace loom::app {

class Board;

/// A bolt beside the document, with its picture.
struct BoltOffer {
  std::string file;  ///< as seen from the document
  QString label, help;
  QImage picture;
};

/// One snippet a file, each with the time of its last change.
using Templates = std::vector<std::pair<QDateTime, std::shared_ptr<const Material>>>;

class AddLine : public QFrame {
  Q_OBJECT
 public:
  /// What Enter does: adds a node under the selection, puts it into the threads of `output`, or makes the selected node
  /// one of that type.
  enum class Way { add, splice, replace };
  explicit AddLine(Board* board);
  ~AddLine() override;
  /// Opens at a place on the board; `output` is what a new node would be connected to (may be empty). `rack` filters,
  /// -1: all.
  void openAt(QPoint place, const std::string& output, int rack = -1, Way way = Way::add);
  static constexpr int kGroups =
      static_cast<int>(kRackLabels.size());  ///< as a rack: the material's groups, and templates

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  /// A type, a group of the material, a template, or a bolt.
  struct Choice {
    const NodeType* type = nullptr;
    std::string group;
    std::shared_ptr<const Material> part;
    QString label, help;
    QString why;         ///< why it does not fit; empty if it does
    std::string word{};  ///< of the choice that is asked for when the type's node is made; empty: there is none
    std::string bolt{};  ///< a bolt's file
    QImage picture{};    ///< that it brings; else one is made
  };
  void readKept();
  void takeTemplates(Templates read);
  void takeBolts(std::vector<BoltOffer> read);
  void refillInPlace();
  void offerTemplates();
  void refill();
  void offerTypes(const QString& typed, std::vector<std::pair<int, Choice>>& found) const;
  void offerGroups(const QString& typed, std::vector<std::pair<int, Choice>>& found) const;
  void accept();
  void place(const Choice& choice, const std::string& param, const ParamValue& value);
  /// The material with a node of this choice under the selection, connected where it makes sense.
  Material placed(const Choice& choice, const std::string& param, const ParamValue& value, std::string& id) const;
  void orderPictures();
  Board* board_;
  QLineEdit* text_;
  QListWidget* list_;
  std::vector<Choice> choices_;
  std::string output_;
  Way way_ = Way::add;
  Templates read_;  // anew whenever the line opens
  std::vector<Choice> templates_, bolts_;
  std::vector<std::string> recent_;  // types placed lately come first among equals
  int rack_ = -1, generation_ = 0;   // of the pictures: late ones of an older list are dropped
  Hearer hearer_{this};
  PictureMaker pictures_{64};
};

/// Where templates are kept.
QString templateFolder();

}  // namespace loom::app
