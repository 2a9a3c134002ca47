#include "app/shell/view_room.h"

#include <QAction>
#include <QEvent>
#include <QSplitter>
#include <QVBoxLayout>
#include <utility>

#include "app/base/chip.h"

namespace loom::app {

ViewRoom::ViewRoom(QSplitter& columns, std::vector<QWidget*> bench, QSplitter& views, QWidget* window)
    : QObject(window), columns_(columns), bench_(std::move(bench)), views_(views), window_(window) {}

void ViewRoom::add(QWidget* view, const QString& name, Chip* chip) {
  all_[view].name = name;
  chip->setText(tr("enlarge"));
  chip->setChoices([this, view] {
    std::vector<Chip::Choice> choices;
    for (const auto& [place, text] : {std::pair{Place::beside, tr("in its place")},
                                      {Place::over, tr("over all else")},
                                      {Place::window, tr("in a window of its own")}})
      choices.push_back({text, placeOf(view) == place, [this, view, place = place] { put(view, place); }});
    return choices;
  });
}

ViewRoom::Place ViewRoom::placeOf(QWidget* view) const { return all_.at(view).place; }

void ViewRoom::put(QWidget* view, Place place) {
  if (placeOf(view) == place) return;
  for (const auto& [other, of] : all_)
    if (other == view || of.place == Place::over) leave(other);
  if (place == Place::over) cover(view);
  if (place == Place::window) openWindow(view);
  all_[view].place = place;
  view->setFocus();
}

void ViewRoom::bringBack() {
  for (const auto& [view, of] : all_) leave(view);
}

// Back to where it stands by itself.
void ViewRoom::leave(QWidget* view) {
  View& v = all_[view];
  const Place was = std::exchange(v.place, Place::beside);
  if (was == Place::over) {
    for (QWidget* w : std::exchange(hidden_, {})) w->show();
    columns_.restoreState(columnsBefore_);
    views_.restoreState(viewsBefore_);
  } else if (was == Place::window) {
    v.geometry = v.window->saveGeometry();
    views_.insertWidget(std::min(v.at, views_.count()), view);
    view->show();
    views_.setVisible(true);
    if (views_.count() == static_cast<int>(all_.size())) views_.restoreState(whole_);
    std::exchange(v.window, nullptr)->deleteLater();
  }
}

void ViewRoom::cover(QWidget* view) {
  columnsBefore_ = columns_.saveState();
  viewsBefore_ = views_.saveState();
  const auto hide = [this](QWidget* w) {
    if (!w->isVisibleTo(w->parentWidget())) return;
    w->hide();
    hidden_.push_back(w);
  };
  for (QWidget* w : bench_) hide(w);
  for (const auto& [other, of] : all_)
    if (other != view && of.place == Place::beside) hide(other);
}

// It keeps the keys of the main window.
void ViewRoom::openWindow(QWidget* view) {
  View& v = all_[view];
  if (views_.count() == static_cast<int>(all_.size())) whole_ = views_.saveState();
  v.at = views_.indexOf(view);  // the workspaces have their own order
  v.window = new QWidget(window_, Qt::Window);
  v.window->setWindowTitle(v.name);
  v.window->addActions(window_->actions());
  auto* box = new QVBoxLayout(v.window);
  box->setContentsMargins(0, 0, 0, 0);
  box->addWidget(view);
  v.window->installEventFilter(this);
  v.window->resize(view->width() * 3 / 2, view->height() * 3 / 2);
  if (!v.geometry.isEmpty()) v.window->restoreGeometry(v.geometry);
  views_.setVisible(views_.count() > 0);  // no column for nothing
  v.window->show();
}

// Closed, it stands in its place again.
bool ViewRoom::eventFilter(QObject* watched, QEvent* e) {
  if (e->type() == QEvent::Close)
    for (const auto& [view, of] : all_)
      if (of.window == watched) {
        put(view, Place::beside);
        return true;
      }
  return QObject::eventFilter(watched, e);
}

}  // namespace loom::app

#include "moc_view_room.cpp"
