// The panels and dialogues that the window opens.
#include "app/shell/main_window.h"

#include <QDialog>
#include <QMessageBox>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/theme.h"
#include "app/board/add_line.h"
#include "app/deliver/bolt_dialog.h"
#include "app/deliver/deliver_form.h"
#include "app/deliver/dials_panel.h"
#include "app/drape/picture_form.h"
#include "app/proof/fit_dialog.h"
#include "app/shell/help_panel.h"
#include "app/shell/keys_dialog.h"
#include "app/shell/part_focus.h"
#include "app/shell/pick.h"
#include "app/shell/recolour_dialog.h"
#include "app/shell/times_panel.h"
#include "app/tray/values_panel.h"
#include "core/graph/disc.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

QDialog* MainWindow::openDelivery() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowTitle(tr("Deliver"));
  dialog->resize(820, 520);
  auto* box = new QVBoxLayout(dialog);
  box->setContentsMargins(24, 18, 24, 18);
  const Material material =
      parts_->hasOwnHem() ? edit::worn_by_part(document_.material(), parts_->part()) : document_.material();
  auto* head = new QLabel(tr("Delivery of %1").arg(QString::fromStdString(material.name)));
  setRole(head, "title");
  auto* form = new DeliverForm(false, dialog);
  form->setObjectName(QStringLiteral("deliverForm"));
  if (!document_.path().isEmpty()) form->setFolder(QFileInfo(document_.path()).path() + QStringLiteral("/maps"));
  form->showMaterial(material);
  const auto showOn = [this, form] { form->showOn(drape_->view(), drape_->meshName(), document_.material()); };
  showOn();
  connect(drape_, &DrapePanel::stood, form, showOn);
  connect(form, &DeliverForm::listsWanted, this,
          [this, form, showOn](const QString& name, const std::vector<DeliveryList>& lists) {
            Material next = document_.material();
            next.lists = lists;
            document_.edit(name, next);
            form->showMaterial(parts_->hasOwnHem() ? edit::worn_by_part(next, parts_->part()) : next);
            showOn();
          });
  box->addWidget(head);
  box->addWidget(form, 1);
  box->addStretch(1);
  dialog->show();
  return dialog;
}

PictureForm* MainWindow::openPicture() {
  if (!drape_->outfit()) return nullptr;
  auto* form = new PictureForm(drape_->outfit(), drape_->view(), this);
  form->setAttribute(Qt::WA_DeleteOnClose);
  form->show();
  return form;
}

// What was found is one step to undo; the loupe and the drape hold what was before as A.
FitDialog* MainWindow::openFit() {
  if (!fit_) {
    fit_ = new FitDialog(this);
    connect(fit_, &FitDialog::takeWanted, this,
            [this](const std::map<std::string, ParamValue>& dials, const QString& words) {
              Material next = document_.material();
              for (const auto& [dial, value] : dials)
                if (next.value(dial)) next = edit::set_value(std::move(next), dial, value);
              loupe_->holdBefore();
              document_.edit(words, next);
              say(tr("%1: A is what was before, B what was found; V flips").arg(words));
            });
  }
  fit_->show();
  fit_->showMaterial(document_.material());
  fit_->raise();
  return fit_;
}

DialsPanel* MainWindow::openDials() {
  if (!dials_) {
    dials_ = new DialsPanel(this);
    connect(dials_, &DialsPanel::editWanted, this,
            [this](const QString& name, const Material& next, const QString& gesture) {
              document_.edit(name, next, gesture);
            });
  }
  dials_->show();
  dials_->showMaterial(document_.material());
  dials_->raise();
  return dials_;
}

BoltDialog* MainWindow::openBolt() {
  if (!bolt_) {
    bolt_ = new BoltDialog(this);
    connect(bolt_, &BoltDialog::editWanted, this,
            [this](const QString& name, const Material& next, const QString& gesture) {
              document_.edit(name, next, gesture);
            });
    connect(bolt_, &BoltDialog::writeWanted, this, [this] { files_->saveAsBolt(); });
  }
  bolt_->showMaterial(document_.material());
  bolt_->show();
  bolt_->raise();
  return bolt_;
}

ValuesPanel* MainWindow::openValues() {
  if (!values_) {
    values_ = new ValuesPanel(this);
    connect(values_, &ValuesPanel::editWanted, this,
            [this](const QString& name, const Material& next) { edit(name, next); });
    connect(values_, &ValuesPanel::nodeWanted, this, [this](const std::string& node) {
      navigation_->leaveTrail();
      board_->select({node});
      board_->fly(node);
    });
  }
  values_->showMaterial(shown());
  values_->show();
  values_->raise();
  return values_;
}

TimesPanel* MainWindow::openTimes() {
  if (!times_) {
    times_ = new TimesPanel(this);
    connect(times_, &TimesPanel::nodeWanted, this, [this](const std::string& path) {
      if (const std::string node = navigation_->local(path); !node.empty())
        navigation_->leaveTrail(), board_->select({node}), board_->fly(node);
    });
  }
  engine_.weaver().forget();  // what was kept would have no time to show
  times_->show();
  times_->raise();
  wish();
  return times_;
}

