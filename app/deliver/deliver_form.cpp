// The form shows the plan; the plan is what core/bolt writes.
#include "app/deliver/deliver_form.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QThreadPool>
#include <QVBoxLayout>

#include "app/base/labels.h"
#include "app/base/latest_worker.h"
#include "app/base/theme.h"
#include "app/deliver/report_view.h"
#include "core/base/parallel.h"
#include "core/bolt/delivery_state.h"
#include "core/bolt/lists.h"
#include "core/graph/edit.h"
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

}  // namespace

DeliverForm::DeliverForm(bool brief, QWidget* parent) : QWidget(parent), brief_(brief) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(10);
  addTop(box);
  table_ = new QGridLayout;
  table_->setHorizontalSpacing(14);
  table_->setVerticalSpacing(6);
  box->addLayout(table_);
  addBottom(box);
  connect(scale_, &QPushButton::clicked, this, &DeliverForm::startScaled);
  connect(deliver_, &QPushButton::clicked, this, &DeliverForm::start);
  connect(cancel_, &QPushButton::clicked, this, &DeliverForm::cancel);
  connect(onto_, &QComboBox::currentIndexChanged, this, &DeliverForm::chooseFiles);
  connect(list_, &QComboBox::activated, this, [this] {
    files_.clear();
    chooseFiles();
  });
  connect(pattern_, &QLineEdit::textChanged, this, &DeliverForm::refreshNames);
  connect(size_, &QComboBox::currentIndexChanged, this, &DeliverForm::refreshNames);
  fillLists();
}

