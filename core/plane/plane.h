// A square plane of floats on the torus, its buffer taken from a pool.
#pragma once
#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/base/kind.h"

namespace loom {

constexpr int kLeastSize = 16, kMostSize = 8192;

/// Memory to be given back by std::free; `bytes` is a multiple of `alignment`. Where there is none, the new handler is
/// asked, as operator new does it.   Error   std::bad_alloc.
void* aligned_memory(std::size_t alignment, std::size_t bytes);

/// A buffer from the pool, 64-byte aligned; what is in it is unspecified.
struct ToPool {
  std::size_t bytes;
  void operator()(void* data) const;
};
template <class T>
using Pooled = std::unique_ptr<T[], ToPool>;
void* take_pooled(std::size_t bytes);
template <class T>
Pooled<T> pooled(std::size_t count) {
  return Pooled<T>(static_cast<T*>(take_pooled(count * sizeof(T))), ToPool{count * sizeof(T)});
}

/// One channel, `size` x `size` floats, row-major, rows run down, 64-byte aligned. Moved, never copied by accident.
class Plane {
 public:
  Plane() = default;
  explicit Plane(int size);
  static Plane filled(int size, float value);
  Plane clone() const;

  Plane(Plane&&) noexcept = default;
  Plane& operator=(Plane&&) noexcept = default;

  int size() const { return size_; }
  std::size_t texels() const { return static_cast<std::size_t>(size_) * static_cast<std::size_t>(size_); }
  std::size_t bytes() const { return texels() * sizeof(float); }
  float* data() { return data_.get(); }
  const float* data() const { return data_.get(); }
  float* row(int y) { return data_.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size_); }
  const float* row(int y) const { return data_.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size_); }
  float& at(int x, int y) { return row(y)[x]; }
  float at(int x, int y) const { return row(y)[x]; }

 private:
  int size_ = 0;
  Pooled<float> data_{nullptr, ToPool{0}};
};

using PlanePtr = std::shared_ptr<const Plane>;

/// What is known of each region or laid unit; a region plane holds indices into it (-1 where there is none).
struct RegionTable {
  std::vector<std::uint32_t> key;         ///< the same at every size
  std::vector<float> centre_u, centre_v;  ///< shares of the tile, 0..1
  std::vector<float> box_u, box_v;        ///< the box's corner with the least u and v
  std::vector<float> size_u, size_v;      ///< of the box, along its own axes
  std::vector<float> cosine, sine;        ///< of the turn of the box's axes
  std::vector<float> area;                ///< share of the tile
  std::size_t count() const { return key.size(); }
  void resize(std::size_t n) {
    key.resize(n);
    for (auto* column : {&centre_u, &centre_v, &box_u, &box_v, &size_u, &size_v, &sine, &area}) column->resize(n, 0.0f);
    cosine.resize(n, 1.0f);
  }
};

struct FieldMember;

/// The finished value of an output: up to four planes, and the table if it holds regions, or named members if it is a
/// set.
struct Field {
  Kind kind = Kind::scalar;
  std::array<PlanePtr, 4> strand;
  PlanePtr footprint;  ///< of a place: how wide a sample is, seen in these coordinates; may be null
  std::shared_ptr<const RegionTable> regions;
  std::vector<FieldMember> members;

  int size() const;
  std::size_t bytes() const;
};

/// A named map of a set.
struct FieldMember {
  FieldMember(std::string name, Field field) : first(std::move(name)), second(std::move(field)) {}
  std::string first;
  Field second;
};

inline int Field::size() const {
  return strand[0] ? strand[0]->size() : members.empty() ? 0 : members[0].second.size();
}

/// How much memory the pool of buffers holds in use and spare, in bytes, and the most that was in use since the last
/// reset.
struct PoolState {
  std::size_t used, spare, peak;
};
PoolState pool_state();
void reset_pool_peak();
void drop_spare_buffers();
void limit_spare_buffers(std::size_t bytes);

/// The index wrapped into 0..size-1; `size` is a power of two.
constexpr int wrap(int i, int size) { return i & (size - 1); }

/// Half the size, each texel the mean of four.
Plane reduced(const Plane& source);
/// The mean pyramid from `source` (level 0 is a copy) down to 1 x 1 texel or `levels` levels.
std::vector<PlanePtr> pyramid(const PlanePtr& source, int levels);

struct Range {
  float least, most, mean;
};
Range range_of(const Plane& plane);

}  // namespace loom
