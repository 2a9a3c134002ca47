// The form shows the plan; the plan is what core/bolt writes.
#include "app/deliver/deliver_form.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QThreadPool>
#include <QTime>
#include <QVBoxLayout>

#include "app/base/latest_worker.h"
#include "app/base/theme.h"
#include "core/graph/hem.h"
#include "core/graph/surface_reach.h"
#include "core/nodes/catalogue.h"
#include "core/plane/ledger.h"
#include "core/plane/plane.h"

namespace loom::app {
namespace {

// Threads of their own, which give way to all others. The application waits for them as it goes: after the windows, and
// before anything that they work with.
QThreadPool& deliveries() {
  static auto* const pool = new QThreadPool(qApp);
  return *pool;
}

QLabel* caption(const QString& text, QWidget* parent) {
  auto* l = new QLabel(text, parent);
  setRole(l, "mute");
  return l;
}

}  // namespace

DeliverForm::DeliverForm(bool brief, QWidget* parent) : QWidget(parent), brief_(brief) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(10);
  auto* top = new QGridLayout;
  top->setHorizontalSpacing(14);
  folder_ = new QLineEdit(QDir::homePath() + QStringLiteral("/wildloom-maps"), this);
  pattern_ = new QLineEdit(QStringLiteral("{material}_{slot}_{size}"), this);
  setRole(pattern_, "mono");
  size_ = new QComboBox(this);
  for (int s = 256; s <= 8192; s *= 2) size_->addItem(tr("%1 px").arg(s), s);
  size_->setCurrentIndex(3);
  green_ = new QComboBox(this);
  green_->addItems({tr("green up"), tr("green down")});
  onto_ = new QComboBox(this);
  onto_->addItems({tr("the tile"), {}});
  onto_->setAccessibleName(tr("Onto"));
  onto_caption_ = caption(tr("Onto"), this);
  onto_->hide();
  onto_caption_->hide();
  auto* browse = new QPushButton(tr("choose"), this);
  browse->setProperty("word", true);
  folder_->setAccessibleName(tr("Folder"));
  pattern_->setAccessibleName(tr("Pattern of the names"));
  size_->setAccessibleName(tr("Size"));
  green_->setAccessibleName(tr("Normal"));
  auto* folderRow = new QHBoxLayout;
  folderRow->addWidget(folder_, 1);
  folderRow->addWidget(browse);
  if (brief) {
    top->addWidget(caption(tr("Size"), this), 0, 0);
    top->addWidget(size_, 0, 1);
    top->addWidget(caption(tr("Normal"), this), 1, 0);
    top->addWidget(green_, 1, 1);
    top->addWidget(onto_caption_, 2, 0);
    top->addWidget(onto_, 2, 1);
    top->addWidget(caption(tr("Folder"), this), 3, 0);
    top->addLayout(folderRow, 3, 1);
    top->setColumnStretch(1, 1);
    pattern_->hide();
  } else {
    top->addWidget(caption(tr("Folder"), this), 0, 0);
    top->addWidget(caption(tr("Names: {material} {slot} {size} {preset}"), this), 0, 1);
    top->addWidget(caption(tr("Size"), this), 0, 2);
    top->addWidget(caption(tr("Normal"), this), 0, 3);
    top->addLayout(folderRow, 1, 0);
    top->addWidget(pattern_, 1, 1);
    top->addWidget(size_, 1, 2);
    top->addWidget(green_, 1, 3);
    auto* onto = new QHBoxLayout;
    onto->setSpacing(12);
    onto->addWidget(onto_caption_);
    onto->addWidget(onto_, 1);
    top->addLayout(onto, 2, 0);
    top->setColumnStretch(0, 3);
    top->setColumnStretch(1, 2);
  }
  box->addLayout(top);
  table_ = new QGridLayout;
  table_->setHorizontalSpacing(18);
  table_->setVerticalSpacing(7);
  box->addLayout(table_);
  state_ = new QLabel(this);
  bar_ = new QProgressBar(this);
  bar_->setTextVisible(false);
  bar_->setRange(0, 1000);
  bar_->setAccessibleName(tr("Progress of the delivery"));
  box->addWidget(state_);
  box->addWidget(bar_);
  auto* buttons = new QHBoxLayout;
  deliver_ = new QPushButton(tr("Deliver the maps"), this);
  deliver_->setProperty("main", true);
  cancel_ = new QPushButton(tr("Cancel"), this);
  cancel_->setEnabled(false);
  buttons->addWidget(deliver_, 1);
  buttons->addWidget(cancel_);
  box->addLayout(buttons);
  report_ = new QLabel(this);
  report_->setWordWrap(true);
  report_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  report_->setAccessibleName(tr("Report"));
  box->addWidget(report_);
  scale_ = new QPushButton(this);
  scale_->hide();
  box->addWidget(scale_, 0, Qt::AlignLeft);
  connect(scale_, &QPushButton::clicked, this, &DeliverForm::startScaled);
  connect(browse, &QPushButton::clicked, this, &DeliverForm::chooseFolder);
  connect(deliver_, &QPushButton::clicked, this, &DeliverForm::start);
  connect(cancel_, &QPushButton::clicked, this, &DeliverForm::cancel);
  connect(onto_, &QComboBox::currentIndexChanged, this, &DeliverForm::chooseSlots);
  connect(pattern_, &QLineEdit::textChanged, this, &DeliverForm::refreshNames);
  connect(size_, &QComboBox::currentIndexChanged, this, &DeliverForm::refreshNames);
}

