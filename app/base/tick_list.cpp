#include "app/base/tick_list.h"

#include <QLabel>
#include <QListWidget>
#include <QVBoxLayout>

#include "app/base/take_or_leave.h"

namespace loom::app {

TickList::TickList(const QString& title, const QString& does, const std::vector<Entry>& entries, QWidget* parent)
    : QDialog(parent), list_(new QListWidget(this)) {
  setWindowTitle(title);
  resize(380, 420);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(24, 18, 24, 18);
  column->addWidget(new QLabel(tr("Space ticks or unticks."), this));
  column->addWidget(list_, 1);
  list_->setAccessibleName(title);
  for (const Entry& e : entries) {
    auto* item = new QListWidgetItem(e.text, list_);
    item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
    item->setCheckState(e.ticked ? Qt::Checked : Qt::Unchecked);
  }
  list_->setCurrentRow(0);
  column->addWidget(takeOrLeave(does, this));
}

std::vector<std::size_t> TickList::ticked() const {
  std::vector<std::size_t> places;
  for (int i = 0; i < list_->count(); ++i)
    if (list_->item(i)->checkState() == Qt::Checked) places.push_back(static_cast<std::size_t>(i));
  return places;
}

}  // namespace loom::app

#include "moc_tick_list.cpp"
