#include "app/proof/judge.h"

#include <cmath>

#include "core/nodes/catalogue.h"
#include "core/plane/colour.h"

namespace loom::app {
namespace {

constexpr double kPatch = 0.3;  // of the tile along a side, from its corner on

QImage patchOf(const Field& field) {
  const QImage whole = pictureOf(field);
  const int side = static_cast<int>(kPatch * whole.width());
  return whole.copy(0, 0, side, side);
}

double apart(const Field& large, const Field& small) {
  double square = 0;
  std::size_t count = 0;
  for (std::size_t k = 0; k < 3; ++k) {
    if (!large.strand[k] || !small.strand[k]) continue;
    Plane mean = large.strand[k]->clone();
    while (mean.size() > small.size()) mean = reduced(mean);
    for (std::size_t i = 0; i < mean.texels(); ++i) {
      const double d = static_cast<double>(srgb_from_linear(std::max(0.0f, mean.data()[i])) -
                                           srgb_from_linear(std::max(0.0f, small.strand[k]->data()[i])));
      square += d * d;
    }
    count += mean.texels();
  }
  return count ? std::sqrt(square / static_cast<double>(count)) : 0;
}

}  // namespace

Judge::Judge(QObject* parent)
    : QObject(parent), worker_([this](const Material& material, const Stop& stop) { run(material, stop); }) {}

std::optional<TwoSizes> Judge::atTwoSizes(const Material& material, const Stop& stop) {
  const auto graph = flatten(material, catalogue());
  const auto it = graph ? graph->hem.find("base_colour") : FlatHem::const_iterator();
  if (!graph || it == graph->hem.end() || graph->surface_of(it->second) != SurfaceUse::none) return {};
  TwoSizes two;
  std::vector<Field> fields;
  for (const int size : {two.small_size, two.large_size}) {
    WeaveOptions once;
    once.keep = false;
    const auto woven = weaver_.weave(*graph, {Want(it->second, Kind::colour)}, size, stop, once);
    if (!woven || !woven->faults.empty()) return {};
    fields.push_back(woven->fields.front());
  }
  two.small = patchOf(fields[0]);
  two.large = patchOf(fields[1]);
  two.differs = apart(fields[1], fields[0]);
  return two;
}

// The findings first: they are waited for.
void Judge::run(const Material& material, const Stop& stop) {
  auto proven = std::make_shared<Proven>();
  auto findings = prove(material, catalogue(), weaver_, {}, stop);
  if (stop.asked()) return;
  if (findings)
    proven->findings = std::move(findings).value();
  else
    proven->refused = QString::fromStdString(findings.error().text());
  proven->complete = !findings;
  Q_EMIT this->proven(std::make_shared<const Proven>(*proven));
  if (!findings) return;
  proven->sizes = atTwoSizes(material, stop);
  proven->complete = true;
  if (!stop.asked()) Q_EMIT this->proven(proven);
}

}  // namespace loom::app

#include "moc_judge.cpp"
