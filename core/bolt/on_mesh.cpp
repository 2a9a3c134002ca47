// Maps are woven, read at the places of the mesh, and laid out by its charts.
#include "core/bolt/on_mesh.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>

#include "core/base/clock.h"
#include "core/base/parallel.h"
#include "core/bolt/delivery_state.h"
#include "core/bolt/documents.h"
#include "core/bolt/map_file.h"
#include "core/bolt/worn_material.h"
#include "core/graph/disc.h"
#include "core/surface/charts.h"
#include "core/surface/drape.h"

namespace loom {
namespace {

// A direction as a normal map of the charts has it: right, up in the picture, outwards.
Vec3 in_charts(const ChartFrame& frame, Vec3 outwards, Vec3 direction) {
  const Vec3 right = normalised(frame.along_u - outwards * dot(outwards, frame.along_u));
  Vec3 up = cross(outwards, right);
  if (dot(up, frame.along_v) > 0) up = up * -1;  // v runs down
  return {dot(direction, right), dot(direction, up), dot(direction, outwards)};
}

// The slots in the charts, filled row by row.
class OnMesh {
 public:
  OnMesh(const Dresser& dresser, const MeshBody& body, const MeshShape& mesh, const Charts& charts, const Atlas& atlas)
      : dresser_(dresser), body_(body), mesh_(mesh), charts_(charts), atlas_(atlas) {}

  // Makes room for a slot; false: it is not known what it is on a mesh.
  bool take(const std::string& slot) {
    const Slot* known = known_slot(slot);
    Out out{.place = SurfaceMaps::place_of(slot)};
    if (!out.place.vector && !out.place.number && !known) return false;
    out.field.kind = slot_kind(slot);
    for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(out.field.kind)); ++i) {
      out.plane[i] = std::make_shared<Plane>(Plane::filled(atlas_.size(), known ? known->fallback[i] : 0));
      out.field.strand[i] = out.plane[i];
    }
    if (!out.place.vector && !out.place.number)  // height and opacity are no light: they are read as the tile has them
      dresser_.worn().each([&](const SurfaceMaps& maps) {
        const auto map = maps.slots().find(slot);
        if (map == maps.slots().end() || out.read.count(&maps)) return;
        auto read = std::make_unique<MeanPyramid<1>>(std::array<const Plane*, 1>{map->second.strand[0].get()},
                                                     std::array<float, 1>{0}, map->second.size());
        read->want(0);
        out.read.emplace(&maps, std::move(read));
      });
    out_.insert_or_assign(slot, std::move(out));
    return true;
  }

  void fill(const Stop& stop) {
    for_rows(atlas_.size(), 4, stop, [&](int first, int last) {
      for (int y = first; y < last && !stop.asked(); ++y)
        for (int x = 0; x < atlas_.size(); x += static_cast<int>(SurfaceStrip::kLongest)) strip(x, y);
    });
  }
  // Null where no room was made for it.
  const Field* field(const std::string& slot) const {
    const auto out = out_.find(slot);
    return out == out_.end() ? nullptr : &out->second.field;
  }

 private:
  struct Out {
    Field field;
    std::array<std::shared_ptr<Plane>, 3> plane;
    SurfaceMaps::Place place;
    std::map<const SurfaceMaps*, std::unique_ptr<MeanPyramid<1>>> read;  // of those that hold it
  };

  void strip(int from, int y) {
    constexpr std::size_t kLongest = SurfaceStrip::kLongest;
    std::array<Body::Hit, kLongest> hits;
    std::array<SurfaceMaps::Point, kLongest> points;
    std::array<Dresser::Place, kLongest> places;
    std::array<ChartFrame, kLongest> frames;
    std::array<int, kLongest> at;
    std::size_t count = 0;
    for (int x = from; x < std::min(from + static_cast<int>(kLongest), atlas_.size()); ++x) {
      const Atlas::Texel& t = atlas_.at(x, y);
      if (t.triangle == Atlas::Texel::kNone) continue;
      const Vec3 flat = mesh_.flat(t.triangle);
      hits[count] =
          body_.hit_at({mesh_.position({0, t.triangle, t.b, t.c}) + flat, flat * -1}, {1, t.triangle, t.b, t.c});
      const ChartFrame frame = frames[count] = chart_frame(mesh_.mesh(), charts_, t.triangle);
      const float wide = frame.breadth() / static_cast<float>(atlas_.size());
      places[count] = {&hits[count], hits[count].frame.normal, wide / hits[count].tile, &points[count]};
      at[count++] = x;
    }
    dresser_.dress({places.data(), count});
    for (std::size_t i = 0; i < count; ++i) {
      const Vec3 along = in_charts(frames[i], hits[i].frame.normal, normalised(on_shape(hits[i], points[i].along)));
      points[i].along = {along.x, -along.y, 0};
      points[i].normal = in_charts(frames[i], hits[i].frame.normal, worn(hits[i], normalised(points[i].normal)));
    }
    for (auto& [slot, out] : out_)
      for (std::size_t i = 0; i < count; ++i) put(out, at[i], y, places[i]);
  }

