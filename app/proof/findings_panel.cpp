#include "app/proof/findings_panel.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/base/labels.h"
#include "app/base/theme.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr double kLimitAt = 0.72;  // of the bar's length

QColor colourOf(Verdict verdict) {
  return verdict == Verdict::fail ? theme().madder : verdict == Verdict::warn ? theme().caution : theme().mute;
}

QString slotWords(const std::string& slot) {
  return QString::fromStdString(slot).replace(QLatin1Char('_'), QLatin1Char(' '));
}

QString shortFigure(double x) { return std::abs(x) < 5e-4 ? QStringLiteral("0") : QString::number(x, 'g', 2); }

// What feeds the slot, as a word to jump to; empty: nothing to jump to.
QString causeOf(const Material& m, const Finding& f) {
  const auto from = m.hem.find(f.slot);
  const Node* n = from == m.hem.end() ? nullptr : m.node(split_output(from->second).first);
  return n ? QString::fromStdString(label_of(m, catalogue(), *n)) : QString();
}

}  // namespace

RangeBar::RangeBar(const Finding& finding, QWidget* parent) : QWidget(parent), finding_(finding) {
  setFixedHeight(12);
  setMinimumWidth(48);
}

void RangeBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const qreal w = width(), mid = height() / 2.0;
  const double scale = std::max(1e-12, std::abs(finding_.limit));
  const auto place = [&](double share) { return std::clamp(share, 0.0, 1.0) * w; };
  // What has to reach its limit is read from the other end: the allowed band lies beyond the tick.
  const double limit = finding_.reach ? 1 - kLimitAt : kLimitAt;
  const double at = finding_.reach ? limit + (finding_.figure - finding_.limit) / scale * (1 - kLimitAt)
                                   : finding_.figure / scale * kLimitAt;
  p.setPen(QPen(theme().line, 1));
  p.drawLine(QPointF(0, mid), QPointF(w, mid));
  const QRectF band =
      finding_.reach ? QRectF(place(limit), mid - 3, w - place(limit), 6) : QRectF(0, mid - 3, place(limit), 6);
  p.fillRect(band, theme().line);
  const bool over = finding_.verdict != Verdict::pass;
  p.fillRect(QRectF(0, mid - 1.5, place(at), 3), theme().ink);
  if (over) {
    const double from = std::min(place(at), place(limit)), to = std::max(place(at), place(limit));
    p.fillRect(QRectF(from, mid - 1.5, std::max(3.0, to - from), 3), colourOf(finding_.verdict));
  }
  p.setPen(QPen(theme().mute, 1.5));
  p.drawLine(QPointF(place(limit), 1), QPointF(place(limit), height() - 1));
}

FindingRow::FindingRow(const Finding& finding, const QString& cause, QWidget* parent)
    : QWidget(parent), finding_(finding) {
  const Check* check = check_of(finding.check);
  const QString label = QString::fromUtf8(check->label.data(), static_cast<int>(check->label.size()));
  const QString why = QString::fromUtf8(check->why.data(), static_cast<int>(check->why.size()));
  setFocusPolicy(Qt::TabFocus);
  setAccessibleName(label + QStringLiteral(": ") + QString::fromStdString(finding.told));
  setToolTip(why);
  const bool look = finding.verdict != Verdict::pass;
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(24, look ? 8 : 2, 12, look ? 8 : 2);
  box->setSpacing(3);
  auto* name = new QLabel(label, this);
  if (!look) {
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    name->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(name, 1);
    auto* bar = new RangeBar(finding, this);
    bar->setFixedWidth(44);
    row->addWidget(bar);
    auto* figure = new QLabel(finding.slot.empty() ? QString() : shortFigure(finding.figure), this);
    setRole(figure, "mute");
    figure->setFixedWidth(38);
    figure->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    row->addWidget(figure);
    box->addLayout(row);
    return;
  }
  setRole(name, "title");
  name->setWordWrap(true);
  auto* head = new QHBoxLayout;
  head->addWidget(name, 1);
  if (!cause.isEmpty()) {
    const QString to = QFontMetrics(textFont(12)).elidedText(cause, Qt::ElideRight, 92);
    auto* jump = new QPushButton(tr("to %1").arg(to), this);
    jump->setProperty("word", true);
    jump->setAccessibleName(tr("Jump to %1").arg(cause));
    connect(jump, &QPushButton::clicked, this, &FindingRow::jumpWanted);
    head->addWidget(jump);
  }
  box->addLayout(head);
  box->addWidget(new RangeBar(finding, this));
  auto* told = new QLabel((finding.slot.empty() ? QString() : slotWords(finding.slot) + QStringLiteral(": ")) +
                              QString::fromStdString(finding.told),
                          this);
  told->setWordWrap(true);
  told->setStyleSheet(QStringLiteral("color: %1; font-weight: 600").arg(colourOf(finding.verdict).name()));
  box->addWidget(told);
  auto* reason = new QLabel(why, this);
  reason->setWordWrap(true);
  setRole(reason, "mute");
  box->addWidget(reason);
}

