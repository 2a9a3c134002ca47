// Keys that act with the board in focus clash with each other and with those that act anywhere in the window.
#include "app/shell/keys_dialog.h"

#include <QAction>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/base/theme.h"

namespace loom::app {
namespace {

constexpr const char* kFirst = "firstKeys";

QString kept(const QAction& action) { return QStringLiteral("keys/") + action.text(); }
QString shown(const QList<QKeySequence>& keys) { return QKeySequence::listToString(keys, QKeySequence::NativeText); }

}  // namespace

void KeysDialog::noteFirstKeys(QAction& action) {
  action.setProperty(kFirst, QKeySequence::listToString(action.shortcuts()));
  const QSettings settings;
  if (settings.contains(kept(action)))
    action.setShortcuts(QKeySequence::listFromString(settings.value(kept(action)).toString()));
}

KeysDialog::KeysDialog(const std::vector<QAction*>& actions, QWidget* parent)
    : QDialog(parent),
      actions_(actions),
      table_(new QTableWidget(this)),
      keys_(new QKeySequenceEdit(this)),
      clash_(new QLabel(this)),
      take_(new QPushButton(tr("Take these keys"), this)),
      back_(new QPushButton(tr("as it was"), this)) {
  setWindowTitle(tr("Keys"));
  resize(620, 560);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(24, 18, 24, 18);
  table_->setColumnCount(2);
  table_->setHorizontalHeaderLabels({tr("Action"), tr("Keys")});
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->verticalHeader()->hide();
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setAccessibleName(tr("Actions and their keys"));
  box->addWidget(table_, 1);
  auto* row = new QHBoxLayout;
  keys_->setAccessibleName(tr("New keys"));
  back_->setProperty("word", true);
  row->addWidget(new QLabel(tr("New keys"), this));
  row->addWidget(keys_, 1);
  row->addWidget(take_);
  row->addWidget(back_);
  box->addLayout(row);
  setRole(clash_, "caution");
  clash_->setWordWrap(true);
  clash_->setMinimumHeight(34);
  clash_->setAccessibleName(tr("Clashes"));
  box->addWidget(clash_);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &KeysDialog::showChosen);
  connect(keys_, &QKeySequenceEdit::keySequenceChanged, this, [this](const QKeySequence& keys) {
    if (const QAction* a = chosen()) clash_->setText(clashes(*a, keys));
  });
  connect(take_, &QPushButton::clicked, this, &KeysDialog::take);
  connect(back_, &QPushButton::clicked, this, &KeysDialog::putBack);
  fill();
  table_->selectRow(0);
}

void KeysDialog::fill() {
  table_->setRowCount(static_cast<int>(actions_.size()));
  for (int i = 0; i < table_->rowCount(); ++i) {
    const QAction* a = actions_[static_cast<std::size_t>(i)];
    table_->setItem(i, 0, new QTableWidgetItem(a->text()));
    table_->setItem(i, 1, new QTableWidgetItem(shown(a->shortcuts())));
  }
}

QAction* KeysDialog::chosen() const {
  const int row = table_->currentRow();
  return row >= 0 && row < static_cast<int>(actions_.size()) ? actions_[static_cast<std::size_t>(row)] : nullptr;
}

void KeysDialog::choose(const QString& name) {
  for (int i = 0; i < table_->rowCount(); ++i)
    if (actions_[static_cast<std::size_t>(i)]->text() == name) table_->selectRow(i);
}

void KeysDialog::showChosen() {
  const QAction* a = chosen();
  keys_->setKeySequence(a ? a->shortcut() : QKeySequence());
  clash_->setText(a ? clashes(*a, a->shortcut()) : QString());
  back_->setEnabled(a && a->property(kFirst).toString() != QKeySequence::listToString(a->shortcuts()));
}

QString KeysDialog::clashes(const QAction& own, const QKeySequence& keys) const {
  if (keys.isEmpty()) return {};
  QStringList names;
  for (const QAction* a : actions_)
    if (a != &own && a->shortcuts().contains(keys)) names << a->text();
  return names.isEmpty() ? QString()
                         : tr("%1 is also: %2. Taking it takes it away from there.")
                               .arg(keys.toString(QKeySequence::NativeText), names.join(QStringLiteral(", ")));
}

void KeysDialog::take() {
  QAction* own = chosen();
  if (!own) return;
  const QKeySequence keys = keys_->keySequence();
  QSettings settings;
  const auto give = [&](QAction& a, const QList<QKeySequence>& list) {
    a.setShortcuts(list);
    settings.setValue(kept(a), QKeySequence::listToString(list));
  };
  for (QAction* a : actions_) {
    if (a == own || keys.isEmpty() || !a->shortcuts().contains(keys)) continue;
    QList<QKeySequence> less = a->shortcuts();
    less.removeAll(keys);
    give(*a, less);
  }
  give(*own, keys.isEmpty() ? QList<QKeySequence>() : QList<QKeySequence>{keys});
  fill();
  showChosen();
}

void KeysDialog::putBack() {
  QAction* own = chosen();
  if (!own) return;
  own->setShortcuts(QKeySequence::listFromString(own->property(kFirst).toString()));
  QSettings().remove(kept(*own));
  fill();
  showChosen();
}

}  // namespace loom::app

#include "moc_keys_dialog.cpp"
