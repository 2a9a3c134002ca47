// Make set gathers the maps of a material in one cord; Open set gives them back.
#include "core/graph/material.h"
#include "core/nodes/node_call.h"

namespace loom {
namespace {

std::vector<Peg> slot_pegs() {
  std::vector<Peg> pegs;
  for (const Slot& s : hem_slots())
    pegs.push_back({std::string(s.id), std::string(s.label),
                    s.id == "normal"  ? Kind::normal
                    : s.channels == 3 ? Kind::colour
                                      : Kind::scalar});
  return pegs;
}

Strands empty_slot(Builder& b, const Slot& slot, Kind kind) {
  Strands out{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(slot.channels); ++i) out.at[i] = b.constant(slot.fallback[i]);
  return out;
}

void make(Emitter& e) {
  Strands set{.kind = Kind::set};
  for (const Peg& p : e.type().inputs)
    set.members.emplace_back(p.id, e.connected(p.id) ? e.in(p.id) : empty_slot(e.b, *hem_slot(p.id), p.kind));
  e.out("set", std::move(set));
}

void open(Emitter& e) {
  const Strands set = e.in("set");
  for (const Peg& p : e.type().outputs) {
    Strands value = empty_slot(e.b, *hem_slot(p.id), p.kind);
    for (const auto& [name, member] : set.members)
      if (name == p.id) value = convert(e.b, member, p.kind);
    e.out(p.id, value);
  }
}

}  // namespace

void add_sets(Catalogue& catalogue) {
  catalogue.add(
      {.id = "make_set",
       .label = "Make set",
       .rack = Rack::mix,
       .help = "Gathers the maps of a material in one cord; a map that is not connected gets its slot's default.",
       .words = "bundle material cord pack",
       .inputs = slot_pegs(),
       .outputs = {{"set", "Set", Kind::set}},
       .emit = make});
  catalogue.add({.id = "open_set",
                 .label = "Open set",
                 .rack = Rack::mix,
                 .help = "Gives back the maps that a cord carries.",
                 .words = "unbundle material cord split",
                 .inputs = {{"set", "Set", Kind::set}},
                 .outputs = slot_pegs(),
                 .emit = open});
}

}  // namespace loom
