// Make set gathers the maps of a material in one cord; Open set gives them back.
#include "core/graph/hem.h"
#include "core/nodes/blending.h"

namespace loom {
namespace {

constexpr int kMostOwn = 4;  // slots that the hem does not have by itself

std::string own_peg(int i) { return "own_" + std::to_string(i); }
std::string own_name(int i) { return "name_" + std::to_string(i); }

std::vector<Peg> slot_pegs() {
  std::vector<Peg> pegs;
  for (const Slot& s : hem_slots()) pegs.push_back({std::string(s.id), std::string(s.label), slot_kind(s.id)});
  for (int i = 1; i <= kMostOwn; ++i)
    pegs.push_back({.id = own_peg(i),
                    .label = "Own slot " + std::to_string(i),
                    .kind = Kind::any,
                    .shown_when = "own >= " + std::to_string(i)});
  return pegs;
}

std::vector<Parameter> own_parameters() {
  std::vector<Parameter> all = {integer("own", "Own slots", 0)
                                    .count()
                                    .useful(0, kMostOwn)
                                    .column("Own slots")
                                    .help("How many maps beside the hem's usual ones the cord carries.")};
  for (int i = 1; i <= kMostOwn; ++i)
    all.push_back(text(own_name(i), "Name " + std::to_string(i), "own_" + std::to_string(i))
                      .column("Own slots")
                      .acts_when("own >= " + std::to_string(i), "There is no such slot: raise their number.")
                      .help("The slot's name, as the hem and deliveries have it."));
  return all;
}

// The numbers and colours of slots where no thread ends; a direction has none that could be typed.
std::vector<Parameter> typed_slots() {
  std::vector<Parameter> all;
  for (const Slot& s : hem_slots())
    if (takes_typed_value(s.id)) all.push_back(slot_parameter(s).column("Maps").stands_in());
  return all;
}

Strands empty_slot(Builder& b, const Slot& slot) {
  Strands out{.kind = slot_kind(slot.id)};
  for (std::size_t i = 0; i < static_cast<std::size_t>(slot.channels); ++i) out.at[i] = b.constant(slot.fallback[i]);
  return out;
}

const Strands* member(const Strands& set, const std::string& name) {
  for (const auto& [own, value] : set.members)
    if (own == name) return &value;
  return nullptr;
}

void make(Emitter& e) {
  Strands set{.kind = Kind::set};
  for (const Slot& s : hem_slots()) set.members.emplace_back(std::string(s.id), e.in_as(s.id, slot_kind(s.id)));
  for (int i = 1; i <= e.integer("own"); ++i) {
    const std::string& name = e.word(own_name(i));
    if (name.empty() || member(set, name)) {
      e.fault = Error{"parameter " + own_name(i),
                      name.empty() ? "names no slot" : "names the slot '" + name + "', which the cord has already",
                      "Give each own slot a name of its own"};
      return;
    }
    set.members.emplace_back(name, e.in(own_peg(i)));
  }
  e.out("set", std::move(set));
}

Kind open_gives(const Node& node, const std::function<Kind(const std::string&)>&) {
  const auto it = node.params.find("own_as");
  const auto* word = it == node.params.end() ? nullptr : std::get_if<std::string>(&it->second);
  return word ? kind_from_name(*word) : Kind::scalar;
}

void open(Emitter& e) {
  const Strands set = e.in("set");
  const Kind own = kind_from_name(e.word("own_as"));
  for (const Slot& s : hem_slots()) {
    const Strands* found = member(set, std::string(s.id));
    e.out(s.id, found ? convert(e.b, *found, slot_kind(s.id)) : empty_slot(e.b, s));
  }
  for (int i = 1; i <= kMostOwn; ++i) {
    const bool there = i <= e.integer("own");
    const Strands* found = there ? member(set, e.word(own_name(i))) : nullptr;
    if (there && !found && e.connected("set"))
      e.fault = Error{"parameter " + own_name(i), "names the slot '" + e.word(own_name(i)) + "', which the cord lacks",
                      "Choose one that Make set gives it"};
    e.out(own_peg(i), found ? convert(e.b, *found, own) : nothing(e.b, own));
  }
}

}  // namespace

void add_sets(Catalogue& catalogue) {
  std::vector<Parameter> made = typed_slots(), opened = own_parameters();
  for (Parameter& p : own_parameters()) made.push_back(std::move(p));
  opened.push_back(choice("own_as", "Own slots as", {"scalar", "colour", "vector2", "vector3", "normal"})
                       .column("Own slots")
                       .acts_when("own > 0", "There are no own slots.")
                       .help("What kind of value the own slots come out as."));
  catalogue.add({.id = "make_set",
                 .label = "Make set",
                 .rack = Rack::mix,
                 .help = "Gathers the maps of a material in one cord; what is not connected is typed.",
                 .more = "Own slots are maps that the hem does not have by itself: each has a name, under which Open "
                         "set gives it back.",
                 .words = "bundle material cord pack",
                 .inputs = slot_pegs(),
                 .outputs = {{"set", "Set", Kind::set}},
                 .parameters = std::move(made),
                 .emit = make,
                 .keeps_normals = true});
  catalogue.add({.id = "open_set",
                 .label = "Open set",
                 .rack = Rack::mix,
                 .help = "Gives back the maps that a cord carries, own slots by their names.",
                 .words = "unbundle material cord split",
                 .inputs = {{"set", "Set", Kind::set}},
                 .outputs = slot_pegs(),
                 .parameters = std::move(opened),
                 .emit = open,
                 .gives = open_gives});
}

}  // namespace loom
