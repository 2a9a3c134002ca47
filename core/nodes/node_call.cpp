// Reading parameters, conversions at a peg, and the evaluation of per-unit parameters.
#include "core/nodes/node_call.h"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cmath>

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/graph/reading.h"
#include "core/nodes/places_of_coordinates.h"
#include "core/program/formula.h"

namespace loom {

const ParamValue& NodeCall::param(std::string_view id) const {
  const auto it = params_.find(std::string(id));
  if (it != params_.end()) return it->second;
  const Parameter* p = type_.parameter(id);
  assert(p && "the type has no parameter of this name");
  static const ParamValue kNone = 0.0;
  return p ? p->initial : kNone;
}

double NodeCall::number(std::string_view id) const {
  const ParamValue& v = param(id);
  const Parameter* p = type_.parameter(id);
  const double x = std::holds_alternative<double>(v) ? std::get<double>(v) : 0.0;
  return p ? std::clamp(x, p->limits.least, p->limits.most) : x;
}

int NodeCall::integer(std::string_view id) const { return static_cast<int>(std::lround(number(id))); }

const std::string& NodeCall::word(std::string_view id) const {
  static const std::string kNone;
  const auto* text = std::get_if<std::string>(&param(id));
  return text ? *text : kNone;
}

Vector NodeCall::vector(std::string_view id) const {
  const ParamValue& v = param(id);
  const Parameter* p = type_.parameter(id);
  const std::size_t n = p && p->kind == ParameterKind::vector2 ? 2 : 3;
  Vector x = std::holds_alternative<Vector>(v)
                 ? std::get<Vector>(v)
                 : Vector(n, std::holds_alternative<double>(v) ? std::get<double>(v) : 0.0);
  x.resize(n, 0.0);
  if (p)
    for (double& lane : x) lane = std::clamp(lane, p->limits.least, p->limits.most);
  return x;
}

const Result<FileBytes>* NodeCall::file(std::string_view id) const {
  if (!files_) return nullptr;
  const auto it = files_->find(id);
  return it == files_->end() ? nullptr : &it->second;
}

std::uint64_t NodeCall::seed(std::string_view draw) const {
  const double stored = type_.parameter("seed") ? number("seed") : 0;
  return combine(combine(seed_, hash_number(stored)), hash_text(draw));
}

void UnitSamples::add(float at_row, float at_column, float u, float v, float wide, float tall, std::uint32_t unit_key) {
  index.push_back(static_cast<float>(index.size()));
  row.push_back(at_row);
  column.push_back(at_column);
  centre_u.push_back(u - std::floor(u));
  centre_v.push_back(v - std::floor(v));
  size_u.push_back(wide);
  size_v.push_back(tall);
  level.push_back(0);
  key.push_back(std::bit_cast<float>(unit_key));
}

Strands convert(Builder& b, const Strands& from, Kind to, int channel) {
  if (to == Kind::any || to == from.kind) return from;
  Strands out{.kind = to};
  const int have = strand_count(from.kind), want = strand_count(to);
  if (from.kind == Kind::regions) {  // order / count
    const float n = from.regions ? static_cast<float>(std::max<std::size_t>(from.regions->count(), 1)) : 1;
    out.at[0] = b.max(b.mul(from.at[0], 1.0f / n), b.constant(0));
    return out;
  }
  if (want == 1) {
    if (channel >= 0)
      out.at[0] = from.at[static_cast<std::size_t>(std::min(channel, have - 1))];
    else if (have >= 3)  // luminance, ITU-R BT.709
      out.at[0] = b.multiply_add(from.at[0], b.constant(0.2126f),
                                 b.multiply_add(from.at[1], b.constant(0.7152f), b.mul(from.at[2], 0.0722f)));
    else
      out.at[0] = from.at[0];
    return out;
  }
  for (std::size_t i = 0; i < static_cast<std::size_t>(want); ++i) {
    if (i < static_cast<std::size_t>(have))
      out.at[i] = from.at[i];
    else
      out.at[i] = i == 3 ? b.constant(1) : have == 1 ? from.at[0] : b.constant(0);
  }
  if (to == Kind::normal) {
    const Reg size =
        b.root(b.multiply_add(out.at[0], out.at[0], b.multiply_add(out.at[1], out.at[1], b.mul(out.at[2], out.at[2]))));
    for (std::size_t i = 0; i < 3; ++i) out.at[i] = b.div(out.at[i], size);
  }
  return out;
}

namespace {

// What stands where nothing is connected: a flat normal, no region, a cord of no maps.
Strands nothing(Builder& b, Kind kind) {
  if (kind == Kind::regions) return {.kind = kind, .at = {b.constant(-1)}, .regions = std::make_shared<RegionTable>()};
  if (kind == Kind::normal) return {.kind = kind, .at = {b.constant(0), b.constant(0), b.constant(1)}};
  return {.kind = kind};
}

}  // namespace

void Emitter::out(std::string_view peg, Reg value) {
  outputs[std::string(peg)] = {.kind = Kind::scalar, .at = {value}};
}

void Emitter::out(std::string_view peg, Strands value) { outputs[std::string(peg)] = std::move(value); }

void Emitter::out_place(std::string_view peg, Reg u, Reg v, Reg footprint) {
  outputs[std::string(peg)] = {.kind = Kind::vector2, .at = {u, v}, .footprint = footprint};
}

Strands Emitter::in(std::string_view peg) {
  const Peg* described = type().input(peg);
  std::optional<Strands> given;
  if (const auto it = inputs_.find(peg); it != inputs_.end()) given = it->second;
  if (const auto it = whole_.find(peg); it != whole_.end()) given = loaded(b, it->second);
  if (given) {
    const bool as_vectors = described && described->kind == Kind::any && !type().keeps_normals;
    if (given->kind == Kind::normal && as_vectors) given->kind = Kind::vector3;
    return *std::move(given);
  }
  const Kind kind = described ? described->kind : Kind::scalar;
  if (kind == Kind::set || kind == Kind::regions) return nothing(b, kind);
  if (peg == "coordinates") return {.kind = Kind::vector2, .at = {b.u(), b.v()}};
  Strands out{.kind = kind == Kind::any ? Kind::scalar : kind};
  for (Reg& r : out.at) r = b.constant(0);
  if (const Parameter* p = type().parameter(peg)) {
    if (p->kind == ParameterKind::colour || p->kind == ParameterKind::vector2) {
      const Vector v = vector(peg);
      if (kind == Kind::any) out.kind = p->kind == ParameterKind::colour ? Kind::colour : Kind::vector2;
      for (std::size_t i = 0; i < v.size(); ++i) out.at[i] = b.constant(static_cast<float>(v[i]));
    } else {
      for (Reg& r : out.at) r = b.constant(real(peg));
    }
  }
  return out;
}

Strands loaded(Builder& b, const Field& field) {
  Strands s{.kind = field.kind, .regions = field.regions};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(field.kind)); ++i)
    s.at[i] = field.kind == Kind::regions ? b.read_labels(field.strand[i]) : b.read(field.strand[i]);
  if (field.footprint) s.footprint = b.read(field.footprint);
  for (const auto& [name, member] : field.members) s.members.emplace_back(name, loaded(b, member));
  return s;
}

