// Warp: reads a map from places that a second map pushes away, once or in several pushes.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/moved.h"

namespace loom {
namespace {

// A slope of 1 over a tenth of the tile moves by the whole amount.
constexpr float kSlopeUnit = 0.1f;

// Where each texel is pushed by the first push: `by` times two planes, in shares of the tile. Later pushes turn it.
struct Push {
  PlanePtr u, v;
  float by;
};

// The drive's value less one half, along one direction; by nothing at all where the drive does not push.
Push push_along(const AreaCall& call, const Plane& drive) {
  const float angle = call.real("direction") * 0.017453292519943f, c = std::cos(angle), s = -std::sin(angle);
  const bool by_angle = call.is("by", "angle");
  auto u = std::make_shared<Plane>(call.size()), v = std::make_shared<Plane>(call.size());
  for_rows(call.size(), 64, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < call.size(); ++x) {
        const float d = by_angle ? drive.row(y)[x] - 0.5f : 0.0f;
        u->row(y)[x] = c * d;
        v->row(y)[x] = s * d;
      }
  });
  return {u, v, call.real("amount")};
}

// Summed row by row, so that it does not depend on the number of threads.
double mean_square(const Plane& p) {
  double sum = 0;
  for (int y = 0; y < p.size(); ++y) {
    double row = 0;
    for (int x = 0; x < p.size(); ++x) row += static_cast<double>(p.row(y)[x]) * static_cast<double>(p.row(y)[x]);
    sum += row;
  }
  return sum / static_cast<double>(p.texels());
}

Push push_of(const AreaCall& call) {
  const float amount = call.real("amount");
  if (const Field* offset = call.is("by", "offset_map") ? call.in("offset") : nullptr)
    return {offset->strand[0], offset->strand[1], amount};
  const PlanePtr drive = call.plane("drive");
  if (!call.is("by", "slope")) return push_along(call, *drive);
  auto u = std::make_shared<Plane>(call.size()), v = std::make_shared<Plane>(call.size());
  slopes(*drive, *u, *v, call.stop);
  if (!call.toggle("even_slope")) return {u, v, amount * kSlopeUnit};
  const double mean = mean_square(*u) + mean_square(*v);
  return {u, v, mean > 0 ? amount / static_cast<float>(std::sqrt(mean)) : 0};
}

void merge(Plane& sum, const Plane& next, const std::string& how, const Stop& stop) {
  for_rows(sum.size(), 64, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      float* a = sum.row(y);
      const float* b = next.row(y);
      const int size = sum.size();
      if (how == "maximum")
        for (int x = 0; x < size; ++x) a[x] = std::max(a[x], b[x]);
      else if (how == "minimum")
        for (int x = 0; x < size; ++x) a[x] = std::min(a[x], b[x]);
      else if (how == "multiply")
        for (int x = 0; x < size; ++x) a[x] *= b[x];
      else if (how == "screen")
        for (int x = 0; x < size; ++x) a[x] = a[x] + b[x] - a[x] * b[x];
      else if (how == "difference")
        for (int x = 0; x < size; ++x) a[x] = std::abs(a[x] - b[x]);
      else
        for (int x = 0; x < size; ++x) a[x] += b[x];
    }
  });
}

// One map, pushed as often as asked.
Field pushed(const AreaCall& call, const Push& push, const Field& map) {
  const int pushes = call.integer("pushes");
  const float fan = call.real("fan") * 0.017453292519943f;
  // The mean of labels means nothing, nor does the greater of two directions.
  std::string how = pushes > 1 ? call.word("merge") : "mean";
  if (map.kind == Kind::regions) how = "in_turn";
  if (map.kind == Kind::normal && how != "in_turn") how = "mean";
  Field sum;
  for (int k = 0; k < pushes && !call.stop.asked(); ++k) {
    // Round the whole circle the last push must not repeat the first.
    const float share = std::abs(call.real("fan")) >= 359.99f ? static_cast<float>(k) / static_cast<float>(pushes)
                        : pushes > 1                          ? static_cast<float>(k) / static_cast<float>(pushes - 1)
                                                              : 0;
    const Offset offset{*push.u, *push.v, push.by * std::cos(fan * share), push.by * std::sin(fan * share)};
    Field next = moved_by(k > 0 && how == "in_turn" ? sum : map, offset, call.stop);
    if (k == 0 || how == "in_turn") {
      sum = std::move(next);
      continue;
    }
    for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(map.kind)); ++i) {
      Plane merged = sum.strand[i]->clone();
      merge(merged, *next.strand[i], how, call.stop);
      sum.strand[i] = std::make_shared<Plane>(std::move(merged));
    }
  }
  if (how != "mean" || pushes == 1) return sum;
  if (map.kind == Kind::normal) {
    normalise(sum, call.stop);
    return sum;
  }
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(map.kind)); ++i) {
    Plane mean = sum.strand[i]->clone();
    for_rows(call.size(), 64, call.stop, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < call.size(); ++x) mean.row(y)[x] *= 1.0f / static_cast<float>(pushes);
    });
    sum.strand[i] = std::make_shared<Plane>(std::move(mean));
  }
  return sum;
}