void FindingRow::setChosen(bool chosen) {
  chosen_ = chosen;
  update();
}

void FindingRow::mousePressEvent(QMouseEvent*) {
  setFocus();
  Q_EMIT chosen();
}

void FindingRow::keyPressEvent(QKeyEvent* e) {
  if (e->key() != Qt::Key_Return && e->key() != Qt::Key_Enter && e->key() != Qt::Key_Space)
    return QWidget::keyPressEvent(e);
  Q_EMIT chosen();
}

void FindingRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (chosen_) {
    p.setBrush(theme().paper);
    p.setPen(QPen(theme().line, 1));
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
  }
  if (hasFocus()) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().indigo, 1, Qt::DashLine));
    p.drawRoundedRect(QRectF(rect()).adjusted(1.5, 1.5, -1.5, -1.5), 4, 4);
  }
  if (finding_.verdict == Verdict::pass) return;
  p.setPen(Qt::NoPen);
  p.setBrush(colourOf(finding_.verdict));
  if (finding_.verdict == Verdict::fail)
    p.drawEllipse(QPointF(12, 18), 4, 4);
  else
    p.drawPolygon(QPolygonF({QPointF(12, 13.5), QPointF(16.5, 18), QPointF(12, 22.5), QPointF(7.5, 18)}));
}

FindingsPanel::FindingsPanel(QWidget* parent)
    : QWidget(parent), summary_(new QLabel(this)), refused_(new QLabel(this)), list_(new QVBoxLayout) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 12, 0, 8);
  box->setSpacing(2);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(24, 0, 12, 6);
  head->addWidget(titleLabel(tr("Findings"), this), 1);
  setRole(summary_, "mute");
  head->addWidget(summary_);
  box->addLayout(head);
  refused_->setWordWrap(true);
  refused_->setContentsMargins(24, 0, 12, 0);
  refused_->hide();
  box->addWidget(refused_);
  list_->setSpacing(1);
  box->addLayout(list_);
  box->addStretch(1);
}

void FindingsPanel::showWaiting() { summary_->setText(tr("judging …")); }

void FindingsPanel::showProven(const ProvenPtr& proven, const Material& material) {
  const std::string was = chosen_ ? chosen_->finding().check : std::string();
  chosen_ = nullptr;
  for (FindingRow* row : rows_) row->deleteLater();
  rows_.clear();
  refused_->setVisible(!proven->refused.isEmpty());
  refused_->setText(proven->refused);
  auto sorted = proven->findings;
  std::stable_sort(sorted.begin(), sorted.end(),
                   [](const Finding& a, const Finding& b) { return a.verdict > b.verdict; });
  int look = 0;
  for (const Finding& f : sorted) {
    look += f.verdict != Verdict::pass;
    auto* row = new FindingRow(f, causeOf(material, f), this);
    connect(row, &FindingRow::chosen, this, [this, row] { chooseRow(row); });
    connect(row, &FindingRow::jumpWanted, this, [this, row] { Q_EMIT jumpWanted(row->finding()); });
    list_->addWidget(row);
    rows_.push_back(row);
  }
  summary_->setText(sorted.empty() ? QString()
                    : look == 0    ? tr("%1 of %1 in order").arg(sorted.size())
                    : look == 1    ? tr("1 of %1 needs a look").arg(sorted.size())
                                   : tr("%1 of %2 need a look").arg(look).arg(sorted.size()));
  if (!was.empty()) choose(was);
  if (!was.empty() && !chosen_) Q_EMIT placesWanted(nullptr);
}

void FindingsPanel::choose(const std::string& check) {
  for (FindingRow* row : rows_)
    if (row->finding().check == check && row != chosen_) return chooseRow(row);
}

// Chosen once more it is let go.
void FindingsPanel::chooseRow(FindingRow* row) {
  if (chosen_) chosen_->setChosen(false);
  chosen_ = chosen_ == row ? nullptr : row;
  if (chosen_) chosen_->setChosen(true);
  Q_EMIT placesWanted(chosen_ ? &chosen_->finding() : nullptr);
}

}  // namespace loom::app

#include "moc_findings_panel.cpp"
