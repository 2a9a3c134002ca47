// Planning by levels: all that is stored on one level depends only on lower ones, so its point functions share a
// program.
#include "core/weave/weaver.h"

#include <algorithm>
#include <chrono>
#include <set>

#include "core/base/parallel.h"
#include "core/graph/reading.h"
#include "core/program/targets.h"

namespace loom {
namespace {

// Something that must stand as planes: an output at a size, perhaps turned into another kind for an area operation.
struct Stored {
  OutputRef ref;
  int size = 0;
  Kind to = Kind::any;
  int channel = -1;
  friend auto operator<=>(const Stored&, const Stored&) = default;
};

int own_frame_size(int size) { return std::clamp(size / 2, 256, 2048); }

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

}  // namespace

// One evaluation.
class Weave {
 public:
  Weave(Weaver& weaver, const FlatGraph& graph, const Stop& stop, const WeaveOptions& options)
      : weaver_(weaver), graph_(graph), stop_(stop), options_(options) {}

  Result<Woven> run(const std::vector<Want>& wanted, int size) {
    if (auto made = make_planes(targets_of(wanted, size)); !made) return made.error();
    if (!options_.finished)
      for (const Stored& t : targets_) woven_.fields.push_back(fields_.at(t));
    return std::move(woven_);
  }

  // What turns out to be no mathematics of a point alone is woven, and it begins anew.
  Result<Weaver::OverSurface> as_points(const std::map<std::string, Want>& wanted, int size) {
    as_points_ = true;
    while (true) {
      const std::size_t woven = woven_for_points_.size();
      auto made = over_surface(wanted, size);
      if (!made || woven_for_points_.size() == woven) return made;
      over_surface_ = false;
      woven_ = {};
      uses_.clear();
    }
  }

