// What was made of the last few files: a dial that is turned does not read them again.
#pragma once
#include <algorithm>
#include <list>
#include <memory>
#include <mutex>

#include "core/base/error.h"
#include "core/base/key.h"
#include "core/plane/ledger.h"

namespace loom {

/// T says by `bytes()` what it holds. May be asked from several threads.
template <class T>
class RecentFiles : public Keeper {
 public:
  using Ptr = std::shared_ptr<const T>;

  /// What `make` gives for the file with this key, unless it is known. An error or null is not kept.
  template <class Make>
  Result<Ptr> made(const Key& key, const Make& make) {
    if (auto known = find(key)) return known;
    Result<Ptr> fresh = make();
    if (!fresh || !*fresh) return fresh;
    const std::lock_guard lock(mutex_);
    recent_.push_front({key, *fresh, Booked((*fresh)->bytes())});
    if (recent_.size() > 4) recent_.pop_back();
    return fresh;
  }
  bool let_go() override {
    const std::lock_guard lock(mutex_);
    if (recent_.empty()) return false;
    recent_.pop_back();
    return true;
  }

 private:
  Ptr find(const Key& key) {
    const std::lock_guard lock(mutex_);
    const auto it = std::find_if(recent_.begin(), recent_.end(), [&](const One& one) { return one.key == key; });
    if (it == recent_.end()) return nullptr;
    recent_.splice(recent_.begin(), recent_, it);
    return it->made;
  }
  struct One {
    Key key;
    Ptr made;
    Booked bytes;
  };
  std::mutex mutex_;
  std::list<One> recent_;
  const Enrolled enrolled_{*this};
};

}  // namespace loom
