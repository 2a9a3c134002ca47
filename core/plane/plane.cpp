// Plane: buffers, the pool they return to, reduction and range.
#include "core/plane/plane.h"

#include <sys/mman.h>

#include <algorithm>
#include <atomic>
#include <bit>
#include <cstdlib>
#include <cstring>
#include <map>
#include <mutex>
#include <new>
#include <utility>

#include "core/base/parallel.h"

namespace loom {
namespace {

constexpr std::size_t kMostSpare = std::size_t{192} << 20, kSparePlanes = 8;  // the larger of the two: bytes, planes

// Small planes are cut from slabs of huge pages: a page at a time, clearing memory costs more than a point program.
class Slabs {
 public:
  static constexpr std::size_t kSlab = std::size_t{8} << 20, kLeast = std::size_t{64} << 10,
                               kMost = std::size_t{2} << 20;
  static bool serve(std::size_t bytes) {
    return bytes >= kLeast && bytes < kMost && std::has_single_bit(bytes);
  }  // planes
  void* take(std::size_t bytes) {
    std::byte*& open = open_[bytes];
    if (!open || slabs_[open].next == kSlab) {
      open = static_cast<std::byte*>(aligned_memory(kSlab, kSlab));
      madvise(open, kSlab, MADV_HUGEPAGE);
      slabs_[open] = {};
    }
    Slab& slab = slabs_[open];
    ++slab.live;
    return open + std::exchange(slab.next, slab.next + bytes);
  }
  void give(void* data, std::size_t bytes) {
    std::byte* const base = reinterpret_cast<std::byte*>(reinterpret_cast<std::uintptr_t>(data) / kSlab * kSlab);
    if (--slabs_.at(base).live > 0) return;
    std::byte*& open = open_[bytes];
    if (open == base) open = nullptr;
    slabs_.erase(base);
    std::free(base);
  }

 private:
  struct Slab {
    std::size_t next = 0, live = 0;
  };
  std::map<std::byte*, Slab> slabs_;
  std::map<std::size_t, std::byte*> open_;  // by the size of its buffers: the slab that still has room
};

// Fresh pages cost as much as a whole point program: a freed buffer waits here for the next plane of its size.
class Pool {
 public:
  float* take(std::size_t bytes) {
    {
      const std::lock_guard lock(mutex_);
      auto& list = spare_[bytes];
      if (!list.empty()) {
        float* data = list.back();
        list.pop_back();
        spare_bytes_ -= bytes;
        return counted(data, bytes);
      }
      if (Slabs::serve(bytes)) return counted(static_cast<float*>(slabs_.take(bytes)), bytes);
    }
    const std::size_t alignment = bytes >= kHuge ? kHuge : 64;
    void* fresh = aligned_memory(alignment, (bytes + alignment - 1) / alignment * alignment);
    if (bytes >= kHuge) madvise(fresh, bytes, MADV_HUGEPAGE);
    const std::lock_guard lock(mutex_);
    return counted(static_cast<float*>(fresh), bytes);
  }
  // Throws nothing: it runs while planes are given up, and then there may be no memory for a list of spare ones.
  void give(float* data, std::size_t bytes) noexcept {
    const std::lock_guard lock(mutex_);
    used_ -= bytes;
    try {
      spare_[bytes].push_back(data);
    } catch (const std::bad_alloc&) {
      return give_back(data, bytes);
    }
    spare_bytes_ += bytes;
    // What came last is likely to be asked for next: buffers of other sizes go first.
    const std::size_t most = std::max(kMostSpare, kSparePlanes * plane_beside(bytes));
    for (auto it = spare_.begin(); it != spare_.end() && spare_bytes_ > most; ++it)
      while (it->first != bytes && !it->second.empty() && spare_bytes_ > most) drop_one(*it);
    while (spare_bytes_ > most) drop_one(*spare_.find(bytes));
  }
  void limit_spare(std::size_t most) {
    const std::lock_guard lock(mutex_);
    for (auto& list : spare_)
      while (spare_bytes_ > most && !list.second.empty()) drop_one(list);
  }
  PoolState state() {
    const std::lock_guard lock(mutex_);
    return {used_, spare_bytes_, peak_};
  }
  void reset_peak() {
    const std::lock_guard lock(mutex_);
    peak_ = used_;
  }

