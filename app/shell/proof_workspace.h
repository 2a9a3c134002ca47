// The second workspace: loupe and drape side by side, findings, the way back of a place, and the variation sheet.
#pragma once
#include <QObject>
#include <QTimer>

#include "app/proof/findings_panel.h"
#include "app/proof/sheet_panel.h"
#include "app/proof/two_sizes_view.h"

namespace loom::app {

class WayList;

class ProofWorkspace : public QObject {
  Q_OBJECT
 public:
  explicit ProofWorkspace(QWidget* parent);
  QWidget* side() const { return side_; }
  SheetPanel* sheet() const { return sheet_; }
  FindingsPanel* findings() const { return findings_; }
  WayList* way() const { return way_; }
  /// Judges what is shown while it is active.
  void setActive(bool active);
  void showMaterial(const Material& material);
  bool isIdle() const { return judge_.isIdle() && !later_.isActive() && sheet_->isIdle(); }

 Q_SIGNALS:
  /// A finding's places, in the slot where it was made; without any nothing is ringed any more.
  void ringsWanted(const QString& slot, const std::vector<loom::Place>& places, double radius);
  /// To what feeds a slot, from a place of it.
  void jumpWanted(const QString& slot, const std::vector<loom::Place>& places);
  void fitWanted();

 private:
  void judgeNow();
  QWidget* side_;
  FindingsPanel* findings_;
  WayList* way_;
  TwoSizesView* sizes_;
  SheetPanel* sheet_;
  QTimer later_;
  Material material_, judged_;
  bool active_ = false, stale_ = true;
  Judge judge_;
};

}  // namespace loom::app