// What is being delivered ends by itself, soon: the window does not wait for it.
DeliverForm::~DeliverForm() {
  stop_.ask();
  hearer_.leave();
}

void DeliverForm::setFolder(const QString& folder) { folder_->setText(folder); }

void DeliverForm::chooseFolder() {
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder for the maps"), folder_->text());
  if (!folder.isEmpty()) folder_->setText(folder);
}

bool DeliverForm::ontoMesh() const { return mesh_ && onto_->currentIndex() == 1; }

void DeliverForm::showMaterial(const Material& material) {
  material_ = material;
  chooseSlots();
}

void DeliverForm::showMesh(std::shared_ptr<const MeshShape> mesh, const QString& name, const Material& whole) {
  const bool another = mesh != mesh_;
  mesh_ = std::move(mesh);
  whole_ = whole;
  onto_->setVisible(mesh_ != nullptr);
  onto_caption_->setVisible(mesh_ != nullptr);
  onto_->setItemText(1, tr("the mesh %1, all its parts").arg(name));
  if (another) onto_->setCurrentIndex(mesh_ && !slots_on_surface(material_, catalogue()).empty() ? 1 : 0);
  chooseSlots();
}

namespace {

// What the slots depend on, in the hem of all and in those of parts.
std::map<std::string, SurfaceUse> uses_of_all(const Material& material) {
  auto uses = slots_on_surface(material, catalogue());
  for (const auto& [part, own] : material.part_hems)
    for (const auto& [slot, use] : slots_on_surface(edit::worn_by_part(material, part), catalogue())) {
      SurfaceUse& most = uses[slot];
      most = std::max(most, use);
    }
  return uses;
}

}  // namespace

// On a mesh all are maps but those that are another from every side and in every light.
void DeliverForm::chooseSlots() {
  auto usual = ontoMesh() ? usual_slots_on_mesh(whole_) : usual_slots(material_);
  auto no_maps = ontoMesh() ? uses_of_all(whole_) : slots_on_surface(material_, catalogue());
  if (ontoMesh()) std::erase_if(no_maps, [](const auto& s) { return s.second != SurfaceUse::eye_or_light; });
  for (SlotDelivery& s : usual) s.on = !no_maps.count(s.slot);
  const bool same = no_maps == no_maps_ && usual.size() == slots_.size() &&
                    std::equal(usual.begin(), usual.end(), slots_.begin(),
                               [](const auto& a, const auto& b) { return a.slot == b.slot; });
  if (same && !rows_.empty()) return refreshNames();
  slots_ = std::move(usual);
  no_maps_ = std::move(no_maps);
  fillTable();
  refreshNames();
}

void DeliverForm::fillTable() {
  while (QLayoutItem* item = table_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  rows_.clear();
  if (brief_) return;
  const QString heads[] = {tr("Slot"), tr("File"), tr("Format"), tr("Bits"), tr("Encoded")};
  for (int i = 0; i < 5; ++i) table_->addWidget(caption(heads[i], this), 0, i);
  for (std::size_t i = 0; i < slots_.size(); ++i) {
    const SlotDelivery& s = slots_[i];
    Row r;
    r.slot = s.slot;
    const Slot* known = known_slot(s.slot);
    r.on = new QCheckBox(known ? QString::fromUtf8(known->label.data()) : QString::fromStdString(s.slot), this);
    r.on->setChecked(s.on);
    r.on->setEnabled(!no_maps_.count(s.slot));
    r.file = new QLabel(this);
    r.file->setFont(monoFont(11));
    setRole(r.file, "mono");
    r.format = new QComboBox(this);
    r.format->addItems({QStringLiteral("PNG"), QStringLiteral("EXR")});
    r.format->setAccessibleName(tr("Format of %1").arg(r.on->text()));
    r.bits = new QComboBox(this);
    r.bits->setAccessibleName(tr("Bits of %1").arg(r.on->text()));
    r.encoding = new QLabel(this);
    const int row = static_cast<int>(i) + 1;
    QWidget* cells[] = {r.on, r.file, r.format, r.bits, r.encoding};
    for (int c = 0; c < 5; ++c) table_->addWidget(cells[c], row, c);
    const auto fill = [this, i](int format) {
      QComboBox* bits = rows_[i].bits;
      bits->clear();
      for (const int b : format == 0 ? std::vector<int>{8, 16} : std::vector<int>{16, 32})
        bits->addItem(QString::number(b), b);
      bits->setCurrentIndex(format == 1 || slots_[i].bits == 16 ? 1 : 0);
      refreshNames();
    };
    rows_.push_back(r);
    fill(0);
    connect(r.format, &QComboBox::currentIndexChanged, this, fill);
    connect(r.on, &QCheckBox::toggled, this, &DeliverForm::refreshNames);
  }
  table_->setColumnStretch(1, 1);
}

DeliveryPlan DeliverForm::plan() const {
  DeliveryPlan plan;
  plan.folder = folder_->text().toStdString();
  plan.pattern = pattern_->text().toStdString();
  plan.size = size_->currentData().toInt();
  plan.green_up = green_->currentIndex() == 0;
  plan.slots = slots_;
  for (SlotDelivery& s : plan.slots) s.scale = std::find(scaled_.begin(), scaled_.end(), s.slot) != scaled_.end();
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    plan.slots[i].on = rows_[i].on->isChecked();
    plan.slots[i].format = rows_[i].format->currentIndex() == 0 ? ImageFormat::png : ImageFormat::exr;
    plan.slots[i].bits = rows_[i].bits->currentData().toInt();
  }
  return plan;
}

