// The sections keep their order: the first ones stand beside each other, each further one goes where it comes highest.
#include "app/tray/packed_columns.h"

#include <algorithm>

namespace loom::app {

PackedColumns::~PackedColumns() {
  for (QLayoutItem* item : items_) delete item;
}

QLayoutItem* PackedColumns::takeAt(int index) {
  QLayoutItem* item = itemAt(index);
  if (item) items_.erase(items_.begin() + index);
  return item;
}

int PackedColumns::shown() const {
  return static_cast<int>(std::ranges::count_if(items_, [](const QLayoutItem* item) { return !item->isEmpty(); }));
}

int PackedColumns::leastColumn() const {
  int least = kLeast;
  for (const QLayoutItem* item : items_)
    if (!item->isEmpty()) least = std::max(least, item->minimumSize().width());
  return least;
}

// Within the margins of a layout this wide; the last place ends where the lowest column does.
std::vector<QRect> PackedColumns::placesIn(int width) const {
  const QMargins m = contentsMargins();
  const int room = std::max(width - m.left() - m.right(), 1),
            columns = std::clamp((room + kGap) / (leastColumn() + kGap), 1, std::max(shown(), 1));
  const int wide = std::clamp((room - kGap * (columns - 1)) / columns, 1, kMost);
  std::vector<int> ends(static_cast<std::size_t>(columns), m.top());
  std::vector<QRect> places;
  for (const QLayoutItem* item : items_) {
    if (item->isEmpty()) {
      places.emplace_back();
      continue;
    }
    const auto shortest = std::min_element(ends.begin(), ends.end());
    const int x = m.left() + static_cast<int>(shortest - ends.begin()) * (wide + kGap),
              y = *shortest + (*shortest > m.top() ? kAbove : 0);
    const int tall = item->hasHeightForWidth() ? item->heightForWidth(wide) : item->sizeHint().height();
    places.emplace_back(x, y, wide, tall);
    *shortest = y + tall;
  }
  return places;
}

int PackedColumns::heightForWidth(int width) const {
  int low = contentsMargins().top();
  for (const QRect& r : placesIn(width)) low = std::max(low, r.y() + r.height());
  return low + contentsMargins().bottom();
}

QSize PackedColumns::minimumSize() const {
  const QMargins m = contentsMargins();
  return {leastColumn() + m.left() + m.right(), m.top() + m.bottom()};
}

void PackedColumns::setGeometry(const QRect& rect) {
  QLayout::setGeometry(rect);
  const std::vector<QRect> places = placesIn(rect.width());
  for (std::size_t i = 0; i < items_.size(); ++i) items_[i]->setGeometry(places[i].translated(rect.topLeft()));
}

}  // namespace loom::app