  Result<Weaver::OverSurface> over_surface(const std::map<std::string, Want>& wanted, int size) {
    if (auto made = make_planes(read_over_surface(wanted, size)); !made) return made.error();
    over_surface_ = true;
    Draft p{Builder(Domain::surface_points()), {}, {}};
    Weaver::OverSurface out;
    std::size_t stored = 0;
    for (const auto& [name, want] : wanted) {
      Strands value = value_of(p, want.ref, size, Take::value);
      if (want.to != Kind::any) value = convert(p.b, value, want.to);
      out.program.outputs.push_back({name, value.kind, stored});
      for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(value.kind)); ++i, ++stored)
        p.b.store(value.at[i], static_cast<int>(stored));
    }
    if (stop_.asked()) return Error{"", kCancelled, ""};
    out.program.program = p.b.build();
    for (const auto& [of, field] : fields_)
      for (int i = 0; i < strand_count(field.kind) && of.to == Kind::any; ++i)
        out.read.emplace(field.strand[static_cast<std::size_t>(i)].get(), std::pair(of.ref, i));
    out.faults = std::move(woven_.faults);
    return out;
  }

  // As `run` would go through them, without the planes.
  std::size_t bytes_at_peak(const std::vector<Want>& wanted, int size) {
    const auto levels = planned(targets_of(wanted, size));
    std::size_t held = 0;
    std::map<Stored, std::size_t> bytes;
    for (const auto& [s, field] : fields_) held += bytes[s] = field.bytes();  // what is kept and read again
    std::size_t most = held;
    for (const auto& [level, list] : levels) {
      std::size_t working = 0;
      for (const Stored& s : list) {
        held += bytes[s] = bytes_of(s, bytes);
        if (is_area(s.ref.node) && s.to == Kind::any)
          working =
              std::max(working, static_cast<std::size_t>(node(s.ref.node).type->working_planes) * plane_bytes(s.size));
      }
      most = std::max(most, held + working);
      const auto used_once_more = [&](const Stored& s) {
        if (--uses_[s] == 0) held -= std::min(held, bytes[s]);
      };
      for (const Stored& s : list)
        for (const Stored& other : needs_[s]) used_once_more(other);
      if (options_.finished)
        for (const Stored& t : targets_)
          if (std::find(list.begin(), list.end(), t) != list.end()) used_once_more(t);
    }
    return most;
  }

 private:
  Result<Done> make_planes(std::vector<Stored> targets) {
    const auto levels = planned(std::move(targets));
    double done = 0, all = 0;
    for (const auto& [level, list] : levels) all += static_cast<double>(list.size());
    hand_over();
    for (const auto& [level, list] : levels) {
      if (stop_.asked() || ended_) return Error{"", kCancelled, ""};
      run_level(list);
      if (refused_) return *refused_;
      done += static_cast<double>(list.size());
      if (options_.progress)
        options_.progress(done / all, graph_.nodes[static_cast<std::size_t>(list.back().ref.node)].path);
      release(list);
    }
    if (stop_.asked() || ended_) return Error{"", kCancelled, ""};
    return Done{};
  }

  const FlatNode& node(int i) const { return graph_.nodes[static_cast<std::size_t>(i)]; }
  Key cache_key(const FlatNode& n, const Stored& s) const {
    KeyMaker k;
    k.add(n.key);
    if (n.surface == SurfaceUse::eye_or_light)
      for (const float x : graph_.light) k.add(static_cast<double>(x));
    return stored_as(k, s);
  }
  static Key family_of(const FlatNode& n, const Stored& s) { return stored_as(KeyMaker().add(n.path), s); }
  static Key stored_as(KeyMaker& k, const Stored& s) {
    return k.add(s.ref.output).add(static_cast<int>(s.to)).add(s.channel).add(s.size).key();
  }
  using Emission = std::pair<int, bool>;  // a node, and whether for its slopes
  bool is_area(int n) const { return node(n).type->evaluate != nullptr; }

  // ---- planning ----

  static std::vector<Stored> targets_of(const std::vector<Want>& wanted, int size) {
    std::vector<Stored> targets;
    for (const Want& want : wanted) targets.push_back({want.ref, size, want.to});
    return targets;
  }

  // All that is to be stored, level by level.
  std::map<int, std::vector<Stored>> planned(std::vector<Stored> targets) {
    targets_ = std::move(targets);
    handed_.resize(targets_.size());
    plan(targets_);
    if (options_.fuse && keep_shared_costs()) plan(targets_);
    count_uses(targets_);
    std::map<int, std::vector<Stored>> levels;
    for (const auto& [s, level] : level_)
      if (!fields_.count(s)) levels[level].push_back(s);
    return levels;
  }

  // What a program over surface points reads of the tile.
  std::vector<Stored> read_over_surface(const std::map<std::string, Want>& wanted, int size) {
    std::vector<Stored> read;
    std::set<int> seen;
    std::vector<OutputRef> waiting;
    for (const auto& [name, want] : wanted) waiting.push_back(want.ref);
    while (!waiting.empty()) {
      const OutputRef at = waiting.back();
      waiting.pop_back();
      if (!is_computed_over_surface(at.node)) {
        read.push_back({at, size});
        continue;
      }
      if (!seen.insert(at.node).second) continue;
      const FlatNode& n = node(at.node);
      for (const Peg& peg : n.type->inputs)
        if (const auto it = n.inputs.find(peg.id); it == n.inputs.end())
          continue;
        else if (reads_whole(n, peg))
          read.push_back(input_of(n, peg, size));
        else
          waiting.push_back(it->second.from);
    }
    return read;
  }

  bool is_computed_over_surface(int index) {
    if (node(index).surface != SurfaceUse::none) return true;
    if (as_points_ && is_of_a_point(index)) return true;
    const auto it = level_everywhere_.find(index);
    return it != level_everywhere_.end() ? it->second : (level_everywhere_[index] = is_level(index));
  }

  // As far as can be told before it is emitted.
  bool is_of_a_point(int index) const {
    const FlatNode& n = node(index);
    return n.type->emit && !n.type->costly && !woven_for_points_.count(index) &&
           std::none_of(n.type->inputs.begin(), n.type->inputs.end(), [&](const Peg& peg) {
             return n.inputs.count(peg.id) && (reads_whole(n, peg) || reads_slopes(*n.type, n.params, peg));
           });
  }

  static bool is_of_no_point(Op op, const Family* family) {
    return op == Op::random || (op == Op::family && family != &kCurve && family != &kSample);
  }

  // Numbers and colours that are the same everywhere: no map is made of them.
  bool is_level(int index) {
    const NodeType& type = *node(index).type;
    if (!type.emit || !type.inputs.empty() || type.costly) return false;
    Draft p{Builder(Domain::texels(kLeastSize)), {}, {}};
    for (const auto& [id, value] : emit(p, index, kLeastSize, false))
      for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(value.kind)); ++i)
        if (!p.b.known(value.at[i])) return false;
    return true;
  }

  std::size_t bytes_of(const Stored& s, const std::map<Stored, std::size_t>& known) const {
    const Kind kind =
        s.to != Kind::any ? s.to : node(s.ref.node).type->outputs[static_cast<std::size_t>(s.ref.output)].kind;
    if (kind != Kind::any && kind != Kind::set)
      return static_cast<std::size_t>(strand_count(kind)) * plane_bytes(s.size);
    std::size_t largest = plane_bytes(s.size);
    for (const Stored& other : needs_.at(s))
      if (const auto it = known.find(other); it != known.end()) largest = std::max(largest, it->second);
    return largest;
  }

  void plan(const std::vector<Stored>& targets) {
    level_.clear();
    cone_.clear();
    for (const Stored& t : targets) level(t);
  }

  static bool reads_whole(const FlatNode& n, const Peg& peg) { return loom::reads_whole(*n.type, n.params, peg); }

  Stored input_of(const FlatNode& n, const Peg& peg, int size) const {
    const FlatInput& in = n.inputs.at(peg.id);
    return {in.from, peg.own_frame ? own_frame_size(size) : size, peg.kind, peg.kind == Kind::scalar ? in.channel : -1};
  }

  // The level of what is wanted, and of all that it needs, on a stack of our own: a chain may be as long as a document.
  void level(const Stored& wanted) {
    constexpr int kOnTheWay = -1;
    std::vector<Stored> waiting{wanted};
    while (!waiting.empty()) {
      const Stored s = waiting.back();
      const auto known = level_.find(s);
      if (fields_.count(s) || (known != level_.end() && known->second != kOnTheWay)) {
        waiting.pop_back();
      } else if (known == level_.end()) {
        Field cached;
        if (weaver_.look_up(cache_key(node(s.ref.node), s), cached)) {
          fields_[s] = std::move(cached);
          continue;
        }
        level_[s] = kOnTheWay;
        needs_[s] = needs_of(s);
        for (const Stored& other : needs_[s])
          if (!level_.count(other)) waiting.push_back(other);
      } else {
        int most = 0;
        for (const Stored& other : needs_[s])
          if (!fields_.count(other)) most = std::max(most, level_.at(other));
        known->second = most + 1;
        waiting.pop_back();
      }
    }
  }

  std::vector<Stored> needs_of(const Stored& s) {
    if (s.to != Kind::any && is_area(s.ref.node)) return {{s.ref, s.size}};
    return is_area(s.ref.node) ? area_needs(s) : point_needs(s);
  }

  std::vector<Stored> area_needs(const Stored& s) const {
    std::vector<Stored> needs;
    const FlatNode& n = node(s.ref.node);
    for (const Peg& peg : n.type->inputs)
      if (n.inputs.count(peg.id)) needs.push_back(input_of(n, peg, s.size));
    if (n.type->at_working_size && s.size != kWorkingSize) needs.push_back({s.ref, kWorkingSize});
    return needs;
  }

  // How a point program takes what a peg reads. A stored value has lost how it changes from sample to sample; where a
  // kernel asks for that, its functions are computed again, wherever they may be stored. That follows from the graph
  // alone, and so do the bits.
  enum class Take {
    value,   ///< loaded where it is stored
    place,   ///< coordinates: loaded where they are stored with their footprint; their own slopes end here
    slopes,  ///< never loaded, unless an area operation made it
  };

  static Take take_at(const FlatNode& n, const Peg& peg, bool slopes) {
    if (reads_slopes(*n.type, n.params, peg)) return Take::slopes;
    if (peg.place) return Take::place;
    return slopes ? Take::slopes : Take::value;
  }

  // What is costly may be stored and loaded; all other point functions are computed wherever they are used.
  bool may_load(const OutputRef& ref, Take take) {
    if (over_surface_) return !is_computed_over_surface(ref.node);
    const NodeType& type = *node(ref.node).type;
    if (is_area(ref.node) || !options_.fuse) return true;
    const bool place = type.outputs[static_cast<std::size_t>(ref.output)].place;
    return type.costly && (take == Take::value || (take == Take::place && place));
  }

  // Walks the point functions above a stored output; what they load or read whole are its needs.
  std::vector<Stored> point_needs(const Stored& of) {
    std::vector<Stored> needs;
    std::vector<Emission> waiting{{of.ref.node, false}};
    while (!waiting.empty()) {
      const Emission at = waiting.back();
      waiting.pop_back();
      if (!cone_[of].insert(at).second) continue;
      const FlatNode& n = node(at.first);
      for (const Peg& peg : n.type->inputs) {
        const auto it = n.inputs.find(peg.id);
        if (it == n.inputs.end()) continue;
        const OutputRef from = it->second.from;
        const Take how = take_at(n, peg, at.second);
        if (reads_whole(n, peg))
          needs.push_back(input_of(n, peg, of.size));
        else if (is_area(from.node) || (may_load(from, how) && stays(from, of.size)))
          needs.push_back({from, of.size});
        else
          waiting.push_back(emission_of(from, how));
      }
    }
    return needs;
  }

  // How a node is emitted whose output is taken so.
  Emission emission_of(const OutputRef& ref, Take how) const {
    return {ref.node, how == Take::slopes || (how == Take::place && !gives_place(ref))};
  }

  bool gives_place(const OutputRef& ref) const {
    return node(ref.node).type->outputs[static_cast<std::size_t>(ref.output)].place;
  }

  bool stays(const OutputRef& from, int size) {
    return kept_.count({from, size}) || !options_.fuse || worth_keeping(from, size);
  }

  // While someone turns dials, what is costly stays: the next change is likely to lie below it.
  bool worth_keeping(const OutputRef& ref, int size) {
    const FlatNode& n = node(ref.node);
    if (!n.type->costly) return false;
    Field cached;
    return options_.keep || weaver_.look_up(cache_key(n, {ref, size}), cached);
  }

  // A costly point function that several levels would compute again is stored once. True if the plan changes.
  bool keep_shared_costs() {
    std::map<std::pair<int, int>, std::set<int>> seen;  // (node, size) -> levels
    for (const auto& [s, nodes] : cone_)
      for (const auto& [n, slopes] : nodes)
        if (node(n).type->costly) seen[{n, s.size}].insert(level_.at(s));
    for (const auto& [at, levels] : seen) {
      if (levels.size() < 2) continue;
      for (const auto& [s, nodes] : cone_)
        for (const auto& [n, slopes] : nodes)
          for (const auto& [peg, in] : node(n).inputs)
            if (in.from.node == at.first && s.size == at.second) kept_.insert({in.from, s.size});
    }
    return !kept_.empty();
  }

  void count_uses(const std::vector<Stored>& targets) {
    for (const auto& [s, level] : level_)
      for (const Stored& other : needs_[s]) ++uses_[other];
    for (const Stored& t : targets) ++uses_[t];
  }

  // What is wanted and stands goes out at once, and back to the pool where nothing else reads it.
  void hand_over() {
    if (!options_.finished || !woven_.faults.empty() || refused_) return;
    for (std::size_t i = 0; i < targets_.size(); ++i) {
      const auto it = fields_.find(targets_[i]);
      if (handed_[i] || it == fields_.end() || stop_.asked() || ended_) continue;
      handed_[i] = true;
      ended_ = !options_.finished(i, it->second);
      if (--uses_[targets_[i]] == 0) fields_.erase(it);
    }
  }

  // Planes that nothing will read any more go back to the pool.
  void release(const std::vector<Stored>& finished) {
    for (const Stored& s : finished)
      for (const Stored& other : needs_[s])
        if (--uses_[other] == 0) fields_.erase(other);
  }

  // ---- running ----

  // Whether what comes next fits into the budget. What does not is refused as a whole: half a material is none.
  Room admitted(std::size_t bytes, const std::string& what, int size) {
    Room room = admit(bytes, stop_);
    if (!room && !refused_ && !stop_.asked())
      refused_ = Error{what,
                       "needs at least " + in_mebibytes(bytes_held() + bytes) + " at " + std::to_string(size) + " x " +
                           std::to_string(size) + "; the memory budget is " + in_mebibytes(memory_budget()),
                       "Choose a smaller size, or allow more memory"};
    return room;
  }

  static std::size_t plane_bytes(int size) {
    return static_cast<std::size_t>(size) * static_cast<std::size_t>(size) * sizeof(float);
  }

  // What an area operation takes beside what comes in: a result of any kind is as large as the largest input.
  std::size_t bytes_beside(const FlatNode& n, const std::map<std::string, Field, std::less<>>& inputs,
                           const std::set<std::string, std::less<>>& wanted, int size) const {
    std::size_t largest = plane_bytes(size);
    for (const auto& [peg, field] : inputs) largest = std::max(largest, field.bytes());
    std::size_t sum = static_cast<std::size_t>(n.type->working_planes) * plane_bytes(size);
    for (const Peg& out : n.type->outputs)
      if (wanted.count(out.id))
        sum += out.kind == Kind::any ? largest : static_cast<std::size_t>(strand_count(out.kind)) * plane_bytes(size);
    // On a plane twice as wide, whose tile is then cut out.
    const bool ends = n.type->parameter("ends_at_edge") && call_of(n, size).toggle("ends_at_edge");
    return ends ? 5 * sum : sum;
  }

  void run_level(const std::vector<Stored>& list) {
    std::map<int, std::vector<Stored>> points;  // by size
    std::set<std::pair<int, int>> areas;        // node and size: one evaluation gives all outputs
    for (const Stored& s : list) {
      if (is_area(s.ref.node) && s.to == Kind::any)
        areas.insert({s.ref.node, s.size});
      else
        points[s.size].push_back(s);
    }
    for (const auto& [size, stored] : points) {
      if (options_.fuse)
        run_points(stored, size);
      else
        for (const Stored& s : stored) run_points({s}, size);
    }
    hand_over();
    for (const auto& [index, size] : areas)
      if (!stop_.asked() && !refused_ && !ended_) {
        run_area(index, size, list);
        hand_over();
      }
  }

  void finish(const Stored& s, Field field) {
    // Once something is at fault, what follows may be made of its zeros: it is not kept, so that the fault is told
    // again.
    if (options_.keep && !stop_.asked() && woven_.faults.empty())
      weaver_.keep(cache_key(node(s.ref.node), s), family_of(node(s.ref.node), s), field);
    fields_[s] = std::move(field);
  }

  NodeCall call_of(const FlatNode& n, int size) const {
    return NodeCall(*n.type, n.params, n.seed, size, n.measures, &n.files);
  }

  void run_area(int index, int size, const std::vector<Stored>& list) {
    const auto start = Clock::now();
    const FlatNode& n = node(index);
    std::map<std::string, Field, std::less<>> inputs;
    for (const Peg& peg : n.type->inputs)
      if (n.inputs.count(peg.id)) inputs[peg.id] = fields_.at(input_of(n, peg, size));
    std::set<std::string, std::less<>> wanted;
    for (std::size_t i = 0; i < n.type->outputs.size(); ++i)
      if (std::find(list.begin(), list.end(), Stored{{index, static_cast<int>(i)}, size}) != list.end())
        wanted.insert(n.type->outputs[i].id);
    const Room room = admitted(bytes_beside(n, inputs, wanted, size), "node " + n.path, size);
    if (!room) return;
    AreaCall call(call_of(n, size), std::move(inputs), std::move(wanted), stop_);
    if (n.type->at_working_size && size != kWorkingSize)
      for (std::size_t i = 0; i < n.type->outputs.size(); ++i)
        if (const auto it = fields_.find({{index, static_cast<int>(i)}, kWorkingSize}); it != fields_.end())
          call.at_working_size[n.type->outputs[i].id] = it->second;
    const auto result = n.type->evaluate(call);
    if (!result && !stop_.asked()) woven_.faults.emplace(index, result.error());
    std::size_t bytes = 0;
    for (std::size_t i = 0; i < n.type->outputs.size(); ++i) {
      const Stored s{{index, static_cast<int>(i)}, size};
      if (std::find(list.begin(), list.end(), s) == list.end()) continue;
      Field& field = call.outputs[n.type->outputs[i].id];
      if (!field.strand[0] && field.kind != Kind::set) {
        field.strand[0] = std::make_shared<Plane>(Plane::filled(size, 0));
        if (!stop_.asked())
          woven_.faults.emplace(index, Error{"", "gave no " + n.type->outputs[i].id, "Report this, with the document"});
      }
      bytes += field.bytes();
      finish(s, std::move(field));
    }
    woven_.times.push_back({index, since(start), bytes});
  }

  struct Draft {
    Builder b;
    std::map<Emission, std::map<std::string, Strands>> emitted;
    std::map<int, std::size_t> cost;
  };

  Strands value_of(Draft& p, const OutputRef& ref, int size, Take take) {
    if (may_load(ref, take))
      if (const auto it = fields_.find({ref, size}); it != fields_.end()) return loaded(p.b, it->second);
    return computed(p, ref, size, take);
  }

  Strands computed(Draft& p, const OutputRef& ref, int size, Take take) {
    const Emission at = emission_of(ref, take);
    emit_above(p, at, size);
    return emit(p, at.first, size, at.second)[node(ref.node).type->outputs[static_cast<std::size_t>(ref.output)].id];
  }

  // What a node reads is emitted before it, so that no emission calls the next.
  void emit_above(Draft& p, Emission root, int size) {
    std::vector<Emission> waiting{root};
    while (!waiting.empty()) {
      const Emission at = waiting.back();
      const std::size_t before = waiting.size();
      const FlatNode& n = node(at.first);
      if (!p.emitted.count(at))
        for (const Peg& peg : n.type->inputs) {
          const auto it = n.inputs.find(peg.id);
          if (it == n.inputs.end() || reads_whole(n, peg)) continue;
          const OutputRef from = it->second.from;
          const Take how = take_at(n, peg, at.second);
          if (may_load(from, how) && fields_.count({from, size})) continue;
          if (const Emission next = emission_of(from, how); !p.emitted.count(next)) waiting.push_back(next);
        }
      if (waiting.size() > before) continue;
      emit(p, at.first, size, at.second);
      waiting.pop_back();
    }
  }

  std::map<std::string, Strands>& emit(Draft& p, int index, int size, bool slopes) {
    if (const auto it = p.emitted.find({index, slopes}); it != p.emitted.end()) return it->second;
    const FlatNode& n = node(index);
    const std::size_t at_first = p.b.steps();
    if (as_points_) p.b.set_origin(index);
    std::map<std::string, Strands, std::less<>> inputs;
    std::map<std::string, Field, std::less<>> whole;
    for (const Peg& peg : n.type->inputs) {
      const auto it = n.inputs.find(peg.id);
      if (it == n.inputs.end()) continue;
      if (reads_whole(n, peg))
        whole[peg.id] = fields_.at(input_of(n, peg, size));
      else
        inputs[peg.id] =
            convert(p.b, value_of(p, it->second.from, size, take_at(n, peg, slopes)), peg.kind, it->second.channel);
    }
    const std::size_t before = p.b.steps();
    const Key shelf = KeyMaker().add(n.key).add(size).key();
    Emitter e(call_of(n, size), p.b, std::move(inputs), std::move(whole),
              [&](const auto& make) { return index == options_.spreads_of ? make() : weaver_.table(shelf, make); });
    if (index == options_.spreads_of) e.spreads = &woven_.spreads;
    e.stop = stop_;
    if (as_points_) p.b.set_origin(index);  // after those that it reads
    n.type->emit(e);
    if (e.fault) {
      woven_.faults.emplace(index, *e.fault);
      weaver_.drop_table(shelf);  // made again next time, so that the fault is told again
    }
    if (stop_.asked()) weaver_.drop_table(shelf);  // it may be half done
    for (const Peg& out : n.type->outputs)
      if (!e.outputs.count(out.id)) {
        if (!e.fault && !stop_.asked())
          woven_.faults.emplace(index, Error{"", "gave no " + out.id, "Report this, with the document"});
        e.out(out.id, p.b.constant(0));
      }
    if (n.type->costly)
      for (auto& [id, value] : e.outputs) hide(p.b, value);
    if (as_points_ && n.surface == SurfaceUse::none && p.b.has_step(at_first, is_of_no_point))
      woven_for_points_.insert(index);
    // Noise and laid units weigh more than a step of mathematics.
    p.cost[index] = (p.b.steps() - before) + (n.type->costly ? 40 : 1);
    return p.emitted[{index, slopes}] = std::move(e.outputs);
  }

  // What may be loaded elsewhere gives the same program where it is computed: nothing about it is known.
  static void hide(Builder& b, Strands& value) {
    for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(value.kind)); ++i)
      value.at[i] = b.opaque(value.at[i]);
    if (value.footprint) value.footprint = b.opaque(*value.footprint);
    for (auto& [name, member] : value.members) hide(b, member);
  }

  // All at once if they fit, else by halves: the bits are the same.
  void run_points(const std::vector<Stored>& stored, int size) {
    if (refused_ || stop_.asked() || run_together(stored, size)) return;
    const auto middle = stored.begin() + static_cast<std::ptrdiff_t>(stored.size() / 2);
    run_points({stored.begin(), middle}, size);
    run_points({middle, stored.end()}, size);
  }

  // False: they do not fit, and there are several of them.
  bool run_together(const std::vector<Stored>& stored, int size) {
    const auto start = Clock::now();
    Draft p{Builder(Domain::texels(size, graph_.light)), {}, {}};
    Targets targets(p.b, size);
    std::vector<Field> fields;
    for (const Stored& s : stored) {
      const bool as_it_is = s.to == Kind::any;
      Strands value = as_it_is ? computed(p, s.ref, size, Take::value) : value_of(p, s.ref, size, Take::value);
      if (!as_it_is) value = convert(p.b, value, s.to, s.channel);
      fields.push_back(targets.field(value));
    }
    const bool several = stored.size() > 1;
    const Room room = several ? admit(targets.bytes(), stop_)
                              : admitted(targets.bytes(), "node " + node(stored.front().ref.node).path, size);
    if (!room) return !several;
    targets.run(stop_);
    const double took = since(start);
    std::size_t sum = 0;
    for (const auto& [n, cost] : p.cost) sum += cost;
    for (const auto& [n, cost] : p.cost) {
      const double share = static_cast<double>(cost) / static_cast<double>(std::max<std::size_t>(sum, 1));
      woven_.times.push_back({n, took * share, static_cast<std::size_t>(static_cast<double>(targets.bytes()) * share)});
    }
    if (stop_.asked()) return true;
    for (std::size_t i = 0; i < stored.size(); ++i) finish(stored[i], std::move(fields[i]));
    return true;
  }

  Weaver& weaver_;
  const FlatGraph& graph_;
  const Stop& stop_;
  const WeaveOptions& options_;
  std::vector<Stored> targets_;
  std::vector<bool> handed_;   // of the targets
  bool ended_ = false;         // by who takes them
  bool over_surface_ = false;  // what is emitted runs over the points of a shape
  bool as_points_ = false;     // what is mathematics of a point is computed there
  std::set<int> woven_for_points_;
  std::map<int, bool> level_everywhere_;
  std::map<Stored, int> level_;
  std::map<Stored, std::vector<Stored>> needs_;
  std::map<Stored, std::set<Emission>> cone_;
  std::map<Stored, int> uses_;
  std::set<std::pair<OutputRef, int>> kept_;
  std::map<Stored, Field> fields_;
  std::optional<Error> refused_;
  Woven woven_;
};

