// Left to right: start, look, turn, deliver.
#include "app/fitting/fitting_window.h"

#include <QDialog>
#include <QEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QStandardPaths>
#include <QVBoxLayout>

#include "app/base/chip.h"
#include "app/base/elsewhere.h"
#include "app/base/labels.h"
#include "app/base/notes_view.h"
#include "app/base/theme.h"
#include "app/engine/small_picture.h"
#include "app/fitting/input_field.h"
#include "app/fitting/others_list.h"
#include "app/fitting/start_column.h"
#include "app/tray/tray.h"
#include "core/bolt/given_inputs.h"
#include "core/bolt/own_presets.h"
#include "core/graph/edit.h"
#include "core/graph/inputs.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

QString mineFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/mine");
}

}  // namespace

FittingWindow::FittingWindow(const Bolt& bolt, const QString& path, QWidget* parent)
    : QMainWindow(parent),
      bolt_(bolt),
      path_(path),
      drape_(new DrapePanel(this)),
      compare_(drape_->addChip(tr("Compare with the start"))) {
  setWindowTitle(tr("%1, fitting").arg(QString::fromStdString(bolt.material.name)));
  resize(1280, 800);
  auto* central = new QWidget(this);
  auto* all = new QVBoxLayout(central);
  all->setContentsMargins(0, 0, 0, 0);
  all->setSpacing(0);
  all->addWidget(bar());
  auto* columns = new QHBoxLayout;
  columns->setSpacing(0);
  all->addLayout(columns, 1);
  columns->addWidget(startColumn());
  auto* look = new QVBoxLayout;
  look->setSpacing(0);
  look->addWidget(drape_, 1);
  look->addWidget(ownFields());
  columns->addLayout(look, 1);
  columns->addWidget(turnColumn());
  setCentralWidget(central);

  compare_->setText(tr("compare with start"));
  connect(compare_, &Chip::clicked, this, [this] { compareWithStart(!compare_->isOn()); });
  connect(drape_, &DrapePanel::wiped, this, [this](double share) { wipe_ = share; });
  connect(&engine_, &Engine::seen, this, [this](const SeenPtr& seen) { drape_->showOutfit(seen->outfit()); });
  connect(&engine_, &Engine::refused, drape_, &DrapePanel::showMessage);
  connect(drape_, &DrapePanel::told, drape_, &DrapePanel::showMessage);
  connect(drape_, &DrapePanel::stood, this, &FittingWindow::showStanding);
  drape_->standAs(bolt_.material);
  readMine();
  presets_->showPresets(bolt_, mine_);
  refresh();
}

QWidget* FittingWindow::bar() {
  auto* top = new QWidget;
  top->setFixedHeight(42);
  top->setAutoFillBackground(true);
  setRole(top, "bar");
  auto* row = new QHBoxLayout(top);
  row->setContentsMargins(24, 0, 24, 0);
  const Material& m = bolt_.material;
  auto* name = titleLabel(QString::fromStdString(m.name), top);
  setRole(name, "name");
  auto* from =
      new QLabel(tr("version %1, %2").arg(QString::fromStdString(m.imprint.version), QFileInfo(path_).fileName()), top);
  auto* middle = titleLabel(tr("Fitting"), top);
  auto* weave = new QPushButton(tr("Open in Weave"), top);
  auto* notes = new QPushButton(tr("Read the notes"), top);
  for (auto* b : {weave, notes}) b->setProperty("word", true);
  notes->setVisible(!m.notes.empty());
  row->addWidget(name);
  row->addSpacing(10);
  row->addWidget(from);
  row->addStretch(1);
  row->addWidget(middle);
  row->addStretch(2);
  row->addWidget(weave);
  row->addWidget(notes);
  connect(weave, &QPushButton::clicked, this, [this] { Q_EMIT openInWeave(bolt_.material); });
  connect(notes, &QPushButton::clicked, this, &FittingWindow::openNotes);
  return top;
}

QWidget* FittingWindow::startColumn() {
  auto* start = new QWidget;
  start->setFixedWidth(256);
  startBox_ = new QVBoxLayout(start);
  startBox_->setContentsMargins(24, 18, 12, 18);
  startBox_->setSpacing(16);
  presets_ = new StartColumn(start);
  startBox_->addWidget(presets_, 1);
  connect(presets_, &StartColumn::chosen, this, &FittingWindow::choosePreset);
  connect(presets_, &StartColumn::keepWanted, this, &FittingWindow::askToKeep);
  connect(presets_, &StartColumn::removeWanted, this, &FittingWindow::removeMine);
  return start;
}

