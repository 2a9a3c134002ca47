// Left to right: start, look, turn, deliver.
#include "app/fitting/fitting_window.h"

#include <QFileInfo>
#include <QFocusEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMessageBox>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "app/tray/tray.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

QLabel* heading(const QString& text, QWidget* parent) {
  auto* l = new QLabel(text, parent);
  setRole(l, "title");
  return l;
}

}  // namespace

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
  auto* name = heading(QString::fromStdString(bolt.material.name), top);
  setRole(name, "name");
  auto* from = new QLabel(tr("bolt %1, %2").arg(QString::fromStdString(bolt.version), QFileInfo(path).fileName()), top);
  auto* middle = heading(tr("Fitting"), top);
  auto* weave = new QPushButton(tr("Open in Weave"), top);
  auto* notes = new QPushButton(tr("Read the notes"), top);
  for (auto* b : {weave, notes}) b->setProperty("word", true);
  notes->setVisible(!bolt.notes.empty());
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
  startBox->addWidget(heading(tr("Start from a preset"), start));
  addPresets(startBox);
  state_ = new QLabel(start);
  state_->setWordWrap(true);
  setRole(state_, "mute");
  startBox->addWidget(state_);
  startBox->addStretch(1);
  columns->addWidget(start);

  drape_ = new DrapePanel(central);
  columns->addWidget(drape_, 1);

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
  dialHead->addWidget(heading(tr("Dials"), dials), 1);
  auto* seed = new QPushButton(tr("New seed"), dials);
  seed->setProperty("word", true);
  dialHead->addWidget(seed);
  dialBox->addLayout(dialHead);
  addDials(dialBox);
  dialBox->addStretch(1);
  area->setWidget(dials);
  rightBox->addWidget(area, 1);
  auto* lower = new QWidget(right);
  lower->setAutoFillBackground(true);
  lower->setBackgroundRole(QPalette::Base);
  auto* deliverBox = new QVBoxLayout(lower);
  deliverBox->setContentsMargins(24, 14, 24, 18);
  deliverBox->addWidget(heading(tr("Delivery"), lower));
  form_ = new DeliverForm(true, lower);
  deliverBox->addWidget(form_);
  rightBox->addWidget(lower);
  columns->addWidget(right);
  setCentralWidget(central);

  connect(weave, &QPushButton::clicked, this, [this] { Q_EMIT openInWeave(bolt_.material); });
  connect(notes, &QPushButton::clicked, this,
          [this] { QMessageBox::information(this, tr("Notes"), QString::fromStdString(bolt_.notes)); });
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

void FittingWindow::orderPresetPictures() {
  std::vector<PictureOrder> orders{{0, edit::apply_preset(bolt_.material, Preset{}), {}}};
  for (const Preset& p : bolt_.material.presets)
    orders.push_back({static_cast<int>(orders.size()), edit::apply_preset(bolt_.material, p), {}});
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
      auto* row = new ParameterRow({parameterOf(bolt_.material, v), v.value});
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

void FittingWindow::refresh() {
  const Material& m = bolt_.material;
  int turned = 0;
  for (ParameterRow* row : rows_) {
    const Value* v = m.value(row->id());
    row->showView({parameterOf(m, *v), v->value});
    row->showHelp(true);
    ParamValue at_preset = v->dial->at_start;
    if (preset_ >= 0) {
      const auto& values = m.presets[static_cast<std::size_t>(preset_)].values;
      if (const auto it = values.find(v->id); it != values.end()) at_preset = it->second;
    }
    if (const auto* tick = std::get_if<double>(&at_preset)) row->setTick(*tick, true);
    turned += v->value != at_preset;
  }
  for (std::size_t i = 0; i < presets_.size(); ++i) presets_[i]->setChecked(static_cast<int>(i) - 1 == preset_);
  const QString name =
      preset_ < 0 ? tr("As made") : QString::fromStdString(m.presets[static_cast<std::size_t>(preset_)].name);
  if (state_)
    state_->setText(turned == 0   ? name
                    : turned == 1 ? tr("%1, 1 dial turned").arg(name)
                                  : tr("%1, %2 dials turned").arg(name).arg(turned));
  form_->showMaterial(m);
  form_->showMesh(drape_->view().mesh, drape_->meshName(), m);
  engine_.wish({m, {}, -1, kWorkingSize});
}

}  // namespace loom::app

#include "moc_fitting_window.cpp"
