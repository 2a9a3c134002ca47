#include "core/nodes/painted_store.h"

namespace loom {
namespace {

constexpr std::size_t kMostKept = 6;  // two sizes of a node that is painted on, and what was painted on before

// keys[i]: of the first i strokes.
std::vector<Key> keys_of(const Strokes& strokes) {
  std::vector<Key> keys{Key{}};
  for (const HandStrokePtr& s : strokes.all) keys.push_back(KeyMaker().add(keys.back()).add(s->key).key());
  return keys;
}

Painted copy_of(const Painted& p) {
  Painted copy;
  copy.cover = p.cover.clone();
  for (const Plane& plane : p.paint) copy.paint.push_back(plane.clone());
  return copy;
}

}  // namespace

std::shared_ptr<const Painted> PaintedStore::longest(const std::vector<Key>& keys, int size, std::size_t strands,
                                                     std::size_t& count) {
  const std::lock_guard lock(mutex_);
  auto best = kept_.end();
  for (auto it = kept_.begin(); it != kept_.end(); ++it)
    if (it->size == size && it->strands == strands && it->count < keys.size() - 1 && keys[it->count] == it->key &&
        (best == kept_.end() || it->count > best->count))
      best = it;
  if (best == kept_.end()) return nullptr;
  kept_.splice(kept_.begin(), kept_, best);
  count = best->count;
  return best->painted;
}

void PaintedStore::keep(Kept kept) {
  std::list<Kept> dropped;  // goes after the lock
  const std::lock_guard lock(mutex_);
  kept_.push_front(std::move(kept));
  while (kept_.size() > kMostKept) dropped.splice(dropped.begin(), kept_, std::prev(kept_.end()));
}

bool PaintedStore::let_go() {
  std::list<Kept> dropped;
  const std::lock_guard lock(mutex_);
  if (kept_.empty()) return false;
  dropped.splice(dropped.begin(), kept_, std::prev(kept_.end()));
  return true;
}

Painted PaintedStore::paint(const Strokes& strokes, int size, std::size_t strands, const Stop& stop) {
  if (strokes.all.empty()) return unpainted(size, strands);
  const std::vector<Key> keys = keys_of(strokes);
  const std::size_t but_one = strokes.all.size() - 1;
  const std::span<const HandStrokePtr> all(strokes.all);
  std::size_t count = 0;
  auto before = longest(keys, size, strands, count);
  if (count < but_one) {
    Painted now = before ? copy_of(*before) : unpainted(size, strands);
    loom::paint(now, all.subspan(count, but_one - count), stop);
    if (stop.asked()) return now;
    before = std::make_shared<const Painted>(std::move(now));
    keep({keys[but_one], but_one, size, strands, before});
  }
  Painted now = before ? copy_of(*before) : unpainted(size, strands);
  loom::paint(now, all.subspan(but_one), stop);
  return now;
}

PaintedStore& painted_store() {
  static auto* const all = new PaintedStore;  // never destroyed, as the account that it is enrolled in
  return *all;
}

}  // namespace loom
