#include "app/shell/way_panel.h"

#include <QHeaderView>
#include <QLabel>
#include <QPixmap>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/base/labels.h"
#include "app/base/theme.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/plane/colour.h"

namespace loom::app {
namespace {

// As the loupe shows it: colours encoded, normals about the middle, regions without a colour of their own.
QColor swatch(const TracedOutput& held) {
  const bool colour = held.kind == Kind::colour || held.kind == Kind::colour_alpha;
  const int n = std::max(1, strand_count(held.kind));
  float c[3];
  for (int i = 0; i < 3; ++i) {
    const float v = n >= 3             ? held.value[static_cast<std::size_t>(i)]
                    : n == 2 && i == 2 ? 0
                                       : held.value[static_cast<std::size_t>(std::min(i, n - 1))];
    const float shown = colour ? srgb_from_linear(v) : held.kind == Kind::normal ? 0.5f + 0.5f * v : v;
    c[i] = std::isfinite(shown) ? std::clamp(shown, 0.0f, 1.0f) : 0;
  }
  return held.kind == Kind::regions ? QColor("#767676") : QColor::fromRgbF(c[0], c[1], c[2]);
}

}  // namespace

QString tracedText(const TracedOutput& held) {
  QStringList parts;
  // A colour's three are kept short, so that they fit under their tag.
  for (int c = 0; c < strand_count(held.kind); ++c) {
    const double v = static_cast<double>(held.value[static_cast<std::size_t>(c)]);
    QString number = strand_count(held.kind) > 1 ? QString::number(v, 'f', 2) : QString::number(v, 'g', 3);
    if (strand_count(held.kind) > 2 && number.startsWith(QStringLiteral("0."))) number.remove(0, 1);
    parts << number;
  }
  return held.kind == Kind::regions ? WayList::tr("region %1").arg(parts.value(0)) : parts.join(QLatin1Char(' '));
}

WayPanel::WayPanel(QWidget* parent) : QDialog(parent), list_(new WayList(this)) {
  setWindowTitle(tr("The way back"));
  resize(430, 460);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->addWidget(list_);
}

WayList::WayList(QWidget* parent) : QWidget(parent), table_(new QTableWidget(this)), hint_(new QLabel(this)) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(24, 8, 12, 8);
  box->addWidget(titleLabel(tr("One place, back through the graph"), this));
  setRole(hint_, "mute");
  hint_->setWordWrap(true);
  box->addWidget(hint_);
  table_->setColumnCount(4);
  table_->setHorizontalHeaderLabels({QString(), tr("Step"), tr("Holds"), tr("Influence")});
  table_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
  table_->setColumnWidth(0, 34);
  table_->setIconSize(QSize(22, 22));
  table_->verticalHeader()->hide();
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setAccessibleName(tr("The way back of a followed place"));
  box->addWidget(table_, 1);
  connect(table_, &QTableWidget::itemActivated, this, [this](const QTableWidgetItem* item) {
    Q_EMIT nodeWanted(table_->item(item->row(), 1)->data(Qt::UserRole).toString().toStdString());
  });
  showWay({}, {});
}

void WayList::showWay(const Material& material, const std::vector<WayStep>& steps) {
  hint_->setText(steps.empty() ? tr("Ctrl and a click in the loupe or on the drape follow a place back.")
                               : tr("From what is looked at up to where it begins, always by the input of the greatest "
                                    "influence. Enter flies to a step."));
  table_->setVisible(!steps.empty());
  table_->setRowCount(static_cast<int>(steps.size()));
  for (int i = 0; i < table_->rowCount(); ++i) {
    const WayStep& s = steps[static_cast<std::size_t>(i)];
    const auto [node, peg] = split_output(s.output);
    const Node* n = material.node(node);
    QPixmap square(22, 22);
    square.fill(swatch(s.held));
    auto* colour = new QTableWidgetItem;
    colour->setIcon(QIcon(square));
    auto* name = new QTableWidgetItem(
        (n ? QString::fromStdString(label_of(material, catalogue(), *n)) : QString::fromStdString(node)) +
        QStringLiteral(", ") + QString::fromStdString(peg).replace(QLatin1Char('_'), QLatin1Char(' ')));
    name->setData(Qt::UserRole, QString::fromStdString(node));
    auto* influence = new QTableWidgetItem(i == 0 ? QString() : QString::number(s.influence, 'g', 2));
    influence->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->setItem(i, 0, colour);
    table_->setItem(i, 1, name);
    table_->setItem(i, 2, new QTableWidgetItem(tracedText(s.held)));
    table_->setItem(i, 3, influence);
  }
}

}  // namespace loom::app

#include "moc_way_panel.cpp"
