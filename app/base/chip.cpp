#include "app/base/chip.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>

#include "app/base/theme.h"

namespace loom::app {
namespace {

constexpr int kBeside = 8;  // pixels on either side of a word

}  // namespace

Chip::Chip(const QString& accessibleName, Form form, QWidget* parent) : QAbstractButton(parent), form_(form) {
  setAccessibleName(accessibleName);
  setFocusPolicy(Qt::TabFocus);  // a click leaves the keyboard with the picture
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void Chip::setOn(bool on) {
  if (std::exchange(on_, on) != on) update();
}

void Chip::setOpens(bool opens) {
  opens_ = opens;
  updateGeometry();
}

void Chip::setChoices(std::function<std::vector<Choice>()> choices) {
  if (!choices_) connect(this, &QAbstractButton::clicked, this, &Chip::openChoices);
  choices_ = std::move(choices);
  setOpens(true);
}

void Chip::openChoices() {
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  for (const Choice& c : choices_()) {
    QAction* a = menu->addAction(c.text, this, c.choose);
    a->setCheckable(true);
    a->setChecked(c.now);
    if (c.now) menu->setActiveAction(a);
  }
  menu->popup(mapToGlobal(QPoint(0, -menu->sizeHint().height())));
}

bool Chip::step(int way) {
  if (!choices_) return false;
  const std::vector<Choice> all = choices_();
  const auto now = std::find_if(all.begin(), all.end(), [](const Choice& c) { return c.now; });
  const auto count = static_cast<long>(all.size());
  const long at = now == all.end() ? (way > 0 ? -1 : count) : now - all.begin();
  if (count > 0) all[static_cast<std::size_t>((at + way + count) % count)].choose();
  return true;
}

void Chip::keyPressEvent(QKeyEvent* e) {
  const int way = e->key() == Qt::Key_Period ? 1 : e->key() == Qt::Key_Comma ? -1 : 0;
  if (way == 0 || !step(way)) QAbstractButton::keyPressEvent(e);
}

QString Chip::shown() const { return opens_ ? text() + QStringLiteral(" \u25be") : text(); }

QSize Chip::sizeHint() const { return {static_cast<int>(advanceOf(textFont(11.5), shown())) + 2 * kBeside, 22}; }

void Chip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const QRectF all(rect());
  const bool segment = form_ == Form::segment;
  const QColor slip("#5a5a5a"), paper("#fbf9f4");
  p.setPen(Qt::NoPen);
  if (form_ != Form::word || on_ || underMouse()) {
    p.setBrush(on_ && !segment ? QColor("#2e4a78") : slip);
    p.drawRoundedRect(all, 4, 4);
  }
  if (on_ && segment) {
    p.setBrush(paper);
    p.drawRoundedRect(all.adjusted(2, 2, -2, -2), 3, 3);
  }
  p.setPen(on_ && segment ? QColor("#2e4a78") : isEnabled() ? QColor(Qt::white) : QColor("#b4b4b4"));
  const qreal room = all.width() - 4;
  const QFont font = fitted(textFont(11.5, on_ && segment ? QFont::DemiBold : QFont::Normal), shown(), room);
  p.setFont(font);
  p.drawText(all, Qt::AlignCenter, QFontMetricsF(font).elidedText(shown(), Qt::ElideRight, room + 1));
  if (!hasFocus()) return;
  p.setPen(QPen(Qt::white, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRoundedRect(all.adjusted(1, 1, -1, -1), 3, 3);
}

QWidget* makeStrip(QWidget* parent) {
  auto* strip = new QWidget(parent);
  strip->setAttribute(Qt::WA_StyledBackground);
  setRole(strip, "strip");
  auto* row = new QHBoxLayout(strip);
  row->setContentsMargins(8, 0, 8, 0);
  row->setSpacing(2);
  return strip;
}

}  // namespace loom::app

#include "moc_chip.cpp"
