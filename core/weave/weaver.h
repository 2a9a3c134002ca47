// The evaluator: plans a graph into point programs and area operations, runs them, and keeps finished planes.
#pragma once
#include <functional>
#include <list>
#include <map>
#include <mutex>
#include <unordered_map>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/weave/flatten.h"

namespace loom {

constexpr int kWorkingSize = 1024;

/// An output that is asked for, as it is or turned into another kind.
struct Want {
  Want(OutputRef output, Kind kind = Kind::any) : ref(output), to(kind) {}
  OutputRef ref;
  Kind to;
};

/// What a node took: its share of point programs, or its own area operation.
struct NodeTime {
  int node;
  double milliseconds;
  std::size_t bytes;
};

struct Woven {
  std::vector<Field> fields;    ///< as asked for
  std::map<int, Error> faults;  ///< nodes that gave zeros because of a fault, such as a formula's
  std::vector<NodeTime> times;
  std::map<std::string, std::vector<float>> spreads;  ///< if asked for: by parameter, its value for every unit
};

struct WeaveOptions {
  bool keep = true;     ///< finished planes enter the cache
  bool fuse = true;     ///< off: every node over whole planes; only to measure what fusing gains
  int spreads_of = -1;  ///< a node whose per-unit values are wanted beside its planes
  std::function<void(double share, const std::string& node)> progress;
};

/// May be called from several threads. Results do not depend on the number of threads or on the cache's state.
class Weaver {
 public:
  explicit Weaver(std::size_t budget_bytes) : budget_(budget_bytes) {}

  /// The wanted outputs at `size`. Error: "cancelled" soon after `stop` is asked; nothing half done is kept.
  Result<Woven> weave(const FlatGraph& graph, const std::vector<Want>& wanted, int size, const Stop& stop,
                      const WeaveOptions& options = {});

  std::size_t cached_bytes() const;
  void set_budget(std::size_t bytes);
  void forget();

 private:
  friend class Weave;
  bool look_up(std::uint64_t key, Field& field);
  /// `family`: what this is a state of. Of one family only the latest few are kept, so that a dragged dial recycles its
  /// planes.
  void keep(std::uint64_t key, std::uint64_t family, const Field& field);
  void forget_oldest(std::uint64_t family);
  std::shared_ptr<const Resource> table(std::uint64_t key,
                                        const std::function<std::shared_ptr<const Resource>()>& make);
  void drop_table(std::uint64_t key);
  void trim();

  struct Entry {
    std::uint64_t key;
    Field field;
    std::size_t bytes;
  };
  mutable std::mutex mutex_;
  std::size_t budget_, used_ = 0;
  std::list<Entry> recent_;  // most recent first
  std::unordered_map<std::uint64_t, std::list<Entry>::iterator> entries_;
  std::unordered_map<std::uint64_t, std::vector<std::uint64_t>>
      families_;  // their keys, oldest first; some may be gone
  std::list<std::pair<std::uint64_t, std::shared_ptr<const Resource>>> tables_;
};

/// How the rules and formulas of one node spread over its units, by parameter; empty if it has none.
std::map<std::string, std::vector<float>> spreads_of(Weaver& weaver, const FlatGraph& graph, int node,
                                                     const Stop& stop);

/// A quarter of the machine's memory.
std::size_t default_budget();

}  // namespace loom
