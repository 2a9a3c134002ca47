// The builder: a value is a step's index times four plus the number of its result.
#include "core/program/builder.h"

#include <algorithm>
#include <bit>

#include "core/base/hash.h"

namespace loom {
namespace {

std::uint32_t step_of(Reg r) { return r.id >> 2; }
Reg reg_of(std::uint32_t step, std::uint32_t result) { return Reg{step << 2 | result}; }

}  // namespace

Reg Builder::put(const Step& step) {
  std::uint64_t h = combine(static_cast<std::uint64_t>(step.op), step.aux);
  h = combine(h, reinterpret_cast<std::uintptr_t>(step.family));  // only finds what is there: no order follows from it
  for (int i = 0; i < step.sources; ++i) h = combine(h, step.source[static_cast<std::size_t>(i)].id);
  for (const std::uint32_t old : same_[h]) {
    const Step& s = steps_[old];
    if (s.op == step.op && s.family == step.family && s.aux == step.aux && s.sources == step.sources &&
        s.source == step.source)
      return reg_of(old, 0);
  }
  const auto index = static_cast<std::uint32_t>(steps_.size());
  steps_.push_back(step);
  steps_.back().origin = origin_;
  same_[h].push_back(index);
  return reg_of(index, 0);
}

Reg Builder::constant(float value) {
  if (value == 0) value = 0;  // one zero: which sign came first must not matter
  const auto bits = std::bit_cast<std::uint32_t>(value);
  if (const auto it = constant_of_.find(bits); it != constant_of_.end()) return it->second;
  constants_.push_back(value);
  const Reg r = put({.op = Op::constant, .aux = static_cast<std::uint32_t>(constants_.size() - 1)});
  constant_of_[bits] = r;
  return r;
}

const float* Builder::known(Reg a) const {
  const Step& step = steps_[step_of(a)];
  return step.op == Op::constant ? &constants_[step.aux] : nullptr;
}

const PlanePtr* Builder::loaded(Reg a) const {
  const Step& step = steps_[step_of(a)];
  return step.op == Op::load ? &planes_[step.aux] : nullptr;
}

Reg Builder::attribute(std::uint32_t index) { return put({.op = Op::attribute, .aux = index}); }

Reg Builder::u() {
  if (domain_.size_) return put({.op = Op::texel_u});
  return domain_.place_ == Domain::kNone ? constant(0) : attribute(domain_.place_);
}

Reg Builder::v() {
  if (domain_.size_) return put({.op = Op::texel_v});
  return domain_.place_ == Domain::kNone ? constant(0) : attribute(domain_.place_ + 1);
}

Reg Builder::footprint() {
  return domain_.width_ == Domain::kNone ? constant(domain_.footprint_) : attribute(domain_.width_);
}

std::array<Reg, 3> Builder::on_the_ball() {
  constexpr float kPi = 3.14159265f;
  const Reg round = mul(fract(u()), 2 * kPi), down = mul(fract(v()), kPi), wide = apply(Op::sine, down);
  return {mul(wide, apply(Op::sine, round)), apply(Op::cosine, down), mul(wide, apply(Op::cosine, round))};
}

std::array<Reg, 3> Builder::surface(SurfaceValue what) {
  if (domain_.surface_) {
    const std::uint32_t first = at(what);
    return {attribute(first), attribute(first + 1), attribute(first + 2)};
  }
  const auto constants = [&](const Direction& d) { return std::array{constant(d[0]), constant(d[1]), constant(d[2])}; };
  switch (what) {
    case SurfaceValue::place:
      return {u(), v(), footprint()};
    case SurfaceValue::light:
      return constants(domain_.light_);
    case SurfaceValue::part:
      return constants({part_key(""), 0, 0});
    default:
      break;
  }
  auto out = on_the_ball();
  if (what == SurfaceValue::position)
    for (Reg& r : out) r = mul(r, 0.5f);
  return out;
}

std::array<Reg, kMostNumbersOfMeasure> Builder::measured(const MeshMeasure& what) {
  std::array<Reg, kMostNumbersOfMeasure> out;
  out.fill(constant(0));
  if (domain_.surface_) {
    auto first = static_cast<std::uint32_t>(kSurfaceAttributes);
    std::size_t i = 0;
    for (; i < measures_.size() && measures_[i] != what; ++i)
      first += static_cast<std::uint32_t>(measures_[i].numbers());
    if (i == measures_.size()) measures_.push_back(what);
    for (std::uint32_t k = 0; k < what.numbers(); ++k) out[k] = attribute(first + k);
    return out;
  }
  const auto normal = on_the_ball();
  if (what.name == MeasureName::edges) std::copy(normal.begin(), normal.end(), &out[3]);
  if (what.name == MeasureName::openness) out = {constant(1), normal[0], normal[1], normal[2]};
  if (what.name == MeasureName::thickness) out[0] = constant(1);
  return out;
}

Reg Builder::read(const PlanePtr& plane) {
  if (domain_.size_ == plane->size()) return load(plane);
  ResourcePtr& levels = pyramids_[plane.get()];
  if (!levels) {
    auto made = std::make_shared<Sampled>();
    made->levels = pyramid(plane, 14);
    levels = std::move(made);
  }
  return apply(kSample, {u(), v(), footprint()}, levels, 1)[0];
}

Reg Builder::read(const std::shared_ptr<const Sampled>& map) {
  if (domain_.size_ == map->levels[0]->size()) return load(map->levels[0]);
  return apply(kSample, {u(), v(), footprint()}, map, 1)[0];
}

Reg Builder::read_labels(const PlanePtr& plane) {
  return domain_.size_ == plane->size() ? load(plane) : nearest(plane, u(), v());
}

Reg Builder::nearest(const PlanePtr& plane, Reg u, Reg v) {
  auto table = std::make_shared<Sampled>();
  table->levels = {plane};
  return apply(kNearest, {u, v}, std::move(table), 1)[0];
}

Reg Builder::opaque(Reg a) { return put({.op = Op::same, .sources = 1, .source = {a}}); }

// The footprint's number tells these from `opaque`, and u (odd) from v (even).
std::pair<Reg, Reg> Builder::placed(Reg u, Reg v, Reg footprint) {
  return {put({.op = Op::same, .sources = 1, .source = {u}, .aux = 2 * footprint.id + 1}),
          put({.op = Op::same, .sources = 1, .source = {v}, .aux = 2 * footprint.id + 2})};
}

Reg Builder::behind(Reg a) const {
  while (steps_[step_of(a)].op == Op::same) a = steps_[step_of(a)].source[0];
  return a;
}

Reg Builder::load(const PlanePtr& plane) {
  auto it = std::find(planes_.begin(), planes_.end(), plane);
  if (it == planes_.end()) it = planes_.insert(it, plane);
  return put({.op = Op::load, .aux = static_cast<std::uint32_t>(it - planes_.begin())});
}

// Constants are folded by the kernels themselves: a folded step has the bits of one that runs.
Reg Builder::folded(const Step& step) {
  Program one;
  Instruction code{.op = step.op, .sources = step.sources, .results = 1};
  for (std::size_t i = 0; i < step.sources; ++i) {
    one.constants.push_back(*known(step.source[i]));
    code.source[i] = static_cast<std::uint16_t>(kConstantBit | i);
  }
  one.code = {code};
  one.stores = {{0, 0}};
  one.registers = one.outputs = 1;
  float value = 0;
  float* out = &value;
  run_samples(one, 1, {}, {&out, 1}, Stop{});
  return constant(value);
}

Reg Builder::simpler(const Step& step, bool& found) {
  found = true;
  const Reg a = step.source[0], b = step.source[1];
  const float* ka = known(a);
  const float* kb = step.sources > 1 ? known(b) : nullptr;
  const auto is = [](const float* k, float v) { return k && *k == v; };
  switch (step.op) {
    case Op::add:
      if (is(ka, 0)) return b;
      if (is(kb, 0)) return a;
      break;
    case Op::subtract:
      if (is(kb, 0)) return a;
      break;
    case Op::multiply:
      if (is(ka, 1)) return b;
      if (is(kb, 1)) return a;
      if (is(ka, 0) || is(kb, 0)) return constant(0);
      break;
    case Op::divide:
      if (is(kb, 1)) return a;
      break;
    case Op::select:
      if (ka) return *ka != 0 ? b : step.source[2];
      if (b == step.source[2]) return b;
      break;
    case Op::multiply_add:
      if (is(ka, 0) || is(kb, 0)) return step.source[2];
      if (is(ka, 1)) return add(b, step.source[2]);
      if (is(kb, 1)) return add(a, step.source[2]);
      if (is(known(step.source[2]), 0)) return mul(a, b);
      break;
    default:
      break;
  }
  found = false;
  return {};
}

Reg Builder::apply(Op op, Reg a) {
  const Step step{.op = op, .sources = 1, .source = {a}};
  return known(a) ? folded(step) : put(step);
}

Reg Builder::apply(Op op, Reg a, Reg b) {
  const Step step{.op = op, .sources = 2, .source = {a, b}};
  if (known(a) && known(b)) return folded(step);
  bool found = false;
  const Reg r = simpler(step, found);
  return found ? r : put(step);
}

Reg Builder::apply(Op op, Reg a, Reg b, Reg c) {
  const Step step{.op = op, .sources = 3, .source = {a, b, c}};
  if (known(a) && known(b) && known(c)) return folded(step);
  bool found = false;
  const Reg r = simpler(step, found);
  return found ? r : put(step);
}

std::uint32_t Builder::resource(ResourcePtr r) {
  auto it = std::find(resources_.begin(), resources_.end(), r);
  if (it == resources_.end()) it = resources_.insert(it, std::move(r));
  return static_cast<std::uint32_t>(it - resources_.begin());
}

std::array<Reg, 4> Builder::apply(const Family& family, std::span<const Reg> sources, ResourcePtr r, int results) {
  Step step{.op = Op::family,
            .family = &family,
            .sources = static_cast<std::uint8_t>(sources.size()),
            .results = static_cast<std::uint8_t>(results)};
  std::copy(sources.begin(), sources.end(), step.source.begin());
  step.aux = resource(std::move(r));
  const std::uint32_t s = step_of(put(step));
  return {reg_of(s, 0), reg_of(s, 1), reg_of(s, 2), reg_of(s, 3)};
}

Reg Builder::random(Reg key_bits, std::uint32_t stream) {
  return put({.op = Op::random, .sources = 1, .source = {key_bits}, .aux = stream});
}

Reg Builder::bell(Reg key_bits, std::uint64_t stream) {
  const Reg length = random(key_bits, fold32(combine(stream, 1))), turn = random(key_bits, fold32(combine(stream, 2)));
  const Reg far = root(mul(apply(Op::logarithm, sub(1, length)), -2));
  return clamp(multiply_add(mul(far, apply(Op::cosine, mul(turn, 6.28318530718f))), constant(1.0f / 6), constant(0.5f)),
               0, 1);
}

void Builder::store(Reg value, int output) { stores_.emplace_back(value, output); }

bool Builder::has_step(std::size_t first, const std::function<bool(Op op, const Family* family)>& wanted) const {
  return std::any_of(steps_.begin() + static_cast<std::ptrdiff_t>(first), steps_.end(),
                     [&](const Step& s) { return wanted(s.op, s.family); });
}

Program Builder::build() {
  const std::size_t n = steps_.size();
  std::vector<std::size_t> last(n * 4, 0);  // where each value is read last
  std::vector<char> wanted(n, 0);
  for (auto& [value, output] : stores_) {
    value = behind(value);
    wanted[step_of(value)] = 1, last[value.id] = n;
  }
  for (std::size_t i = n; i-- > 0;) {
    if (!wanted[i]) continue;
    for (std::size_t k = 0; k < steps_[i].sources; ++k) {
      const Reg s = steps_[i].source[k] = behind(steps_[i].source[k]);
      wanted[step_of(s)] = 1;
      last[s.id] = std::max(last[s.id], i);
    }
  }
  Program program;
  program.constants = constants_;
  program.planes = planes_;
  program.resources = resources_;
  program.measures = measures_;
  std::vector<std::uint16_t> place(n * 4, 0);
  std::vector<std::uint16_t> free;
  std::vector<std::vector<std::uint32_t>> ends(n + 1);
  for (std::size_t i = 0; i < n; ++i) {
    if (!wanted[i]) continue;
    const Step& step = steps_[i];
    if (step.op == Op::constant) {
      place[i << 2] = static_cast<std::uint16_t>(kConstantBit | step.aux);
      continue;
    }
    Instruction code{
        .op = step.op, .family = step.family, .sources = step.sources, .results = step.results, .aux = step.aux};
    for (std::size_t k = 0; k < step.sources; ++k) code.source[k] = place[step.source[k].id];
    code.plain = step.sources >= 2 && steps_[step_of(step.source[0])].op == Op::texel_u &&
                 steps_[step_of(step.source[1])].op == Op::texel_v;
    for (std::size_t k = 0; k < step.results; ++k) {
      const std::size_t value = i << 2 | k;
      if (free.empty()) free.push_back(static_cast<std::uint16_t>(program.registers++));
      place[value] = code.result[k] = free.back();
      free.pop_back();
      ends[std::max(last[value], i)].push_back(static_cast<std::uint32_t>(value));
    }
    program.code.push_back(code);
    program.origins.push_back(step.origin);
    // A register read last here may be written from the next step on, so no kernel writes over what it still reads.
    for (const std::uint32_t value : ends[i]) free.push_back(place[value]);
  }
  for (const auto& [value, output] : stores_) {
    program.stores.push_back({place[value.id], static_cast<std::uint16_t>(output)});
    program.outputs = std::max(program.outputs, output + 1);
  }
  return program;
}

// ---- footprints: forward differentiation over the steps ----

Reg Builder::footprint(Reg x, Reg y) {
  const auto [xu, xv] = slope(x);
  const auto [yu, yv] = slope(y);
  // A place that stands still, as in steps of a floor, is as sharp as can be told.
  constexpr float kLeast = 1e-7f;
  return max(mul(max(length(xu, yu), length(xv, yv)), footprint()), constant(kLeast));
}

Slopes Builder::slope(Reg a) {
  if (const auto it = slopes_.find(a.id); it != slopes_.end()) return it->second;
  const Step step = steps_[step_of(a)];  // a copy: the vector grows below
  const Slopes found = slope_of_step(step, a);
  slopes_[a.id] = found;
  return found;
}

Slopes Builder::slope_of_step(const Step& step, Reg a) {
  const Reg zero = constant(0), one = constant(1);
  const auto chain = [&](Reg gain) {  // one operand, its slope times `gain`
    const auto [du, dv] = slope(step.source[0]);
    return Slopes{mul(du, gain), mul(dv, gain)};
  };
  const auto pick = [&](Reg condition, Reg yes, Reg no) {
    const auto [yu, yv] = slope(yes);
    const auto [nu, nv] = slope(no);
    return Slopes{select(condition, yu, nu), select(condition, yv, nv)};
  };
  const Reg p = step.source[0], q = step.source[1];
  switch (step.op) {
    case Op::texel_u:
      return {one, zero};
    case Op::texel_v:
      return {zero, one};
    case Op::attribute: {
      if (const std::uint32_t strand = step.aux - at(SurfaceValue::position); domain_.surface_ && strand < 3)
        return {attribute(at(SurfaceValue::along_u) + strand), attribute(at(SurfaceValue::along_v) + strand)};
      return {step.aux == domain_.place_ ? one : zero, step.aux == domain_.place_ + 1 ? one : zero};
    }
    case Op::load:
      return slope_of_plane(step.aux);
    case Op::same: {
      if (step.aux == 0) return slope(p);
      const Reg wide = div(Reg{(step.aux - 1) / 2}, footprint());
      return step.aux % 2 ? Slopes{wide, zero} : Slopes{zero, wide};
    }
    case Op::fraction:
    case Op::modulo:
      return slope(p);
    case Op::negate:
      return chain(constant(-1));
    case Op::absolute:
      return chain(apply(Op::sign, p));
    case Op::root:
      return chain(div(constant(0.5f), a));
    case Op::exponential:
      return chain(a);
    case Op::logarithm:
      return chain(div(one, p));
    case Op::sine:
      return chain(apply(Op::cosine, p));
    case Op::cosine:
      return chain(neg(apply(Op::sine, p)));
    case Op::tangent:
      return chain(multiply_add(a, a, one));
    case Op::arcsine:
      return chain(div(one, root(sub(one, mul(p, p)))));
    case Op::arccosine:
      return chain(div(constant(-1), root(sub(one, mul(p, p)))));
    case Op::arctangent:
      return chain(div(one, multiply_add(p, p, one)));
    case Op::add:
    case Op::subtract: {
      const auto [pu, pv] = slope(p);
      const auto [qu, qv] = slope(q);
      return {apply(step.op, pu, qu), apply(step.op, pv, qv)};
    }
    case Op::multiply: {
      const auto [pu, pv] = slope(p);
      const auto [qu, qv] = slope(q);
      return {multiply_add(pu, q, mul(p, qu)), multiply_add(pv, q, mul(p, qv))};
    }
    case Op::multiply_add: {
      const auto [pu, pv] = slope(p);
      const auto [qu, qv] = slope(q);
      const auto [cu, cv] = slope(step.source[2]);
      return {multiply_add(pu, q, multiply_add(p, qu, cu)), multiply_add(pv, q, multiply_add(p, qv, cv))};
    }
    case Op::divide: {
      const auto [pu, pv] = slope(p);
      const auto [qu, qv] = slope(q);
      return {div(sub(pu, mul(a, qu)), q), div(sub(pv, mul(a, qv)), q)};
    }
    case Op::power: {  // p^q: q p^(q-1) dp + p^q ln p dq
      const auto [pu, pv] = slope(p);
      const auto [qu, qv] = slope(q);
      const Reg by_base = mul(q, apply(Op::power, p, add(q, -1))), by_exponent = mul(a, apply(Op::logarithm, p));
      return {multiply_add(by_base, pu, mul(by_exponent, qu)), multiply_add(by_base, pv, mul(by_exponent, qv))};
    }
    case Op::arctangent2: {  // p = y, q = x
      const auto [yu, yv] = slope(p);
      const auto [xu, xv] = slope(q);
      const Reg square = multiply_add(p, p, mul(q, q));
      return {div(sub(mul(q, yu), mul(p, xu)), square), div(sub(mul(q, yv), mul(p, xv)), square)};
    }
    case Op::minimum:
      return pick(less(p, q), p, q);
    case Op::maximum:
      return pick(less(p, q), q, p);
    case Op::select:
      return pick(p, q, step.source[2]);
    case Op::smoothstep: {  // edges that stand still: 6 t (1 - t) / (to - from)
      const Reg t = clamp(div(sub(step.source[2], p), sub(q, p)), 0, 1);
      const Reg gain = div(mul(mul(t, sub(one, t)), 6), sub(q, p));
      const auto [xu, xv] = slope(step.source[2]);
      return {mul(xu, gain), mul(xv, gain)};
    }
    case Op::family:
      return slope_by_differences(step, a);
    default:  // level between jumps
      return {zero, zero};
  }
}

// Differences of the stored values. The smaller of both neighbours' counts: a jump, as where coordinates begin anew,
// has a side without it.
Slopes Builder::slope_of_plane(std::uint32_t plane) {
  auto table = std::make_shared<Sampled>();
  table->levels = {planes_[plane]};
  const auto both = apply(kDifferences, std::span<const Reg>(), table, 2);
  return {both[0], both[1]};
}

Slopes Builder::slope_by_differences(const Step& step, Reg a) {
  const int result = static_cast<int>(a.id & 3);
  const Reg zero = constant(0);
  const Family& family = *step.family;
  if (family.level >> result & 1 || (family.places == 0 && !family.slope)) return {zero, zero};
  const std::span<const Reg> sources(step.source.data(), step.sources);
  const ResourcePtr table = resources_[step.aux];
  if (family.slope) return family.slope(*this, sources, table, result);
  const auto along = [&](bool v) {
    std::array<Reg, kMostSources> moved = step.source;
    bool still = true;
    for (std::size_t k = 0; k < static_cast<std::size_t>(family.places); ++k) {
      const auto [su, sv] = slope(step.source[k]);
      const Reg s = v ? sv : su;
      const float* known_slope = known(s);
      still &= known_slope && *known_slope == 0;
      moved[k] = multiply_add(s, footprint(), step.source[k]);
    }
    if (still) return zero;
    const Reg there =
        apply(family, {moved.data(), step.sources}, table, step.results)[static_cast<std::size_t>(result)];
    return div(sub(there, a), footprint());
  };
  const Reg by_u = along(false);
  return {by_u, along(true)};
}

}  // namespace loom
