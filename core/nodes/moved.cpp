// A height h(x, y) read at moved places has the slopes J^T grad h, J the places' derivatives: normals are bent by that.
#include "core/nodes/moved.h"

#include <cmath>

#include "core/base/parallel.h"

namespace loom {
namespace {

// What a laid table of moved regions keeps.
struct MovedRegions : Resource {
  PlanePtr index;
  std::shared_ptr<const RegionTable> table;
};

// Where the axis of a box points after a move whose derivatives are (xu, xv; yu, yv). A box's axis is (c, -s), since v
// runs down; what lay along it in the source lies along J^-1 of it in what is made.
Turn turned(Turn from, float xu, float xv, float yu, float yv) {
  const float ax = from.cosine, ay = -from.sine, determinant = xu * yv - xv * yu;
  if (std::abs(determinant) < 1e-12f) return from;
  const float sign = determinant > 0 ? 1.0f : -1.0f;
  const float bu = sign * (yv * ax - xv * ay), bv = sign * (xu * ay - yu * ax), size = std::hypot(bu, bv);
  if (size < 1e-12f) return from;
  const auto clean = [](float x) { return std::abs(x) < 1e-6f ? 0.0f : x; };
  return {clean(bu / size), clean(-bv / size)};
}

Plane nearest_at(const Plane& labels, const Offset& offset, const Stop& stop) {
  const int size = labels.size();
  const float texel = 1.0f / static_cast<float>(size);
  Plane out(size);
  const auto at = [&](float x) {
    return std::min(static_cast<int>((x - std::floor(x)) * static_cast<float>(size)), size - 1);
  };
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *du = offset.u.row(y), *dv = offset.v.row(y);
      for (int x = 0; x < size; ++x) {
        const float u = (static_cast<float>(x) + 0.5f) * texel + offset.along * du[x] + offset.across * dv[x];
        const float v = (static_cast<float>(y) + 0.5f) * texel + offset.along * dv[x] - offset.across * du[x];
        out.row(y)[x] = labels.at(at(u), at(v));
      }
    }
  });
  return out;
}

// The derivatives of the places: 1 on the diagonal and those of the offset.
struct Jacobian {
  Plane uu, uv, vu, vv;  // of the offset's u along u and v, and of its v
};
Jacobian jacobian_of(const Offset& offset, const Stop& stop) {
  const int size = offset.u.size();
  Jacobian j{Plane(size), Plane(size), Plane(size), Plane(size)};
  slopes(offset.u, j.uu, j.uv, stop);
  slopes(offset.v, j.vu, j.vv, stop);
  for_rows(size, 32, stop, [&](int first, int last) {
    for (std::size_t i = j.uu.texels() / static_cast<std::size_t>(size) * static_cast<std::size_t>(first),
                     end = j.uu.texels() / static_cast<std::size_t>(size) * static_cast<std::size_t>(last);
         i < end; ++i) {
      const float uu = j.uu.data()[i], uv = j.uv.data()[i], vu = j.vu.data()[i], vv = j.vv.data()[i];
      j.uu.data()[i] = 1 + offset.along * uu + offset.across * vu;
      j.uv.data()[i] = offset.along * uv + offset.across * vv;
      j.vu.data()[i] = offset.along * vu - offset.across * uu;
      j.vv.data()[i] = 1 + offset.along * vv - offset.across * uv;
    }
  });
  return j;
}

void bend(Field& normals, const Jacobian& j, const Stop& stop) {
  std::array<Plane, 3> bent{Plane(j.uu.size()), Plane(j.uu.size()), normals.strand[2]->clone()};
  for_rows(j.uu.size(), 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *nx = normals.strand[0]->row(y), *ny = normals.strand[1]->row(y), *uu = j.uu.row(y),
                  *uv = j.uv.row(y), *vu = j.vu.row(y), *vv = j.vv.row(y);
      for (int x = 0; x < j.uu.size(); ++x) {
        bent[0].row(y)[x] = nx[x] * uu[x] - ny[x] * vu[x];
        bent[1].row(y)[x] = ny[x] * vv[x] - nx[x] * uv[x];
      }
    }
  });
  for (std::size_t i = 0; i < 3; ++i) normals.strand[i] = std::make_shared<Plane>(std::move(bent[i]));
  normalise(normals, stop);
}

}  // namespace

std::vector<const Plane*> strands_of(const Field& field) {
  std::vector<const Plane*> all;
  for (int i = 0; i < strand_count(field.kind); ++i) all.push_back(field.strand[static_cast<std::size_t>(i)].get());
  return all;
}

Field field_of(Kind kind, std::vector<Plane> strands) {
  Field out;
  out.kind = kind;
  for (std::size_t i = 0; i < strands.size(); ++i) out.strand[i] = std::make_shared<Plane>(std::move(strands[i]));
  return out;
}

