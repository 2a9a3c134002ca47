// A lit picture is the drape's own, small, after a few samples.
#include "core/bolt/lit_pictures.h"

#include <bit>

#include "core/bolt/shown_mesh.h"
#include "core/bolt/worn_material.h"
#include "core/graph/edit.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"
#include "core/surface/drape.h"

namespace loom {
namespace {

constexpr int kBoltPictureSide = 256;

}  // namespace

// Read once for all pictures that are shown on it.
std::shared_ptr<const MeshShape> LitPictures::mesh_of(const Material& material) {
  if (material.mesh.empty()) return nullptr;
  if (material.mesh == mesh_name_ && material.files == mesh_files_) return mesh_;
  auto mesh = shown_mesh(material);
  mesh_name_ = material.mesh, mesh_files_ = material.files;
  return mesh_ = mesh ? std::make_shared<const MeshShape>(std::move(*mesh)) : nullptr;
}

Result<std::vector<std::uint8_t>> LitPictures::make(const Material& material, const Stop& stop) {
  const Error cancelled{"", kCancelled, ""};
  const auto graph = flatten(material, catalogue());
  if (!graph) return graph.error();
  if (graph->hem.empty() && graph->part_hems.empty())
    return Error{"hem", "has no slots, and so no picture", "Connect a map to a slot"};
  DrapeView view;
  view.width = view.height = size_;
  if (const auto mesh = mesh_of(material)) {
    view.mesh = mesh;
    view.camera = Camera::start(ShapeName::block);
  }
  const int woven_size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(2 * size_)));
  const auto woven = weave_worn(weaver_, *graph, view.parts(), woven_size, stop);
  if (stop.asked()) return cancelled;
  if (!woven) return woven.error();
  if (!woven->faults.empty()) return woven->faults.begin()->second;
  view.measured = measured_;
  const auto measured = measured_for(woven->worn, view, stop, {}, kCoarsePoints);
  if (!measured) return measured.error();
  view.measured = measured_ = *measured;
  Drape drape(woven->worn, view);
  if (samples_ == 0) drape.first_answer(1, stop);
  for (int i = 0; i < samples_ && !stop.asked(); ++i) drape.add_sample(stop);
  if (stop.asked()) return cancelled;
  return drape.picture();
}

Result<Done> add_pictures(Bolt& bolt, const Stop& stop) {
  LitPictures pictures(kBoltPictureSide);
  const auto add = [&](const std::string& preset, const Material& material) -> Result<Done> {
    const auto rgb = pictures.make(material, stop);
    if (!rgb) return rgb.error();
    auto png = encode_picture(kBoltPictureSide, kBoltPictureSide, *rgb);
    if (!png) return png.error();
    bolt.pictures[preset] = std::move(png).value();
    return Done{};
  };
  if (bolt.material.hem.empty() && bolt.material.hem_values.empty() && bolt.material.part_hems.empty()) return Done{};
  if (const auto done = add("", edit::apply_preset(bolt.material, Preset{})); !done) return done;
  for (const Preset& p : bolt.material.presets)
    if (const auto done = add(p.name, edit::apply_preset(bolt.material, p)); !done) return done;
  return Done{};
}

}  // namespace loom
