// The kinds that the outputs of a graph give, each worked out once; for whoever asks for many of them.
#pragma once
#include <string>
#include <unordered_map>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

class OutputKinds {
 public:
  /// Both must outlive it, unchanged.
  OutputKinds(const Material& material, const Catalogue& catalogue);
  /// After polymorphic types took their widest input; `any` where there is no such output.
  Kind of(const std::string& node, const std::string& peg);
  const Node* node(const std::string& id) const;
  /// The thread that ends in this peg, if any.
  const Thread* into(const std::string& node, const std::string& peg) const;

 private:
  const Material& material_;
  const Catalogue& catalogue_;
  std::unordered_map<std::string, const Node*> nodes_;
  std::unordered_map<std::string, const Thread*> into_;  // by NODE.PEG
  std::unordered_map<std::string, Kind> known_;
};

}  // namespace loom