  void put(Out& out, int x, int y, const Dresser::Place& place) const {
    if (out.place.vector) {
      const Vec3& v = place.to->*out.place.vector;
      const float strands[] = {v.x, v.y, v.z};
      for (std::size_t i = 0; i < out.place.strands; ++i) out.plane[i]->at(x, y) = strands[i];
    } else if (out.place.number) {
      out.plane[0]->at(x, y) = place.to->*out.place.number;
    } else if (const auto read = out.read.find(&dresser_.worn().at(place.hit->part)); read != out.read.end()) {
      out.plane[0]->at(x, y) = read->second->at(place.hit->at.u, place.hit->at.v, place.footprint)[0];
    }
  }

  const Dresser& dresser_;
  const MeshBody& body_;
  const MeshShape& mesh_;
  const Charts& charts_;
  const Atlas& atlas_;
  std::map<std::string, Out> out_;
};

// The mesh with its new coordinates, as OBJ; v runs up there.
std::string obj_of(const Mesh& mesh, const Charts& charts) {
  std::ostringstream out;
  out.precision(9);
  for (const Vec3& p : mesh.position) out << "v " << p.x << ' ' << p.y << ' ' << p.z << '\n';
  for (const Vec3& n : mesh.normal) out << "vn " << n.x << ' ' << n.y << ' ' << n.z << '\n';
  for (const auto& corners : charts.of)
    for (const auto& [u, v] : corners) out << "vt " << u << ' ' << 1 - v << '\n';
  std::size_t part = mesh.parts.size();
  for (std::size_t t = 0; t < mesh.triangle.size(); ++t) {
    if (mesh.part_of[t] != part) out << "usemtl " << mesh.parts[part = mesh.part_of[t]] << '\n';
    out << 'f';
    for (std::size_t i = 0; i < 3; ++i)
      out << ' ' << mesh.triangle[t][i] + 1 << '/' << 3 * t + i + 1 << '/' << mesh.triangle[t][i] + 1;
    out << '\n';
  }
  return out.str();
}

// One delivery, step by step.
class MeshDelivery {
 public:
  using Progress = std::function<void(double, const std::string&)>;
  MeshDelivery(const Material& material, const DeliveryPlan& plan, std::shared_ptr<const MeshShape> mesh,
               const Stop& stop, const Progress& progress)
      : material_(material),
        plan_(plan),
        mesh_(std::move(mesh)),
        stop_(stop),
        progress_(progress),
        state_(plan.state) {}

  Result<DeliveryReport> run(const FlatGraph& graph, Weaver& weaver) {
    const auto began = Clock::now();
    for (const std::string& part : parts_not_there(material_, mesh_->mesh().parts))
      report_.warnings.push_back("the mesh has no part '" + part + "', whose hem was left out");
    const bool waits = look_what_stands(graph);
    if (waits)
      if (const auto woven = weave(graph, weaver); !woven) return woven.error();
    report_.weave_milliseconds = milliseconds_since(began);
    auto charts = charts_of(mesh_->mesh(), plan_.size, chart_margin(plan_.size), stop_);
    if (!charts) return charts.error();
    charts_ = std::move(*charts);
    if (waits)
      if (const auto written = dress(graph); !written) return written.error();
    if (!charts_.own)
      if (const auto written = write_mesh(); !written) return written.error();
    if (const auto written = write_documents(with_all_hems(material_), plan_, {&mesh_->mesh(), &charts_}, report_);
        !written)
      return written.error();
    if (const auto written = write_materialx_graph(material_, graph, weaver, plan_, stop_, report_); !written)
      return written.error();
    tell(1, "done");
    report_.total_milliseconds = milliseconds_since(began);
    return std::move(report_);
  }

 private:
  void tell(double share, const std::string& what) const {
    if (progress_) progress_(share, what);
  }

  std::string key_of_file(const FlatGraph& graph, const FileDelivery& file) const {
    return delivery_key(graph, plan_, file, mesh_->key());
  }

  // What an earlier delivery wrote is left alone. Whether anything is left to do.
  bool look_what_stands(const FlatGraph& graph) {
    for (const FileDelivery& f : plan_.files) {
      if (!f.on) continue;
      if (state_.take(plan_.folder / file_name(material_, plan_, f), key_of_file(graph, f), report_))
        standing_.insert(f.name);
    }
    return std::any_of(plan_.files.begin(), plan_.files.end(),
                       [&](const FileDelivery& f) { return f.on && !standing_.count(f.name); });
  }

  Result<Done> weave(const FlatGraph& graph, Weaver& weaver) {
    WeaveOptions options;
    options.keep = false;
    options.progress = [&](double share, const std::string& node) { tell(0.3 * share, node); };
    auto woven = weave_worn(weaver, graph, mesh_->mesh().parts, plan_.size, stop_, options);
    if (!woven) return woven.error();
    if (!woven->faults.empty()) return woven->faults.begin()->second;
    worn_ = std::move(woven->worn);
    return Done{};
  }