QWidget* FittingWindow::turnColumn() {
  auto* right = new QWidget;
  right->setFixedWidth(360);
  auto* rightBox = new QVBoxLayout(right);
  rightBox->setContentsMargins(0, 0, 0, 0);
  rightBox->setSpacing(0);
  auto* area = new QScrollArea(right);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  auto* dials = new QWidget;
  auto* dialBox = new QVBoxLayout(dials);
  dialBox->setContentsMargins(24, 18, 24, 10);
  dialBox->setSpacing(5);
  auto* dialHead = new QHBoxLayout;
  dialHead->addWidget(titleLabel(tr("Dials"), dials), 1);
  auto* seed = new QPushButton(tr("New seed"), dials);
  seed->setProperty("word", true);
  dialHead->addWidget(seed);
  dialBox->addLayout(dialHead);
  addDials(dialBox);
  addTypedInputs(dialBox);
  dialBox->addStretch(1);
  area->setWidget(dials);
  rightBox->addWidget(area, 1);
  auto* lower = new QWidget(right);
  lower->setAutoFillBackground(true);
  lower->setBackgroundRole(QPalette::Base);
  auto* deliverBox = new QVBoxLayout(lower);
  deliverBox->setContentsMargins(24, 14, 24, 18);
  deliverBox->addWidget(titleLabel(tr("Delivery"), lower));
  form_ = new DeliverForm(true, lower);
  deliverBox->addWidget(form_);
  rightBox->addWidget(lower);
  connect(seed, &QPushButton::clicked, this, [this] {
    ++bolt_.material.seed;
    refresh();
    renewStart();
  });
  return right;
}

void FittingWindow::offer(Stock& stock) {
  others_ = new OthersList(stock, path_, this);
  startBox_->addWidget(others_);
  connect(others_, &OthersList::openWanted, this, &FittingWindow::openWanted);
  connect(others_, &OthersList::allWanted, this, &FittingWindow::stockroomWanted);
  stock.look();
}

bool FittingWindow::isIdle() const {
  return engine_.isIdle() && drape_->isIdle() && presets_->isIdle() && (!startEngine_ || startEngine_->isIdle());
}

QDialog* FittingWindow::openNotes() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowTitle(tr("Notes of %1").arg(QString::fromStdString(bolt_.material.name)));
  dialog->resize(560, 520);
  auto* box = new QVBoxLayout(dialog);
  box->setContentsMargins(24, 18, 24, 18);
  auto* view = new NotesView(dialog);
  view->showNotes(QString::fromStdString(bolt_.material.notes));
  box->addWidget(view);
  dialog->show();
  return dialog;
}

void FittingWindow::addDials(QVBoxLayout* into) {
  std::vector<std::string> groups;
  for (const Value& v : bolt_.material.values)
    if (v.dial && std::find(groups.begin(), groups.end(), v.dial->group) == groups.end())
      groups.push_back(v.dial->group);
  for (const std::string& group : groups) {
    auto* head = new QLabel(QString::fromStdString(group));
    setRole(head, "group");
    into->addWidget(head);
    for (const Value& v : bolt_.material.values) {
      if (!v.dial || v.dial->group != group) continue;
      auto* row = new ParameterRow(dialView(bolt_.material, v));
      row->showHelp(true);
      const std::string id = v.id;
      connect(row, &ParameterRow::valueWanted, this, [this, id](const ParamValue& value) { turn(id, value); });
      connect(row, &ParameterRow::resetWanted, this, [this, id] {
        if (const Value* x = bolt_.material.value(id)) turn(id, x->dial->at_start);
      });
      into->addWidget(row);
      rows_.push_back(row);
    }
  }
  if (rows_.empty()) into->addWidget(new QLabel(tr("This bolt has no dials.")));
}

