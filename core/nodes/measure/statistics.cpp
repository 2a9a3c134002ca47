// Statistics: what a whole map holds, as constants.
#include <cmath>

#include "core/nodes/node_call.h"

namespace loom {
namespace {

double deviation(const Plane& p, double mean) {
  double sum = 0;
  for (int y = 0; y < p.size(); ++y) {
    double row = 0;
    for (int x = 0; x < p.size(); ++x)
      row += (static_cast<double>(p.at(x, y)) - mean) * (static_cast<double>(p.at(x, y)) - mean);
    sum += row;
  }
  return std::sqrt(sum / static_cast<double>(p.texels()));
}

void emit_statistics(Emitter& e) {
  Builder& b = e.b;
  const Field* source = e.whole("source");
  const float free = e.real("source");
  const Range r = source ? range_of(*source->strand[0]) : Range{free, free, free};
  e.out("minimum", b.constant(r.least));
  e.out("maximum", b.constant(r.most));
  e.out("mean", b.constant(r.mean));
  e.out("deviation",
        b.constant(source ? static_cast<float>(deviation(*source->strand[0], static_cast<double>(r.mean))) : 0.0f));
}

}  // namespace

void add_statistics(Catalogue& catalogue) {
  catalogue.add(
      {.id = "statistics",
       .label = "Statistics",
       .rack = Rack::measure,
       .help = "The least, the most, the mean and the spread of a map, each as one number over the tile.",
       .more = "Over all texels; the deviation is the root of the mean squared distance from the mean.",
       .words = "minimum maximum average mean range deviation histogram",
       .inputs = {whole_peg("source", "Source")},
       .outputs = {{"minimum", "Minimum"}, {"maximum", "Maximum"}, {"mean", "Mean"}, {"deviation", "Deviation"}},
       .parameters = {stand_in("source", "Source", 0.5, "Input")},
       .emit = emit_statistics});
}

}  // namespace loom