  Result<Done> dress(const FlatGraph& graph) {
    worn_->each([](const SurfaceMaps& maps) { maps.want(0); });
    DrapeView view;
    view.mesh = mesh_;
    const auto measured = measured_for(*worn_, view, stop_, [&](double share) { tell(0.3 + 0.3 * share, "measure"); });
    if (!measured) return measured.error();
    const Direction light = kLightAtStart;
    const Dresser dresser(*worn_, *measured, mesh_, {light[0], light[1], light[2]});
    const MeshBody body(mesh_, *worn_, mesh_->tile_metres());
    const Atlas atlas(charts_, plan_.size, chart_margin(plan_.size) / 2);
    OnMesh on(dresser, body, *mesh_, charts_, atlas);
    const auto files = taken(on, graph);
    if (files.empty() && standing_.empty())
      return Error{"hem", "there is nothing to deliver", "Connect an output to a slot, and turn the slot on"};
    on.fill(stop_);
    if (stop_.asked()) return Error{"", kCancelled, ""};
    for (std::size_t i = 0; i < files.size(); ++i) {
      tell(0.7 + 0.3 * static_cast<double>(i) / static_cast<double>(files.size()), files[i].name);
      std::map<std::string, Field> slots;
      for (const std::string& slot : slots_of(files[i]))
        if (const Field* field = on.field(slot)) slots[slot] = *field;
      const auto done = state_.written(key_of_file(graph, files[i]), report_, [&] {
        return write_map_file(slots, files[i], material_, plan_, stop_, report_);
      });
      if (!done) return done;
    }
    return Done{};
  }

  bool is_worn(const FlatGraph& graph, const std::string& slot) const {
    const auto& parts = mesh_->mesh().parts;
    return graph.hem.count(slot) || std::any_of(parts.begin(), parts.end(), [&](const std::string& part) {
             const auto own = graph.part_hems.find(part);
             return own != graph.part_hems.end() && own->second.count(slot);
           });
  }

  // The files that are wanted and hold a slot that is worn, of those that have a meaning on a mesh.
  std::vector<FileDelivery> taken(OnMesh& on, const FlatGraph& graph) {
    std::vector<FileDelivery> files;
    for (const FileDelivery& f : plan_.files) {
      if (standing_.count(f.name)) continue;
      bool worn = false, known = true;
      for (const std::string& slot : slots_of(f)) {
        if (!f.on || !is_worn(graph, slot)) continue;
        worn = true;
        known &= on.field(slot) || on.take(slot);
      }
      if (worn && known) files.push_back(f);
      if (known) continue;
      report_.left_out.push_back(f.name);
      report_.warnings.push_back(f.name + " has no meaning on a mesh: it was left out");
    }
    return files;
  }

  Result<Done> write_mesh() {
    auto path = plan_.folder / file_name(material_, plan_, FileDelivery{"mesh"});
    path.replace_extension(".obj");
    if (const auto done = write_file(path, obj_of(mesh_->mesh(), charts_)); !done) return done;
    note_other_file("mesh", path, report_);
    report_.warnings.push_back(
        "the mesh has no coordinates in which every place lies once: it got some, and goes with the maps as " +
        path.filename().string());
    return Done{};
  }

  const Material& material_;
  const DeliveryPlan& plan_;
  std::shared_ptr<const MeshShape> mesh_;
  const Stop& stop_;
  const Progress& progress_;
  std::optional<Worn> worn_;
  std::set<std::string> standing_;  // files, by name
  DeliveryState state_;
  Charts charts_;
  DeliveryReport report_;
};

}  // namespace

Material with_all_hems(const Material& material) {
  Material all = material;
  for (const auto& [part, own] : material.part_hems) {
    all.hem.insert(own.hem.begin(), own.hem.end());
    all.hem_values.insert(own.hem_values.begin(), own.hem_values.end());
  }
  return all;
}

std::vector<FileDelivery> usual_files_on_mesh(const Material& material) { return usual_files(with_all_hems(material)); }

Result<DeliveryReport> deliver_onto(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                                    const DeliveryPlan& asked, const std::shared_ptr<const MeshShape>& mesh,
                                    const Stop& stop,
                                    const std::function<void(double, const std::string&)>& progress) try {
  const DeliveryPlan plan = with_document_files(with_all_hems(material), asked);
  if (const auto fit = check_plan(material, plan); !fit) return fit.error();
  const auto graph = flatten(material, catalogue);
  if (!graph) return graph.error();
  return MeshDelivery(material, plan, mesh, stop, progress).run(*graph, weaver);
} catch (const std::bad_alloc&) {
  return Error{"", "there is not enough memory to deliver at " + std::to_string(asked.size),
               "Choose a smaller size, or close other programs"};
}

}  // namespace loom