static Error no_memory_for(int size) {
  return {"", "there is not enough memory to weave " + std::to_string(size) + " x " + std::to_string(size),
          "Choose a smaller size, or close other programs"};
}

Result<Woven> Weaver::weave(const FlatGraph& graph, const std::vector<Want>& wanted, int size, const Stop& stop,
                            const WeaveOptions& options) {
  keep_reserve();
  try {
    return Weave(*this, graph, stop, options).run(wanted, size);
  } catch (const std::bad_alloc&) {
    return no_memory_for(size);
  }
}

Result<Weaver::OverSurface> Weaver::over_surface(const FlatGraph& graph, const std::map<std::string, Want>& wanted,
                                                 int size, const Stop& stop, const WeaveOptions& options) {
  keep_reserve();
  WeaveOptions kept_together = options;
  kept_together.finished = nullptr;
  try {
    return Weave(*this, graph, stop, kept_together).over_surface(wanted, size);
  } catch (const std::bad_alloc&) {
    return no_memory_for(size);
  }
}

Result<Weaver::OverSurface> Weaver::as_points(const FlatGraph& graph, const std::map<std::string, Want>& wanted,
                                              int size, const Stop& stop) {
  keep_reserve();
  try {
    return Weave(*this, graph, stop, {}).as_points(wanted, size);
  } catch (const std::bad_alloc&) {
    return no_memory_for(size);
  }
}

