// A lit picture is the drape's own, small, after a few samples.
#include "app/engine/picture_maker.h"

#include <bit>

#include "app/engine/engine.h"
#include "core/bolt/shown_mesh.h"
#include "core/bolt/worn_material.h"
#include "core/nodes/catalogue.h"
#include "core/surface/drape.h"

namespace loom::app {
namespace {

constexpr std::size_t kBudget = std::size_t{96} << 20;
constexpr int kLitSamples = 12;

}  // namespace

PictureMaker::PictureMaker(int size, QObject* parent)
    : QObject(parent),
      size_(size),
      weaver_(kBudget),
      worker_([this](const std::vector<PictureOrder>& orders, const Stop& stop) {
        for (const PictureOrder& o : orders)
          if (!stop.asked()) make(o, stop);
      }) {}

// Read once for all orders that are shown on it.
std::shared_ptr<const MeshShape> PictureMaker::meshOf(const Material& material) {
  if (material.mesh.empty()) return nullptr;
  if (material.mesh == mesh_name_ && material.files == mesh_files_) return mesh_;
  auto mesh = shown_mesh(material);
  mesh_name_ = material.mesh, mesh_files_ = material.files;
  return mesh_ = mesh ? std::make_shared<const MeshShape>(std::move(*mesh)) : nullptr;
}

void PictureMaker::make(const PictureOrder& order, const Stop& stop) {
  const auto graph = flatten(order.material, catalogue());
  if (!graph) return;
  const bool lit = order.output.empty();
  const int size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(lit ? 2 * size_ : size_)));
  if (!lit) {
    const auto output = graph->find(order.output);
    if (!output) return;
    const auto woven = weaver_.weave(*graph, {Want(*output)}, size, stop);
    if (woven && woven->faults.empty() && !stop.asked()) Q_EMIT made(order.id, pictureOf(woven->fields[0]));
    return;
  }
  if (graph->hem.empty() && graph->part_hems.empty()) return;
  DrapeView view;
  view.width = view.height = size_;
  if (const auto mesh = meshOf(order.material)) {
    view.mesh = mesh;
    view.camera = Camera::start(ShapeName::block);
  }
  const auto woven = weave_worn(weaver_, *graph, view.parts(), size, stop);
  if (!woven || !woven->faults.empty() || stop.asked()) return;
  view.measured = measured_;
  const auto measured = measured_for(woven->worn, view, stop, {}, kCoarsePoints);
  if (!measured) return;
  view.measured = measured_ = *measured;
  Drape drape(woven->worn, view);
  for (int i = 0; i < kLitSamples && !stop.asked(); ++i) drape.add_sample(stop);
  if (stop.asked()) return;
  const auto rgb = drape.picture();
  Q_EMIT made(order.id, QImage(rgb.data(), size_, size_, size_ * 3, QImage::Format_RGB888).copy());
}

}  // namespace loom::app

#include "moc_picture_maker.cpp"