 private:
  // The size of the planes that work with buffers of `bytes` deals in: half spectra and the like are smaller than its
  // planes.
  std::size_t plane_beside(std::size_t bytes) const {
    std::size_t largest = bytes;
    for (const auto& [size, list] : spare_)
      if (!list.empty() && size < 4 * bytes) largest = std::max(largest, size);
    return largest;
  }
  float* counted(float* data, std::size_t bytes) {
    used_ += bytes;
    peak_ = std::max(peak_, used_);
    return data;
  }
  void drop_one(std::pair<const std::size_t, std::vector<float*>>& list) {
    give_back(list.second.back(), list.first);
    list.second.pop_back();
    spare_bytes_ -= list.first;
  }
  void give_back(float* data, std::size_t bytes) {
    if (Slabs::serve(bytes))
      slabs_.give(data, bytes);
    else
      std::free(data);
  }
  static constexpr std::size_t kHuge = std::size_t{2} << 20;
  std::mutex mutex_;
  std::map<std::size_t, std::vector<float*>> spare_;
  Slabs slabs_;
  std::size_t used_ = 0, spare_bytes_ = 0, peak_ = 0;
};

Pool& pool() {
  static Pool* const the_pool = new Pool;  // never destroyed: planes may outlive static objects
  return *the_pool;
}

}  // namespace

void* aligned_memory(std::size_t alignment, std::size_t bytes) {
  for (;;) {
    if (void* const data = std::aligned_alloc(alignment, bytes)) return data;
    const auto handler = std::get_new_handler();
    if (!handler) throw std::bad_alloc();
    handler();
  }
}

PoolState pool_state() { return pool().state(); }
void reset_pool_peak() { pool().reset_peak(); }
void drop_spare_buffers() { pool().limit_spare(0); }
void limit_spare_buffers(std::size_t bytes) { pool().limit_spare(bytes); }

void ToPool::operator()(void* data) const { pool().give(static_cast<float*>(data), bytes); }

void* take_pooled(std::size_t bytes) { return pool().take(bytes); }

Plane::Plane(int size) : size_(size), data_(pooled<float>(texels())) {}

Plane Plane::filled(int size, float value) {
  Plane plane(size);
  std::fill_n(plane.data(), plane.texels(), value);
  return plane;
}

Plane Plane::clone() const {
  Plane copy(size_);
  std::memcpy(copy.data(), data(), bytes());
  return copy;
}

std::size_t Field::bytes() const {
  std::size_t sum = regions ? regions->count() * 44 : 0;
  for (const auto& plane : strand)
    if (plane) sum += plane->bytes();
  if (footprint) sum += footprint->bytes();
  for (const auto& [name, member] : members) sum += member.bytes();
  return sum;
}

Plane reduced(const Plane& source) {
  const int size = source.size() / 2;
  Plane half(size);
  for_rows(size, 64, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float* a = source.row(2 * y);
      const float* b = source.row(2 * y + 1);
      float* out = half.row(y);
      for (int x = 0; x < size; ++x) out[x] = 0.25f * ((a[2 * x] + a[2 * x + 1]) + (b[2 * x] + b[2 * x + 1]));
    }
  });
  return half;
}

std::vector<PlanePtr> pyramid(const PlanePtr& source, int levels) {
  std::vector<PlanePtr> all{source};
  while (static_cast<int>(all.size()) < levels && all.back()->size() > 1)
    all.push_back(std::make_shared<Plane>(reduced(*all.back())));
  return all;
}

Range range_of(const Plane& plane) {
  const int size = plane.size();
  std::vector<Range> rows(
      static_cast<std::size_t>(size));  // one each row, summed in order: the same bits on any machine
  for_rows(size, 64, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float* row = plane.row(y);
      float least = row[0], most = row[0], sum = 0;
      for (int x = 0; x < size; ++x) {
        least = std::min(least, row[x]);
        most = std::max(most, row[x]);
        sum += row[x];
      }
      rows[static_cast<std::size_t>(y)] = {least, most, sum / static_cast<float>(size)};
    }
  });
  Range all{rows[0].least, rows[0].most, 0};
  double mean = 0;
  for (const Range& r : rows) {
    all.least = std::min(all.least, r.least);
    all.most = std::max(all.most, r.most);
    mean += r.mean;
  }
  all.mean = static_cast<float>(mean / size);
  return all;
}

}  // namespace loom
