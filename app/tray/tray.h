// The tray: the selected node's parameters in columns under the board.
#pragma once
#include <QWidget>
#include <map>
#include <string>
#include <vector>

#include "app/engine/engine.h"
#include "app/tray/parameter_row.h"
#include "core/graph/hem.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QScrollArea;

namespace loom::app {

class Tray : public QWidget {
  Q_OBJECT
 public:
  explicit Tray(QWidget* parent = nullptr);
  /// Empty `node`: the hem, with the material's measures and values for its slots; kHemNode stands for it in signals.
  void showNode(const Material& material, const std::string& node, const std::map<std::string, Error>& faults);
  /// What the mesh in sight has that a parameter may name; to be followed by showNode().
  void setNames(std::map<NameOf, QStringList> names) { names_ = std::move(names); }
  /// How the rules and formulas of a node spread over its units.
  void showSpreads(const std::string& node, const Spreads& spreads);
  void focusFirst();
  /// Begins a number in the first field that takes one.
  void typeNumber(const QString& begun);
  ParameterRow* row(const std::string& parameter) const;
  /// What can be done by name: to turn a parameter, to give it a rule, to make a dial or a value of it.
  enum class Way { turn, rule, dial, value };
  struct Entry {
    QString text;
    std::string parameter;
    Way way;
  };
  std::vector<Entry> entries() const;
  /// Does it, and brings the keyboard to what is turned.
  void turnTo(const Entry& entry);

 Q_SIGNALS:
  void paramWanted(const std::string& node, const std::string& param, const loom::ParamValue& value);
  void gestureEnded();
  void left();  ///< by Enter or Escape: the keyboard goes back to the board
  void resetWanted(const std::string& node, const std::string& param);  ///< empty param: all of them
  void dialWanted(const std::string& node, const std::string& param);
  void namedValueWanted(const std::string& node, const std::string& param);
  void unfollowWanted(const std::string& node, const std::string& param);
  void nodeWanted(const std::string& node);                                  ///< where a thread comes from
  void itemsWanted(const std::string& node, const std::vector<int>& order);  ///< as edit::arrange_items takes it

 protected:
  void keyPressEvent(QKeyEvent* e) override;

 private:
  void rebuild();
  int itemsOf(const NodeType* type, const Node* n) const;
  void noteCleared(const std::string& node, const Node* now);
  struct Section {
    QString name{};
    QWidget *whole = nullptr, *inside = nullptr;  // with its head, and without
    QHBoxLayout* line = nullptr;                  // of its head and what stands beside that
    QPushButton* head = nullptr;
    std::vector<QWidget*> lines{};
    std::string title{};  // the parameter that holds what the person calls it; empty: none
  };
  bool isOpen(const Section& s) const;
  QString calledBy(const Section& s) const;
  void showHeads();
  Section makeSection(const QString& name, QWidget* parent);
  void addItemWords(QHBoxLayout* head, const NodeType& type, const std::string& name, int item, QWidget* parent);
  ParameterRow* makeRow(const Parameter& p, QWidget* parent);
  void addThreads(QWidget* parent, QLayout* columns);
  void addSection(QLayout* columns, const Section& s);
  void showSections();
  void bringUp(ParameterRow* row);
  void fold(const QString& name);
  QString foldKey(const QString& section) const;
  QString threadInto(const std::string& node, const std::string& peg, std::string* from = nullptr) const;
  void goToSource(const std::string& peg);
  std::vector<std::pair<std::string, QString>> threadsIn() const;
  ParamValue valueNow(const Value& v) const;
  const Node* nodeShown() const { return node_ == kHemNode ? &hem_ : material_.node(node_); }
  RowView viewOf(const Parameter& p) const;
  RowView viewOf(const Parameter& p, const Node* n) const;
  QString noteOf(const NodeType& type, const Node& node) const;
  Material material_;
  std::map<std::string, double> numbers_;  // what its values come to
  std::string node_;
  Node hem_;
  std::shared_ptr<const NodeType> type_;  // of the node shown; null: none
  int items_ = 0;                         // of the node's list, if it has one: a change rebuilds the rows
  std::map<std::pair<std::string, std::string>, Formula> cleared_;  // by node and parameter: what can be called back
  Spreads spreads_;
  std::map<std::string, Error> faults_;
  std::map<NameOf, QStringList> names_;
  QLabel *title_, *help_;
  QLineEdit* filter_;
  QPushButton* reset_;
  QScrollArea* area_;
  std::vector<ParameterRow*> rows_;
  std::vector<Section> sections_;
  QStringList folded_;                                    // sections, as foldKey() has them; with a + those unfolded
  std::vector<std::pair<std::string, QString>> threads_;  // by peg, as the section of threads has them
};

/// How a dial is shown to whoever uses the material.
RowView dialView(const Material& material, const Value& value);

}  // namespace loom::app
