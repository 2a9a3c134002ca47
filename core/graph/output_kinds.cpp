#include "core/graph/output_kinds.h"

#include "core/graph/validate.h"

namespace loom {

OutputKinds::OutputKinds(const Material& material, const Catalogue& catalogue)
    : material_(material), catalogue_(catalogue) {
  for (const NodePtr& n : material.nodes) nodes_.emplace(n->id, n.get());
  for (const Thread& t : material.threads) into_.emplace(t.to_node + "." + t.to_peg, &t);
}

const Node* OutputKinds::node(const std::string& id) const {
  const auto it = nodes_.find(id);
  return it == nodes_.end() ? nullptr : it->second;
}

const Thread* OutputKinds::into(const std::string& node, const std::string& peg) const {
  const auto it = into_.find(node + "." + peg);
  return it == into_.end() ? nullptr : it->second;
}

// In a chain of diamonds the ways through an output double at every step: what is known is not asked for again.
Kind OutputKinds::of(const std::string& id, const std::string& peg) {
  const std::string output = id + "." + peg;
  const auto [at, fresh] = known_.emplace(output, Kind::any);
  if (!fresh) return at->second;
  const Node* n = node(id);
  if (!n) return Kind::any;
  Kind kind = Kind::any;
  for (const Peg& out : outputs_of(material_, catalogue_, *n)) {
    if (out.id != peg) continue;
    kind = out.kind;
    if (kind != Kind::any) break;
    const auto of_input = [&](const std::string& in) {
      const Thread* t = into(id, in);
      return t ? of(t->from_node, t->from_peg) : Kind::scalar;
    };
    kind = Kind::scalar;
    if (const auto type = type_of(material_, catalogue_, *n); type && type->gives)
      kind = type->gives(*n, of_input);
    else
      for (const Peg& in : inputs_of(material_, catalogue_, *n))
        if (in.kind == Kind::any) kind = wider(kind, of_input(in.id));
  }
  return known_[output] = kind;
}

}  // namespace loom
