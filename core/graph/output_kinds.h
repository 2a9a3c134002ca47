// The kinds that the outputs of a graph give, each worked out once; for whoever asks for many of them.
#pragma once
#include <string>
#include <unordered_map>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

class OutputKinds {
 public:
  /// Of the material's own graph. Both must outlive it, unchanged.
  OutputKinds(const Material& material, const Catalogue& catalogue);
  /// Of a group's graph, whose inputs give what they say.
  OutputKinds(const Material& material, const Catalogue& catalogue, const Group& group);
  /// After polymorphic types took what comes in; `any` where there is no such output.
  Kind of(const std::string& node, const std::string& peg);
  /// What comes in at an input: by its thread, or from around the group; `any` where nothing does.
  Kind into_peg(const std::string& node, const std::string& peg);
  const Node* node(const std::string& id) const;
  /// The thread that ends in this peg, if any.
  const Thread* into(const std::string& node, const std::string& peg) const;
  /// What is connected and has no meaning: a kind that its peg does not take, or kinds that have nothing in common.
  std::vector<Error> faults();

 private:
  OutputKinds(const Material& material, const Catalogue& catalogue, const std::vector<NodePtr>& nodes,
              const std::vector<Thread>& threads);
  Kind worked_out(const Node& node, const std::string& peg);
  const Material& material_;
  const Catalogue& catalogue_;
  const std::vector<NodePtr>& all_;
  const std::vector<Thread>& threads_;
  std::unordered_map<std::string, const Node*> nodes_;
  std::unordered_map<std::string, const Thread*> into_;  // by NODE.PEG
  std::unordered_map<std::string, Kind> given_;          // by NODE.PEG, from around the group
  std::unordered_map<std::string, Kind> known_;
};

}  // namespace loom
