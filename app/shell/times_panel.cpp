#include "app/shell/times_panel.h"

#include <QHeaderView>
#include <QLabel>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/base/theme.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

TimesPanel::TimesPanel(QWidget* parent) : QDialog(parent), table_(new QTableWidget(this)), sum_(new QLabel(this)) {
  setWindowTitle(tr("Time and memory by node"));
  resize(460, 480);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(24, 18, 24, 18);
  setRole(sum_, "mute");
  sum_->setWordWrap(true);
  box->addWidget(sum_);
  table_->setColumnCount(3);
  table_->setHorizontalHeaderLabels({tr("Node"), tr("ms"), tr("MiB")});
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->verticalHeader()->hide();
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setAccessibleName(tr("Time and memory by node"));
  box->addWidget(table_, 1);
  connect(table_, &QTableWidget::itemActivated, this, [this](const QTableWidgetItem* item) {
    Q_EMIT nodeWanted(table_->item(item->row(), 0)->data(Qt::UserRole).toString().toStdString());
  });
}

int TimesPanel::rows() const { return table_->rowCount(); }

void TimesPanel::showSeen(const Seen& seen, const Material& material, std::size_t keptBytes) {
  if (seen.size < kWorkingSize) return;  // the quick pass would mix two sizes
  std::set<std::string> there(seen.paths.begin(), seen.paths.end());
  std::erase_if(lines_, [&](const auto& line) { return !there.count(line.first); });
  for (const auto& [path, time] : seen.times) lines_[path] = {time.milliseconds, time.bytes};
  std::vector<std::pair<std::string, Line>> order(lines_.begin(), lines_.end());
  std::stable_sort(order.begin(), order.end(),
                   [](const auto& a, const auto& b) { return a.second.milliseconds > b.second.milliseconds; });
  double all = 0;
  table_->setRowCount(static_cast<int>(order.size()));
  for (int i = 0; i < table_->rowCount(); ++i) {
    const auto& [path, line] = order[static_cast<std::size_t>(i)];
    const Node* n = material.node(path);
    auto* name = new QTableWidgetItem(n ? QString::fromStdString(label_of(material, catalogue(), *n))
                                        : QString::fromStdString(path));
    name->setData(Qt::UserRole, QString::fromStdString(path));
    const auto number = [](double value) {
      auto* item = new QTableWidgetItem(QString::number(value, 'f', 1));
      item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      return item;
    };
    table_->setItem(i, 0, name);
    table_->setItem(i, 1, number(line.milliseconds));
    table_->setItem(i, 2, number(static_cast<double>(line.bytes) / (1 << 20)));
    all += line.milliseconds;
  }
  sum_->setText(tr("%1 ms in all at %2 texels a side, each node as it was last woven; the last pass took %3 ms. Planes "
                   "kept: %4 MiB. Point functions share a pass: each has its part of it.")
                    .arg(all, 0, 'f', 0)
                    .arg(seen.size)
                    .arg(seen.milliseconds, 0, 'f', 0)
                    .arg(keptBytes >> 20));
}

}  // namespace loom::app

#include "moc_times_panel.cpp"
