// Edits go out as whole materials; the panel shows what comes back.
#include "app/deliver/dials_panel.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "app/tray/parameter_row.h"
#include "core/graph/edit.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

DialsPanel::DialsPanel(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Dials"));
  resize(660, 440);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(24, 18, 24, 18);
  row->setSpacing(24);
  auto* left = new QVBoxLayout;
  const auto head = [this](const QString& text) {
    auto* l = new QLabel(text, this);
    setRole(l, "title");
    return l;
  };
  const auto word = [this](const QString& text) {
    auto* b = new QPushButton(text, this);
    b->setProperty("word", true);
    return b;
  };
  left->addWidget(head(tr("Dials, in the order of the user")));
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Dials"));
  left->addWidget(list_, 2);
  auto* order = new QHBoxLayout;
  auto *up = word(tr("up")), *down = word(tr("down")), *remove = word(tr("remove"));
  for (auto* b : {up, down, remove}) order->addWidget(b);
  order->addStretch(1);
  left->addLayout(order);
  left->addWidget(head(tr("Presets")));
  presets_ = new QListWidget(this);
  presets_->setAccessibleName(tr("Presets"));
  left->addWidget(presets_, 1);
  auto* keep = word(tr("keep this state"));
  auto* turn = word(tr("turn the dials to it"));
  auto* drop = word(tr("remove"));
  auto* presetRow = new QHBoxLayout;
  for (auto* b : {keep, turn, drop}) presetRow->addWidget(b);
  presetRow->addStretch(1);
  left->addLayout(presetRow);
  row->addLayout(left, 1);
  auto* form = new QFormLayout;
  form->setSpacing(9);
  label_ = new QLineEdit(this);
  group_ = new QLineEdit(this);
  least_ = new QLineEdit(this);
  most_ = new QLineEdit(this);
  start_ = new QLineEdit(this);
  help_ = new QPlainTextEdit(this);
  help_->setFixedHeight(90);
  turns_ = new QLabel(this);
  turns_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  label_->setAccessibleName(tr("Label"));
  group_->setAccessibleName(tr("Group"));
  least_->setAccessibleName(tr("From"));
  most_->setAccessibleName(tr("To"));
  start_->setAccessibleName(tr("At start"));
  help_->setAccessibleName(tr("Help"));
  form->addRow(tr("Label"), label_);
  form->addRow(tr("Group"), group_);
  form->addRow(tr("From"), least_);
  form->addRow(tr("To"), most_);
  form->addRow(tr("At start"), start_);
  form->addRow(tr("Turns"), turns_);
  form->addRow(tr("Help"), help_);
  auto* right = new QVBoxLayout;
  right->addLayout(form);
  right->addStretch(1);
  row->addLayout(right, 1);
  connect(list_, &QListWidget::currentRowChanged, this, &DialsPanel::showDial);
  for (QLineEdit* f : {label_, group_, least_, most_, start_})
    connect(f, &QLineEdit::editingFinished, this, &DialsPanel::send);
  connect(help_, &QPlainTextEdit::textChanged, this, [this] {
    if (!filling_) send();
  });
  connect(up, &QPushButton::clicked, this, [this] {
    if (const Value* v = chosen()) {
      const auto id = v->id;
      const int at = list_->currentRow();
      Q_EMIT editWanted(tr("Order dials"), edit::move_value(material_, id, -1));
      list_->setCurrentRow(std::max(0, at - 1));
    }
  });
  connect(down, &QPushButton::clicked, this, [this] {
    if (const Value* v = chosen()) {
      const auto id = v->id;
      const int at = list_->currentRow();
      Q_EMIT editWanted(tr("Order dials"), edit::move_value(material_, id, 1));
      list_->setCurrentRow(std::min(list_->count() - 1, at + 1));
    }
  });
  connect(remove, &QPushButton::clicked, this, [this] {
    if (const Value* v = chosen()) Q_EMIT editWanted(tr("Remove dial"), edit::remove_value(material_, v->id));
  });
  connect(keep, &QPushButton::clicked, this, [this] {
    const QString name = QInputDialog::getText(this, tr("Keep this state"), tr("Name of the preset"));
    if (!name.trimmed().isEmpty())
      Q_EMIT editWanted(tr("Keep preset"), edit::keep_preset(material_, name.trimmed().toStdString()));
  });
  connect(turn, &QPushButton::clicked, this, [this] {
    const int i = presets_->currentRow();
    if (i >= 0)
      Q_EMIT editWanted(tr("Preset"), edit::apply_preset(material_, material_.presets[static_cast<std::size_t>(i)]));
  });
  connect(drop, &QPushButton::clicked, this, [this] {
    const int i = presets_->currentRow();
    if (i < 0) return;
    Material next = material_;
    next.presets.erase(next.presets.begin() + i);
    Q_EMIT editWanted(tr("Remove preset"), next);
  });
}

