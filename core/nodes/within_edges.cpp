#include "core/nodes/within_edges.h"

#include <algorithm>

#include "core/base/parallel.h"
#include "core/nodes/moved.h"

namespace loom {
namespace {

Plane widened(const Plane& p, const Stop& stop) {
  const int size = p.size(), border = size / 2;
  Plane out(2 * size);
  for_rows(2 * size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float* from = p.row(std::clamp(y - border, 0, size - 1));
      float* to = out.row(y);
      std::fill_n(to, border, from[0]);
      std::copy_n(from, size, to + border);
      std::fill_n(to + border + size, 2 * size - border - size, from[size - 1]);
    }
  });
  return out;
}

Plane cut_out(const Plane& p, int size) {
  Plane out(size);
  for (int y = 0; y < size; ++y) std::copy_n(p.row(y + size / 2) + size / 2, size, out.row(y));
  return out;
}

Field widened(const Field& field, const Stop& stop) {
  return map_by_map(field, [&](const Field& map) {
    Field out = map;
    for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(map.kind)); ++i)
      out.strand[i] = std::make_shared<Plane>(widened(*map.strand[i], stop));
    out.footprint = nullptr;
    return out;
  });
}

Field cut_out(const Field& field, int size, const Stop& stop) {
  return map_by_map(field, [&](const Field& map) {
    Field out = map;
    for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(map.kind)); ++i)
      out.strand[i] = std::make_shared<Plane>(cut_out(*map.strand[i], size));
    if (map.kind != Kind::regions) return out;
    // Their boxes are those of the wide plane: they are found anew.
    Labels parts = label_parts(
        *out.strand[0], *map.regions, [](int, int, int) { return Turn{}; }, stop);
    out.strand[0] = std::make_shared<Plane>(std::move(parts.index));
    out.regions = std::make_shared<RegionTable>(std::move(parts.table));
    return out;
  });
}

}  // namespace

Parameter ends_parameter(const char* column, const char* formula) {
  return toggle("ends_at_edge", "Ends at the tile's edge")
      .column(column)
      .acts_when(formula, "There is nothing that could end: connect a map.")
      .help("For a picture that is no repeat: its edges go on outwards instead of meeting each other.");
}

Result<Done> within_edges(AreaCall& call, Result<Done> (*kernel)(AreaCall&),
                          std::initializer_list<const char*> lengths) {
  if (!call.toggle("ends_at_edge")) return kernel(call);
  const int size = call.size();
  Resolved params;
  for (const Parameter& p : call.type().parameters) params[p.id] = call.param(p.id);
  for (const char* id : lengths) params[id] = call.number(id) / 2;
  Measures measures = call.measures();
  measures.tile_metres *= 2;
  std::map<std::string, Field, std::less<>> inputs;
  for (const Peg& peg : call.type().inputs)
    if (const Field* in = call.in(peg.id)) inputs[peg.id] = peg.own_frame ? *in : widened(*in, call.stop);
  std::set<std::string, std::less<>> wanted;
  for (const Peg& peg : call.type().outputs)
    if (call.wanted(peg.id)) wanted.insert(peg.id);
  AreaCall wide(NodeCall(call.type(), params, 0, 2 * size, measures), std::move(inputs), std::move(wanted), call.stop);
  const auto done = kernel(wide);
  if (!done || call.stop.asked()) return done;
  for (auto& [peg, field] : wide.outputs) call.out(peg, cut_out(field, size, call.stop));
  return call.done();
}

}  // namespace loom
