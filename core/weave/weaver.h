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
#include "core/plane/ledger.h"
#include "core/program/surface_program.h"
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
  /// If given: takes each wanted output, by its place in the list, as soon as it stands, and its planes go where
  /// nothing else reads them; `fields` stays empty. False ends the weaving as a stop does. After a fault nothing is
  /// handed over.
  std::function<bool(std::size_t want, const Field& field)> finished;
};

/// May be called from several threads. Results do not depend on the number of threads or on the cache's state.
class Weaver : public Keeper {
 public:
  /// Keeps finished planes up to `most_kept` bytes, and as far as the process's budget allows (core/plane/ledger.h).
  explicit Weaver(std::size_t most_kept) : budget_(most_kept) {}

  /// The wanted outputs at `size`. Error: "cancelled" soon after `stop` is asked, nothing half done is kept; what does
  /// not fit into the memory budget, with the size that it needs.
  Result<Woven> weave(const FlatGraph& graph, const std::vector<Want>& wanted, int size, const Stop& stop,
                      const WeaveOptions& options = {});

  /// The wanted outputs, by name, as one program over the points of a shape. What rests on the surface is computed
  /// there; all that it reads is woven at `size` and looked up as wide as a point is.   Error  as of `weave`.
  struct OverSurface {
    SurfaceProgram program;
    std::map<int, Error> faults;  ///< as of Woven
    /// The planes that it looks up: which output each is, and which of its strands.
    std::map<const Plane*, std::pair<OutputRef, int>> read;
  };
  Result<OverSurface> over_surface(const FlatGraph& graph, const std::map<std::string, Want>& wanted, int size,
                                   const Stop& stop, const WeaveOptions& options = {});

  /// The same, of which everything is computed at the points that is mathematics of a point alone, whether it rests on
  /// the surface or not; the origins of its instructions are the nodes. What else the tile has is woven and looked up.
  Result<OverSurface> as_points(const FlatGraph& graph, const std::map<std::string, Want>& wanted, int size,
                                const Stop& stop);

  /// Bytes that weaving so will take at its peak, as far as that can be told before: kinds that follow what comes in
  /// are taken to be as large as that.
  std::size_t bytes_at_peak(const FlatGraph& graph, const std::vector<Want>& wanted, int size,
                            const WeaveOptions& options = {});

  std::size_t cached_bytes() const;
  void set_budget(std::size_t bytes);
  void forget();
  bool let_go() override;

 private:
  friend class Weave;
  bool look_up(const Key& key, Field& field);
  /// `family`: what this is a state of. Of one family only the latest few are kept, so that a dragged dial recycles its
  /// planes.
  void keep(const Key& key, const Key& family, const Field& field);
  void forget_oldest(const Key& family);
  std::shared_ptr<const Resource> table(const Key& key, const std::function<std::shared_ptr<const Resource>()>& make);
  void drop_table(const Key& key);
  void drop_last();
  void trim();

  struct Entry {
    Key key;
    Field field;
    std::size_t bytes;
  };
  mutable std::mutex mutex_;
  std::size_t budget_, used_ = 0;
  std::list<Entry> recent_;  // most recent first
  std::unordered_map<Key, std::list<Entry>::iterator, KeyHash> entries_;
  std::unordered_map<Key, std::vector<Key>, KeyHash> families_;  // their keys, oldest first; some may be gone
  struct Table {
    Key key;
    std::shared_ptr<const Resource> made;
    Booked bytes;
  };
  std::list<Table> tables_;
  const Enrolled enrolled_{*this};
};

/// How the rules and formulas of one node spread over its units, by parameter; empty if it has none.
std::map<std::string, std::vector<float>> spreads_of(Weaver& weaver, const FlatGraph& graph, int node,
                                                     const Stop& stop);

}  // namespace loom