void DeliverForm::addTop(QVBoxLayout* into) {
  auto* top = new QGridLayout;
  top->setHorizontalSpacing(14);
  size_ = new QComboBox(this);
  for (int s = 256; s <= 8192; s *= 2) size_->addItem(tr("%1 px").arg(s), s);
  size_->setCurrentIndex(3);
  green_ = new QComboBox(this);
  green_->addItems({tr("green up"), tr("green down")});
  list_ = new QComboBox(this);
  folder_ = new QLineEdit(QDir::homePath() + QStringLiteral("/wildloom-maps"), this);
  pattern_ = new QLineEdit(QStringLiteral("{material}_{slot}_{size}"), this);
  setRole(pattern_, "mono");
  onto_ = new QComboBox(this);
  onto_->addItems({tr("the tile"), {}});
  onto_caption_ = captionLabel(tr("Onto"), this);
  onto_->hide();
  onto_caption_->hide();
  every_caption_ = captionLabel(tr("Every"), this);
  presets_ = new QCheckBox(tr("preset"), this);
  lists_ = new QCheckBox(tr("list"), this);
  parts_ = new QCheckBox(tr("part"), this);
  for (auto* b : {presets_, lists_, parts_}) {
    b->setAccessibleName(tr("Every %1").arg(b->text()));
    b->setToolTip(tr("All there are, a folder each"));
    connect(b, &QCheckBox::toggled, this, &DeliverForm::refreshNames);
  }
  for (QWidget* w : std::initializer_list<QWidget*>{every_caption_, presets_, lists_, parts_}) w->hide();
  gltf_ = new QCheckBox(tr("glTF 2.0"), this);
  glb_ = new QCheckBox(tr("GLB, all in one file"), this);
  materialx_ = new QCheckBox(tr("MaterialX 1.39"), this);
  nodes_ = new QCheckBox(tr("MaterialX nodes"), this);
  nodes_->setToolTip(tr(
      "The graph itself: what is mathematics of a point as MaterialX nodes,\nall else baked to EXR files beside them"));
  auto* browse = new QPushButton(tr("choose"), this);
  browse->setProperty("word", true);
  connect(browse, &QPushButton::clicked, this, &DeliverForm::chooseFolder);
  for (const auto& [widget, name] :
       std::initializer_list<std::pair<QWidget*, QString>>{{size_, tr("Size")},
                                                           {green_, tr("Normal")},
                                                           {list_, tr("List")},
                                                           {folder_, tr("Folder")},
                                                           {pattern_, tr("Pattern of the names")},
                                                           {onto_, tr("Onto")}})
    widget->setAccessibleName(name);
  auto* folderRow = new QHBoxLayout;
  folderRow->addWidget(folder_, 1);
  folderRow->addWidget(browse);
  if (brief_) {
    int line = 0;
    for (const auto& [text, widget] : std::initializer_list<std::pair<QString, QWidget*>>{
             {tr("Maps"), list_}, {tr("Size"), size_}, {tr("Normal"), green_}}) {
      top->addWidget(captionLabel(text, this), line, 0);
      top->addWidget(widget, line++, 1);
    }
    top->addWidget(onto_caption_, line, 0);
    top->addWidget(onto_, line++, 1);
    top->addWidget(captionLabel(tr("Folder"), this), line, 0);
    top->addLayout(folderRow, line, 1);
    auto* with = new QGridLayout;
    with->setHorizontalSpacing(14);
    int place = 0;
    for (auto* b : {gltf_, materialx_, glb_, nodes_}) with->addWidget(b, place / 2, place % 2), ++place;
    glb_->setText(tr("GLB"));
    with->setColumnStretch(2, 1);
    top->addWidget(captionLabel(tr("With"), this), ++line, 0);
    top->addLayout(with, line, 1);
    top->setColumnStretch(1, 1);
    pattern_->hide();
    into->addLayout(top);
    return;
  }
  top->addWidget(captionLabel(tr("Folder"), this), 0, 0);
  top->addWidget(captionLabel(tr("Names: {material} {slot} {size} {preset} {list}"), this), 0, 1);
  top->addWidget(captionLabel(tr("Size"), this), 0, 2);
  top->addWidget(captionLabel(tr("Normal"), this), 0, 3);
  top->addLayout(folderRow, 1, 0);
  top->addWidget(pattern_, 1, 1);
  top->addWidget(size_, 1, 2);
  top->addWidget(green_, 1, 3);
  top->setColumnStretch(0, 3);
  top->setColumnStretch(1, 2);
  auto* what = new QHBoxLayout;
  what->setSpacing(12);
  auto* keep = new QPushButton(tr("keep as a list"), this);
  auto* more = new QPushButton(tr("add a file"), this);
  what->addWidget(captionLabel(tr("List"), this));
  what->addWidget(list_, 1);
  for (auto* b : {more, keep}) b->setProperty("word", true), what->addWidget(b);
  what->addSpacing(12);
  what->addWidget(onto_caption_);
  what->addWidget(onto_, 1);
  connect(more, &QPushButton::clicked, this, &DeliverForm::addFile);
  connect(keep, &QPushButton::clicked, this, [this] {
    const QString name = QInputDialog::getText(this, tr("Keep as a list"), tr("Name of the list")).trimmed();
    if (!name.isEmpty()) keepList(name);
  });
  auto* with = new QHBoxLayout;
  with->setSpacing(14);
  with->addWidget(captionLabel(tr("With"), this));
  for (auto* b : {gltf_, glb_, materialx_, nodes_}) with->addWidget(b);
  with->addStretch(1);
  with->addWidget(every_caption_);
  for (auto* b : {presets_, lists_, parts_}) with->addWidget(b);
  into->addLayout(top);
  into->addLayout(what);
  into->addLayout(with);
}

void DeliverForm::addBottom(QVBoxLayout* into) {
  state_ = new QLabel(this);
  bar_ = new QProgressBar(this);
  bar_->setTextVisible(false);
  bar_->setRange(0, 1000);
  bar_->setAccessibleName(tr("Progress of the delivery"));
  QSizePolicy kept = bar_->sizePolicy();
  kept.setRetainSizeWhenHidden(true);
  bar_->setSizePolicy(kept);
  bar_->hide();  // while nothing is written there is nothing to tell
  into->addWidget(state_);
  into->addWidget(bar_);
  auto* buttons = new QHBoxLayout;
  deliver_ = new QPushButton(tr("Deliver the maps"), this);
  deliver_->setProperty("main", true);
  cancel_ = new QPushButton(tr("Cancel"), this);
  cancel_->setEnabled(false);
  deliver_->setMinimumWidth(220);
  buttons->addWidget(deliver_, brief_ ? 1 : 0);
  buttons->addWidget(cancel_);
  if (!brief_) buttons->addStretch(1);
  into->addLayout(buttons);
  report_ = new ReportView(this);
  into->addWidget(report_);
  scale_ = new QPushButton(this);
  scale_->hide();
  into->addWidget(scale_, 0, Qt::AlignLeft);
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
  const bool lists = material.lists != material_.lists;
  material_ = material;
  presets_->setVisible(!brief_ && !material.presets.empty());
  lists_->setVisible(!brief_ && !material.lists.empty());
  if (lists) fillLists();
  chooseFiles();
}

