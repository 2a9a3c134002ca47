// The one list: each file in nodes/ adds its types.
#include "core/nodes/catalogue.h"

#include <algorithm>
#include <cctype>
#include <sstream>

namespace loom {

#define LOOM_NODE_FILE(stem) void add_##stem(Catalogue&);
#include "node_files.inc"
#undef LOOM_NODE_FILE

const Catalogue& catalogue() {
  static const Catalogue kAll = [] {
    Catalogue all;
#define LOOM_NODE_FILE(stem) add_##stem(all);
#include "node_files.inc"
#undef LOOM_NODE_FILE
    return all;
  }();
  return kAll;
}

namespace {

std::string initial_text(const ParamValue& v) {
  std::ostringstream out;
  if (const auto* number = std::get_if<double>(&v))
    out << *number;
  else if (const auto* word = std::get_if<std::string>(&v))
    out << (word->empty() ? "empty" : *word);
  else if (const auto* vector = std::get_if<Vector>(&v))
    for (std::size_t i = 0; i < vector->size(); ++i) out << (i ? ", " : "") << (*vector)[i];
  else if (const auto* rule = std::get_if<Rule>(&v))
    out << "by " << rule->by << ", " << rule->from.number << " to " << rule->to.number;
  else
    out << "a list";
  return out.str();
}

const char* unit_word(Unit unit) {
  switch (unit) {
    case Unit::share_of_tile:
      return " of the tile";
    case Unit::share_of_period:
      return " of a period";
    case Unit::degrees:
      return " degrees";
    case Unit::times:
      return " times";
    default:
      return "";
  }
}

bool has_range(ParameterKind kind) {
  return kind != ParameterKind::text && kind != ParameterKind::figure && kind != ParameterKind::file &&
         kind != ParameterKind::formula;
}

void write_type(std::ostream& out, const NodeType& t) {
  out << "\n### " << t.label << " (`" << t.id << "`)\n\n" << t.help << "\n";
  if (!t.more.empty()) out << "\n" << t.more << "\n";
  if (t.follows_positions) out << "\nPeriodic, but with a seam by nature.\n";
  for (const Peg& p : t.inputs) {
    const auto numbered = [&](const std::string& name) {
      return p.id.rfind(name + "_", 0) == 0 && p.id != name + "_1";
    };
    if (t.list && std::any_of(t.list->pegs.begin(), t.list->pegs.end(), numbered)) continue;
    out << "\n- in `" << p.id << "`: " << kind_name(p.kind);
  }
  for (const Peg& p : t.outputs) out << "\n- out `" << p.id << "`: " << kind_name(p.kind);
  out << "\n";
  if (t.parameters.empty()) return;
  if (t.list) out << "\nN counts the " << t.list->noun << "s, from 1 to " << t.list->most << ".\n";
  out << "\n| parameter | starts at | useful | limits | by rule | notes |\n| --- | --- | --- | --- | --- | --- |\n";
  for (const Parameter& p : t.parameters) {
    const int item = t.item_of(p.id);
    if (item > 1) continue;  // as the first one's
    const std::string id = item == 1 ? p.id.substr(0, p.id.size() - 1) + "N" : p.id;
    out << "| " << p.label << " (`" << id << "`) | "
        << (p.kind == ParameterKind::figure ? "a drawing" : initial_text(p.initial)) << " | ";
    if (!p.options.empty()) {
      for (std::size_t i = 0; i < p.options.size(); ++i) out << (i ? ", " : "") << p.options[i];
      out << " | ";
    } else if (has_range(p.kind)) {
      out << p.useful.least << " to " << p.useful.most << unit_word(p.unit) << " | " << p.limits.least << " to "
          << p.limits.most;
    } else {
      out << " | ";
    }
    out << " | " << (p.per_unit ? "yes" : "") << " | " << p.help
        << (p.help.empty() || p.acts.reason.empty() ? "" : " ");
    if (!p.acts.reason.empty()) out << "Idle: " << p.acts.reason;
    out << " |\n";
  }
}

}  // namespace

std::string catalogue_markdown() {
  std::ostringstream out;
  out << "# Node types\n\nMade from the catalogue by `wildloom-cli nodes --markdown`.\n";
  Rack rack{};
  bool first = true;
  for (const NodeType* t : catalogue().all()) {
    if (first || t->rack != rack)
      out << "\n## " << kRackLabels[static_cast<std::size_t>(t->rack)] << "\n\n![](nodes/"
          << static_cast<char>(std::tolower(kRackLabels[static_cast<std::size_t>(t->rack)][0]))
          << kRackLabels[static_cast<std::size_t>(t->rack)] + 1 << ".png)\n";
    first = false;
    rack = t->rack;
    write_type(out, *t);
  }
  return out.str();
}

}  // namespace loom