std::size_t Weaver::bytes_at_peak(const FlatGraph& graph, const std::vector<Want>& wanted, int size,
                                  const WeaveOptions& options) {
  return Weave(*this, graph, Stop{}, options).bytes_at_peak(wanted, size);
}

std::map<std::string, std::vector<float>> spreads_of(Weaver& weaver, const FlatGraph& graph, int node,
                                                     const Stop& stop) {
  constexpr int kSpreadSize = 64;  // nothing else is woven at this size, so the node is surely emitted
  const FlatNode& n = graph.nodes[static_cast<std::size_t>(node)];
  const auto varies = [](const auto& param) {
    return std::holds_alternative<Rule>(param.second) || std::holds_alternative<Formula>(param.second);
  };
  bool any = std::any_of(n.params.begin(), n.params.end(), varies);
  for (const Parameter& p : n.type->parameters)
    any |= p.per_unit && !n.params.count(p.id) && std::holds_alternative<Rule>(p.initial);
  if (!any || !n.type->emit) return {};
  WeaveOptions options;
  options.keep = false;
  options.spreads_of = node;
  auto woven = weaver.weave(graph, {Want({node, 0})}, kSpreadSize, stop, options);
  return woven ? std::move(woven->spreads) : std::map<std::string, std::vector<float>>{};
}