void DeliverForm::showOn(const DrapeView& view, const QString& meshName, const Material& whole) {
  const bool another = view.mesh != mesh_;
  mesh_ = view.mesh;
  whole_ = whole;
  onto_->setVisible(mesh_ != nullptr);
  onto_caption_->setVisible(mesh_ != nullptr);
  onto_->setItemText(1, tr("the mesh %1, all its parts").arg(meshName));
  if (another) onto_->setCurrentIndex(mesh_ && !slots_on_surface(material_, catalogue()).empty() ? 1 : 0);
  shape_ = view.shape;
  const QString on = QString::fromStdString(shape_names()[static_cast<std::size_t>(shape_)].second);
  for (auto* b : {gltf_, glb_}) b->setToolTip(tr("On the %1, as the drape shows it, in true size").arg(on));
  chooseFiles();
}

// ---- which files

void DeliverForm::fillLists() {
  const QString chosen = kept_.isEmpty() ? list_->currentData().toString() : kept_;
  kept_.clear();
  list_->clear();
  const QString words[] = {tr("one map a slot"), tr("occlusion, roughness, metallic in one"),
                           tr("height in the normal's alpha")};
  for (std::size_t i = 0; i < ready_lists().size(); ++i)
    list_->addItem(words[i], QString::fromUtf8(ready_lists()[i].data()));
  for (const DeliveryList& l : material_.lists)
    list_->addItem(QString::fromStdString(l.name), QString::fromStdString(l.name));
  list_->setCurrentIndex(std::max(0, list_->findData(chosen)));
}

// None: one map a slot, which goes with the mesh as well.
std::optional<DeliveryList> DeliverForm::chosenList() const {
  if (list_->currentIndex() <= 0) return {};
  const auto list =
      find_list(ontoMesh() ? with_all_hems(whole_) : material_, list_->currentData().toString().toStdString());
  return list ? std::optional(*list) : std::nullopt;
}

