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
  setAttribute(Qt::WA_Hover);
}

void Chip::setOn(bool on) {
  if (std::exchange(on_, on) != on) update();
}

void Chip::setMenu(QMenu* menu) {
  opens_ = true;
  connect(this, &QAbstractButton::clicked, menu, [this, menu] { popUp(*menu); });
}

void Chip::setChoices(std::function<std::vector<Choice>()> choices) {
  opens_ = true;
  choices_ = std::move(choices);
  connect(this, &QAbstractButton::clicked, this, &Chip::openChoices);
}

void Chip::popUp(QMenu& menu) { menu.popup(mapToGlobal(QPoint(0, -menu.sizeHint().height()))); }

void Chip::openChoices() {
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  for (const Choice& c : choices_()) {
    QAction* a = menu->addAction(c.text, this, c.choose);
    a->setCheckable(true);
    a->setChecked(c.now);
    if (c.now) menu->setActiveAction(a);
  }
  popUp(*menu);
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
  if (form_ == Form::slip || on_ || underMouse()) {
    p.setPen(Qt::NoPen);
    p.setBrush(on_ ? QColor("#2e4a78") : QColor("#5a5a5a"));  // by night too: the picture's grey is the same
    p.drawRoundedRect(all, 4, 4);
  }
  p.setPen(isEnabled() ? QColor(Qt::white) : QColor("#b4b4b4"));
  const qreal room = all.width() - 4;
  const QFont font = fitted(textFont(11.5), shown(), room);
  p.setFont(font);
  p.drawText(all, Qt::AlignCenter, QFontMetricsF(font).elidedText(shown(), Qt::ElideRight, room + 1));
  if (!hasFocus()) return;
  p.setPen(QPen(Qt::white, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRoundedRect(all.adjusted(1, 1, -1, -1), 3, 3);
}

Strip::Strip(QWidget* parent) : QWidget(parent), row_(new QHBoxLayout(this)) {
  setAttribute(Qt::WA_StyledBackground);
  setRole(this, "strip");
  row_->setContentsMargins(8, 0, 8, 0);
  row_->setSpacing(2);
}

Chip* Strip::add(const QString& accessibleName) {
  auto* chip = new Chip(accessibleName, Chip::Form::word, this);
  row_->addWidget(chip);
  return chip;
}

void Strip::addSpace() { row_->addStretch(1); }

void Strip::place() {
  const QSize all = parentWidget()->size();
  setGeometry(0, all.height() - kHeight, all.width(), kHeight);
}

}  // namespace loom::app

#include "moc_chip.cpp"
