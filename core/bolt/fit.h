// Fitting a material to a picture: dials are turned until the base colour is like it.
#pragma once
#include <functional>
#include <string>
#include <vector>

#include "core/base/stop.h"
#include "core/graph/material.h"
#include "core/graph/node_type.h"
#include "core/io/image.h"
#include "core/weave/weaver.h"

namespace loom {

struct FitWish {
  std::vector<std::string> dials{};  ///< identifiers or labels; empty: all numbers, whole numbers, switches and colours
  double seconds = 60;
  double scale = 1;     ///< how many tiles the picture is wide
  int tries = 1 << 20;  ///< states at most
};

/// How far it has come.
struct FitState {
  Material material;
  double unlikeness = 0;  ///< see core/proof/likeness.h
  int tried = 0;
  double seconds = 0;
};

struct Fitted {
  FitState best;
  double before = 0;                      ///< how unlike it was at first
  std::vector<std::string> turned, idle;  ///< dials by label; idle ones change nothing in what is compared
  bool in_time = true;                    ///< false: it ended since its time was over
};

/// Dials that can be turned to fit: numbers, whole numbers, switches and colours.
std::vector<const Value*> dials_to_fit(const Material& material);

/// Turns the dials within what their sliders span, whole numbers in steps. It ends when nothing is gained any more,
/// when the time is over or `stop` is asked, and then gives the best that it found. `better`: called for each state
/// that is better than all before. The middle square of the picture is compared, taken to be as wide as the tile times
/// `scale`.
/// Method   NLopt: a model of second order about the best (Powell's BOBYQA, 2009) and controlled random search over all
///          (Price 1983; Kaelo and Ali 2006) in turn, and starts by chance; where a state takes long, first half as
///          fine. Where the picture then lies over the tile itself, the best is refined pixel by pixel, and the search
///          ends once no more is left than eight bits leave. The same wish goes through the same states, but for where
///          time ends it.
/// Error    a dial that there is not or that is none of these; a material without base colour, or whose base colour
///          depends on the shape; a fault of the material.
Result<Fitted> fit(const Material& material, const Catalogue& catalogue, const Image& picture, const FitWish& wish,
                   const std::function<void(const FitState&)>& better, const Stop& stop);

}  // namespace loom
