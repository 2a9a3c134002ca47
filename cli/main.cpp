// wildloom-cli: the calls of docs/command-line.md.
#include <oneapi/tbb/global_control.h>

#include <algorithm>
#include <chrono>
#include <iomanip>
#include <iostream>

#include "cli/call.h"
#include "core/bolt/bolt_node.h"
#include "core/bolt/delivery.h"
#include "core/bolt/on_mesh.h"
#include "core/bolt/package.h"
#include "core/graph/allowed_files.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

const char* parameter_kind(ParameterKind k) {
  constexpr const char* kNames[] = {"scalar", "integer", "toggle",  "vector2", "colour", "choice",  "text",
                                    "figure", "file",    "formula", "stops",   "points", "strokes", "seed"};
  return kNames[static_cast<std::size_t>(k)];
}
Json peg_json(const std::vector<Peg>& pegs) {
  Json list = Json::array();
  for (const Peg& p : pegs) list.push_back({{"id", p.id}, {"label", p.label}, {"kind", kind_name(p.kind)}});
  return list;
}

int nodes(const Common& common, bool markdown) {
  if (markdown) return std::cout << catalogue_markdown(), kDone;
  Json all = Json::array();
  for (const NodeType* t : catalogue().all()) {
    if (!common.json) {
      std::cout << t->id << "\t" << kRackLabels[static_cast<std::size_t>(t->rack)] << "\t" << t->help << "\n";
      continue;
    }
    Json params = Json::array();
    for (const Parameter& p : t->parameters)
      params.push_back({{"id", p.id},
                        {"label", p.label},
                        {"kind", parameter_kind(p.kind)},
                        {"unit", unit_name(p.unit)},
                        {"default", param_to_json(p.initial)},
                        {"useful", {p.useful.least, p.useful.most}},
                        {"limits", {p.limits.least, p.limits.most}},
                        {"options", p.options},
                        {"takes_rules", p.per_unit}});
    all.push_back({{"id", t->id},
                   {"label", t->label},
                   {"rack", kRackLabels[static_cast<std::size_t>(t->rack)]},
                   {"help", t->help},
                   {"inputs", peg_json(t->inputs)},
                   {"outputs", peg_json(t->outputs)},
                   {"parameters", params}});
  }
  if (common.json) std::cout << all.dump(2) << "\n";
  return kDone;
}

int check(const Common& common, const std::vector<std::string>& files) {
  int status = kDone;
  for (const std::string& file : files) {
    std::vector<Error> warnings;
    const auto m = open_material(file, &warnings);
    if (!m) {
      status = fail(file, m.error());
      continue;
    }
    Material looked_at = *m;
    for (const Error& e : take_bolts(looked_at)) status = fail(file, e);
    for (const Error& e : all_faults(*m, catalogue())) status = fail(file, e);
    if (!common.quiet)
      for (const Error& w : warnings) std::cerr << file << ": warning: " << w.text() << "\n";
  }
  return status;
}

int probe(const Common& common, const std::string& file, const std::string& output, const std::string& out, int size) {
  const auto m = checked(file);
  if (!m) return fail(file, m.error());
  const auto graph = flatten(*m, catalogue());
  if (!graph) return fail(file, graph.error());
  const auto ref = graph->find(output);
  if (!ref) return fail(file, {output, "is no output of this material", "Write NODE.PEG as in the file"});
  if (size < kLeastSize || size > kMostSize || (size & (size - 1)))
    return fail(file, {"--size", std::to_string(size) + " is no size of a map", "Use a power of two from 16 to 8192"},
                kUsage);
  Weaver weaver(common.budget());
  WeaveOptions options;
  options.keep = false;
  const auto woven = weaver.weave(*graph, {*ref}, size, Stop{}, options);
  if (!woven) return fail(file, woven.error());
  const Field& f = woven->fields[0];
  std::vector<Channel> channels;
  for (int i = 0; i < strand_count(f.kind); ++i) channels.push_back({f.strand[static_cast<std::size_t>(i)].get()});
  if (channels.empty())
    return fail(file, {output, "is a set and has no single picture", "Probe one of its maps behind Open set"});
  if (channels.size() == 2) channels.push_back({channels[0].plane, 0, 0});  // no file has two channels
  const auto done = write_image(out, channels, {ImageFormat::exr, 32, false});
  return done ? kDone : fail(out, done.error(), kWriting);
}