const Field* Emitter::whole(std::string_view peg) const {
  const auto it = whole_.find(peg);
  return it == whole_.end() ? nullptr : &it->second;
}

Emitter::Position Emitter::position() {
  if (!connected("coordinates")) return {b.u(), b.v(), b.footprint()};
  const Strands c = in("coordinates");
  const Reg footprint = c.footprint ? *c.footprint : b.footprint(c.at[0], c.at[1]);
  const auto [u, v] = b.placed(c.at[0], c.at[1], footprint);
  return {u, v, footprint};
}

Emitter::Position Emitter::position_with_slopes() {
  if (!connected("coordinates")) return position();
  const Strands c = in("coordinates");
  return {c.at[0], c.at[1], c.footprint ? *c.footprint : b.footprint(c.at[0], c.at[1])};
}

Emitter::PositionInSpace Emitter::position_in_space() {
  const Strands p = in("positions");
  return {p.at[0], p.at[1], p.at[2], b.max(b.footprint(p.at[0], p.at[1]), b.footprint(p.at[1], p.at[2]))};
}

Kind Emitter::widest() const {
  std::vector<Kind> kinds;
  for (const Peg& p : type().inputs) {
    if (p.kind != Kind::any) continue;
    if (const auto it = inputs_.find(p.id); it != inputs_.end()) kinds.push_back(it->second.kind);
    if (const auto it = whole_.find(p.id); it != whole_.end()) kinds.push_back(it->second.kind);
  }
  return common_kind(type(), kinds).value_or(Kind::scalar);
}

