// Each order after the other, as long as none newer comes.
#include "app/engine/picture_maker.h"

#include <bit>

#include "app/engine/engine.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

PictureMaker::PictureMaker(int size, QObject* parent)
    : QObject(parent), pictures_(size), worker_([this](const std::vector<PictureOrder>& orders, const Stop& stop) {
        for (const PictureOrder& o : orders)
          if (!stop.asked()) make(o, stop);
      }) {}

void PictureMaker::make(const PictureOrder& order, const Stop& stop) {
  const int size = pictures_.size();
  if (order.output.empty()) {
    const auto rgb = pictures_.make(order.material, stop);
    if (rgb) Q_EMIT made(order.id, QImage(rgb->data(), size, size, size * 3, QImage::Format_RGB888).copy());
    return;
  }
  const auto graph = flatten(order.material, catalogue());
  const auto output = graph ? graph->find(order.output) : std::nullopt;
  if (!output) return;
  const int woven_size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(size)));
  const auto woven = pictures_.weaver().weave(*graph, {Want(*output)}, woven_size, stop);
  if (woven && woven->faults.empty() && !stop.asked()) Q_EMIT made(order.id, pictureOf(woven->fields[0]));
}

}  // namespace loom::app

#include "moc_picture_maker.cpp"
