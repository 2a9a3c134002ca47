// What rays find about a place of a mesh: edges, the sky that is open, how thick it is.
#include "core/nodes/each_strand.h"

namespace loom {
namespace {

MeshMeasure asked(const Emitter& e, MeasureName name) {
  MeshMeasure what{.name = name, .rays = e.integer("rays"), .part_only = e.toggle("part_only")};
  if (name != MeasureName::thickness) {
    what.radius = e.real("radius");
    return what;
  }
  what.radius = 1;
  what.spread = e.real("spread");
  if (!(what.spread > 0)) what.rays = 1;
  return what;
}

Strands direction(const std::array<Reg, kMostNumbersOfMeasure>& found, std::size_t from) {
  return {.kind = Kind::vector3, .at = {found[from], found[from + 1], found[from + 2]}};
}

void emit_convex(Emitter& e) { e.out("mask", e.b.measured(asked(e, MeasureName::edges))[kConvex]); }
void emit_concave(Emitter& e) { e.out("mask", e.b.measured(asked(e, MeasureName::edges))[kConcave]); }

void emit_angle(Emitter& e) {
  const Reg turn = e.b.measured(asked(e, MeasureName::edges))[kTurn];
  e.out("degrees", e.toggle("signed") ? turn : e.b.abs(turn));
}

void emit_rounded(Emitter& e) {
  const Strands normal = direction(e.b.measured(asked(e, MeasureName::edges)), kRoundedNormal);
  const auto shape = e.b.surface(SurfaceValue::normal);
  e.out("normal", normal);
  e.out("dot", dot(e.b, normal, {.kind = Kind::vector3, .at = {shape[0], shape[1], shape[2]}}));
}

void emit_occlusion(Emitter& e) { e.out("open", e.b.measured(asked(e, MeasureName::openness))[kOpen]); }
void emit_bent(Emitter& e) { e.out("normal", direction(e.b.measured(asked(e, MeasureName::openness)), kBentNormal)); }
void emit_thickness(Emitter& e) { e.out("metres", e.b.measured(asked(e, MeasureName::thickness))[kMetres]); }

Parameter radius() {
  return scalar("radius", "Radius", 0.04)
      .share()
      .useful(0.005, 0.25)
      .limits(1e-4, 4)
      .column("Rays")
      .help("How far rays look, a share of the longest side of the mesh.");
}

ParameterBuilder rays() {
  return integer("rays", "Rays", 64)
      .count()
      .useful(16, 256)
      .limits(4, kMostRays)
      .column("Rays")
      .help("How many start at a point; more give less grain.");
}

Parameter part_only() {
  return toggle("part_only", "This part only", false)
      .column("Rays")
      .help("As if no other part of the mesh were there.");
}

NodeType measure(const char* id, const char* label, std::vector<Peg> outputs, void (*emit)(Emitter&)) {
  NodeType t;
  t.id = id;
  t.label = label;
  t.rack = Rack::mesh;
  t.outputs = std::move(outputs);
  t.emit = emit;
  t.parameters = {radius(), rays(), part_only()};
  t.surface = SurfaceUse::shape;
  t.follows_positions = true;
  return t;
}

void add_edges(Catalogue& catalogue) {
  constexpr const char* kMore =
      "Found by rays to all sides, whatever the mesh's division and its shading normals. Nodes with the same radius "
      "and rays are measured once. Where the lit view wears no mesh, it is the shape's own.";
  NodeType t = measure("convex_edges", "Convex edges", {{"mask", "Mask"}}, emit_convex);
  t.help = "0 on a flat, more the more of the solid is cut off near by: outer edges and corners.";
  t.more = std::string("A right-angled edge gives 0.5, its corner 0.75 and a spike more. ") + kMore;
  t.words = "curvature wear outer corner chipped exposed";
  catalogue.add(t);

  t = measure("concave_edges", "Concave edges", {{"mask", "Mask"}}, emit_concave);
  t.help = "0 on a flat, more the more stands up near by: grooves and inner corners.";
  t.more = std::string("A right-angled groove gives 0.5. ") + kMore;
  t.words = "curvature cavity crevice dirt inner corner";
  catalogue.add(t);

  t = measure("edge_angle", "Edge angle", {{"degrees", "Degrees"}}, emit_angle);
  t.help = "By how many degrees the faces near by turn away: 0 on a flat, 90 at a cube's edge.";
  t.more = std::string("The mean over what the rays meet within the radius, nearest counting most. ") + kMore;
  t.words = "dihedral crease sharpness";
  t.parameters.push_back(
      toggle("signed", "Signed", true).column("Angle").help("Outer edges positive, inner ones negative."));
  catalogue.add(t);

  t = measure("rounded_edge", "Rounded edge", {{"normal", "Normal", Kind::vector3}, {"dot", "Dot"}}, emit_rounded);
  t.help = "The normal as if edges were rounded, and its cosine to the shape's own: 1 on a flat, less at edges.";
  t.more = std::string("At a right-angled edge the cosine is 0.71. ") + kMore;
  t.words = "bevel shader smooth worn softened";
  catalogue.add(t);
}

void add_openness(Catalogue& catalogue) {
  NodeType t = measure("mesh_occlusion", "Mesh occlusion", {{"open", "Open"}}, emit_occlusion);
  t.help = "The share of the sky over the place in which the mesh stands in nobody's way: 1 open, 0 shut in.";
  t.more = "Directions count by their cosine to the place's normal; what lies beyond the radius is not seen.";
  t.words = "ambient ao cavity dust crevice";
  catalogue.add(t);

  t = measure("bent_normal", "Bent normal", {{"normal", "Normal", Kind::vector3}}, emit_bent);
  t.help = "The mean of the directions in which the sky is open.";
  t.words = "ambient direction unoccluded";
  catalogue.add(t);
}

void add_thickness(Catalogue& catalogue) {
  NodeType t = measure("thickness", "Thickness", {{"metres", "Metres", Kind::scalar}}, emit_thickness);
  t.help = "How far it is inwards to the other side, in metres.";
  t.more = "Where the mesh has no other side, the longest side of its box.";
  t.words = "depth translucency subsurface thin";
  t.parameters = {scalar("spread", "Spread", 0.0)
                      .degrees()
                      .useful(0, 120)
                      .limits(0, 180)
                      .column("Rays")
                      .help("The mean over a cone this wide; 0 is straight inwards."),
                  rays().acts_when("spread > 0", "Straight inwards one ray tells it all."), part_only()};
  catalogue.add(t);
}

}  // namespace

void add_measures(Catalogue& catalogue) {
  add_edges(catalogue);
  add_openness(catalogue);
  add_thickness(catalogue);
}

}  // namespace loom
