// Tone, Remap, Clamp, Clamp 0-1, Invert, Threshold, Pick range: functions of one value.
#include <algorithm>
#include <cmath>

#include "core/nodes/each_strand.h"

namespace loom {

std::shared_ptr<CurveTable> smooth_curve(const Points& given) {
  Points points = given;
  std::stable_sort(points.begin(), points.end(), [](const CurvePoint& a, const CurvePoint& b) { return a.x < b.x; });
  auto table = std::make_shared<CurveTable>();
  if (points.empty()) return table;
  table->before = static_cast<float>(points.front().y);
  table->after = static_cast<float>(points.back().y);
  const std::size_t n = points.size();
  std::vector<double> secant, slope(n, 0);
  for (std::size_t i = 0; i + 1 < n; ++i)
    secant.push_back((points[i + 1].y - points[i].y) / std::max(points[i + 1].x - points[i].x, 1e-9));
  for (std::size_t i = 0; i < n; ++i) {
    const double left = i > 0 ? secant[i - 1] : secant.empty() ? 0 : secant[0], right = i + 1 < n ? secant[i] : left;
    slope[i] = left * right <= 0 ? 0 : 2 * left * right / (left + right);
  }
  for (std::size_t i = 0; i + 1 < n; ++i) {
    const double wide = points[i + 1].x - points[i].x;
    table->pieces.push_back({static_cast<float>(points[i].x), static_cast<float>(points[i + 1].x),
                             static_cast<float>(points[i].y), static_cast<float>(points[i + 1].y),
                             static_cast<float>(slope[i] * wide), static_cast<float>(slope[i + 1] * wide)});
  }
  return table;
}

namespace {

// Over all strands of the value.
Range range_of_input(const Emitter& e) {
  const Field* f = e.whole("value");
  if (!f) return {0, 1, 0};
  Range all = range_of(*f->strand[0]);
  for (std::size_t i = 1; i < static_cast<std::size_t>(strand_count(f->kind)); ++i) {
    const Range r = range_of(*f->strand[i]);
    all.least = std::min(all.least, r.least);
    all.most = std::max(all.most, r.most);
  }
  return all;
}

// The new range; on demand nothing leaves it.
Reg between_ends(const Emitter& e, const char* low, const char* high, Reg t) {
  Builder& b = e.b;
  return b.mix(b.constant(e.real(low)), b.constant(e.real(high)), e.toggle("clamp") ? b.clamp(t, 0, 1) : t);
}

Reg shaped(Emitter& e, Reg x) {
  Builder& b = e.b;
  float black = e.real("black"), white = e.real("white");
  const float middle = e.real("middle");
  if (e.toggle("full_range")) {  // black and white are shares of what the map holds
    const Range r = range_of_input(e);
    const float span = r.most - r.least;
    black = r.least + span * black;
    white = r.least + span * white;
  }
  // Where black meets white the line becomes a hard step.
  Reg t = white == black ? b.less(b.constant(black), x) : b.div(b.add(x, -black), b.constant(white - black));
  // The middle goes to one half: t^g with g = log 1/2 / log middle. Below 0 the line goes on straight.
  if (middle != 0.5f) {
    const float gamma = std::log(0.5f) / std::log(std::clamp(middle, 0.001f, 0.999f));
    t = b.select(b.less(t, b.constant(0)), t, b.apply(Op::power, t, b.constant(gamma)));
  }
  if (const auto* points = std::get_if<Points>(&e.param("curve")); points && points->size() > 1) {
    const Reg inside = b.clamp(t, 0, 1), outside = b.sub(t, inside);
    t = b.add(b.apply(kCurve, {inside}, smooth_curve(*points), 1)[0], outside);
  }
  return between_ends(e, "low", "high", t);
}

void emit_tone(Emitter& e) {
  e.out("value", each_strand(e.in("value"), [&](Reg x) { return shaped(e, x); }));
}

void emit_remap(Emitter& e) {
  Builder& b = e.b;
  e.out("value", each_strand(e.in("value"), [&](Reg x) {
          const float low = e.real("from_low"), high = e.real("from_high");
          const Reg t = low == high ? b.less(b.constant(low), x) : b.div(b.add(x, -low), b.constant(high - low));
          return between_ends(e, "to_low", "to_high", t);
        }));
}

void emit_threshold(Emitter& e) {
  Builder& b = e.b;
  const float level = e.real("level"), half = 0.5f * e.real("softness");
  e.out("mask", b.smoothstep(b.constant(level - half), b.constant(level + half), e.scalar("value")));
}

void emit_pick_range(Emitter& e) {
  Builder& b = e.b;
  const float half = 0.5f * e.real("width"), outer = half + e.real("softness");
  const Reg off = b.abs(b.sub(e.scalar("value"), e.scalar("centre")));
  e.out("mask", outer > half ? b.smoothstep(b.constant(outer), b.constant(half), off)
                             : b.apply(Op::less_equal, off, b.constant(half)));
}

Parameter clamped(const char* column) {
  return toggle("clamp", "Clamp").column(column).help("Nothing leaves the new range; else what lies beyond lives on.");
}

Parameter value_parameter() { return stand_in("value", "Value", 0.5, "Input"); }

}  // namespace

void add_tone(Catalogue& catalogue) {
  const std::vector<Peg> any_in{{"value", "Value", Kind::any}}, any_out{{"value", "Value", Kind::any}};
  catalogue.add(
      {.id = "tone",
       .label = "Tone",
       .rack = Rack::tone,
       .help = "Sets black, white and middle, bends by a curve, and gives a new range; on demand over all that the map "
               "holds.",
       .more = "Values outside 0 to 1 live on: the line goes on straight below black and beyond the curve. The curve "
               "is monotone cubic (Fritsch and Carlson 1980).",
       .words = "levels contrast brightness gamma histogram curve normalize auto stretch",
       .inputs = {{.id = "value", .label = "Value", .kind = Kind::any, .whole_when = "full_range"}},
       .outputs = any_out,
       .parameters =
           {value_parameter(),
            scalar("black", "Black", 0.0).limits(-1e4, 1e4).column("Range").help("What becomes the low end."),
            scalar("middle", "Middle", 0.5)
                .share()
                .useful(0.05, 0.95)
                .limits(0.001, 0.999)
                .column("Range")
                .help("Where between black and white the value lies that becomes one half."),
            scalar("white", "White", 1.0).limits(-1e4, 1e4).column("Range").help("What becomes the high end."),
            toggle("full_range", "Full range")
                .column("Range")
                .acts_when("connected(value)", "A single value has no range: connect a map.")
                .help("Black and white count from the least to the most that the whole map holds."),
            scalar("low", "Low end", 0.0).limits(-1e4, 1e4).column("Result").help("The value that black is given."),
            scalar("high", "High end", 1.0).limits(-1e4, 1e4).column("Result").help("The value that white is given."),
            clamped("Result"),
            points("curve", "Curve")
                .limits(-1e4, 1e4)
                .column("Curve")
                .help("Bends what lies between black and white.")},
       .emit = emit_tone});
  catalogue.add(
      {.id = "remap",
       .label = "Remap",
       .rack = Rack::tone,
       .help = "Takes one range to another, straight.",
       .words = "fit scale range map",
       .inputs = any_in,
       .outputs = any_out,
       .parameters = {value_parameter(),
                      scalar("from_low", "From low", 0.0)
                          .limits(-1e4, 1e4)
                          .column("From")
                          .help("The value that becomes the new low."),
                      scalar("from_high", "From high", 1.0)
                          .limits(-1e4, 1e4)
                          .column("From")
                          .help("The value that becomes the new high."),
                      scalar("to_low", "To low", 0.0).limits(-1e4, 1e4).column("To").help("What the low becomes."),
                      scalar("to_high", "To high", 1.0).limits(-1e4, 1e4).column("To").help("What the high becomes."),
                      clamped("To")},
       .emit = emit_remap});
  catalogue.add(
      {.id = "clamp",
       .label = "Clamp",
       .rack = Rack::tone,
       .help = "Keeps values between two bounds.",
       .words = "limit cut saturate",
       .inputs = any_in,
       .outputs = any_out,
       .parameters =
           {value_parameter(),
            scalar("minimum", "Minimum", 0.0).limits(-1e6, 1e6).column("Bounds").help("What lies lower becomes this."),
            scalar("maximum", "Maximum", 1.0)
                .limits(-1e6, 1e6)
                .column("Bounds")
                .help("What lies higher becomes this.")},
       .emit = [](Emitter& e) {
         e.out("value",
               each_strand(e.in("value"), [&](Reg x) { return e.b.clamp(x, e.real("minimum"), e.real("maximum")); }));
       }});
  catalogue.add({.id = "clamp_0_1",
                 .label = "Clamp 0–1",
                 .rack = Rack::tone,
                 .help = "Keeps values between 0 and 1.",
                 .words = "saturate limit",
                 .inputs = any_in,
                 .outputs = any_out,
                 .parameters = {value_parameter()},
                 .emit = [](Emitter& e) {
                   e.out("value", each_strand(e.in("value"), [&](Reg x) { return e.b.clamp(x, 0, 1); }));
                 }});
  catalogue.add(
      {.id = "invert",
       .label = "Invert",
       .rack = Rack::tone,
       .help = "One minus the value.",
       .words = "negative reverse flip",
       .inputs = any_in,
       .outputs = any_out,
       .parameters = {value_parameter()},
       .emit = [](Emitter& e) { e.out("value", each_strand(e.in("value"), [&](Reg x) { return e.b.sub(1, x); })); }});
  catalogue.add({.id = "threshold",
                 .label = "Threshold",
                 .rack = Rack::tone,
                 .help = "White from a level on, black below, soft between if asked.",
                 .words = "step binary cut mask",
                 .inputs = {{"value", "Value"}},
                 .outputs = {{"mask", "Mask"}},
                 .parameters = {value_parameter(),
                                scalar("level", "Level", 0.5)
                                    .limits(-1e4, 1e4)
                                    .column("Threshold")
                                    .help("From here up it is white, below it is black."),
                                scalar("softness", "Softness", 0.02)
                                    .useful(0, 0.5)
                                    .limits(0, 1e4)
                                    .column("Threshold")
                                    .help("Over how wide a range of values black goes to white.")},
                 .emit = emit_threshold});
  catalogue.add({.id = "pick_range",
                 .label = "Pick range",
                 .rack = Rack::tone,
                 .help = "Keeps the values about a centre, drops the rest.",
                 .words = "select band isolate range between",
                 .inputs = {{"value", "Value"}, {"centre", "Centre"}},
                 .outputs = {{"mask", "Mask"}},
                 .parameters = {value_parameter(),
                                scalar("centre", "Centre", 0.5)
                                    .limits(-1e4, 1e4)
                                    .column("Range")
                                    .acts_when("connected(centre) == 0", "The centre comes in at its peg.")
                                    .help("The value in the middle of the range."),
                                scalar("width", "Width", 0.2)
                                    .limits(0, 1e4)
                                    .column("Range")
                                    .help("How wide the range is in which the mask is 1."),
                                scalar("softness", "Softness", 0.1)
                                    .useful(0, 0.5)
                                    .limits(0, 1e4)
                                    .column("Range")
                                    .help("How far beyond the range the mask fades to 0.")},
                 .emit = emit_pick_range});
}

}  // namespace loom