const Value* DialsPanel::chosen() const {
  const auto* item = list_->currentItem();
  return item ? material_.value(item->data(Qt::UserRole).toString().toStdString()) : nullptr;
}

void DialsPanel::showMaterial(const Material& material) {
  const QString kept = list_->currentItem() ? list_->currentItem()->data(Qt::UserRole).toString() : QString();
  material_ = material;
  filling_ = true;
  list_->clear();
  for (const Value& v : material.values) {
    if (!v.dial) continue;
    auto* item = new QListWidgetItem(
        QString::fromStdString(v.dial->label) +
            (v.dial->group.empty() ? QString() : QStringLiteral("  ·  ") + QString::fromStdString(v.dial->group)),
        list_);
    item->setData(Qt::UserRole, QString::fromStdString(v.id));
    if (QString::fromStdString(v.id) == kept) list_->setCurrentItem(item);
  }
  if (list_->currentRow() < 0 && list_->count()) list_->setCurrentRow(0);
  const int preset = presets_->currentRow();
  presets_->clear();
  for (const Preset& p : material.presets) presets_->addItem(QString::fromStdString(p.name));
  presets_->setCurrentRow(std::min(preset, presets_->count() - 1));
  filling_ = false;
  showDial();
}

void DialsPanel::showDial() {
  if (filling_) return;
  filling_ = true;
  const Value* v = chosen();
  for (QWidget* w : std::initializer_list<QWidget*>{label_, group_, least_, most_, start_, help_})
    w->setEnabled(v != nullptr);
  if (v) {
    const Dial& d = *v->dial;
    label_->setText(QString::fromStdString(d.label));
    group_->setText(QString::fromStdString(d.group));
    least_->setText(QString::number(d.least));
    most_->setText(QString::number(d.most));
    const bool number = std::holds_alternative<double>(d.at_start);
    start_->setText(number ? QString::number(std::get<double>(d.at_start)) : tr("as it was"));
    start_->setEnabled(number);
    if (help_->toPlainText().toStdString() != d.help) help_->setPlainText(QString::fromStdString(d.help));
    QStringList turns;
    for (const NodePtr& n : material_.nodes)
      for (const auto& [id, held] : n->params)
        if (const auto* f = std::get_if<Follow>(&held); f && f->value == v->id)
          turns << QString::fromStdString(label_of(material_, catalogue(), *n)) + QStringLiteral(", ") +
                       QString::fromStdString(id).replace(QLatin1Char('_'), QLatin1Char(' '));
    turns_->setText(turns.isEmpty() ? tr("nothing yet") : turns.join(QStringLiteral("\n")));
  } else {
    for (QLineEdit* f : {label_, group_, least_, most_, start_}) f->clear();
    help_->clear();
    turns_->setText(tr("Make a parameter a dial in the tray, or with D"));
  }
  filling_ = false;
}

void DialsPanel::send() {
  const Value* v = chosen();
  if (!v || filling_) return;
  Dial d = *v->dial;
  d.label = label_->text().toStdString();
  d.group = group_->text().toStdString();
  d.help = help_->toPlainText().toStdString();
  numberFromText(least_->text(), d.least);
  numberFromText(most_->text(), d.most);
  if (d.least > d.most) std::swap(d.least, d.most);
  if (auto* start = std::get_if<double>(&d.at_start)) numberFromText(start_->text(), *start);
  const Dial& old = *v->dial;
  if (d.label == old.label && d.group == old.group && d.help == old.help && d.least == old.least &&
      d.most == old.most && d.at_start == old.at_start)
    return;
  Q_EMIT editWanted(tr("Dial %1").arg(QString::fromStdString(d.label)), edit::set_dial(material_, v->id, d));
}

}  // namespace loom::app

#include "moc_dials_panel.cpp"