struct Timing {
  std::string what;
  double milliseconds;
  std::vector<NodeTime> nodes;
};

// The most another setting of a dial can be without leaving its range.
ParamValue turned(const Value& v) {
  if (const auto* n = std::get_if<double>(&v.value)) {
    const double span = v.dial->most - v.dial->least,
                 next = *n + 0.1 * span <= v.dial->most ? *n + 0.1 * span : *n - 0.1 * span;
    return v.dial->kind != ParameterKind::scalar
               ? std::round(next == std::round(next) ? next : *n + (*n + 1 <= v.dial->most ? 1 : -1))
               : next;
  }
  if (auto vector = std::get_if<Vector>(&v.value)) {
    Vector next = *vector;
    if (!next.empty()) next[0] = next[0] * 0.9 + 0.01;
    return next;
  }
  return v.value;
}

int time_call(const Common& common, const std::string& file, int size) {
  const auto m = checked(file);
  if (!m) return fail(file, m.error());
  Weaver weaver(common.budget());
  std::vector<Timing> all;
  std::optional<Error> fault;
  std::vector<std::string> paths;
  const auto run = [&](const Material& material, const std::string& what) {
    const auto graph = flatten(material, catalogue());
    if (!graph) return void(fault = graph.error());
    std::vector<Want> wants;
    for (const auto& [slot, ref] : graph->hem) wants.emplace_back(ref, slot_kind(slot));
    const auto start = std::chrono::steady_clock::now();
    const auto woven = weaver.weave(*graph, wants, size, Stop{});
    const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    if (!woven) return void(fault = woven.error());
    paths.clear();
    for (const FlatNode& n : graph->nodes) paths.push_back(n.path);
    all.push_back({what, ms, woven->times});
  };
  run(*m, "cold");
  for (const Value& v : m->values)
    if (v.dial) {
      Material next = *m;
      for (Value& x : next.values)
        if (x.id == v.id) x.value = turned(v);
      run(next, "dial " + v.id);
    }
  if (fault) return fail(file, *fault);
  Json list = Json::array();
  for (const Timing& t : all) {
    Json per_node = Json::array();
    for (const NodeTime& n : t.nodes)
      per_node.push_back(
          {{"node", paths[static_cast<std::size_t>(n.node)]}, {"milliseconds", n.milliseconds}, {"bytes", n.bytes}});
    list.push_back({{"what", t.what}, {"milliseconds", t.milliseconds}, {"nodes", per_node}});
    if (common.json) continue;
    std::cout << t.what << "\t" << std::fixed << std::setprecision(1) << t.milliseconds << " ms\n";
    for (const NodeTime& n : t.nodes)
      std::cout << "  " << paths[static_cast<std::size_t>(n.node)] << "\t" << n.milliseconds << " ms\t" << n.bytes
                << " bytes\n";
  }
  const PoolState pool = pool_state();
  if (common.json)
    std::cout << Json{{"evaluations", list}, {"peak_bytes", pool.peak}, {"size", size}}.dump(2) << "\n";
  else
    std::cout << "peak of planes\t" << (pool.peak >> 20) << " MiB\n";
  return kDone;
}

