#include "core/nodes/recolour.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/graph/edit.h"
#include "core/nodes/oklab.h"

namespace loom {
namespace {

bool fits_screen(const std::array<double, 3>& rgb) {
  return std::all_of(rgb.begin(), rgb.end(), [](double x) { return x >= -1e-9 && x <= 1 + 1e-9; });
}

// Calls `take` with every colour that a parameter holds of its own; it may change it. False: there is none.
template <class Take>
bool each_colour(const Parameter& p, ParamValue& value, const Take& take) {
  if (auto* colour = std::get_if<Vector>(&value); colour && p.kind == ParameterKind::colour && colour->size() >= 3) {
    take(colour->data());
    return true;
  }
  if (auto* stops = std::get_if<Stops>(&value)) {
    for (ColourStop& s : *stops) take(s.colour.data());
    return true;
  }
  return false;
}

// Calls `take(node, parameter, value)` for what the nodes hold and for what they show unset.
template <class Take>
void each_value(const Material& m, const Catalogue& catalogue, const std::vector<std::string>& nodes,
                const Take& take) {
  for (const std::string& id : nodes) {
    const Node* n = m.node(id);
    const NodeType* type = n ? catalogue.find(n->type) : nullptr;
    if (!type) continue;
    const auto connected = [&](std::string_view peg) { return m.into(id, peg) != nullptr; };
    for (const Parameter& p : type->parameters) {
      const auto held = n->params.find(p.id);
      if (held != n->params.end() || parameter_acts(*type, p, n->params, connected))
        take(id, p, held == n->params.end() ? p.initial : held->second);
    }
  }
}

}  // namespace

std::array<double, 3> shifted(const std::array<double, 3>& colour, const ColourShift& by) {
  const auto lab = oklab_from_linear(colour);
  const double turn = by.hue * std::numbers::pi / 180, cosine = std::cos(turn), sine = std::sin(turn);
  const double lightness = std::max(lab[0] + by.lightness, 0.0), a = by.chroma * (lab[1] * cosine - lab[2] * sine),
               b = by.chroma * (lab[1] * sine + lab[2] * cosine);
  const auto at = [&](double share) { return linear_from_oklab({lightness, share * a, share * b}); };
  const double most = std::max({colour[0], colour[1], colour[2]});
  auto rgb = at(1);
  if (most <= 1 && !fits_screen(rgb)) {  // light beyond white has no screen to fit
    double least = 0, too_much = 1;
    for (int i = 0; i < 30; ++i) {
      const double middle = (least + too_much) / 2;
      (fits_screen(at(middle)) ? least : too_much) = middle;
    }
    rgb = at(least);
    for (double& x : rgb) x = std::min(x, 1.0);
  }
  for (double& x : rgb) x = std::max(x, 0.0);
  return rgb;
}

std::vector<std::array<double, 3>> colours_of(const Material& m, const Catalogue& catalogue,
                                              const std::vector<std::string>& nodes) {
  constexpr std::size_t kMost = 24;
  std::vector<std::array<double, 3>> all;
  each_value(m, catalogue, nodes, [&](const std::string&, const Parameter& p, ParamValue value) {
    each_colour(p, value, [&](const double* rgb) {
      const std::array<double, 3> colour{rgb[0], rgb[1], rgb[2]};
      if (all.size() < kMost && std::find(all.begin(), all.end(), colour) == all.end()) all.push_back(colour);
    });
  });
  return all;
}

Material recolour(Material m, const Catalogue& catalogue, const std::vector<std::string>& nodes,
                  const ColourShift& by) {
  Material next = m;
  each_value(m, catalogue, nodes, [&](const std::string& node, const Parameter& p, ParamValue value) {
    const bool any = each_colour(p, value, [&](double* rgb) {
      const auto now = shifted({rgb[0], rgb[1], rgb[2]}, by);
      std::copy(now.begin(), now.end(), rgb);
    });
    if (any) next = edit::set_param(std::move(next), node, p.id, value);
  });
  return next;
}

}  // namespace loom