std::vector<FileDelivery> DeliverForm::chosenFiles() const {
  if (const auto list = chosenList()) return loom::files_of(*list);
  return ontoMesh() ? usual_files_on_mesh(whole_) : usual_files(material_);
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

std::optional<SurfaceUse> DeliverForm::noMap(const FileDelivery& file) const {
  for (const std::string& slot : slots_of(file))
    if (const auto use = no_maps_.find(slot); use != no_maps_.end()) return use->second;
  return {};
}

// On a mesh all are maps but those that are another from every side and in every light.
void DeliverForm::chooseFiles() {
  auto chosen = chosenFiles();
  auto no_maps = ontoMesh() ? uses_of_all(whole_) : slots_on_surface(material_, catalogue());
  if (ontoMesh()) std::erase_if(no_maps, [](const auto& s) { return s.second != SurfaceUse::eye_or_light; });
  const bool same = no_maps == no_maps_ && chosen.size() == files_.size() &&
                    std::equal(chosen.begin(), chosen.end(), files_.begin(),
                               [](const auto& a, const auto& b) { return a.name == b.name; });
  if (same && !rows_.empty()) return refreshNames();
  files_ = std::move(chosen);
  no_maps_ = std::move(no_maps);
  for (FileDelivery& f : files_) f.on = !noMap(f);
  if (const auto list = chosenList()) {
    green_->setCurrentIndex(list->green_up ? 0 : 1);
    if (list_->currentIndex() >= static_cast<int>(ready_lists().size()))
      size_->setCurrentIndex(std::max(0, size_->findData(list->sizes.front())));
  }
  fillTable();
  refreshNames();
}

void DeliverForm::addFile() {
  for (std::size_t i = 0; i < rows_.size(); ++i) files_[i] = plan().files[i];
  FileDelivery file{"packed"};
  for (int n = 2; std::any_of(files_.begin(), files_.end(), [&](const auto& f) { return f.name == file.name; }); ++n)
    file.name = "packed_" + std::to_string(n);
  const auto slots = usual_files(delivered());
  const std::string first = slots.empty() ? "height" : slots.front().name;
  for (const char* channel : {"r", "g", "b"}) file.channels[channel] = {first, 0};
  files_.push_back(std::move(file));
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
  const QString heads[] = {tr("Holds"), tr("File"), tr("Format"), tr("Bits"), tr("Encoded"), tr("Dither")};
  for (int i = 0; i < 6; ++i) table_->addWidget(captionLabel(heads[i], this), 0, i);
  int line = 1;
  for (std::size_t i = 0; i < files_.size(); ++i) line = addRow(i, line);
  table_->setColumnStretch(6, 1);  // what room is left stands behind all of them
}

int DeliverForm::addRow(std::size_t i, int line) {
  const FileDelivery& f = files_[i];
  Row r;
  const Slot* known = known_slot(f.name);
  QString name = known ? QString::fromUtf8(known->label.data())
                       : QString::fromStdString(f.name).replace(QLatin1Char('_'), QLatin1Char(' '));
  if (!name.isEmpty()) name[0] = name[0].toUpper();
  r.on = new QCheckBox(name, this);
  r.on->setChecked(f.on);
  r.on->setEnabled(!noMap(f));
  r.file = new QLabel(this);
  r.file->setFont(monoFont(11));
  setRole(r.file, "mono");
  r.format = new QComboBox(this);
  r.format->addItems({QStringLiteral("PNG"), QStringLiteral("EXR"), QStringLiteral("TIFF")});
  r.format->setAccessibleName(tr("Format of %1").arg(r.on->text()));
  r.bits = new QComboBox(this);
  r.bits->setAccessibleName(tr("Bits of %1").arg(r.on->text()));
  r.encoding = new QLabel(this);
  r.dither = new QCheckBox(this);
  r.dither->setAccessibleName(tr("Dither of %1").arg(r.on->text()));
  r.dither->setChecked(f.dither);
  QWidget* cells[] = {r.on, r.file, r.format, r.bits, r.encoding, r.dither};
  for (int c = 0; c < 6; ++c) table_->addWidget(cells[c], line, c);
  const auto fill = [this, i](int format) {
    QComboBox* bits = rows_[i].bits;
    const int before = bits->count() ? bits->currentData().toInt() : files_[i].bits;
    bits->clear();
    for (const int b : {8, 16, 32})
      if (holds_bits(static_cast<ImageFormat>(format), b)) bits->addItem(QString::number(b), b);
    const bool to_exr = static_cast<ImageFormat>(format) == ImageFormat::exr && files_[i].format != ImageFormat::exr;
    bits->setCurrentIndex(std::max(0, bits->findData(to_exr ? 32 : before)));
    refreshNames();
  };
  rows_.push_back(r);
  r.format->setCurrentIndex(static_cast<int>(f.format));
  fill(static_cast<int>(f.format));
  connect(r.format, &QComboBox::currentIndexChanged, this, fill);
  connect(r.bits, &QComboBox::currentIndexChanged, this, &DeliverForm::refreshNames);
  connect(r.on, &QCheckBox::toggled, this, &DeliverForm::refreshNames);
  return f.channels.size() > 1 ? addChannels(i, line + 1) : line + 1;
}

// Under a packed file: what stands in each of its channels.
int DeliverForm::addChannels(std::size_t i, int line) {
  const QString names[] = {tr("in red"), tr("in green"), tr("in blue"), tr("in alpha")};
  const char* channels[] = {"r", "g", "b", "a"};
  for (std::size_t c = 0; c < 4; ++c) {
    const auto source = files_[i].channels.find(channels[c]);
    if (source == files_[i].channels.end()) continue;
    auto* name = captionLabel(names[c], this);
    name->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    auto* from = new QComboBox(this);
    from->setEditable(true);
    from->setAccessibleName(tr("%1 %2").arg(rows_[i].on->text(), names[c]));
    from->lineEdit()->setAccessibleName(from->accessibleName());
    for (const FileDelivery& slot : usual_files(delivered())) {
      const Slot* known = known_slot(slot.name);
      if (!known || known->channels == 1) from->addItem(QString::fromStdString(slot.name));
      for (int k = 0; known && known->channels > 1 && k < known->channels; ++k)
        from->addItem(QString::fromStdString(slot.name) + QLatin1Char('.') + QLatin1Char("rgba"[k]));
    }
    for (const char* other : {"0", "1"}) from->addItem(QLatin1String(other));
    from->setEditText(QString::fromStdString(channel_text(source->second)));
    from->setToolTip(tr("A slot, one channel of it (normal.g), the one turned about (1 - roughness), or a number"));
    connect(from, &QComboBox::editTextChanged, this, &DeliverForm::refreshNames);
    table_->addWidget(name, line, 0);
    table_->addWidget(from, line++, 1);
    rows_[i].channels[channels[c]] = from;
  }
  return line;
}

// ---- what is written

DeliveryPlan DeliverForm::plan() const {
  DeliveryPlan plan;
  plan.folder = folder_->text().toStdString();
  plan.pattern = pattern_->text().toStdString();
  plan.size = sizes().front();
  plan.green_up = green_->currentIndex() == 0;
  if (const auto list = chosenList()) plan.list = list->name;
  plan.gltf = gltf_->isChecked(), plan.glb = glb_->isChecked(), plan.materialx = materialx_->isChecked();
  plan.materialx_graph = nodes_->isChecked();
  plan.shape = shape_names()[static_cast<std::size_t>(shape_)].first;
  plan.files = files_;
  for (FileDelivery& f : plan.files) {
    f.scale = std::find(scaled_.begin(), scaled_.end(), f.name) != scaled_.end();
    if (f.pattern == DeliveryPlan().pattern) f.pattern.clear();  // as the form has it
  }
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    FileDelivery& f = plan.files[i];
    f.on = rows_[i].on->isChecked();
    f.format = static_cast<ImageFormat>(rows_[i].format->currentIndex());
    f.bits = rows_[i].bits->currentData().toInt();
    f.dither = rows_[i].dither->isChecked();
    for (const auto& [channel, box] : rows_[i].channels)
      if (const auto source = channel_source(box->currentText().toStdString())) f.channels[channel] = *source;
  }
  return plan;
}

