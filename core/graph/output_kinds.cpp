#include "core/graph/output_kinds.h"

#include <algorithm>

#include "core/graph/inputs.h"
#include "core/graph/validate.h"

namespace loom {

OutputKinds::OutputKinds(const Material& material, const Catalogue& catalogue, const std::vector<NodePtr>& nodes,
                         const std::vector<Thread>& threads)
    : material_(material), catalogue_(catalogue), all_(nodes), threads_(threads) {
  for (const NodePtr& n : nodes) nodes_.emplace(n->id, n.get());
  for (const Thread& t : threads) into_.emplace(t.to_node + "." + t.to_peg, &t);
}

OutputKinds::OutputKinds(const Material& material, const Catalogue& catalogue)
    : OutputKinds(material, catalogue, material.nodes, material.threads) {}

OutputKinds::OutputKinds(const Material& material, const Catalogue& catalogue, const Group& group)
    : OutputKinds(material, catalogue, group.nodes, group.threads) {
  for (const GroupPeg& in : group.inputs)
    for (const std::string& to : in.to) given_.emplace(to, kind_from_name(in.kind));
}

const Node* OutputKinds::node(const std::string& id) const {
  const auto it = nodes_.find(id);
  return it == nodes_.end() ? nullptr : it->second;
}

const Thread* OutputKinds::into(const std::string& node, const std::string& peg) const {
  const auto it = into_.find(node + "." + peg);
  return it == into_.end() ? nullptr : it->second;
}

Kind OutputKinds::into_peg(const std::string& node, const std::string& peg) {
  if (const Thread* t = into(node, peg)) return of(t->from_node, t->from_peg);
  const auto it = given_.find(node + "." + peg);
  return it == given_.end() ? Kind::any : it->second;
}

// A chain may be as long as a document: what an output rests on is worked out before it, on a stack of our own.
Kind OutputKinds::of(const std::string& id, const std::string& peg) {
  std::vector<std::pair<std::string, std::string>> waiting{{id, peg}};
  while (!waiting.empty()) {
    const auto [at, out] = waiting.back();
    const std::string output = at + "." + out;
    const Node* n = node(at);
    const auto [it, fresh] = known_.emplace(output, Kind::any);
    if (fresh && n) {
      for (const Peg& in : inputs_of(material_, catalogue_, *n))
        if (const Thread* t = into(at, in.id); t && !known_.count(t->from_node + "." + t->from_peg))
          waiting.emplace_back(t->from_node, t->from_peg);
      if (waiting.back() != std::pair(at, out)) continue;
    }
    if (n) known_[output] = worked_out(*n, out);
    waiting.pop_back();
  }
  return known_[id + "." + peg];
}

Kind OutputKinds::worked_out(const Node& n, const std::string& peg) {
  const auto outs = outputs_of(material_, catalogue_, n);
  const auto out = std::find_if(outs.begin(), outs.end(), [&](const Peg& p) { return p.id == peg; });
  if (out == outs.end()) return Kind::any;
  if (out->kind != Kind::any) return out->kind;
  const auto known = [&](const std::string& in) {
    const Thread* t = into(n.id, in);
    const Node* from = t ? node(t->from_node) : nullptr;
    if (from && leaves_it_inside(*from)) return Kind::any;
    const auto it = t ? known_.find(t->from_node + "." + t->from_peg) : known_.end();
    if (it != known_.end()) return it->second;
    const auto given = given_.find(n.id + "." + in);
    return given == given_.end() ? Kind::any : given->second;
  };
  const auto type = type_of(material_, catalogue_, n);
  if (!type) return Kind::scalar;
  if (type->gives)
    return type->gives(n, [&](const std::string& in) {
      const Kind kind = known(in);
      return kind == Kind::any ? Kind::scalar : kind;
    });
  std::vector<Kind> kinds;
  for (const Peg& in : type->inputs)
    if (in.kind == Kind::any)
      if (const Kind kind = known(in.id); kind != Kind::any) kinds.push_back(kind);
  return common_kind(*type, kinds).value_or(Kind::scalar);
}

std::vector<Error> OutputKinds::faults() {
  std::vector<Error> faults;
  for (const NodePtr& n : all_) {
    const auto type = type_of(material_, catalogue_, *n);
    if (!type) continue;
    std::vector<Kind> kinds;
    for (const Peg& in : type->inputs) {
      const Kind kind = into_peg(n->id, in.id);
      if (kind == Kind::any) continue;
      if (auto refused = refusal(*type, in, kind)) {
        refused->where = "node " + n->id + ", input " + in.id;
        faults.push_back(*std::move(refused));
      } else if (in.kind == Kind::any) {
        kinds.push_back(kind);
      }
    }
    if (!type->of_group && !common_kind(*type, kinds))
      faults.push_back({"node " + n->id, type->label + " cannot mix a cord or regions with other maps",
                        "Connect cords to all of its inputs, or regions to all, or neither"});
  }
  return faults;
}

}  // namespace loom