void normalise(Field& normals, const Stop& stop) {
  std::array<Plane, 3> unit;
  const int size = normals.size();
  for (Plane& p : unit) p = Plane(size);
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *a = normals.strand[0]->row(y), *b = normals.strand[1]->row(y), *c = normals.strand[2]->row(y);
      for (int x = 0; x < size; ++x) {
        const float length = std::sqrt(a[x] * a[x] + b[x] * b[x] + c[x] * c[x]);
        // What cancels out, as opposite directions do, faces straight up.
        const float by = length > 0 ? 1 / length : 0;
        unit[0].row(y)[x] = a[x] * by, unit[1].row(y)[x] = b[x] * by, unit[2].row(y)[x] = length > 0 ? c[x] * by : 1;
      }
    }
  });
  for (std::size_t i = 0; i < 3; ++i) normals.strand[i] = std::make_shared<Plane>(std::move(unit[i]));
}

Field moved_by(const Field& source, const Offset& offset, const Stop& stop) {
  return map_by_map(source, [&](const Field& map) {
    if (map.kind == Kind::regions) {
      Labels parts = label_parts(
          nearest_at(*map.strand[0], offset, stop), *map.regions,
          [&](int label, int, int) {
            const auto i = static_cast<std::size_t>(label);
            return Turn{map.regions->cosine[i], map.regions->sine[i]};
          },
          stop);
      Field out = field_of(Kind::regions, {});
      out.strand[0] = std::make_shared<Plane>(std::move(parts.index));
      out.regions = std::make_shared<RegionTable>(std::move(parts.table));
      return out;
    }
    Field out = field_of(map.kind, warped(strands_of(map), offset, stop));
    if (map.kind == Kind::normal) bend(out, jacobian_of(offset, stop), stop);
    return out;
  });
}

std::shared_ptr<const Sampled> Emitter::sampled(const PlanePtr& plane) {
  auto& kept = sampled_[plane.get()];
  if (kept) return kept;
  auto table = std::make_shared<Sampled>();
  table->levels = pyramid(plane, 14);
  return kept = std::move(table);
}

std::shared_ptr<const Sampled> Emitter::sampled(std::string_view peg, int strand) {
  const Field* field = whole(peg);
  if (!field || !field->strand[static_cast<std::size_t>(strand)]) return std::make_shared<Sampled>();
  return sampled(field->strand[static_cast<std::size_t>(strand)]);
}

Strands Emitter::read_at(std::string_view peg, Reg u, Reg v, Reg footprint) {
  return moved(*whole(peg), u, v, footprint);
}

Strands Emitter::read_regions(std::string_view peg, Reg u, Reg v, Reg inside) {
  const Field& source = *whole(peg);
  const Reg label = b.nearest(source.strand[0], u, v);
  return moved_regions(source, b.select(b.less(inside, b.constant(0.5f)), b.constant(-1), label), u, v);
}

Strands Emitter::read_to_scale(std::string_view peg, Reg u, Reg v, Reg footprint) {
  return moved(*whole(peg), u, v, footprint, true);
}

Strands Emitter::moved(const Field& source, Reg u, Reg v, Reg footprint, bool to_scale) {
  if (source.kind == Kind::regions) return moved_regions(source, b.nearest(source.strand[0], u, v), u, v);
  Strands out{.kind = source.kind};
  for (const auto& [name, member] : source.members)
    out.members.emplace_back(name, moved(member, u, v, footprint, to_scale));
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(source.kind)); ++i)
    out.at[i] = b.apply(kSample, {u, v, footprint}, sampled(source.strand[i]), 1)[0];
  if (source.kind != Kind::normal) return out;
  if (to_scale) return convert(b, {.kind = Kind::vector3, .at = out.at}, Kind::normal);
  const auto [xu, xv] = b.slope(u);
  const auto [yu, yv] = b.slope(v);
  const Reg nx = out.at[0], ny = out.at[1];
  out.kind = Kind::vector3;
  out.at[0] = b.sub(b.mul(nx, xu), b.mul(ny, yu));
  out.at[1] = b.sub(b.mul(ny, yv), b.mul(nx, xv));
  return convert(b, out, Kind::normal);
}

// The parts and their boxes are known once the whole plane is: it is made here and then read as it is.
Strands Emitter::moved_regions(const Field& source, Reg label, Reg u, Reg v) {
  const int size = b.texels();
  if (!size) return {.kind = Kind::regions, .at = {label}, .regions = source.regions};
  const auto made = laid<MovedRegions>([&] {
    Builder own = b;
    const auto [xu, xv] = own.slope(u);
    const auto [yu, yv] = own.slope(v);
    std::array<Plane, 5> planes;
    std::vector<Plane*> targets;
    int output = 0;
    for (const Reg value : {label, xu, xv, yu, yv}) {
      targets.push_back(&(planes[static_cast<std::size_t>(output)] = Plane(size)));
      own.store(value, output++);
    }
    run_texels(own.build(), size, targets, stop);
    const auto turn_of = [&](int region, int x, int y) {
      const auto i = static_cast<std::size_t>(region);
      return turned({source.regions->cosine[i], source.regions->sine[i]}, planes[1].at(x, y), planes[2].at(x, y),
                    planes[3].at(x, y), planes[4].at(x, y));
    };
    Labels parts = label_parts(planes[0], *source.regions, turn_of, stop);
    auto table = std::make_shared<MovedRegions>();
    table->index = std::make_shared<Plane>(std::move(parts.index));
    table->table = std::make_shared<RegionTable>(std::move(parts.table));
    return table;
  });
  return {.kind = Kind::regions, .at = {b.read_labels(made->index)}, .regions = made->table};
}

}  // namespace loom
