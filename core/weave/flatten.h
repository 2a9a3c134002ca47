// A material made ready for evaluation: groups unfolded, bypasses taken, values followed, every node with a content
// key.
#pragma once
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/graph/material.h"
#include "core/nodes/node_call.h"

namespace loom {

/// An output of a flat node.
struct OutputRef {
  int node = -1, output = -1;
  friend auto operator<=>(const OutputRef&, const OutputRef&) = default;
};

struct FlatInput {
  OutputRef from;
  int channel = -1;
};

struct FlatNode {
  const NodeType* type = nullptr;
  std::string path;  ///< identifier; within groups INSTANCE/NODE
  Resolved params;
  NodeFiles files;                          ///< what its parameters of kind `file` name
  std::map<std::string, FlatInput> inputs;  ///< connected pegs only
  std::uint64_t seed = 0;
  Measures measures{};                    ///< of the material or the bolt that it stands in
  Key key{};                              ///< of the content: type, parameters, inputs, chance; not the node's identity
  SurfaceUse surface = SurfaceUse::none;  ///< its own and that of all that it rests on
};

using FlatHem = std::map<std::string, OutputRef>;  ///< by slot, typed values among them

struct FlatGraph {
  std::vector<FlatNode> nodes;
  Measures measures;
  std::map<std::string, OutputRef>
      outputs;  ///< "NODE.PEG", within groups "INSTANCE/NODE.PEG", groups and bypasses followed
  FlatHem hem;
  std::map<std::string, FlatHem> part_hems;  ///< of parts that have their own
  Direction light = kLightAtStart;           ///< over the texels of a tile, where a node asks for the key light

  SurfaceUse surface_of(const OutputRef& ref) const { return nodes[static_cast<std::size_t>(ref.node)].surface; }
  std::optional<OutputRef> find(const std::string& output) const;
};

/// Error   the material does not pass validate(): its first fault.
Result<FlatGraph> flatten(const Material& material, const Catalogue& catalogue);

}  // namespace loom
