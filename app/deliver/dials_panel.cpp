// Edits go out as whole materials; the panel shows what comes back.
#include "app/deliver/dials_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/labels.h"
#include "app/deliver/dial_form.h"
#include "app/deliver/preset_list.h"
#include "core/graph/edit.h"

namespace loom::app {
DialsPanel::DialsPanel(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Dials"));
  resize(820, 620);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(24, 18, 24, 18);
  row->setSpacing(28);
  auto* left = new QVBoxLayout;
  left->setSpacing(6);
  addDials(left);
  left->addSpacing(8);
  left->addWidget(titleLabel(tr("Presets"), this));
  presets_ = new PresetList(this);
  left->addWidget(presets_, 2);
  row->addLayout(left, 1);
  form_ = new DialForm(this);
  row->addWidget(form_, 1);
  connect(presets_, &PresetList::editWanted, this,
          [this](const QString& name, const Material& next) { Q_EMIT editWanted(name, next, {}); });
  connect(form_, &DialForm::dialWanted, this, [this](const Dial& dial, const QString& gesture) {
    const Value* v = chosen();
    if (v && dial != *v->dial)
      Q_EMIT editWanted(tr("Dial %1").arg(QString::fromStdString(dial.label)), edit::set_dial(material_, v->id, dial),
                        gesture);
  });
}

void DialsPanel::addDials(QVBoxLayout* into) {
  into->addWidget(titleLabel(tr("Dials, in the order of the user"), this));
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Dials"));
  into->addWidget(list_);
  list_->setFixedHeight(190);
  auto* words = new QHBoxLayout;
  words->setSpacing(2);
  const auto word = [&](const QString& text, const std::function<void()>& does) {
    auto* b = new QPushButton(text, this);
    b->setProperty("word", true);
    connect(b, &QPushButton::clicked, this, does);
    words->addWidget(b);
  };
  word(tr("up"), [this] { order(-1); });
  word(tr("down"), [this] { order(1); });
  word(tr("remove"), [this] {
    if (const Value* v = chosen()) Q_EMIT editWanted(tr("Remove dial"), edit::remove_value(material_, v->id), {});
  });
  words->addStretch(1);
  into->addLayout(words);
  connect(list_, &QListWidget::currentRowChanged, this, &DialsPanel::showDial);
}

void DialsPanel::order(int by) {
  if (const Value* v = chosen()) Q_EMIT editWanted(tr("Order dials"), edit::move_dial(material_, v->id, by), {});
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
  filling_ = false;
  presets_->showMaterial(material);
  showDial();
}

void DialsPanel::showDial() {
  if (!filling_) form_->showDial(material_, chosen());
}

}  // namespace loom::app

#include "moc_dials_panel.cpp"