Result<Done> evaluate_warp(AreaCall& call) {
  const Field* source = call.in("source");
  if (!source) {
    call.out("result", Plane::filled(call.size(), call.real("source")));
    return Done{};
  }
  const Push push = push_of(call);
  call.out("result", map_by_map(*source, [&](const Field& map) { return pushed(call, push, map); }));
  return call.done();
}

}  // namespace

void add_warp(Catalogue& catalogue) {
  const ActsWhen driven{
      "connected(source) * (connected(drive) * (by != offset_map) + connected(offset) * (by == offset_map))",
      "Connect a source, and what drives it, first."};
  const ActsWhen several{
      "connected(source) * (pushes > 1) * (connected(drive) * (by != offset_map) + connected(offset) * (by == "
      "offset_map))",
      "There is only one push."};
  catalogue.add(
      {.id = "warp",
       .label = "Warp",
       .rack = Rack::move,
       .help = "Pushes a map about by the slopes or the values of another, or by a map of offsets; once, or in pushes "
               "round a fan.",
       .more = "By slope: the place moves by amount x slope / 10, slopes per tile width. By angle: along one direction "
               "by the drive's value less one half. By offset map: by its vector. Passes turn the push evenly over the "
               "fan and are merged: the mean is soft, the maximum grows, the minimum eats; in turn, each push reads "
               "the last. Read bilinear.",
       .words = "distort displace deform bend directional ink",
       .inputs = {{"source", "Source", Kind::any},
                  {"drive", "Drive", Kind::scalar},
                  {"offset", "Offset", Kind::vector2}},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters =
           {stand_in("source", "Source", 0.0, "Input"),
            choice("by", "By", {"slope", "angle", "offset_map"})
                .column("Drive")
                .acts_when("connected(source) * max(connected(drive), connected(offset))",
                           "Connect a source, and what drives it, first.")
                .help("What drives it: the slopes of the drive, its values along one direction, or a map of offsets."),
            scalar("amount", "Amount", 0.02)
                .share_of_tile()
                .useful(-0.2, 0.2)
                .limits(-4, 4)
                .column("Drive")
                .acts_when(driven)
                .help("How far it is pushed; below 0 it is pulled."),
            toggle("even_slope", "Even slope")
                .column("Drive")
                .acts_when("(by == slope) * connected(source) * connected(drive)", "The drive's slope does not push.")
                .help("Divides the slope by its own root mean square, so that the amount is the mean push and one "
                      "noise can be "
                      "exchanged for another."),
            scalar("direction", "Direction", 0.0)
                .degrees()
                .useful(0, 360)
                .limits(-3600, 3600)
                .column("Drive")
                .acts_when("(by == angle) * connected(source) * connected(drive)", "The drive gives the direction.")
                .help("Which way it runs, in degrees anticlockwise from the right."),
            integer("pushes", "Pushes", 1)
                .count()
                .useful(1, 8)
                .limits(1, 24)
                .column("Fan")
                .acts_when(driven)
                .help("How many times it is pushed, each time turned on by a share of the fan."),
            scalar("fan", "Fan", 180.0)
                .degrees()
                .useful(0, 360)
                .limits(-360, 360)
                .column("Fan")
                .acts_when(several)
                .help("Over how many degrees the pushes are turned."),
            choice("merge", "Merge", {"mean", "maximum", "minimum", "multiply", "screen", "difference", "in_turn"})
                .column("Fan")
                .acts_when(several)
                .help("What becomes of the pushes: their mean, the highest, the lowest and so on, or each reads the "
                      "one before.")},
       .evaluate = evaluate_warp,
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true});
}

}  // namespace loom