Strands Emitter::in_as(std::string_view peg, Kind kind) {
  if (connected(peg)) return convert(b, in(peg), kind);
  if (kind == Kind::set) return {.kind = kind};
  if (kind == Kind::regions) return {.kind = kind, .at = {b.constant(-1)}, .regions = std::make_shared<RegionTable>()};
  if (kind == Kind::normal) return {.kind = kind, .at = {b.constant(0), b.constant(0), b.constant(1)}};
  return convert(b, in(peg), kind);
}

namespace {

enum Attribute : std::uint32_t {
  kIndex,
  kRow,
  kColumn,
  kCentreU,
  kCentreV,
  kSizeU,
  kSizeV,
  kLevel,
  kKey,
  kLiesU,
  kLiesV
};

// The equations of docs/format.md: t in 0..1 for each unit, then from + (to - from) * t.
Reg rule_share(Builder& b, const Rule& rule, const UnitSamples& units, std::uint64_t seed,
               const std::function<Reg(const std::string&)>& map_at) {
  const auto share = [&](std::uint32_t attribute, float most) {
    return most > 1 ? b.mul(b.attribute(attribute), 1.0f / (most - 1)) : b.constant(0);
  };
  if (rule.by == "course") return share(kRow, units.rows);
  if (rule.by == "column") return share(kColumn, units.columns);
  if (rule.by == "order") return share(kIndex, static_cast<float>(units.count()));
  if (rule.by == "chequer") return b.apply(Op::modulo, b.add(b.attribute(kRow), b.attribute(kColumn)), b.constant(2));
  if (rule.by == "nth") {
    const std::uint32_t counted = rule.over == "courses" ? kRow : rule.over == "columns" ? kColumn : kIndex;
    const Reg place = b.apply(Op::modulo, b.add(b.attribute(counted), static_cast<float>(-rule.offset)),
                              b.constant(static_cast<float>(std::max(1.0, std::round(rule.every)))));
    return b.apply(Op::equal, place, b.constant(0));
  }
  if (rule.by == "size") {
    float most = 0;
    for (std::size_t i = 0; i < units.count(); ++i) most = std::max(most, units.size_u[i] * units.size_v[i]);
    return b.mul(b.mul(b.attribute(kSizeU), b.attribute(kSizeV)), most > 0 ? 1 / most : 0);
  }
  if (rule.by == "map") return map_at(rule.map);
  const auto stream = combine(seed, hash_number(rule.seed));
  if (rule.by == "bell") return b.bell(b.attribute(kKey), stream);
  return b.random(b.attribute(kKey), fold32(stream));
}

}  // namespace

std::array<std::vector<float>, 2> Emitter::where_they_lie(const UnitSamples& units) {
  const Field* coordinates = whole("coordinates");
  if (!coordinates || units.count() == 0) return {units.centre_u, units.centre_v};
  if (!bent_) bent_ = std::make_shared<PlacesOfCoordinates>(coordinates->strand[0], coordinates->strand[1]);
  std::array<std::vector<float>, 2> places{units.centre_u, units.centre_v};
  for_rows(static_cast<int>(units.count()), 256, stop, [&](int first, int last) {
    for (auto i = static_cast<std::size_t>(first); i < static_cast<std::size_t>(last); ++i) {
      const auto [u, v] = bent_->find(units.centre_u[i], units.centre_v[i]);
      places[0][i] = u, places[1][i] = v;
    }
  });
  return places;
}

Reg Emitter::map_where_it_lies(Builder& own, std::string_view peg) {
  const auto levels = sampled(peg, 0);
  if (levels->levels.empty()) return own.constant(0);
  return own.apply(kSample, {own.attribute(kLiesU), own.attribute(kLiesV), own.footprint()}, levels, 1)[0];
}

std::optional<Strands> Emitter::formula_over_units(Builder& own, std::string_view id, const Formula& formula,
                                                   const UnitSamples& units) {
  FormulaScope scope;
  const auto name = [&](const std::string& word, Reg r) { scope.names[word] = {.kind = Kind::scalar, .at = {r}}; };
  name("index", own.attribute(kIndex));
  name("row", own.attribute(kRow));
  name("column", own.attribute(kColumn));
  name("level", own.attribute(kLevel));
  name("count", own.constant(static_cast<float>(units.count())));
  name("rows", own.constant(units.rows));
  name("columns", own.constant(units.columns));
  scope.names["centre"] = {.kind = Kind::vector2, .at = {own.attribute(kCentreU), own.attribute(kCentreV)}};
  scope.names["size"] = {.kind = Kind::vector2, .at = {own.attribute(kSizeU), own.attribute(kSizeV)}};
  for (const Peg& p : type().inputs)
    if (p.id.rfind("map_", 0) == 0 && connected(p.id)) {
      name(p.id, map_where_it_lies(own, p.id));
      scope.maps[p.id] = [this, &own, id = p.id](Reg u, Reg v) {
        return Strands{.kind = Kind::scalar, .at = own.apply(kSample, {u, v, own.footprint()}, sampled(id, 0), 1)};
      };
    }
  for (const auto& [word, number] : formula.bound) name(word, own.constant(static_cast<float>(number)));
  scope.unit_key = own.attribute(kKey);
  scope.stream = seed(id);
  scope.keyed_stream = seed("keyed draws");
  const auto parsed = parse_formula(formula.text);
  const auto compiled = parsed ? compile_formula(*parsed, scope, own) : Result<Strands>(parsed.error());
  if (compiled) return *compiled;
  fault = compiled.error();
  fault->where = "parameter " + std::string(id) + ", " + fault->where;
  return {};
}

