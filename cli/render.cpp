// render: the map set as files.
#include <iostream>

#include "cli/call.h"
#include "core/bolt/delivery_state.h"
#include "core/bolt/errands.h"
#include "core/bolt/lists.h"
#include "core/bolt/on_mesh.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

struct Render {
  Source source;
  std::string out, maps, list, format, dither, on, part, shape;
  std::vector<std::string> every;
  int size = 0, bits = 0;
  bool green_down = false, anew = false, gltf = false, glb = false, materialx = false, materialx_graph = false;
};

constexpr int kUsualSize = 2048;

// The material, or what one part of a mesh wears of it.
Result<Material> to_render(const Render& r) {
  auto m = prepared(r.source);
  if (!m || r.part.empty()) return m;
  if (!r.on.empty())
    return Error{"--part", "goes with no --on, where all parts leave together", "Leave out one of them"};
  std::string known;
  for (const auto& [part, own] : m->part_hems) known += (known.empty() ? "" : ", ") + part;
  if (!m->part_hems.count(r.part))
    return Error{"--part", "'" + r.part + "' has no hem of its own", "Those that have one are: " + known};
  return edit::worn_by_part(*m, r.part);
}

void choose(FileDelivery& file, const Render& r) {
  if (!r.format.empty()) {
    file.format = format_from_name(r.format).value_or(ImageFormat::png);
    if (!r.bits && r.format == "exr") file.bits = 32;
    if (!holds_bits(file.format, file.bits)) file.bits = 16;
  }
  if (r.bits) file.bits = r.bits;
  if (!r.dither.empty()) file.dither = r.dither == "on";
  file.on = r.maps.empty() || ("," + r.maps + ",").find("," + file.name + ",") != std::string::npos;
}

Every every_of(const Render& r) {
  const auto asked = [&](const char* word) { return std::count(r.every.begin(), r.every.end(), word) > 0; };
  return {asked("preset"), asked("list"), asked("part")};
}

// One of them and all of them at once.
std::optional<Error> asked_twice(const Render& r) {
  const Every every = every_of(r);
  const char* name = every.preset && !r.source.preset.empty() ? "--preset"
                     : every.list && !r.list.empty()          ? "--list"
                     : every.part && !r.part.empty()          ? "--part"
                                                              : nullptr;
  if (!name) return {};
  return Error{name, "goes with no --every of them", "Leave out one of the two"};
}

// What is to be delivered, one after the other.
Result<std::vector<Errand>> errands_of(const Render& r, const Material& m) {
  DeliveryPlan plan;
  plan.folder = r.out;
  if (!r.anew) plan.state = delivery_state_file(r.out);
  plan.preset = r.source.preset;
  plan.green_up = !r.green_down;
  plan.gltf = r.gltf, plan.glb = r.glb, plan.materialx = r.materialx;
  plan.materialx_graph = r.materialx_graph;
  plan.shape = r.shape;
  plan.files = r.on.empty() ? usual_files(m) : usual_files_on_mesh(m);
  plan.size = kUsualSize;
  std::vector<int> sizes;
  if (r.size) sizes = {r.size};
  if (!r.list.empty()) {
    const auto list = find_list(r.on.empty() ? m : with_all_hems(m), r.list);
    if (!list) return list.error();
    plan.list = list->name;
    plan.green_up = list->green_up && !r.green_down;
    plan.files = files_of(*list);
    if (!r.size) sizes = list->sizes;
  }
  auto all = errands(m, plan, sizes, every_of(r), !r.on.empty());
  if (!all) return all;
  std::vector<Errand> chosen = std::move(all).value();
  for (Errand& e : chosen)
    for (FileDelivery& f : e.plan.files) choose(f, r);
  return chosen;
}

