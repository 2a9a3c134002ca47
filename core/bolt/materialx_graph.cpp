// The graph itself as MaterialX: what is mathematics of a point as nodes, the rest baked to images beside the document.
#include <set>

#include "core/bolt/documents.h"
#include "core/bolt/map_file.h"
#include "core/bolt/mtlx_frame.h"
#include "core/bolt/mtlx_nodes.h"
#include "core/graph/disc.h"

namespace loom {
namespace {

class MaterialxGraph {
 public:
  MaterialxGraph(const Material& material, const FlatGraph& graph, const DeliveryPlan& plan, const Stop& stop,
                 DeliveryReport& report)
      : m_(material), graph_(graph), plan_(plan), stop_(stop), report_(report), frame_(material, "graph") {}

  Result<Done> write(Weaver& weaver) {
    std::map<std::string, Want> wanted;
    for (const auto& [slot, ref] : graph_.hem)
      if (known_slot(slot) && slot != "geometry_tangent" && slot != "geometry_thin_walled")
        wanted.emplace(slot, Want(ref, slot_kind(slot)));
      else
        left_out_.push_back(slot);
    auto made = weaver.as_points(graph_, wanted, plan_.size, stop_);
    if (!made) return made.error();
    read_ = std::move(made->read);
    lay(made->program);
    if (failed_) return *failed_;
    auto path = plan_.folder / file_name(m_, plan_, FileDelivery{"graph"});
    path.replace_extension(".mtlx");
    if (const auto done = write_file(path, frame_.text()); !done) return done;
    note_other_file("mtlx_graph", path, report_);
    tell();
    return Done{};
  }

 private:
  void lay(const SurfaceProgram& made) {
    mtlx::Nodes nodes(
        made.program, frame_.graph(),
        {static_cast<float>(m_.tile_metres), plan_.size, graph_.light, [this](int origin) { return name_of(origin); },
         [this](const std::vector<PlanePtr>& planes, int origin) { return baked(planes, origin); }});
    for (const SurfaceProgram::Output& out : made.outputs) {
      std::optional<mtlx::Nodes::Hindrance> why;
      for (int i = 0; i < strand_count(out.kind) && !why; ++i)
        why = nodes.hindrance(out.first + static_cast<std::size_t>(i));
      if (why) {
        warn("the graph as MaterialX leaves out " + out.name + ": the standard has no node for " + why->what + " (" +
             name_of(why->origin) + ")");
      } else if (out.kind == Kind::normal) {
        frame_.give(out.name, "vector3", nodes.normal(out.first));
      } else if (strand_count(out.kind) >= 3) {
        frame_.give(out.name, "color3", nodes.three(out.first, "color3"));
      } else {
        frame_.give(out.name, "float", nodes.number(out.first));
      }
    }
    if (nodes.holds_light())
      warn(
          "the graph as MaterialX holds the key light where it stands here: a surface does not know its lights there. "
          "Turn it at the node towards_light");
  }

  std::string name_of(int origin) const {
    return origin < 0 ? "shape" : id_of_name(graph_.nodes[static_cast<std::size_t>(origin)].path);
  }

  // The file that holds planes, once; called after whose output they are.
  std::pair<std::string, std::string> baked(const std::vector<PlanePtr>& planes, int origin) {
    std::vector<const Plane*> key;
    for (const PlanePtr& p : planes) key.push_back(p.get());
    if (const auto known = files_.find(key); known != files_.end()) return known->second;
    std::string name = name_of(origin);
    if (const auto from = read_.find(key[0]); from != read_.end()) {
      const auto& [ref, strand] = from->second;
      const auto& outputs = graph_.nodes[static_cast<std::size_t>(ref.node)].type->outputs;
      name = name_of(ref.node);
      if (outputs.size() > 1) name += "_" + id_of_name(outputs[static_cast<std::size_t>(ref.output)].id);
      if (planes.size() == 1 && strand > 0) name += "_" + std::to_string(strand + 1);
    }
    std::string free = name;
    for (int i = 2; !names_.insert(free).second; ++i) free = name + "_" + std::to_string(i);
    FileDelivery file{"from_" + free};
    file.format = ImageFormat::exr;
    const auto path = plan_.folder / file_name(m_, plan_, file);
    std::vector<Channel> channels;
    for (const PlanePtr& p : planes) channels.push_back({p.get()});
    const auto wrote = failed_ ? Result<Wrote>(*failed_) : write_image(path, channels, {ImageFormat::exr, 32}, stop_);
    if (wrote)
      note_other_file(file.name, path, report_);
    else if (!failed_)
      failed_ = wrote.error();
    return files_[key] = {free, path.filename().string()};
  }

  void warn(std::string text) { report_.warnings.push_back(std::move(text)); }

  void tell() {
    std::string all;
    for (const std::string& slot : left_out_) all += (all.empty() ? "" : ", ") + slot;
    if (!all.empty()) warn("MaterialX has no place for " + all);
    if (!graph_.part_hems.empty()) warn("the graph as MaterialX carries the hem of all, not those of single parts");
  }

  const Material& m_;
  const FlatGraph& graph_;
  const DeliveryPlan& plan_;
  const Stop& stop_;
  DeliveryReport& report_;
  mtlx::Frame frame_;
  std::map<const Plane*, std::pair<OutputRef, int>> read_;
  std::map<std::vector<const Plane*>, std::pair<std::string, std::string>> files_;
  std::set<std::string> names_;
  std::vector<std::string> left_out_;
  std::optional<Error> failed_;
};

}  // namespace

Result<Done> write_materialx_graph(const Material& material, const FlatGraph& graph, Weaver& weaver,
                                   const DeliveryPlan& plan, const Stop& stop, DeliveryReport& report) {
  if (!plan.materialx_graph) return Done{};
  return MaterialxGraph(material, graph, plan, stop, report).write(weaver);
}

}  // namespace loom
