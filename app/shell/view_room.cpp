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
  all_.push_back({view, name, chip, views_.indexOf(view)});
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

ViewRoom::View* ViewRoom::find(const QWidget* view) {
  const auto it = std::ranges::find_if(all_, [&](const View& v) { return v.widget == view; });
  return it == all_.end() ? nullptr : &*it;
}

ViewRoom::Place ViewRoom::placeOf(const QWidget* view) const {
  const auto it = std::ranges::find_if(all_, [&](const View& v) { return v.widget == view; });
  return it == all_.end() ? Place::beside : it->place;
}

void ViewRoom::put(QWidget* view, Place place) {
  View* v = find(view);
  if (!v || v->place == place) return;
  leave(*v);
  if (place == Place::over) {
    for (View& other : all_)
      if (other.place == Place::over) leave(other);
    cover(*v);
  } else if (place == Place::window) {
    openWindow(*v);
  }
  v->place = place;
  v->widget->setFocus();
}

void ViewRoom::bringBack() {
  for (View& v : all_) leave(v);
}

// Back to where it stands by itself.
void ViewRoom::leave(View& v) {
  const Place was = std::exchange(v.place, Place::beside);
  if (was == Place::over) {
    for (QWidget* w : std::exchange(hidden_, {})) w->show();
    columns_.restoreState(columnsBefore_);
    views_.restoreState(viewsBefore_);
  } else if (was == Place::window) {
    v.geometry = v.window->saveGeometry();
    views_.insertWidget(std::min(v.at, views_.count()), v.widget);
    v.widget->show();
    views_.setVisible(true);
    if (views_.count() == static_cast<int>(all_.size())) views_.restoreState(whole_);
    std::exchange(v.window, nullptr)->deleteLater();
  }
}

void ViewRoom::cover(View& v) {
  columnsBefore_ = columns_.saveState();
  viewsBefore_ = views_.saveState();
  const auto hide = [this](QWidget* w) {
    if (!w->isVisibleTo(w->parentWidget())) return;
    w->hide();
    hidden_.push_back(w);
  };
  for (QWidget* w : bench_) hide(w);
  for (const View& other : all_)
    if (&other != &v && other.place == Place::beside) hide(other.widget);
}

// It keeps the keys of the main window.
void ViewRoom::openWindow(View& v) {
  if (views_.count() == static_cast<int>(all_.size())) whole_ = views_.saveState();
  v.at = views_.indexOf(v.widget);  // the workspaces have their own order
  v.window = new QWidget(window_, Qt::Window);
  v.window->setWindowTitle(v.name);
  v.window->addActions(window_->actions());
  auto* box = new QVBoxLayout(v.window);
  box->setContentsMargins(0, 0, 0, 0);
  box->addWidget(v.widget);
  v.window->installEventFilter(this);
  v.window->resize(v.widget->width() * 3 / 2, v.widget->height() * 3 / 2);
  if (!v.geometry.isEmpty()) v.window->restoreGeometry(v.geometry);
  views_.setVisible(views_.count() > 0);  // no column for nothing
  v.window->show();
}

// Closed, it stands beside the board again.
bool ViewRoom::eventFilter(QObject* watched, QEvent* e) {
  if (e->type() == QEvent::Close)
    for (View& v : all_)
      if (v.window == watched) {
        leave(v);
        return true;
      }
  return QObject::eventFilter(watched, e);
}

}  // namespace loom::app

#include "moc_view_room.cpp"
