// Following one place back through the graph: what every step has there, and which way decides it.
#pragma once
#include "core/graph/node_type.h"
#include "core/weave/weaver.h"

namespace loom {

struct TracedOutput {
  OutputRef ref;
  Kind kind = Kind::scalar;
  std::array<float, 4> value{};  ///< as many as the kind has strands
};

/// The thread that was taken: it ends in `peg` of `node`.
struct TraceStep {
  int node = -1;
  std::string peg;
  double influence = 0;  ///< how far the place would be from where it is, were this input even
};

struct Trace {
  std::vector<TracedOutput> outputs;  ///< the one asked for and all that it is made from
  std::vector<TraceStep> path;        ///< from the output upwards, to a node that reads nothing
};

/// The values are those of the texel at (u, v), shares of the tile, at `size`. A thread's influence is measured at 128
/// by putting the mean of its map in its place and weaving again; the path takes the greatest at every node. Where all
/// are alike, as with regions, which have no mean, it takes the first thread. Error: cancelled.
Result<Trace> trace(Weaver& weaver, const Catalogue& catalogue, const FlatGraph& graph, OutputRef output, double u,
                    double v, int size, const Stop& stop);

}  // namespace loom