std::vector<std::vector<float>> Emitter::per_unit_lanes(std::string_view id, const UnitSamples& units,
                                                        std::size_t lanes) {
  std::vector<std::vector<float>> values(lanes, std::vector<float>(units.count(), 0.0f));
  const ParamValue& value = param(id);
  const Parameter* described = type().parameter(id);
  const auto* rule = std::get_if<Rule>(&value);
  const auto* formula = std::get_if<Formula>(&value);
  if (!rule && !formula) {
    const Vector plain = lanes > 1 ? vector(id) : Vector{described ? number(id) : std::get<double>(value)};
    for (std::size_t i = 0; i < lanes; ++i) std::fill(values[i].begin(), values[i].end(), static_cast<float>(plain[i]));
    return values;
  }
  Builder own(Domain::places(kCentreU, 1.0f / static_cast<float>(resolution())));
  Strands result{.kind = Kind::scalar, .at = {own.constant(0)}};
  if (rule) {
    const Reg t =
        rule_share(own, *rule, units, seed(id), [&](const std::string& peg) { return map_where_it_lies(own, peg); });
    result.at[0] = own.mix(own.constant(static_cast<float>(rule->from.number)),
                           own.constant(static_cast<float>(rule->to.number)), t);
  } else if (const auto compiled = formula_over_units(own, id, *formula, units)) {
    result = *compiled;
  } else {
    return values;
  }
  const auto have = static_cast<std::size_t>(strand_count(result.kind));
  std::vector<float*> columns;
  for (std::size_t i = 0; i < lanes; ++i) {
    Reg lane = result.at[std::min(i, have - 1)];
    if (described)
      lane = own.clamp(lane, static_cast<float>(described->limits.least), static_cast<float>(described->limits.most));
    own.store(lane, static_cast<int>(i));
    columns.push_back(values[i].data());
  }
  // Looked for only where a map is read there: it takes a search for every unit.
  const auto [lies_u, lies_v] = reads_a_map(value) ? where_they_lie(units) : std::array{units.centre_u, units.centre_v};
  const float* attributes[] = {units.index.data(),    units.row.data(),    units.column.data(), units.centre_u.data(),
                               units.centre_v.data(), units.size_u.data(), units.size_v.data(), units.level.data(),
                               units.key.data(),      lies_u.data(),       lies_v.data()};
  run_samples(own.build(), units.count(), attributes, columns, stop);
  if (spreads) {
    auto& noted = (*spreads)[std::string(id)];
    for (const auto& lane : values) noted.insert(noted.end(), lane.begin(), lane.end());
  }
  return values;
}

Reg Emitter::each(std::string_view id, const UnitSamples& units, Reg unit) {
  if (!varies(id)) return b.constant(real(id));
  auto column = std::make_shared<Column>();
  column->values = per_unit(id, units);
  return b.apply(kFetch, {unit}, column, 1)[0];
}

const Field* AreaCall::in(std::string_view peg) const {
  const auto it = inputs_.find(peg);
  return it == inputs_.end() ? nullptr : &it->second;
}

PlanePtr AreaCall::plane(std::string_view peg) const {
  if (const Field* f = in(peg); f && f->strand[0]) return f->strand[0];
  return std::make_shared<Plane>(Plane::filled(size(), type().parameter(peg) ? real(peg) : 0.0f));
}

void AreaCall::out(std::string_view peg, Plane plane) {
  Field f;
  f.kind = Kind::scalar;
  f.strand[0] = std::make_shared<Plane>(std::move(plane));
  outputs[std::string(peg)] = std::move(f);
}

}  // namespace loom
