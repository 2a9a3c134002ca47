// One account of the bytes that the process holds for its user, with one budget, whatever windows are open.
#pragma once
#include <cstddef>
#include <string>
#include <utility>

#include "core/base/stop.h"

namespace loom {

/// One who keeps what can be made or read again.
class Keeper {
 public:
  virtual ~Keeper() = default;
  /// Lets go of what has been used least of late; false: there is nothing left. May not book or admit anything.
  virtual bool let_go() = 0;
};

/// A keeper is asked while this lives. Its last member: so it is asked no more before the rest of it goes.
class Enrolled {
 public:
  explicit Enrolled(Keeper& keeper);
  ~Enrolled();
  Enrolled(const Enrolled&) = delete;
  Enrolled& operator=(const Enrolled&) = delete;

 private:
  Keeper& keeper_;
};

/// Bytes that are no plane of the pool: tables, files, decoded pictures. In the account while this lives.
class Booked {
 public:
  Booked() = default;
  explicit Booked(std::size_t bytes);
  ~Booked();
  Booked(Booked&& other) noexcept : bytes_(std::exchange(other.bytes_, 0)) {}
  Booked& operator=(Booked&& other) noexcept {
    std::swap(bytes_, other.bytes_);
    return *this;
  }
  std::size_t bytes() const { return bytes_; }

 private:
  std::size_t bytes_ = 0;
};

/// Planes in use, and what is booked.
std::size_t bytes_held();
/// A quarter of the machine's memory.
std::size_t default_budget();
std::size_t memory_budget();
void set_memory_budget(std::size_t bytes);

/// Room in the budget for what is about to be made, kept free of all others until that stands.
class Room {
 public:
  Room() = default;  ///< none
  ~Room();
  Room(Room&& other) noexcept : bytes_(std::exchange(other.bytes_, 0)), given_(std::exchange(other.given_, false)) {}
  Room& operator=(Room&& other) noexcept {
    std::swap(bytes_, other.bytes_);
    std::swap(given_, other.given_);
    return *this;
  }
  explicit operator bool() const { return given_; }

 private:
  friend Room admit(std::size_t bytes, const Stop& stop);
  explicit Room(std::size_t bytes) : bytes_(bytes), given_(true) {}
  std::size_t bytes_ = 0;
  bool given_ = false;
};

/// Room for `bytes` more, once keepers have let go of what they can. Waits while it is only the room of others that is
/// missing; whoever has room may not ask for more. None: it cannot fit, or `stop` was asked.
[[nodiscard]] Room admit(std::size_t bytes, const Stop& stop = {});

/// Keeps a few MiB aside for the moment when memory runs out: what is small is then served from them, as destructors
/// and messages must be. What is large still fails, by std::bad_alloc. Called at the start of each weaving, so that
/// what was given up is set aside again; the first call installs the handler.
void keep_reserve();

/// "12 MiB", rounded up.
std::string in_mebibytes(std::size_t bytes);

}  // namespace loom
