// What strokes leave, remembered but for the last one: a stroke that is being drawn costs itself alone.
#pragma once
#include <list>
#include <memory>
#include <mutex>

#include "core/plane/ledger.h"
#include "core/plane/paint.h"

namespace loom {

class PaintedStore : public Keeper {
 public:
  /// The strokes of the tile on planes of their own. Stopped: nothing is kept, and what comes back is in between.
  Painted paint(const Strokes& strokes, int size, std::size_t strands, const Stop& stop);
  bool let_go() override;

 private:
  // What the first so many strokes of a list leave.
  struct Kept {
    Key key;  // of those strokes, one after another
    std::size_t count;
    int size;
    std::size_t strands;
    std::shared_ptr<const Painted> painted;  // in planes of the pool, which are in the account
  };
  std::shared_ptr<const Painted> longest(const std::vector<Key>& keys, int size, std::size_t strands,
                                         std::size_t& count);
  void keep(Kept kept);

  std::mutex mutex_;
  std::list<Kept> kept_;  // the latest first
  const Enrolled enrolled_{*this};
};

/// The one that all weavers share.
PaintedStore& painted_store();

}  // namespace loom