bool Weaver::look_up(const Key& key, Field& field) {
  const std::lock_guard lock(mutex_);
  const auto it = entries_.find(key);
  if (it == entries_.end()) return false;
  recent_.splice(recent_.begin(), recent_, it->second);
  field = it->second->field;
  return true;
}

void Weaver::forget_oldest(const Key& family) {
  constexpr std::size_t kStates = 8;
  auto& keys = families_[family];
  while (keys.size() >= kStates) {
    if (const auto it = entries_.find(keys.front()); it != entries_.end()) {
      used_ -= it->second->bytes;
      recent_.erase(it->second);
      entries_.erase(it);
    }
    keys.erase(keys.begin());
  }
}

void Weaver::keep(const Key& key, const Key& family, const Field& field) {
  const std::lock_guard lock(mutex_);
  if (entries_.count(key)) return;
  forget_oldest(family);
  families_[family].push_back(key);
  recent_.push_front({key, field, field.bytes()});
  try {
    entries_[key] = recent_.begin();
  } catch (const std::bad_alloc&) {
    return recent_.pop_front();
  }
  used_ += recent_.front().bytes;
  trim();
}

void Weaver::drop_last() {
  used_ -= recent_.back().bytes;
  entries_.erase(recent_.back().key);
  recent_.pop_back();
}