// A list of the material's may ask for several at once, as long as its first is chosen.
std::vector<int> DeliverForm::sizes() const {
  const int size = size_->currentData().toInt();
  const auto list = chosenList();
  const bool own = list_->currentIndex() >= static_cast<int>(ready_lists().size());
  return list && own && list->sizes.front() == size ? list->sizes : std::vector<int>{size};
}

Every DeliverForm::every() const {
  const auto wanted = [](const QCheckBox* b) { return b->isChecked() && !b->isHidden(); };
  return {wanted(presets_), wanted(lists_), wanted(parts_)};
}

Result<std::vector<Errand>> DeliverForm::allErrands() const {
  DeliveryPlan whole = plan();
  whole.state = delivery_state_file(whole.folder);
  return errands(every().part ? whole_ : delivered(), whole, every().list ? std::vector<int>() : sizes(), every(),
                 ontoMesh());
}

void DeliverForm::keepList(const QString& name) {
  const DeliveryPlan p = plan();
  DeliveryList list = list_of_files(name.toStdString(), p.files, p.size, p.green_up);
  list.sizes = sizes();
  for (ListedFile& f : list.files) f.pattern = p.pattern;
  auto lists = material_.lists;
  std::erase_if(lists, [&](const DeliveryList& l) { return l.name == list.name; });
  lists.push_back(std::move(list));
  kept_ = name;  // and goes on with it
  Q_EMIT listsWanted(tr("Keep the list %1").arg(name), lists);
}

