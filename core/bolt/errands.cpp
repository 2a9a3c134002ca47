#include "core/bolt/errands.h"

#include "core/bolt/delivery_state.h"
#include "core/bolt/lists.h"
#include "core/bolt/on_mesh.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"

namespace loom {
namespace {

struct Going {
  DeliveryPlan plan;
  std::vector<int> sizes;
};

// By the lists: what is written, and how large.
Result<std::vector<Going>> by_list(const Material& m, const Going& one, const Every& every, bool onto_mesh) {
  if (!every.list) return std::vector<Going>{one};
  std::vector<Going> all;
  for (const DeliveryList& kept : m.lists) {
    const auto list = find_list(onto_mesh ? with_all_hems(m) : m, kept.name);
    if (!list) return list.error();
    Going g{one.plan, one.sizes.empty() ? list->sizes : one.sizes};
    g.plan.list = list->name;
    g.plan.green_up = list->green_up;
    g.plan.files = files_of(*list);
    g.plan.folder /= id_of_name(list->name);
    all.push_back(std::move(g));
  }
  return all;
}

void add_sizes(std::vector<Errand>& all, const Material& m, Going going) {
  if (!going.plan.state.empty()) going.plan.state = delivery_state_file(going.plan.folder);
  if (going.sizes.empty()) going.sizes = {going.plan.size};
  for (const int size : going.sizes) {
    all.push_back({m, going.plan});
    all.back().plan.size = size;
  }
}

// The hem of all, if it has anything, and those of the parts.
void add_parts(std::vector<Errand>& all, const Material& m, const Going& going, bool every) {
  if (!every || !m.hem.empty()) add_sizes(all, m, going);
  if (!every) return;
  for (const auto& [part, hem] : m.part_hems) {
    const Material worn = edit::worn_by_part(m, part);
    Going own = going;
    if (own.plan.list.empty()) own.plan.files = usual_files(worn);
    own.plan.folder /= id_of_name(part);
    add_sizes(all, worn, std::move(own));
  }
}

}  // namespace

Result<std::vector<Errand>> errands(const Material& material, const DeliveryPlan& plan, const std::vector<int>& sizes,
                                    const Every& every, bool onto_mesh) {
  const bool parts = every.part && !onto_mesh;
  if (every.preset && material.presets.empty()) return Error{"presets", "the material has none", "Keep a state as one"};
  if (every.list && material.lists.empty()) return Error{"lists", "the material keeps none", "Keep one with it"};
  if (parts && material.part_hems.empty()) return Error{"parts", "none has a hem of its own", "Leave it out"};
  std::vector<Errand> all;
  const auto add = [&](const Material& m, const Going& going) -> Result<Done> {
    const auto lists = by_list(m, going, every, onto_mesh);
    if (!lists) return lists.error();
    for (const Going& g : *lists) add_parts(all, m, g, parts);
    return Done{};
  };
  if (!every.preset) {
    if (const auto added = add(material, {plan, sizes}); !added) return added.error();
    return all;
  }
  for (const Preset& p : material.presets) {
    Going going{plan, sizes};
    going.plan.preset = p.name;
    going.plan.folder /= id_of_name(p.name);
    if (const auto added = add(edit::apply_preset(material, p), going); !added) return added.error();
  }
  return all;
}

}  // namespace loom
