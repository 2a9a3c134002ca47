#include "core/surface/laid_out.h"

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/surface/shape_mesh.h"

namespace loom {
namespace {

// The places of one run of texels, through the program.
class Row {
 public:
  Row(const SurfaceProgram& program, const StripFiller& filler)
      : strip(filler.empty()), runner_(program), first_(program.outputs[0].first) {}
  SurfaceStrip strip;
  std::array<int, SurfaceStrip::kLongest> at;  // the column of each place

  void run(int y, std::span<const std::shared_ptr<Plane>> to) {
    const auto rows = runner_.run(strip);
    for (std::size_t i = 0; i < to.size(); ++i)
      for (std::size_t k = 0; k < strip.count; ++k) to[i]->at(at[k], y) = rows[first_ + i][k];
    strip.count = 0;
  }

 private:
  SurfaceRunner runner_;
  std::size_t first_;
};

// Where texels lie on what the view shows.
class Places {
 public:
  Places(const ChartedShape& charted, const DrapeView& view, const Extent& extent)
      : charted_(charted),
        body_(smooth_body(view, extent)),
        mesh_body_(dynamic_cast<const MeshBody*>(body_.get())),
        eye_(eye_of(view, *body_)) {}

  std::optional<Body::Hit> hit(const Atlas::Texel& texel) const {
    const MeshShape& mesh = *charted_.mesh();
    const MeshShape::Met met{0, texel.triangle, texel.b, texel.c};
    const Vec3 place = mesh.position(met), flat = mesh.flat(texel.triangle);
    if (mesh_body_) return mesh_body_->hit_at({place + flat, flat * -1}, {1, texel.triangle, texel.b, texel.c});
    const float away = 0.02f * mesh.radius();
    auto found = body_->first({place + flat * away, flat * -1}, {0, 0}, 0);
    if (found) found->triangle = texel.triangle, found->b = texel.b, found->c = texel.c;
    return found;
  }
  Vec3 towards_eye(const Body::Hit& hit) const { return normalised(eye_ - hit.place); }
  float footprint(const Body::Hit& hit) const {
    const ChartFrame frame = chart_frame(charted_.mesh()->mesh(), charted_.charts(), hit.triangle);
    return frame.breadth() / (static_cast<float>(charted_.size()) * hit.tile);
  }

 private:
  static std::unique_ptr<const Body> smooth_body(DrapeView view, const Extent& extent) {
    view.relief = false;
    return body_of(Worn(std::make_shared<const SurfaceMaps>(std::map<std::string, Field>(), extent)), view);
  }
  const ChartedShape& charted_;
  std::unique_ptr<const Body> body_;
  const MeshBody* mesh_body_;  // the same where it is one
  Vec3 eye_;
};

}  // namespace

ChartedShape::ChartedShape(std::shared_ptr<const MeshShape> mesh, std::shared_ptr<const Charts> charts, int size)
    : mesh_(std::move(mesh)),
      charts_(std::move(charts)),
      atlas_(*charts_, size, chart_margin(size) / 2),
      booked_(charts_->of.size() * sizeof(Charts::Corners) +
              static_cast<std::size_t>(size) * static_cast<std::size_t>(size) * sizeof(Atlas::Texel)) {}

Result<std::shared_ptr<const ChartedShape>> ChartedShape::make(std::shared_ptr<const MeshShape> mesh, int size,
                                                               const Stop& stop) {
  // Laid out coarsely, which is soon done, and alike at every size; finely only what finds no room else.
  constexpr int kLayout = 256;
  auto charts = charts_of(mesh->mesh(), kLayout, chart_margin(kLayout), stop);
  if (!charts && size > kLayout && !stop.asked()) charts = charts_of(mesh->mesh(), size, chart_margin(size), stop);
  if (!charts) return charts.error();
  return std::shared_ptr<const ChartedShape>(
      new ChartedShape(std::move(mesh), std::make_shared<const Charts>(std::move(*charts)), size));
}

std::shared_ptr<const ChartedShape> ChartedShape::at(int size) const {
  return std::shared_ptr<const ChartedShape>(new ChartedShape(mesh_, charts_, size));
}

std::shared_ptr<const MeshShape> mesh_of(const DrapeView& view) {
  return view.mesh ? view.mesh : shape_mesh(view.shape);
}

Field laid_out(const SurfaceProgram& program, const ChartedShape& charted, const DrapeView& view, const Extent& extent,
               const Stop& stop) {
  Field out;
  out.kind = program.outputs[0].kind;
  const int size = charted.size();
  std::vector<std::shared_ptr<Plane>> planes;
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(out.kind)); ++i) {
    planes.push_back(std::make_shared<Plane>(Plane::filled(size, 0)));
    out.strand[i] = planes.back();
  }
  const bool fits = view.measured && view.measured->mesh == charted.mesh();
  const StripFiller filler(program.program.measures, fits ? view.measured : nullptr, charted.mesh(),
                           direction_of(view.light_degrees, view.light_height));
  const Places places(charted, view, extent);
  for_rows(size, 8, stop, [&](int first, int last) {
    Row row(program, filler);
    for (int y = first; y < last && !stop.asked(); ++y) {
      for (int x = 0; x < size; ++x) {
        const auto hit = charted.covers(x, y) ? places.hit(charted.atlas().at(x, y)) : std::nullopt;
        if (!hit) continue;
        row.at[row.strip.count] = x;
        filler.add(row.strip, *hit, places.towards_eye(*hit), places.footprint(*hit));
        if (row.strip.count == SurfaceStrip::kLongest) row.run(y, planes);
      }
      if (row.strip.count) row.run(y, planes);
    }
  });
  return out;
}

}  // namespace loom