// The mesh, and what the bolt asks for, as fields to drop files on.
QWidget* FittingWindow::ownFields() {
  for (const NodePtr& n : bolt_.material.nodes)
    if (n->type == kComesIn) inputs_.push_back(n);
  auto* own = new QWidget;
  own->setAutoFillBackground(true);
  own->setBackgroundRole(QPalette::Base);
  auto* box = new QVBoxLayout(own);
  box->setContentsMargins(24, 10, 24, 14);
  box->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel(tr("Your own"), own));
  auto* hint = new QLabel(tr("drop a file on a field, or leave it as it is"), own);
  setRole(hint, "mute");
  head->addSpacing(8);
  head->addWidget(hint, 1);
  box->addLayout(head);
  auto* fields = new QWidget;
  auto* row = new QHBoxLayout(fields);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(8);
  mesh_ = new MeshField(fields);
  row->addWidget(mesh_);
  connect(mesh_, &MeshField::fileWanted, drape_, &DrapePanel::takeMesh);
  connect(mesh_, &MeshField::resetWanted, this, [this] {
    drape_->setShape(drape_->view().shape);
    drape_->standAs(bolt_.material);
  });
  for (const NodePtr& n : inputs_) {
    auto* field = new InputField(*n, fields);
    const std::string id = n->id;
    connect(field, &InputField::fileWanted, this, [this, id](const QString& path) { giveMap(id, path); });
    connect(field, &InputField::resetWanted, this, [this, id] { resetInput(id); });
    row->addWidget(field);
    fields_.push_back(field);
  }
  row->addStretch(1);
  auto* area = new QScrollArea(own);  // there may be more than fit beside each other
  area->setFrameShape(QFrame::NoFrame);
  area->setWidgetResizable(true);
  area->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area->setFixedHeight(inputs_.size() > 1 ? 92 : 76);
  area->setWidget(fields);
  box->addWidget(area);
  return own;
}

void FittingWindow::addTypedInputs(QVBoxLayout* into) {
  for (const NodePtr& n : inputs_) {
    const auto view = typedRow(*n);
    if (!view) continue;
    if (typed_.empty()) {
      auto* head = new QLabel(tr("Your own, typed"));
      setRole(head, "group");
      into->addWidget(head);
    }
    auto* row = new ParameterRow(*view);
    const std::string id = n->id, param = view->parameter.id;
    connect(row, &ParameterRow::valueWanted, this, [this, id, param](const ParamValue& value) {
      bolt_.material = edit::set_param(bolt_.material, id, param, value);
      refresh();
      renewStart();
    });
    connect(row, &ParameterRow::resetWanted, this, [this, id] { resetInput(id); });
    into->addWidget(row);
    typed_.emplace_back(id, row);
  }
}

void FittingWindow::giveMap(const std::string& input, const QString& path) {
  auto given = elsewhere([&] { return with_input_picture(bolt_.material, input, path.toStdString()); });
  if (!given) return drape_->showMessage(QString::fromStdString(given.error().text()));
  bolt_.material = std::move(given).value();
  refresh();
  renewStart();
}

// As the bolt brings it.
void FittingWindow::resetInput(const std::string& input) {
  for (const NodePtr& was : inputs_)
    for (NodePtr& n : bolt_.material.nodes)
      if (was->id == input && n->id == input) n = was;
  refresh();
  renewStart();
}

// Decoded once: a dial that is turned shows it as it is.
QImage FittingWindow::pictureOf(const Node& input) {
  const auto file = input.params.find("file");
  const auto* name = file == input.params.end() ? nullptr : std::get_if<std::string>(&file->second);
  if (!name || name->empty() || stands_in(input_of(input)) != kStandsPicture || !bolt_.material.files) return {};
  if (const auto known = inputPictures_.find(*name); known != inputPictures_.end()) return known->second;
  const auto packed = bolt_.material.files->packed.find(*name);
  if (packed == bolt_.material.files->packed.end()) return {};
  return inputPictures_[*name] = elsewhere([&] {
           const auto image = decode_image(*name, *packed->second.bytes);
           return image ? shownSmall(*image, 112) : QImage();
         });
}

void FittingWindow::turn(const std::string& dial, const ParamValue& value) {
  bolt_.material = edit::set_value(bolt_.material, dial, value);
  refresh();
}

// ---- where it starts

Preset FittingWindow::presetAt(int index) const {
  const auto& brought = bolt_.material.presets;
  if (index < 0) return {};
  const auto at = static_cast<std::size_t>(index);
  return at < brought.size() ? brought[at] : as_it_fits(mine_[at - brought.size()], bolt_.material);
}

Material FittingWindow::atStart() const { return edit::apply_preset(bolt_.material, presetAt(preset_)); }

void FittingWindow::choosePreset(int index) {
  preset_ = index;
  bolt_.material = atStart();
  refresh();
  renewStart();
}

