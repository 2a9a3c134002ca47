// `drape`: the lit picture.
#include "core/surface/drape.h"

#include <algorithm>
#include <cstdio>
#include <iostream>
#include <memory>

#include "cli/call.h"
#include "core/bolt/shown_mesh.h"
#include "core/bolt/worn_material.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"
#include "core/plane/colour.h"
#include "core/surface/environment_file.h"
#include "core/surface/unlit.h"
#include "core/weave/hem_maps.h"

namespace loom {
namespace {

struct DrapeCall {
  Source source;
  std::string shape, camera, light, key, environment = "north_hall", background = "plain", size = "768x768", unlit, out,
                                         mesh, contours;
  std::vector<std::string> parts;
  float scale = 1;
  float exposure = 0, turn = 0, repeats = 1, relief = 1;
  bool true_scale = false, clean = false;
  int samples = 64, maps = 2048;
};

// One to three numbers, separated by commas; the others stay.
bool numbers(const std::string& text, std::initializer_list<float*> to) {
  if (text.empty()) return true;
  std::size_t at = 0;
  for (float* number : to) {
    char* end = nullptr;
    const float value = std::strtof(text.c_str() + at, &end);
    const auto next = static_cast<std::size_t>(end - text.c_str());
    if (next == at || !std::isfinite(value)) return false;
    *number = value;
    if (next == text.size()) return true;
    if (text[next] != ',') return false;
    at = next + 1;
  }
  return false;
}

bool ground(const std::string& text, DrapeView& view) {
  unsigned r = 0, g = 0, b = 0;
  char rest = 0;
  if (text == "plain") return true;
  if (text == "none" || text == "environment") {
    view.background = text == "none" ? Background::none : Background::environment;
    return true;
  }
  if (text.size() != 7 || std::sscanf(text.c_str(), "#%2x%2x%2x%c", &r, &g, &b, &rest) != 3) return false;
  const auto linear = [](unsigned code) { return linear_from_srgb(static_cast<float>(code) / 255); };
  view.ground = {linear(r), linear(g), linear(b)};
  return true;
}

Result<Done> light_of(const DrapeCall& call, DrapeView& view) {
  const auto& names = environment_names();
  if (std::any_of(names.begin(), names.end(), [&](const auto& n) { return n.first == call.environment; })) {
    view.stand_in(call.environment);
  } else {
    auto own = read_environment(call.environment);
    if (!own) return own.error();
    if (own->mended)
      std::cerr << call.environment << ": warning: " << own->mended << " values are no light and count as 0\n";
    view.own = own->light;
    if (call.key.empty()) view.key = 0;  // such a picture holds its own sun
  }
  if (!numbers(call.light, {&view.light_degrees, &view.light_height}) || std::abs(view.light_height) > 90)
    return Error{"--light", "'" + call.light + "' is no direction", "Write AZIMUTH[,HEIGHT] in degrees"};
  if (!numbers(call.key, {&view.key, &view.key_size}) || view.key < 0 || view.key_size < 0 || view.key_size > 90)
    return Error{"--key", "'" + call.key + "' is no key light", "Write STRENGTH[,SIZE]: 0 is off, the size in degrees"};
  view.turn = call.turn;
  return Done{};
}

// On what it is shown where the call does not say: on what the document says.
ShapeName shape_of(const DrapeCall& call, const Material& m) {
  if (!call.mesh.empty() || (call.shape.empty() && !m.mesh.empty())) return ShapeName::block;  // a mesh's camera
  return shape_named(call.shape.empty() ? m.shape : call.shape).value_or(ShapeName::ball);
}

Result<DrapeView> view_of(const DrapeCall& call, const Material& m) {
  DrapeView view;
  char rest = 0;
  if (std::sscanf(call.size.c_str(), "%dx%d%c", &view.width, &view.height, &rest) != 2 || view.width < 16 ||
      view.height < 16 || view.width > 8192 || view.height > 8192)
    return Error{"--size", "'" + call.size + "' is no size of a picture", "Write it like 768x768"};
  view.shape = shape_of(call, m);
  Camera& c = view.camera = Camera::start(view.shape);
  if (!numbers(call.camera, {&c.azimuth, &c.height, &c.distance}) || std::abs(c.height) > 89 ||
      c.distance < Camera::kNearest || c.distance > Camera::kFarthest)
    return Error{"--camera", "'" + call.camera + "' is no place to look from",
                 "Write AZIMUTH,HEIGHT[,DISTANCE]: degrees, a height of -89 to 89, 1.02 to 40 radii"};
  if (!ground(call.background, view))
    return Error{"--background", "'" + call.background + "' is no background",
                 "Write environment, none, plain or a colour like #8a8782"};
  if (const auto lit = light_of(call, view); !lit) return lit.error();
  if (!view.contours.take(call.contours))
    return Error{"--contours", "'" + call.contours + "' names other lines than there are",
                 "Write some of outline,open,creases,parts"};
  view.exposure = call.exposure;
  view.repeats = call.repeats;
  view.true_scale = call.true_scale;
  view.relief_factor = call.relief;
  view.unlit = !call.unlit.empty();
  return view;
}

// What `--unlit` names: a slot's output or NODE.PEG.
Result<OutputRef> shown_output(const FlatGraph& graph, const std::string& name) {
  if (const auto slot = graph.hem.find(name); slot != graph.hem.end()) return slot->second;
  if (const auto output = graph.find(name)) return *output;
  return Error{"--unlit", "'" + name + "' is no output of this material",
               "Write a slot that is connected, or NODE.PEG"};
}

// That output as it is, on the relief of the height if there is one.
Result<HemMaps> unlit(const FlatGraph& graph, Weaver& weaver, const WeaveOptions& options, const DrapeCall& call) {
  const auto output = shown_output(graph, call.unlit);
  if (!output) return output.error();
  std::vector<Want> wants{*output};
  if (const auto height = graph.hem.find("height"); height != graph.hem.end())
    wants.emplace_back(height->second, Kind::scalar);
  const auto woven = weaver.weave(graph, wants, call.maps, Stop{}, options);
  if (!woven) return woven.error();
  const Field& shown = woven->fields[0];
  bool signs = false;
  for (int i = 0; i < strand_count(shown.kind); ++i)
    signs |= shown.kind != Kind::normal && range_of(*shown.strand[static_cast<std::size_t>(i)]).least < 0;
  HemMaps maps;
  maps.slots = unlit_slots(shown, signs, wants.size() > 1 ? &woven->fields[1] : nullptr);
  if (maps.slots.empty())
    return Error{"--unlit", "'" + call.unlit + "' holds several maps", "Name one behind Open set"};
  if (graph.surface_of(*output) == SurfaceUse::none) return maps;
  auto over =
      weaver.over_surface(graph, {{signs ? kUnlitAboutZero : kUnlit, Want(*output)}}, call.maps, Stop{}, options);
  if (!over) return over.error();
  maps.over_surface = std::make_shared<SurfaceProgram>(std::move(over->program));
  return maps;
}

Result<Worn> worn_by(const Common& common, const Material& m, std::span<const std::string> parts,
                     const DrapeCall& call) {
  const auto graph = flatten(m, catalogue());
  if (!graph) return graph.error();
  Weaver weaver(common.budget());
  WeaveOptions options;
  options.keep = false;
  if (!call.unlit.empty()) {
    const auto maps = unlit(*graph, weaver, options, call);
    if (!maps) return maps.error();
    return Worn(
        std::make_shared<const SurfaceMaps>(maps->slots, Extent{m.tile_metres, m.relief_metres}, maps->over_surface));
  }
  auto woven = weave_worn(weaver, *graph, parts, call.maps, Stop{}, options);
  if (!woven) return woven.error();
  return std::move(woven->worn);
}

Result<Done> put_mesh(const Common& common, const DrapeCall& call, const Material& m, DrapeView& view) {
  const bool own = call.mesh.empty() && call.shape.empty() && !m.mesh.empty();
  if (call.mesh.empty() && !own) {
    if (!call.parts.empty()) return Error{"--part", "there is no mesh", "Name one with --mesh"};
    return Done{};
  }
  auto mesh = own ? shown_mesh(m) : read_mesh(call.mesh, call.scale);
  if (!mesh) return mesh.error();
  for (const std::string& note : mesh->notes)
    if (!common.quiet) std::cerr << (own ? m.mesh : call.mesh) << ": warning: " << note << "\n";
  view.mesh = std::make_shared<MeshShape>(std::move(*mesh));
  return Done{};
}

// The material with its hems, and those that parts of a mesh have of their own: `--part NAME=FILE`.
Result<Worn> worn_of(const Common& common, const Material& m, const DrapeCall& call, const DrapeView& view) {
  const auto names = view.parts();
  if (view.mesh && !common.quiet)
    for (const std::string& gone : parts_not_there(m, names))
      std::cerr << call.source.file << ": warning: the mesh has no part '" << gone << "', whose hem is not shown\n";
  auto worn = worn_by(common, m, names, call);
  if (!worn) return worn.error();
  for (const std::string& part : call.parts) {
    if (!call.unlit.empty()) return Error{"--part", "shows nothing of the output of --unlit", "Leave out one of them"};
    const auto sign = part.find('=');
    const auto found = std::find(names.begin(), names.end(), part.substr(0, sign));
    std::string known;
    for (const std::string& name : names) known += (known.empty() ? "" : ", ") + name;
    if (sign == std::string::npos || found == names.end())
      return Error{"--part", "'" + part + "' names no part of the mesh", "Write NAME=FILE; its parts are " + known};
    const auto own = prepared({.file = part.substr(sign + 1)});
    if (!own) return own.error();
    const auto maps = worn_by(common, *own, {}, call);
    if (!maps) return maps.error();
    worn->of_part.resize(names.size());
    worn->of_part[static_cast<std::size_t>(found - names.begin())] = maps->maps;
  }
  return worn;
}

Result<Done> write(const DrapeCall& call, const Drape& drape) {
  const DrapeView& view = drape.view();
  if (call.out.ends_with(".exr")) return write_radiance(call.out, view.width, view.height, drape.radiance());
  return write_picture(call.out, view.width, view.height,
                       view.background == Background::none ? drape.picture_with_alpha() : drape.picture());
}

// What is wrong with an option is wrong usage.
int status_of(const Error& e) { return e.where.starts_with("--") ? kUsage : kInput; }

int drape(const Common& common, const DrapeCall& call) {
  const auto m = prepared(call.source);
  if (!m) return fail(call.source.file, m.error());
  const auto asked = view_of(call, *m);
  if (!asked) return fail(call.source.file, asked.error(), status_of(asked.error()));
  DrapeView view = *asked;
  if (const auto put = put_mesh(common, call, *m, view); !put)
    return fail(call.source.file, put.error(), status_of(put.error()));
  const auto worn = worn_of(common, *m, call, view);
  if (!worn) return fail(call.source.file, worn.error(), status_of(worn.error()));
  const auto report = progress_of(common);
  const auto told = [&](double share) {
    if (report) report(share, "measure");
  };
  const auto measured = measured_for(*worn, view, Stop{}, told);
  if (measured) view.measured = *measured;
  Drape picture(*worn, view);
  const int samples = call.clean ? 0 : call.samples;
  if (samples == 0) picture.first_answer(1, Stop{});
  for (int i = 0; i < samples; ++i) {
    picture.add_sample(Stop{});
    if (report) report((i + 1.0) / samples, "light");
  }
  picture.find_contours(Stop{});
  const auto done = write(call, picture);
  return done ? kDone : fail(call.out, done.error(), kWriting);
}

}  // namespace

std::function<int(const Common&)> drape_call(CLI::App* app) {
  const auto call = std::make_shared<DrapeCall>();
  std::vector<std::string> shapes;
  std::string environments;
  for (const auto& [id, label] : shape_names()) shapes.push_back(id);
  for (const auto& [id, label] : environment_names()) environments += id + ", ";
  add_options(app, call->source);
  app->add_option("--out", call->out, "X.png, or X.exr for linear radiance")->required();
  app->add_option("--shape", call->shape, "instead of the document's own, else the ball")->check(CLI::IsMember(shapes));
  app->add_option("--mesh", call->mesh, "OBJ, PLY, glTF or GLB, instead of a shape");
  app->add_option("--scale", call->scale, "of an OBJ or PLY mesh: metres for its unit")->check(CLI::Range(1e-6, 1e6));
  app->add_option("--part", call->parts, "NAME=FILE: the material of another document for a part of the mesh");
  app->add_option("--camera", call->camera, "AZIMUTH,HEIGHT[,DISTANCE]: degrees, radii of the shape");
  app->add_option("--light", call->light, "AZIMUTH[,HEIGHT] of the key light in degrees");
  app->add_option("--key", call->key,
                  "STRENGTH[,SIZE] of the key light: times its own in the environment, 0 is off; degrees");
  app->add_option("--environment", call->environment, environments + "or a picture twice as wide as high");
  app->add_option("--turn", call->turn, "of the environment in degrees");
  app->add_option("--background", call->background, "environment, none, plain or a colour like #8a8782");
  app->add_option("--relief", call->relief, "times the material's own depth")->check(CLI::Range(0.0, 16.0));
  app->add_option("--repeats", call->repeats, "of the tile")->check(CLI::Range(0.125, 64.0));
  app->add_flag("--true-scale", call->true_scale, "a tile as large as the material says, on a shape of one metre");
  app->add_option("--unlit", call->unlit, "a slot or NODE.PEG, as it is; in two colours where it is below 0");
  app->add_option("--contours", call->contours, "lines over a PNG: some of outline,open,creases,parts");
  app->add_option("--exposure", call->exposure, "in stops");
  app->add_option("--size", call->size, "WIDTHxHEIGHT");
  app->add_option("--samples", call->samples)->check(CLI::Range(0, 65536));
  app->add_flag("--clean", call->clean, "the frame without noise");
  app->add_option("--maps", call->maps, "the size of the maps")->check(CLI::IsMember({256, 512, 1024, 2048, 4096}));
  return [call](const Common& common) { return drape(common, *call); };
}

}  // namespace loom
