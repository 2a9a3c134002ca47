// Volume mask: what lies within a ball, a box, a wedge or a closed mesh in space.
#include "core/nodes/closed_mesh.h"
#include "core/nodes/each_strand.h"

namespace loom {
namespace {

using Point = std::array<Reg, 3>;

Reg length(Builder& b, const Point& p) {
  const Strands v{.kind = Kind::vector3, .at = {p[0], p[1], p[2]}};
  return b.root(dot(b, v, v));
}

// Places as the volume sees them: from its middle, turned about the upright axis.
Point within(Emitter& e) {
  Builder& b = e.b;
  Point p = b.surface(SurfaceValue::position);
  if (e.connected("positions")) {
    const Strands given = e.in("positions");
    p = {given.at[0], given.at[1], given.at[2]};
  }
  const char* centre[] = {"centre_x", "centre_y", "centre_z"};
  for (std::size_t i = 0; i < 3; ++i) p[i] = b.add(p[i], -e.real(centre[i]));
  const double turn = e.number("turn") * 0.017453292519943295;
  const auto sine = static_cast<float>(std::sin(turn)), cosine = static_cast<float>(std::cos(turn));
  return {b.add(b.mul(p[0], cosine), b.mul(p[2], sine)), p[1], b.add(b.mul(p[2], cosine), b.mul(p[0], -sine))};
}

// Exact along the axes and on the surface; elsewhere within a few per cent. Common practice, no source.
Reg ellipsoid(Builder& b, const Point& p, const std::array<float, 3>& half) {
  Point near, nearer;
  for (std::size_t i = 0; i < 3; ++i) {
    near[i] = b.mul(p[i], 1 / half[i]);
    nearer[i] = b.mul(near[i], 1 / half[i]);
  }
  const Reg k = length(b, near);
  return b.div(b.mul(k, b.add(k, -1)), length(b, nearer));
}

Reg box(Builder& b, const Point& p, const std::array<float, 3>& half) {
  Point beyond, outside;
  for (std::size_t i = 0; i < 3; ++i) {
    beyond[i] = b.add(b.abs(p[i]), -half[i]);
    outside[i] = b.max(beyond[i], b.constant(0));
  }
  return b.add(length(b, outside), b.min(b.max(beyond[0], b.max(beyond[1], beyond[2])), b.constant(0)));
}

// The half of a box under the slope from its upper left edge to its lower right.
Reg wedge(Builder& b, const Point& p, const std::array<float, 3>& half) {
  const float across = 1 / half[0], up = 1 / half[1], share = 1 / std::sqrt(across * across + up * up);
  return b.max(box(b, p, half), b.add(b.mul(p[0], across * share), b.mul(p[1], up * share)));
}

// Exact where the body is stretched evenly; elsewhere along the way in which the distance grows.
Reg body(Emitter& e, const Point& p, const std::array<float, 3>& half) {
  Builder& b = e.b;
  const auto field = closed_mesh(e, "file");
  if (!field) return b.constant(0);
  const float sides[] = {field->size.x, field->size.y, field->size.z};
  std::array<float, 3> scale;
  for (std::size_t i = 0; i < 3; ++i) scale[i] = 2 * half[i] / sides[i];
  if (!e.toggle("stretched")) scale.fill(std::min({scale[0], scale[1], scale[2]}));
  Point own, grows;
  for (std::size_t i = 0; i < 3; ++i) own[i] = b.mul(p[i], 1 / scale[i]);
  const std::array<Reg, 4> found = b.apply(kSolidDistance, {own[0], own[1], own[2]}, field, 4);
  for (std::size_t i = 0; i < 3; ++i) grows[i] = b.mul(found[i + 1], 1 / scale[i]);
  return b.div(found[0], length(b, grows));
}

Reg distance_to(Emitter& e, const Point& p, const std::array<float, 3>& half) {
  if (e.is("form", "ball")) return ellipsoid(e.b, p, half);
  if (e.is("form", "box")) return box(e.b, p, half);
  if (e.is("form", "wedge")) return wedge(e.b, p, half);
  return body(e, p, half);
}

void emit_volume_mask(Emitter& e) {
  Builder& b = e.b;
  const Point p = within(e);
  const std::array<float, 3> half{0.5f * e.real("size_x"), 0.5f * e.real("size_y"), 0.5f * e.real("size_z")};
  const Reg distance = distance_to(e, p, half);
  e.out("mask", b.sub(1, b.smoothstep(b.constant(0), b.constant(e.real("fall_off")), distance)));
  e.out("distance", distance);
}

Parameter size(const char* id, const char* label, double start) {
  return scalar(id, label, start)
      .metres()
      .useful(0.05, 1.5)
      .limits(1e-4, 1e4)
      .column("Size")
      .help("From side to side.");
}

Parameter centre(const char* id, const char* label, double start, const char* help) {
  return scalar(id, label, start).metres().useful(-0.7, 0.7).limits(-1e4, 1e4).column("Place").help(help);
}

}  // namespace

void add_volume_mask(Catalogue& catalogue) {
  const ActsWhen closed_mesh{"form == closed_mesh", "Only a closed mesh comes from a file."};
  catalogue.add(
      {.id = "volume_mask",
       .label = "Volume mask",
       .rack = Rack::mesh,
       .help = "1 within a ball, a box, a wedge or a closed mesh in space, fading outwards.",
       .more =
           "Distances are exact for box and wedge outside of their edges; a ball that is stretched keeps them within a "
           "few per cent. A closed mesh is kept as distances over a grid of 128 steps along its longest side: what is "
           "finer than a step is rounded off. Its parts may overlap; one with holes is refused. Without a file it is a "
           "mooring post. While it is shown, its handles on the drape move, stretch and turn it.",
       .words = "sphere cube region gradient falloff field",
       .inputs = {{"positions", "Positions", Kind::vector3}},
       .outputs = {{"mask", "Mask"}, {"distance", "Distance"}},
       .parameters = {choice("form", "Form", {"ball", "box", "wedge", "closed_mesh"})
                          .column("Volume")
                          .help("A wedge slopes down to its right."),
                      file("file", "File", {"glb", "obj", "ply"})
                          .column("Volume")
                          .acts_when(closed_mesh)
                          .help("The closed mesh; it is read again when it changes."),
                      toggle("stretched", "Stretched")
                          .column("Volume")
                          .acts_when(closed_mesh)
                          .help(
                              "To the size on all sides; otherwise it keeps its proportions and is as large as fits."),
                      scalar("fall_off", "Fall-off", 0.15)
                          .metres()
                          .useful(0, 0.5)
                          .limits(0, 1e4)
                          .column("Volume")
                          .help("How far outside the mask still fades; 0 is a hard edge."),
                      centre("centre_x", "Centre x", 0, "To the right."),
                      centre("centre_y", "Centre y", -0.45, "Upwards."),
                      centre("centre_z", "Centre z", 0.1, "Towards the camera as it starts."),
                      scalar("turn", "Turn", 0.0)
                          .degrees()
                          .useful(-180, 180)
                          .limits(-360, 360)
                          .column("Place")
                          .acts_when("(form != ball) + (size_x != size_z)",
                                     "A ball as broad as deep looks the same from all sides.")
                          .help("About the upright axis."),
                      size("size_x", "Size x", 1.0), size("size_y", "Size y", 0.4), size("size_z", "Size z", 0.8)},
       .emit = emit_volume_mask,
       .follows_positions = true,
       .surface = SurfaceUse::shape});
}

}  // namespace loom