// What a dial is in the preset that one started from.
ParamValue FittingWindow::atPreset(const Value& v) const {
  const Preset preset = presetAt(preset_);
  const auto it = preset.values.find(v.id);
  return it == preset.values.end() ? v.dial->at_start : it->second;
}

void FittingWindow::askToKeep() {
  const QString name = QInputDialog::getText(this, tr("Keep as mine"), tr("Name of the preset")).trimmed();
  if (!name.isEmpty()) keepAsMine(name);
}

// As it is on disc now: another fitting may have kept some meanwhile. What cannot be read is not written over.
bool FittingWindow::readMine() {
  auto kept = elsewhere([&] { return own_presets(mineFolder().toStdString(), bolt_.material); });
  if (kept)
    mine_ = std::move(kept).value();
  else
    drape_->showMessage(QString::fromStdString(kept.error().text()));
  return kept.ok();
}

void FittingWindow::keepAsMine(const QString& name) {
  if (!readMine()) return;
  Material kept = bolt_.material;
  kept.presets = mine_;
  mine_ = edit::keep_preset(std::move(kept), name.toStdString()).presets;
  const auto at = std::ranges::find(mine_, name.toStdString(), &Preset::name);
  preset_ = static_cast<int>(bolt_.material.presets.size() + static_cast<std::size_t>(at - mine_.begin()));
  writeMine();
}

void FittingWindow::removeMine(int preset) {
  const std::string name = mine_[static_cast<std::size_t>(preset) - bolt_.material.presets.size()].name;
  if (!readMine()) return;
  std::erase_if(mine_, [&](const Preset& p) { return p.name == name; });
  preset_ = -1;
  writeMine();
}

void FittingWindow::writeMine() {
  const auto written = elsewhere([&] { return keep_own_presets(mineFolder().toStdString(), bolt_.material, mine_); });
  presets_->showPresets(bolt_, mine_);
  refresh();
  renewStart();
  if (!written) drape_->showMessage(QString::fromStdString(written.error().text()));
}

void FittingWindow::compareWithStart(bool compares) {
  compare_->setOn(compares);
  if (!compares) {
    startEngine_.reset();
    return drape_->showCompared({});
  }
  startEngine_ = std::make_unique<Engine>();
  connect(startEngine_.get(), &Engine::seen, this, [this](const SeenPtr& seen) {
    Comparison beside{Compare::wipe, seen, nullptr, wipe_};
    beside.names = {tr("the start"), tr("now")};
    drape_->showCompared(beside);
  });
  renewStart();
}

void FittingWindow::refresh() {
  const Material& m = bolt_.material;
  int turned = 0;
  for (ParameterRow* row : rows_) {
    const Value* v = m.value(row->id());
    const ParamValue at_preset = atPreset(*v);
    const bool left = v->value != at_preset;
    RowView view = dialView(m, *v);
    if (const auto* word = std::get_if<std::string>(&at_preset); word && left)
      view.origin = tr("was %1").arg(word->empty() ? tr("empty") : QString::fromStdString(*word));
    if (std::holds_alternative<Vector>(at_preset) && left) view.origin = tr("turned");
    row->showView(view);
    row->showHelp(true);
    if (const auto* tick = std::get_if<double>(&at_preset)) row->setTick(*tick, true);
    turned += left;
  }
  for (InputField* field : fields_)
    if (const Node* n = m.node(field->id())) field->showInput(*n, pictureOf(*n));
  for (auto& [input, row] : typed_)
    if (const Node* n = m.node(input)) row->showView(*typedRow(*n));
  presets_->showState(preset_, turned);
  form_->showMaterial(m);
  showStanding();
  engine_.wish({m, {}, -1, kWorkingSize});
}

// What it stands on: the shape, the mesh that the bolt brings, or one's own.
void FittingWindow::showStanding() {
  const QString brought = QFileInfo(QString::fromStdString(bolt_.material.mesh)).completeBaseName();
  mesh_->showView(drape_->view(), drape_->meshName(), drape_->meshName() == brought);
  form_->showOn(drape_->view(), drape_->meshName(), bolt_.material);
}

void FittingWindow::renewStart() {
  if (startEngine_) startEngine_->wish({atStart(), {}, -1, kWorkingSize});
}

}  // namespace loom::app

#include "moc_fitting_window.cpp"
