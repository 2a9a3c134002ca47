// What differs between two materials: by meaning, and in what they give.
#pragma once
#include "core/graph/changes.h"
#include "core/weave/weaver.h"

namespace loom {

struct SlotDifference {
  std::string slot;
  bool before = true, after = true;   ///< whether it is filled
  double rms = 0, greatest = 0;       ///< over all texels and strands
  double share = 0;                   ///< of the texels that differ by half a step of eight bits or more
  std::string before_png, after_png;  ///< small pictures, where they were asked for
};

struct Comparison {
  std::vector<Change> changes;
  std::vector<SlotDifference> slots;  ///< those that differ; slots that are no maps are told by meaning alone
  bool differs() const { return !changes.empty() || !slots.empty(); }
};

/// `pictures`: with pictures of what differs.   Error   the first fault of either.
Result<Comparison> compare(const Material& a, const Material& b, const Catalogue& catalogue, Weaver& weaver, int size,
                           bool pictures, const Stop& stop);

/// The report as one page that needs nothing else: pictures within, no script.
std::string comparison_page(const std::vector<std::pair<std::string, Comparison>>& all);

}  // namespace loom