KeysDialog* MainWindow::openKeys() {
  auto* dialog = new KeysDialog(actions_, this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->show();
  return dialog;
}

HelpPanel* MainWindow::openHelp() {
  const Node* n = shown().node(selectedNode());
  const NodeType* type = n ? catalogue().find(n->type) : nullptr;
  if (!type) {
    say(tr("Select a node to read its help"));
    return nullptr;
  }
  if (!help_) help_ = new HelpPanel(this);
  help_->showType(*type);
  help_->show();
  help_->raise();
  return help_;
}

// They are listed before they go.
void MainWindow::removeIdle() {
  const Material& m = shown();
  const auto idle = edit::feeding_nothing(m);
  if (idle.empty()) return say(tr("Every node feeds a slot of the hem"));
  QStringList names;
  for (const std::string& id : idle) names << QString::fromStdString(label_of(m, catalogue(), *m.node(id)));
  const auto answer = QMessageBox::question(
      this, tr("Delete what feeds nothing"),
      tr("%n nodes reach no slot of the hem:\n\n%1\n\nDelete them?", nullptr, static_cast<int>(idle.size()))
          .arg(names.join(QStringLiteral(", "))));
  if (answer == QMessageBox::Yes) edit(tr("Delete what feeds nothing"), edit::remove_nodes(m, idle));
}

void MainWindow::commandLine() {
  QStringList entries, words;
  for (std::size_t i = 0; i < commands_.size(); ++i) {
    const QKeySequence keys = actions_[i]->shortcut();
    const QString why = commands_[i].whyNot ? commands_[i].whyNot() : QString();
    words << QString(commands_[i].words).replace(QLatin1Char(' '), QLatin1Char('\n'));  // the one that fits is shown
    entries << commands_[i].name +
                   (keys.isEmpty() ? QString() : QStringLiteral("    ") + keys.toString(QKeySequence::NativeText)) +
                   (why.isEmpty() ? QString() : QStringLiteral("    ") + why);
  }
  pick(
      this, tr("Commands"), entries, [this](int i) { actions_[static_cast<std::size_t>(i)]->trigger(); }, words);
}

void MainWindow::find() {
  QStringList entries, also;
  std::vector<std::string> ids;
  const Material& m = shown();
  for (const NodePtr& n : m.nodes) {
    const auto type = type_of(m, catalogue(), *n);
    entries << QString::fromStdString(label_of(m, catalogue(), *n)) + QStringLiteral("    ") +
                   QString::fromStdString(type ? type->label : n->type) + QStringLiteral("    ") +
                   QString::fromStdString(n->id);
    ids.push_back(n->id);
    // Its note and what its parameters hold.
    const auto note = m.notes_on.find(n->id);
    QStringList texts{note == m.notes_on.end() ? QString() : QString::fromStdString(note->second)};
    for (const auto& [id, value] : n->params) {
      const Parameter* p = type ? type->parameter(id) : nullptr;
      if (std::holds_alternative<Strokes>(value)) continue;  // nobody looks for where a hand went
      texts << QString::fromStdString((p ? p->label : id) + " " + param_to_json(value).dump());
    }
    also << texts.join(QLatin1Char('\n'));
  }
  pick(
      this, tr("Find a node"), entries,
      [&](int i) {
        navigation_->leaveTrail();
        board_->select({ids[static_cast<std::size_t>(i)]});
        board_->fly(ids[static_cast<std::size_t>(i)]);
        board_->setFocus();
      },
      also);
}

void MainWindow::findParameter() {
  const std::vector<Tray::Entry> all = tray_->entries();
  if (all.empty()) return say(tr("Select a node first"));
  QStringList texts;
  for (const Tray::Entry& e : all) texts << e.text;
  pick(this, tr("A parameter"), texts, [&](int i) { tray_->turnTo(all[static_cast<std::size_t>(i)]); });
}

// The board's nodes are left alone while the dialogue is open: it always starts from what they were.
void MainWindow::openRecolour() {
  const std::vector<std::string> nodes = board_->selection();
  const auto colours = colours_of(shown(), catalogue(), nodes);
  if (colours.empty()) return say(tr("The selected nodes hold no colours of their own"));
  auto* dialog = new RecolourDialog(colours, this);
  dialog->setObjectName(QStringLiteral("recolour"));
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  connect(dialog, &RecolourDialog::shifted, this, [this, nodes, was = shown()](const ColourShift& by) {
    edit(tr("Recolour"), recolour(was, catalogue(), nodes, by), QStringLiteral("recolour"));
  });
  connect(dialog, &QDialog::finished, this, [this, dialog](int result) {
    document_.endGesture();
    if (result != QDialog::Accepted && dialog->hasShifted()) document_.undo();
  });
  dialog->open();
}

void MainWindow::keepTemplate() {
  const Node* n = shown().node(selectedNode());
  const Group* g = n ? shown().group_of(*n) : nullptr;
  if (!g) return say(tr("Select a group to keep as a template"));
  const QString folder = templateFolder();
  QDir().mkpath(folder);
  const QString file = folder + QLatin1Char('/') + QString::fromStdString(g->id) + QStringLiteral(".loom");
  Material kept = shown();
  kept.hem.clear();  // a template brings nodes
  const auto done = elsewhere([&] { return write_file(file.toStdString(), write_snippet(kept, {n->id})); });
  say(done ? tr("Kept: the add line offers %1 in every material").arg(QString::fromStdString(g->name))
           : QString::fromStdString(done.error().text()));
}

}  // namespace loom::app