int run(std::vector<std::string> arguments) {
  CLI::App app{"Wild Loom on the command line: check, render, probe, drape, bolt and time materials."};
  app.require_subcommand(1);
  app.failure_message(CLI::FailureMessage::help);
  Common common;
  const auto shared = [&](CLI::App* sub) {
    sub->add_option("--threads", common.threads, "how many threads; the bits do not depend on it")
        ->check(CLI::Range(1, 1024));
    sub->add_option("--memory", common.memory_mib, "MiB for all that is held: planes, tables, files")
        ->check(CLI::Range(16, 1 << 20));
    sub->add_flag("--quiet", common.quiet, "no progress and no warnings");
    sub->add_flag("--json", common.json, "results as JSON");
    sub->add_option("--allow", common.allowed, "a folder outside the document's whose files it may read")
        ->allow_extra_args(false)
        ->check(CLI::ExistingDirectory);
    return sub;
  };
  bool markdown = false;
  auto* nodes_call = shared(app.add_subcommand("nodes", "the catalogue of node types"));
  nodes_call->add_flag("--markdown", markdown, "as docs/nodes.md");
  std::vector<std::string> files;
  auto* check_call = shared(app.add_subcommand("check", "validates documents and bolts"));
  check_call->add_option("FILE", files)->required();
  auto* render_sub = shared(app.add_subcommand("render", "delivers the map set"));
  const auto render = render_call(render_sub);
  std::string file, output, out;
  int size = kWorkingSize;
  auto* probe_call = shared(app.add_subcommand("probe", "any output as 32-bit float EXR"));
  probe_call->add_option("FILE", file)->required();
  probe_call->add_option("OUTPUT", output, "NODE.PEG")->required();
  probe_call->add_option("--out", out)->required();
  probe_call->add_option("--size", size);
  auto* drape_sub = shared(app.add_subcommand("drape", "the lit picture"));
  const auto drape = drape_call(drape_sub);
  auto* measure_sub = shared(app.add_subcommand("measure", "a measure of a mesh as a map in its coordinates"));
  const auto measure = measure_call(measure_sub);
  auto* proof_sub = shared(app.add_subcommand("proof", "judges what a material gives, check by check"));
  const auto proof = proof_call(proof_sub);
  auto* import_sub =
      shared(app.add_subcommand("import", "a material from a set of maps, by their names and by measure"));
  const auto import = import_call(import_sub);
  auto* fit_sub = shared(app.add_subcommand("fit", "dials turned until the material is like a picture"));
  const auto fit = fit_call(fit_sub);
  auto* sheet_sub =
      shared(app.add_subcommand("sheet", "many results beside one another, over seeds, dials or presets"));
  const auto sheet = sheet_call(sheet_sub);
  auto* compare_sub = shared(app.add_subcommand("compare", "what changed, by meaning and by result"));
  const auto compare = compare_call(compare_sub);
  auto* merge_sub = shared(app.add_subcommand("merge", "two descendants of one document brought together"));
  const auto merge = merge_call(merge_sub);
  auto* bolt_sub = shared(app.add_subcommand("bolt", "packages a material"));
  const auto bolt = bolt_call(bolt_sub);
  auto* unpack_sub = shared(app.add_subcommand("unpack", "a bolt's material and files, to work on"));
  const auto unpack = unpack_call(unpack_sub);
  auto* batch_sub = shared(app.add_subcommand("batch", "many jobs from one file, a JSON object a line"));
  const auto batch = batch_call(batch_sub, run);
  auto* thumbnail_sub = shared(app.add_subcommand("thumbnail", "a small picture, as file managers show it"));
  const auto thumbnail = thumbnail_call(thumbnail_sub);
  auto* time_sub = shared(app.add_subcommand("time", "evaluates cold, then after a change of each dial"));
  time_sub->add_option("FILE", file)->required();
  time_sub->add_option("--size", size);
  try {
    std::reverse(arguments.begin(), arguments.end());  // as the parser takes them
    app.parse(arguments);
  } catch (const CLI::ParseError& e) {
    return app.exit(e) == 0 ? kDone : kUsage;
  }
  std::optional<oneapi::tbb::global_control> limit;
  if (common.threads && !*batch_sub)
    limit.emplace(oneapi::tbb::global_control::max_allowed_parallelism, static_cast<std::size_t>(common.threads));
  for (const std::string& folder : common.allowed) allow_files(folder);
  set_memory_budget(common.budget());
  if (*nodes_call) return nodes(common, markdown);
  if (*check_call) return check(common, files);
  if (*render_sub) return render(common);
  if (*probe_call) return probe(common, file, output, out, size);
  if (*drape_sub) return drape(common);
  if (*measure_sub) return measure(common);
  if (*proof_sub) return proof(common);
  if (*import_sub) return import(common);
  if (*sheet_sub) return sheet(common);
  if (*fit_sub) return fit(common);
  if (*thumbnail_sub) return thumbnail(common);
  if (*compare_sub) return compare(common);
  if (*merge_sub) return merge(common);
  if (*bolt_sub) return bolt(common);
  if (*unpack_sub) return unpack(common);
  if (*batch_sub) return batch(common);
  return time_call(common, file, size);
}

}  // namespace
}  // namespace loom

int main(int argc, char** argv) {
  try {
    return loom::run({argv + 1, argv + argc});
  } catch (const std::bad_alloc&) {
    std::cerr << "out of memory: choose a smaller size, or close other programs\n";
    return loom::kWriting;
  }
}
