#include "core/proof/proof.h"

#include "core/base/parallel.h"
#include "core/graph/validate.h"
#include "core/proof/grade.h"
#include "core/weave/flatten.h"
#include "core/weave/hem_maps.h"

namespace loom {
namespace {

constexpr int kSmall = 512;  // what is held against the size asked for

std::string known_checks() {
  std::string all;
  for (const Check& c : checks()) all += (all.empty() ? "" : ", ") + std::string(c.id);
  return all;
}

}  // namespace

std::string_view verdict_name(Verdict verdict) {
  return verdict == Verdict::pass ? "pass" : verdict == Verdict::warn ? "warn" : "fail";
}

const std::vector<Check>& checks() {
  static const std::vector<Check> kAll = {
      {"base_colour_range", "Base colour in range",
       "Fresh snow returns the most light of any ground, and soot the least: what lies beyond glows by day, or is a "
       "hole.",
       base_colour_range},
      {"metal_range", "Metal bright enough",
       "Bare metals reflect a quarter of the light and more; a darker one is a coat of something else, and no metal.",
       metal_range},
      {"roughness_range", "Roughness in range", "At 0 the highlight of a lamp is narrower than anything that is seen.",
       roughness_range},
      {"normal_length", "Normals of length 1",
       "Light is reckoned by their direction: longer ones are too bright, and those that face inwards are black.",
       normal_length},
      {"normal_height", "Normals agree with the height",
       "Renderers light by the one and cast shadows by the other; turned against each other, hollows look like bumps.",
       normal_height},
      {"height_range", "Height in range",
       "What lies outside of 0 to 1 is cut off; what uses little of it goes in steps.", height_range},
      {"edges", "Closes at its edges",
       "A step over the edge that is found nowhere inside shows as a line at every repeat.", edges},
      {"banding", "Smooth where it is smooth", "Slow ramps in few steps show as terraces, most of all in highlights.",
       banding},
      {"repetition", "Nothing catches the eye",
       "One patch that no other is like makes a grid of itself where the tile is repeated.", repetition},
      {"two_sizes", "The same at two sizes", "What is judged small must be what is delivered large.", two_sizes},
      {"finer_than_map", "No finer than the map holds",
       "Detail of a texel's width sparkles when it moves, and is gone from a little way off.", finer_than_map},
      {"unused_dials", "Every dial turns something", "A dial that nothing follows misleads whoever turns it.",
       unused_dials},
      {"not_a_map", "All slots are maps", "What depends on the shape, the eye or the light is seen in the drape alone.",
       not_a_map}};
  return kAll;
}

const Check* check_of(std::string_view id) {
  for (const Check& c : checks())
    if (c.id == id) return &c;
  return nullptr;
}

std::vector<Finding> judge(const Judged& judged, const std::vector<std::string>& wanted, const Stop& stop) {
  std::vector<Finding> all;
  for (const Check& c : checks()) {
    if (stop.asked()) break;
    if (!wanted.empty() && std::find(wanted.begin(), wanted.end(), c.id) == wanted.end()) continue;
    auto found = c.judge(judged, stop);
    if (!found) continue;
    found->check = c.id;
    if (found->verdict == Verdict::pass) found->places.clear();
    all.push_back(*std::move(found));
  }
  return all;
}

Result<std::vector<Finding>> prove(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                                   const ProofOptions& options, const Stop& stop) {
  for (const std::string& id : options.checks)
    if (!check_of(id)) return Error{"--checks " + id, "there is no such check", "Use " + known_checks()};
  const auto graph = flatten(material, catalogue);
  if (!graph) return graph.error();
  Judged judged{material, catalogue, {}, {}};
  const int small = std::min(kSmall, options.size / 2);
  for (const auto& [size, slots] : {std::pair(options.size, &judged.slots), {small, &judged.small}}) {
    auto maps = weave_hem(weaver, *graph, graph->hem, size, stop);
    if (!maps) return maps.error();
    if (!maps->faults.empty()) return maps->faults.begin()->second;
    *slots = std::move(maps->slots);
  }
  auto findings = judge(judged, options.checks, stop);
  if (stop.asked()) return Error{"", kCancelled, ""};
  return findings;
}

}  // namespace loom
