// The account: the pool's planes and what is booked; keepers let go in turn.
#include "core/plane/ledger.h"

#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstdlib>
#include <mutex>
#include <new>
#include <vector>

#include "core/plane/plane.h"

namespace loom {
namespace {

struct Account {
  std::atomic<std::size_t> booked{0}, budget{default_budget()};
  std::mutex mutex;  // of what follows
  std::vector<Keeper*> keepers;
  std::size_t rooms = 0;  // bytes that others were promised
  std::condition_variable given_back;
};

Account& account() {
  static Account* const all = new Account;  // never destroyed: tables may outlive static objects
  return *all;
}

// With the lock held.
bool fits(std::size_t bytes) { return bytes_held() + account().rooms + bytes <= memory_budget(); }

void let_go_until_fits(std::size_t bytes) {
  for (bool any = true; any && !fits(bytes);) {
    any = false;
    for (Keeper* k : account().keepers)
      if (!fits(bytes) && k->let_go()) any = true;
  }
}

}  // namespace

Enrolled::Enrolled(Keeper& keeper) : keeper_(keeper) {
  const std::lock_guard lock(account().mutex);
  account().keepers.push_back(&keeper);
}

Enrolled::~Enrolled() {
  const std::lock_guard lock(account().mutex);
  std::erase(account().keepers, &keeper_);
}

Booked::Booked(std::size_t bytes) : bytes_(bytes) { account().booked += bytes; }
Booked::~Booked() { account().booked -= bytes_; }

std::size_t bytes_held() { return pool_state().used + account().booked; }

std::size_t default_budget() {
  const auto pages = static_cast<std::size_t>(std::max(0L, ::sysconf(_SC_PHYS_PAGES)));
  return pages * static_cast<std::size_t>(::sysconf(_SC_PAGESIZE)) / 4;
}

std::size_t memory_budget() { return account().budget; }
void set_memory_budget(std::size_t bytes) { account().budget = bytes; }

namespace {

constexpr std::size_t kReserve = std::size_t{4} << 20;
std::atomic<void*> reserve{nullptr};

// The new handler. Keepers are not asked: whoever allocates may hold their locks.
void make_do() {
  void* const all = reserve.exchange(nullptr);
  if (!all) throw std::bad_alloc();
  std::free(all);
}

}  // namespace

void keep_reserve() {
  static const bool kInstalled = [] {
    std::set_new_handler(make_do);
    return true;
  }();
  (void)kInstalled;
  if (reserve) return;
  void* fresh = std::malloc(kReserve);
  void* none = nullptr;
  if (!reserve.compare_exchange_strong(none, fresh)) std::free(fresh);
}

std::string in_mebibytes(std::size_t bytes) {
  constexpr std::size_t kOne = std::size_t{1} << 20;
  return std::to_string((bytes + kOne - 1) / kOne) + " MiB";
}

Room::~Room() {
  if (!given_) return;
  Account& all = account();
  {
    const std::lock_guard lock(all.mutex);
    all.rooms -= bytes_;
  }
  all.given_back.notify_all();
}

Room admit(std::size_t bytes, const Stop& stop) {
  constexpr std::chrono::milliseconds kLook{5};  // how soon a stop is seen
  Account& all = account();
  std::unique_lock lock(all.mutex);
  let_go_until_fits(bytes);
  while (!fits(bytes) && all.rooms > 0 && !stop.asked()) {
    all.given_back.wait_for(lock, kLook);
    let_go_until_fits(bytes);
  }
  const std::size_t held = bytes_held(), budget = memory_budget();
  limit_spare_buffers(budget > held ? budget - held : 0);
  if (!fits(bytes)) return {};
  all.rooms += bytes;
  return Room(bytes);
}

}  // namespace loom
