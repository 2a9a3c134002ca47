// What the checks found: those that need a look with figure, limit and why; the others in a line each.
#pragma once
#include <QWidget>

#include "app/proof/judge.h"

class QLabel;
class QVBoxLayout;

namespace loom::app {

/// A figure against the band that it has to keep to.
class RangeBar : public QWidget {
 public:
  explicit RangeBar(const Finding& finding, QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  Finding finding_;
};

/// One finding; a click or Enter chooses it.
class FindingRow : public QWidget {
  Q_OBJECT
 public:
  FindingRow(const Finding& finding, const QString& cause, QWidget* parent = nullptr);
  const Finding& finding() const { return finding_; }
  void setChosen(bool chosen);

 Q_SIGNALS:
  void chosen();
  void jumpWanted();

 protected:
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  Finding finding_;
  bool chosen_ = false;
};

class FindingsPanel : public QWidget {
  Q_OBJECT
 public:
  explicit FindingsPanel(QWidget* parent = nullptr);
  /// `material`: that was judged, to name what feeds a slot.
  void showProven(const ProvenPtr& proven, const Material& material);
  void showWaiting();
  const std::vector<FindingRow*>& rows() const { return rows_; }
  /// Chooses the row of a check, if there is one.
  void choose(const std::string& check);

 Q_SIGNALS:
  /// A finding was chosen: its places are to be shown. Null: none is any more.
  void placesWanted(const loom::Finding* finding);
  void jumpWanted(const loom::Finding& finding);

 private:
  void chooseRow(FindingRow* row);
  QLabel *summary_, *refused_;
  QVBoxLayout* list_;
  std::vector<FindingRow*> rows_;
  FindingRow* chosen_ = nullptr;
};

}  // namespace loom::app