Result<DeliveryReport> delivered(const Common& common, const Render& r, const Material& m, Weaver& weaver,
                                 const DeliveryPlan& plan) {
  if (r.on.empty()) return deliver(m, catalogue(), weaver, plan, Stop{}, progress_of(common));
  auto mesh = read_mesh(r.on);
  if (!mesh) return mesh.error();
  return deliver_onto(m, catalogue(), weaver, plan, std::make_shared<MeshShape>(std::move(*mesh)), Stop{},
                      progress_of(common));
}

void print(const DeliveryReport& report) {
  for (const auto& f : report.files)
    std::cout << f.path.string() << "\t" << f.name << "\t" << (f.srgb ? "sRGB" : "linear") << "\t" << f.bits << "\t"
              << std::llround(f.milliseconds) << " ms" << (f.unchanged ? "\tunchanged" : "") << "\n";
  std::cout << "woven in " << std::llround(report.weave_milliseconds) << " ms, delivered in "
            << std::llround(report.total_milliseconds) << " ms\n";
}

bool is_of_writing(const Error& e) {
  return e.what.rfind("cannot be written", 0) == 0 || e.what.rfind("is not a folder", 0) == 0;
}

int render(const Common& common, const Render& r) {
  const auto m = to_render(r);
  if (!m) return fail(r.source.file, m.error(), m.error().where == "--part" ? kUsage : kInput);
  if (const auto twice = asked_twice(r)) return fail(r.source.file, *twice, kUsage);
  const auto all = errands_of(r, *m);
  if (!all) return fail(r.source.file, all.error());
  Weaver weaver(common.budget());
  DeliveryReport report;
  for (const Errand& errand : *all) {
    auto one = delivered(common, r, errand.material, weaver, errand.plan);
    if (!one) return fail(r.source.file, one.error(), is_of_writing(one.error()) ? kWriting : kInput);
    add_report(report, std::move(one).value());
  }
  for (const std::string& warning : report.warnings) std::cerr << r.source.file << ": " << warning << "\n";
  if (common.json)
    std::cout << report_json(report) << "\n";
  else
    print(report);
  if (!r.maps.empty() && !report.left_out.empty()) return kInput;  // what was asked for by name
  return kDone;
}

}  // namespace

std::function<int(const Common&)> render_call(CLI::App* call) {
  auto r = std::make_shared<Render>();
  add_options(call, r->source);
  call->add_option("--out", r->out, "the folder")->required();
  call->add_option("--list", r->list, "plain, packed, relief, or a list of the material's");
  call->add_option("--every", r->every, "preset, list or part: all there are, a folder each")
      ->delimiter(',')
      ->check(CLI::IsMember({"preset", "list", "part"}));
  call->add_option("--size", r->size, "of the maps; 2048, or those of the list");
  call->add_option("--maps", r->maps, "files by their names, separated by commas");
  call->add_option("--on", r->on, "a mesh: the maps in its coordinates, what depends on the shape among them");
  call->add_option("--part", r->part, "the maps of a part that has a hem of its own");
  call->add_option("--format", r->format)->check(CLI::IsMember({"png", "exr", "tiff"}));
  call->add_option("--bits", r->bits)->check(CLI::IsMember({8, 16, 32}));
  call->add_option("--dither", r->dither, "at 8 bits")->check(CLI::IsMember({"on", "off"}));
  call->add_flag("--anew", r->anew, "files as well that stand from before");
  call->add_flag("--gltf", r->gltf, "a glTF 2.0 document beside the maps");
  call->add_flag("--glb", r->glb, "the same with its maps in one file");
  call->add_option("--shape", r->shape,
                   "on which a glTF shows it: tile, ball, pipe, ring, block or cupola, in true size");
  call->add_flag("--materialx", r->materialx, "a MaterialX 1.39 document beside the maps");
  call->add_flag("--materialx-graph", r->materialx_graph, "the graph itself as MaterialX nodes, what has none baked");
  call->add_flag("--green-down", r->green_down, "normals point down in green");
  return [r](const Common& common) { return render(common, *r); };
}

}  // namespace loom
