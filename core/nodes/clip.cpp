#include "core/nodes/clip.h"

namespace loom {

Reg clipped(const Emitter& e, Reg value) {
  if (!e.toggle("clip")) return value;
  Builder& b = e.b;
  const float low = e.real("clip_low"), high = e.real("clip_high");
  // Ends that meet make a hard step.
  if (low == high) return b.less(b.constant(low), value);
  return b.clamp(b.div(b.add(value, -low), b.constant(high - low)), 0, 1);
}

std::vector<Parameter> clip_parameters() {
  const ActsWhen on{"clip", "Nothing is clipped."};
  return {toggle("clip", "Clip").column("Range").help("Cuts the values off at two ends and fills the range between."),
          scalar("clip_low", "Low end", 0.25)
              .limits(-1e4, 1e4)
              .column("Range")
              .acts_when(on)
              .help("What lies here or lower becomes 0."),
          scalar("clip_high", "High end", 0.75)
              .limits(-1e4, 1e4)
              .column("Range")
              .acts_when(on)
              .help("What lies here or higher becomes 1.")};
}

}  // namespace loom
