// Influence by substitution: it holds for any node, whatever it reads and however far away.
#include "core/weave/trace.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/key.h"

namespace loom {
namespace {

constexpr int kInfluenceSize = 128;

std::array<float, 4> values_at(const Field& f, double u, double v) {
  std::array<float, 4> out{};
  for (int c = 0; c < strand_count(f.kind); ++c) {
    const Plane& p = *f.strand[static_cast<std::size_t>(c)];
    const auto at = [&](double x) { return std::min(static_cast<int>((x - std::floor(x)) * p.size()), p.size() - 1); };
    out[static_cast<std::size_t>(c)] = p.at(at(u), at(v));
  }
  return out;
}

double apart(const std::array<float, 4>& a, const std::array<float, 4>& b) {
  double sum = 0;
  for (std::size_t i = 0; i < 4; ++i) sum += std::pow(static_cast<double>(a[i]) - static_cast<double>(b[i]), 2);
  return std::sqrt(sum);
}

void gather(const FlatGraph& g, OutputRef from, std::set<OutputRef>& all) {
  if (!all.insert(from).second) return;
  for (const auto& [peg, in] : g.nodes[static_cast<std::size_t>(from.node)].inputs) gather(g, in.from, all);
}

// A node that gives the mean of a field; null type: its kind has none.
FlatNode even(const Catalogue& catalogue, const Field& f, int channel) {
  FlatNode node;
  std::array<double, 4> mean{};
  const int n = strand_count(f.kind);
  for (int c = 0; c < n; ++c)
    mean[static_cast<std::size_t>(c)] = static_cast<double>(range_of(*f.strand[static_cast<std::size_t>(c)]).mean);
  if (f.kind == Kind::scalar || (channel >= 0 && channel < n)) {
    node.type = catalogue.find("value");
    node.params["value"] = mean[static_cast<std::size_t>(std::max(channel, 0))];
  } else if (f.kind == Kind::colour || f.kind == Kind::colour_alpha) {
    node.type = catalogue.find("colour");
    node.params["colour"] = Vector{mean[0], mean[1], mean[2]};
  } else if (f.kind == Kind::vector2) {
    node.type = catalogue.find("vector");
    node.params["vector"] = Vector{mean[0], mean[1]};
  }
  node.path = "even";
  KeyMaker key;
  key.add("even");
  for (const double m : mean) key.add(m);
  node.key = key.key();
  return node;
}

// The graph with another node in an input's place. Whatever is made from it gets another key.
FlatGraph replaced(const FlatGraph& graph, int node, const std::string& peg, FlatNode by) {
  FlatGraph g = graph;
  const int added = static_cast<int>(g.nodes.size());
  const Key key = by.key;
  g.nodes.push_back(std::move(by));
  g.nodes[static_cast<std::size_t>(node)].inputs[peg] = {OutputRef{added, 0}, -1};
  std::set<int> touched{node};
  for (bool more = true; more;) {
    more = false;
    for (int i = 0; i < added; ++i) {
      if (touched.count(i)) continue;
      for (const auto& [in, from] : g.nodes[static_cast<std::size_t>(i)].inputs)
        if (touched.count(from.from.node)) more = touched.insert(i).second || more;
    }
  }
  for (const int i : touched) {
    Key& k = g.nodes[static_cast<std::size_t>(i)].key;
    k = KeyMaker().add(k).add(key).add(peg).add(node).key();
  }
  return g;
}

struct Tracer {
  Weaver& weaver;
  const Catalogue& catalogue;
  const FlatGraph& graph;
  OutputRef output;
  double u, v;
  const Stop& stop;
  std::array<float, 4> here{};

  Result<Field> field(const FlatGraph& g, OutputRef ref) const {
    WeaveOptions options;
    options.keep = &g == &graph;  // what is woven once alone need not be kept
    auto woven = weaver.weave(g, {ref}, kInfluenceSize, stop, options);
    if (!woven) return woven.error();
    return std::move(woven->fields[0]);
  }

  Result<double> influence(int node, const std::string& peg, const FlatInput& in) const {
    const auto source = field(graph, in.from);
    if (!source) return source.error();
    FlatNode mean = even(catalogue, *source, in.channel);
    if (!mean.type) return 0.0;
    const auto other = field(replaced(graph, node, peg, std::move(mean)), output);
    if (!other) return other.error();
    return apart(values_at(*other, u, v), here);
  }

  Result<std::vector<TraceStep>> path() {
    const auto now = field(graph, output);
    if (!now) return now.error();
    here = values_at(*now, u, v);
    std::vector<TraceStep> steps;
    std::set<int> seen;
    for (int node = output.node; node >= 0 && seen.insert(node).second;) {
      TraceStep best;
      int next = -1;
      for (const auto& [peg, in] : graph.nodes[static_cast<std::size_t>(node)].inputs) {
        const auto much = influence(node, peg, in);
        if (!much) return much.error();
        if (next < 0 || *much > best.influence) best = {node, peg, *much}, next = in.from.node;
      }
      if (next >= 0) steps.push_back(best);
      node = next;
    }
    return steps;
  }
};

}  // namespace

Result<Trace> trace(Weaver& weaver, const Catalogue& catalogue, const FlatGraph& graph, OutputRef output, double u,
                    double v, int size, const Stop& stop) {
  std::set<OutputRef> all;
  gather(graph, output, all);
  Trace found;
  std::vector<OutputRef> refs(all.begin(), all.end());
  constexpr std::size_t kBatch = 6;  // planes at the full size are not held all at once
  for (std::size_t from = 0; from < refs.size(); from += kBatch) {
    const std::vector<Want> some(refs.begin() + static_cast<std::ptrdiff_t>(from),
                                 refs.begin() + static_cast<std::ptrdiff_t>(std::min(from + kBatch, refs.size())));
    const auto woven = weaver.weave(graph, some, size, stop);
    if (!woven) return woven.error();
    for (std::size_t i = 0; i < some.size(); ++i) {
      const Field& f = woven->fields[i];
      found.outputs.push_back({some[i].ref, f.kind, f.kind == Kind::set ? std::array<float, 4>{} : values_at(f, u, v)});
    }
  }
  auto path = Tracer{weaver, catalogue, graph, output, u, v, stop}.path();
  if (!path) return path.error();
  found.path = std::move(*path);
  return found;
}

}  // namespace loom
