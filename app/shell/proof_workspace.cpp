#include "app/shell/proof_workspace.h"

#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "app/shell/way_panel.h"

namespace loom::app {

ProofWorkspace::ProofWorkspace(QWidget* parent)
    : QObject(parent),
      side_(new QWidget),
      findings_(new FindingsPanel),
      way_(new WayList),
      sizes_(new TwoSizesView),
      sheet_(new SheetPanel) {
  side_->setMinimumWidth(296);
  side_->setMaximumWidth(420);
  auto* box = new QVBoxLayout(side_);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(0);
  auto* area = new QScrollArea;
  area->setFrameShape(QFrame::NoFrame);
  area->setWidgetResizable(true);
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area->setWidget(findings_);
  box->addWidget(area, 1);
  way_->setMaximumHeight(200);
  way_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  box->addWidget(way_);
  sizes_->show({});
  box->addWidget(sizes_);
  auto* fit = new QPushButton(tr("Fit to a picture …"));
  fit->setProperty("word", true);
  fit->setToolTip(tr("Turns the dials until the base colour is like that of a picture"));
  connect(fit, &QPushButton::clicked, this, &ProofWorkspace::fitWanted);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(24, 0, 12, 10);
  row->addWidget(fit);
  row->addStretch(1);
  box->addLayout(row);
  later_.setSingleShot(true);
  later_.setInterval(400);
  connect(&later_, &QTimer::timeout, this, &ProofWorkspace::judgeNow);
  connect(&judge_, &Judge::proven, this, [this](const ProvenPtr& proven) {
    if (proven->complete) sizes_->show(proven->sizes);
    if (!proven->complete || !proven->refused.isEmpty()) findings_->showProven(proven, judged_);
  });
  connect(findings_, &FindingsPanel::placesWanted, this, [this](const Finding* f) {
    if (f)
      Q_EMIT ringsWanted(QString::fromStdString(f->slot), f->places, f->radius);
    else
      Q_EMIT ringsWanted({}, {}, 0);
  });
  connect(findings_, &FindingsPanel::jumpWanted, this,
          [this](const Finding& f) { Q_EMIT jumpWanted(QString::fromStdString(f.slot), f.places); });
}

void ProofWorkspace::setActive(bool active) {
  active_ = active;
  if (active && stale_) judgeNow();
}

void ProofWorkspace::showMaterial(const Material& material) {
  material_ = material;
  stale_ = true;
  sheet_->showMaterial(material);
  if (active_) later_.start();
}

void ProofWorkspace::judgeNow() {
  stale_ = false;
  judged_ = material_;
  findings_->showWaiting();
  judge_.ask(material_);
}

}  // namespace loom::app

#include "moc_proof_workspace.cpp"