void Weaver::trim() {
  while (used_ > budget_ && !recent_.empty()) drop_last();
}

// A table and a plane in turn: tables hold planes of their own.
bool Weaver::let_go() {
  const std::lock_guard lock(mutex_);
  const bool any = !recent_.empty() || !tables_.empty();
  if (!recent_.empty()) drop_last();
  if (!tables_.empty()) tables_.pop_back();
  return any;
}

std::shared_ptr<const Resource> Weaver::table(const Key& key,
                                              const std::function<std::shared_ptr<const Resource>()>& make) {
  constexpr std::size_t kMostTables = 256;
  {
    const std::lock_guard lock(mutex_);
    for (auto it = tables_.begin(); it != tables_.end(); ++it)
      if (it->key == key) {
        tables_.splice(tables_.begin(), tables_, it);
        return it->made;
      }
  }
  auto made = make();
  const std::lock_guard lock(mutex_);
  tables_.push_front({key, made, Booked(made->bytes())});
  if (tables_.size() > kMostTables) tables_.pop_back();
  return made;
}

void Weaver::drop_table(const Key& key) {
  const std::lock_guard lock(mutex_);
  tables_.remove_if([&](const auto& t) { return t.key == key; });
}

std::size_t Weaver::cached_bytes() const {
  const std::lock_guard lock(mutex_);
  return used_;
}

void Weaver::set_budget(std::size_t bytes) {
  const std::lock_guard lock(mutex_);
  budget_ = bytes;
  trim();
}

void Weaver::forget() {
  const std::lock_guard lock(mutex_);
  recent_.clear();
  entries_.clear();
  families_.clear();
  tables_.clear();
  used_ = 0;
}

}  // namespace loom
