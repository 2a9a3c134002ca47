// Left to right: start, look, turn, deliver.
#include "app/fitting/fitting_window.h"

#include <QFileInfo>
#include <QFocusEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPixmap>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/labels.h"
#include "app/base/notes_view.h"
#include "app/base/theme.h"
#include "app/engine/small_picture.h"
#include "app/fitting/input_field.h"
#include "app/tray/tray.h"
#include "core/bolt/given_inputs.h"
#include "core/graph/edit.h"
#include "core/graph/inputs.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
FittingWindow::FittingWindow(const Bolt& bolt, const QString& path, QWidget* parent)
    : QMainWindow(parent), bolt_(bolt) {
  setWindowTitle(tr("%1, fitting").arg(QString::fromStdString(bolt.material.name)));
  resize(1280, 800);
  auto* central = new QWidget(this);
  auto* all = new QVBoxLayout(central);
  all->setContentsMargins(0, 0, 0, 0);
  all->setSpacing(0);
  auto* top = new QWidget(central);
  top->setFixedHeight(42);
  top->setAutoFillBackground(true);
  setRole(top, "bar");
  auto* bar = new QHBoxLayout(top);
  bar->setContentsMargins(24, 0, 24, 0);
  auto* name = titleLabel(QString::fromStdString(bolt.material.name), top);
  setRole(name, "name");
  auto* from = new QLabel(
      tr("bolt %1, %2").arg(QString::fromStdString(bolt.material.imprint.version), QFileInfo(path).fileName()), top);
  auto* middle = titleLabel(tr("Fitting"), top);
  auto* weave = new QPushButton(tr("Open in Weave"), top);
  auto* notes = new QPushButton(tr("Read the notes"), top);
  for (auto* b : {weave, notes}) b->setProperty("word", true);
  notes->setVisible(!bolt.material.notes.empty());
  bar->addWidget(name);
  bar->addSpacing(10);
  bar->addWidget(from);
  bar->addStretch(1);
  bar->addWidget(middle);
  bar->addStretch(2);
  bar->addWidget(weave);
  bar->addWidget(notes);
  all->addWidget(top);
  auto* columns = new QHBoxLayout;
  columns->setSpacing(0);
  all->addLayout(columns, 1);

  auto* start = new QWidget(central);
  start->setFixedWidth(256);
  auto* startBox = new QVBoxLayout(start);
  startBox->setContentsMargins(24, 18, 24, 18);
  startBox->addWidget(titleLabel(tr("Start from a preset"), start));
  addPresets(startBox);
  state_ = new QLabel(start);
  state_->setWordWrap(true);
  setRole(state_, "mute");
  startBox->addWidget(state_);
  back_ = new QPushButton(tr("Back to it"), start);
  startBox->addWidget(back_, 0, Qt::AlignLeft);
  connect(back_, &QPushButton::clicked, this, [this] { choosePreset(preset_); });
  startBox->addStretch(1);
  columns->addWidget(start);

  drape_ = new DrapePanel(central);
  auto* middleColumn = new QVBoxLayout;
  middleColumn->setSpacing(0);
  middleColumn->addWidget(drape_, 1);
  if (QWidget* own = inputFields()) middleColumn->addWidget(own);
  columns->addLayout(middleColumn, 1);

  auto* right = new QWidget(central);
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
  columns->addWidget(right);
  setCentralWidget(central);

  connect(weave, &QPushButton::clicked, this, [this] { Q_EMIT openInWeave(bolt_.material); });
  connect(notes, &QPushButton::clicked, this, &FittingWindow::openNotes);
  connect(seed, &QPushButton::clicked, this, [this] {
    ++bolt_.material.seed;
    refresh();
  });
  connect(&engine_, &Engine::seen, this, [this](const SeenPtr& seen) { drape_->showOutfit(seen->outfit()); });
  connect(&engine_, &Engine::refused, drape_, &DrapePanel::showMessage);
  connect(drape_, &DrapePanel::told, drape_, &DrapePanel::showMessage);
  connect(drape_, &DrapePanel::stood, this,
          [this] { form_->showMesh(drape_->view().mesh, drape_->meshName(), bolt_.material); });
  drape_->standAs(bolt_.material);
  connect(&presetPictures_, &PictureMaker::made, this, [this](int i, const QImage& picture) {
    presets_[static_cast<std::size_t>(i)]->setIcon(QPixmap::fromImage(picture));
  });
  refresh();
  orderPresetPictures();
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

// What the bolt brings shows at once; what it lacks is made.
void FittingWindow::orderPresetPictures() {
  std::vector<PictureOrder> orders;
  const auto show = [&](int i, const Preset& preset) {
    const auto packed = bolt_.pictures.find(preset.name);
    QPixmap picture;
    if (packed != bolt_.pictures.end() && picture.loadFromData(reinterpret_cast<const uchar*>(packed->second.data()),
                                                               static_cast<uint>(packed->second.size()), "PNG"))
      presets_[static_cast<std::size_t>(i)]->setIcon(picture);
    else
      orders.push_back({i, edit::apply_preset(bolt_.material, preset), {}});
  };
  show(0, Preset{});
  for (std::size_t i = 0; i < bolt_.material.presets.size(); ++i)
    show(static_cast<int>(i) + 1, bolt_.material.presets[i]);
  presetPictures_.order(std::move(orders));
}

void FittingWindow::addPresets(QVBoxLayout* into) {
  auto* grid = new QGridLayout;
  grid->setSpacing(8);
  QStringList names{tr("As made")};
  for (const Preset& p : bolt_.material.presets) names << QString::fromStdString(p.name);
  for (int i = 0; i < names.size(); ++i) {
    auto* b = new QPushButton;
    b->setFixedSize(100, 100);
    b->setIconSize(QSize(96, 96));
    b->setCheckable(true);
    b->setAccessibleName(names[i]);
    setRole(b, "preset");
    auto* label = new QLabel(names[i]);
    grid->addWidget(b, (i / 2) * 2, i % 2);
    grid->addWidget(label, (i / 2) * 2 + 1, i % 2);
    connect(b, &QPushButton::clicked, this, [this, i] { choosePreset(i - 1); });
    presets_.push_back(b);
  }
  into->addLayout(grid);
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

// What the bolt asks for, as fields to drop maps on; null: it asks for nothing.
QWidget* FittingWindow::inputFields() {
  for (const NodePtr& n : bolt_.material.nodes)
    if (n->type == kComesIn) inputs_.push_back(n);
  if (inputs_.empty()) return nullptr;
  auto* own = new QWidget;
  own->setAutoFillBackground(true);
  own->setBackgroundRole(QPalette::Base);
  auto* box = new QVBoxLayout(own);
  box->setContentsMargins(24, 10, 24, 14);
  box->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel(tr("Your own"), own));
  auto* hint = new QLabel(tr("drop a map on a field, or leave it as it is"), own);
  setRole(hint, "mute");
  head->addSpacing(8);
  head->addWidget(hint, 1);
  box->addLayout(head);
  auto* fields = new QWidget;
  auto* row = new QHBoxLayout(fields);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(8);
  for (const NodePtr& n : inputs_) {
    auto* field = new InputField(*n, fields);
    const std::string id = n->id;
    connect(field, &InputField::pictureWanted, this, [this, id](const QString& path) { giveMap(id, path); });
    connect(field, &InputField::resetWanted, this, [this, id] { resetInput(id); });
    row->addWidget(field);
    fields_.push_back(field);
  }
  row->addStretch(1);
  auto* area = new QScrollArea(own);  // there may be more than fit beside each other
  area->setFrameShape(QFrame::NoFrame);
  area->setWidgetResizable(true);
  area->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area->setFixedHeight(inputs_.size() > 2 ? 92 : 76);
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
}

// As the bolt brings it.
void FittingWindow::resetInput(const std::string& input) {
  for (const NodePtr& was : inputs_)
    for (NodePtr& n : bolt_.material.nodes)
      if (was->id == input && n->id == input) n = was;
  refresh();
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

void FittingWindow::choosePreset(int index) {
  preset_ = index;
  bolt_.material = edit::apply_preset(bolt_.material,
                                      index < 0 ? Preset{} : bolt_.material.presets[static_cast<std::size_t>(index)]);
  refresh();
}

// What a dial is in the preset that one started from.
ParamValue FittingWindow::atPreset(const Value& v) const {
  if (preset_ < 0) return v.dial->at_start;
  const auto& values = bolt_.material.presets[static_cast<std::size_t>(preset_)].values;
  const auto it = values.find(v.id);
  return it == values.end() ? v.dial->at_start : it->second;
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
  for (std::size_t i = 0; i < presets_.size(); ++i) presets_[i]->setChecked(static_cast<int>(i) - 1 == preset_);
  const QString name =
      preset_ < 0 ? tr("As made") : QString::fromStdString(m.presets[static_cast<std::size_t>(preset_)].name);
  if (state_)
    state_->setText(turned == 0   ? name
                    : turned == 1 ? tr("%1, 1 dial turned").arg(name)
                                  : tr("%1, %2 dials turned").arg(name).arg(turned));
  back_->setEnabled(turned != 0);
  form_->showMaterial(m);
  form_->showMesh(drape_->view().mesh, drape_->meshName(), m);
  engine_.wish({m, {}, -1, kWorkingSize});
}

}  // namespace loom::app

#include "moc_fitting_window.cpp"
