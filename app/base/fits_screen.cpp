#include "app/base/fits_screen.h"

#include <QEvent>
#include <QScreen>
#include <QWidget>

namespace loom::app {
namespace {

constexpr int kTitleBar = 36, kBorder = 2;  // pixels that a frame is taken to have before it is known

}  // namespace

bool FitsScreen::eventFilter(QObject* watched, QEvent* e) {
  auto* window = e->type() == QEvent::Show && !e->spontaneous() ? qobject_cast<QWidget*>(watched) : nullptr;
  if (!window || !window->isWindow() || !window->screen()) return false;
  const Qt::WindowType kind = window->windowType();
  if ((kind != Qt::Window && kind != Qt::Dialog) || window->isMaximized() || window->isFullScreen()) return false;
  const QRect free = window->screen()->availableGeometry().adjusted(kBorder, kTitleBar, -kBorder, -kBorder);
  const QSize most = window->size().boundedTo(free.size());
  if (most != window->size()) window->resize(most);
  if (!window->testAttribute(Qt::WA_Moved)) return false;  // the desktop finds it a place
  QRect place(window->pos(), most);
  if (!free.contains(place)) {
    place.moveRight(std::min(place.right(), free.right()));
    place.moveBottom(std::min(place.bottom(), free.bottom()));
    place.moveTopLeft({std::max(place.left(), free.left()), std::max(place.top(), free.top())});
    window->move(place.topLeft());
  }
  return false;
}

}  // namespace loom::app

#include "moc_fits_screen.cpp"