void DeliverForm::refreshNames() {
  const DeliveryPlan p = plan();
  double bytes = 0;
  int files = 0;
  QString wrong;
  for (std::size_t i = 0; i < p.files.size(); ++i) {
    const FileDelivery& f = p.files[i];
    const Slot* known = known_slot(f.name);
    const auto channels = f.channels.size() > 1 ? static_cast<int>(f.channels.size()) : known ? known->channels : 1;
    if (f.on) ++files, bytes += static_cast<double>(p.size) * p.size * channels * f.bits / 8;
    if (i >= rows_.size()) continue;
    const auto use = noMap(f);
    rows_[i].file->setText(f.on                               ? QString::fromStdString(file_name(delivered(), p, f))
                           : use && *use == SurfaceUse::shape ? tr("depends on the shape: no map")
                           : use                              ? tr("depends on the eye or the light: no map")
                                                              : tr("not written"));
    const bool srgb = known && known->srgb && f.format != ImageFormat::exr && f.bits != 32;
    rows_[i].encoding->setText(srgb ? tr("sRGB") : tr("linear"));
    rows_[i].dither->setVisible(f.bits == 8);
    for (const auto& [channel, box] : rows_[i].channels)
      if (const auto source = channel_source(box->currentText().toStdString()); !source)
        wrong = tr("%1: %2").arg(box->accessibleName(), QString::fromStdString(source.error().text()));
  }
  parts_->setVisible(!brief_ && !ontoMesh() && !whole_.part_hems.empty());
  every_caption_->setVisible(!presets_->isHidden() || !lists_->isHidden() || !parts_->isHidden());
  const auto all = allErrands();
  const auto times = all ? static_cast<int>(all->size()) : 0;
  if (!all) wrong = QString::fromStdString(all.error().text());
  if (!writing_)
    state_->setText(!wrong.isEmpty() ? wrong
                    : times > 1      ? tr("%1 deliveries, %2 maps the first").arg(times).arg(files)
                                     : tr("%1 maps, at most %2 MB").arg(files).arg(std::lround(bytes / 1e6)));
  deliver_->setEnabled(files > 0 && !writing_ && wrong.isEmpty());
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
  const auto all = allErrands();
  if (writing_ || !all) return;
  scale_->hide();
  writing_ = true;
  deliver_->setEnabled(false);
  cancel_->setEnabled(true);
  bar_->setValue(0);
  bar_->show();
  stop_ = Stop();
  began_.start();
  deliveries().start([this, hearer = hearer_, all = *all, mesh = ontoMesh() ? mesh_ : nullptr, stop = stop_] {
    giveWay();
    Weaver weaver(default_budget());
    DeliveryReport report;
    std::optional<Error> fault;
    for (std::size_t i = 0; i < all.size() && !fault; ++i) {
      const auto progress = [&](double share, const std::string& what) {
        const double done = (static_cast<double>(i) + share) / static_cast<double>(all.size());
        hearer.tell([this, done, text = QString::fromStdString(what)] { showProgress(done, text); });
      };
      const auto& [material, plan] = all[i];
      auto one = mesh ? deliver_onto(material, catalogue(), weaver, plan, mesh, stop, progress)
                      : deliver(material, catalogue(), weaver, plan, stop, progress);
      if (one)
        add_report(report, std::move(one).value());
      else
        fault = one.error();
    }
    drop_spare_buffers();  // planes of that size are not asked for again soon
    const QString text = !fault ? ReportView::textOf(report)
                         : fault->what == kCancelled
                             ? tr("Cancelled. Files that were finished stand whole; the rest was not begun.")
                             : QString::fromStdString(fault->text());
    hearer.tell([this, text, good = !fault, report] {
      writing_ = false;
      offerScale(report.cut);
      cancel_->setEnabled(false);
      bar_->hide();
      good ? report_->showReport(report) : report_->showFault(text);
      refreshNames();
      Q_EMIT finished(good, text);
    });
  });
}

void DeliverForm::showProgress(double share, const QString& what) {
  bar_->setValue(static_cast<int>(share * 1000));
  if (!writing_) return;
  constexpr double kTelling = 0.1;  // before that nobody can say
  const double left = share > kTelling ? static_cast<double>(began_.elapsed()) / 1000 * (1 - share) / share : 0;
  state_->setText(left >= 2 ? tr("Working on %1, about %2 s left").arg(what).arg(std::lround(left))
                            : tr("Working on %1").arg(what));
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