void DeliverForm::refreshNames() {
  const DeliveryPlan p = plan();
  double bytes = 0;
  int files = 0;
  for (std::size_t i = 0; i < p.slots.size(); ++i) {
    const Slot* known = known_slot(p.slots[i].slot);
    if (p.slots[i].on)
      ++files, bytes += static_cast<double>(p.size) * p.size * (known ? known->channels : 1) * p.slots[i].bits / 8;
    if (i >= rows_.size()) continue;
    rows_[i].file->setText(p.slots[i].on ? QString::fromStdString(file_name(delivered(), p, p.slots[i]))
                           : no_maps_.count(p.slots[i].slot) ? no_maps_.at(p.slots[i].slot) == SurfaceUse::shape
                                                                   ? tr("depends on the shape: no map")
                                                                   : tr("depends on the eye or the light: no map")
                                                             : tr("not written"));
    rows_[i].encoding->setText(known && known->srgb && p.slots[i].format == ImageFormat::png ? tr("sRGB")
                                                                                             : tr("linear"));
  }
  if (!writing_) state_->setText(tr("%1 maps, at most %2 MB").arg(files).arg(std::lround(bytes / 1e6)));
  deliver_->setEnabled(files > 0 && !writing_);
}

void DeliverForm::start() {
  scaled_.clear();
  write();
}

void DeliverForm::startScaled() {
  scaled_.insert(scaled_.end(), cut_.begin(), cut_.end());
  write();
}

void DeliverForm::write() {
  if (writing_) return;
  scale_->hide();
  writing_ = true;
  deliver_->setEnabled(false);
  cancel_->setEnabled(true);
  stop_ = Stop();
  deliveries().start([this, hearer = hearer_, plan = plan(), material = delivered(),
                      mesh = ontoMesh() ? mesh_ : nullptr, stop = stop_] {
    giveWay();
    Weaver weaver(default_budget());
    const auto progress = [&](double share, const std::string& what) {
      hearer.tell([this, share, text = QString::fromStdString(what)] {
        bar_->setValue(static_cast<int>(share * 1000));
        if (writing_) state_->setText(tr("Working on %1").arg(text));
      });
    };
    const auto result = mesh ? deliver_onto(material, catalogue(), weaver, plan, mesh, stop, progress)
                             : deliver(material, catalogue(), weaver, plan, stop, progress);
    drop_spare_buffers();  // planes of that size are not asked for again soon
    QString report;
    if (result) {
      report = tr("%1 files delivered in %2 s at %3:")
                   .arg(result->files.size())
                   .arg(result->total_milliseconds / 1000, 0, 'f', 1)
                   .arg(QTime::currentTime().toString(QStringLiteral("HH:mm")));
      for (const auto& f : result->files)
        report += QStringLiteral("\n") + QString::fromStdString(f.path.filename().string()) +
                  (f.bits ? QStringLiteral("  ") + (f.srgb ? tr("sRGB") : tr("linear")) + tr(" %1 bit").arg(f.bits)
                          : QString());  // no picture
      for (const std::string& warning : result->warnings)
        report += QStringLiteral("\n") + tr("Note: %1.").arg(QString::fromStdString(warning));
    } else {
      report = result.error().what == "cancelled"
                   ? tr("Cancelled. Files that were finished stand whole; the rest was not begun.")
                   : QString::fromStdString(result.error().text());
    }
    hearer.tell([this, report, good = result.ok(), cut = result ? result->cut : std::vector<std::string>()] {
      writing_ = false;
      offerScale(cut);
      cancel_->setEnabled(false);
      if (!good) bar_->setValue(0);
      report_->setText(report);
      setRole(report_, good ? "" : "fault");
      refreshNames();
      Q_EMIT finished(good, report);
    });
  });
}

void DeliverForm::offerScale(const std::vector<std::string>& cut) {
  cut_ = cut;
  QStringList names;
  for (const std::string& slot : cut) names << QString::fromStdString(slot).replace(QLatin1Char('_'), QLatin1Char(' '));
  scale_->setText(tr("Scale %1 into range, and deliver again").arg(names.join(tr(" and "))));
  scale_->setVisible(!cut.empty());
}

void DeliverForm::cancel() {
  stop_.ask();
  state_->setText(tr("Cancelling"));
}

}  // namespace loom::app

#include "moc_deliver_form.cpp"
