// Every kind through every node is right or refused (law 6).
#include "core/graph/output_kinds.h"
#include "core/graph/validate.h"
#include "core/weave/weaver.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr Kind kKinds[] = {Kind::scalar, Kind::vector2,      Kind::vector3, Kind::normal,
                           Kind::colour, Kind::colour_alpha, Kind::regions, Kind::set};

std::string add(Material& m, const char* type) {
  std::string id;
  m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, 0, &id);
  return id;
}

// An output of this kind, NODE.PEG, made from a smooth noise.
std::string source_of(Material& m, Kind kind) {
  const std::string noise = add(m, "gradient_noise");
  const auto fed = [&](const char* type, const char* peg, const char* out) {
    const std::string id = add(m, type);
    m = edit::connect(std::move(m), {noise, "value", id, peg});
    return id + "." + out;
  };
  switch (kind) {
    case Kind::vector2:
      return add(m, "coordinates") + ".coordinates";
    case Kind::vector3:
      return fed("cross", "a", "result");
    case Kind::normal:
      return fed("normal_from_height", "height", "normal");
    case Kind::colour:
      return fed("dye", "value", "colour");
    case Kind::colour_alpha:
      return fed("pack_channels", "red", "packed");
    case Kind::regions:
      return add(m, "masonry") + ".regions";
    case Kind::set:
      return fed("make_set", "height", "set");
    default:
      return noise + ".value";
  }
}

Thread between(const std::string& from, const std::string& node, const std::string& peg) {
  const auto [source, out] = split_output(from);
  return {source, out, node, peg};
}

std::vector<Field> woven(const Material& m, const std::string& node, int size) {
  const auto g = flatten(m, catalogue());
  if (!g) qFatal("%s", g.error().text().c_str());
  std::vector<Want> wants;
  for (const Peg& out : catalogue().find(m.node(node)->type)->outputs)
    wants.emplace_back(*g->find(node + "." + out.id));
  Weaver w(0);
  auto r = w.weave(*g, wants, size, Stop{});
  if (!r) qFatal("%s", r.error().text().c_str());
  for (const auto& [at, fault] : r->faults) qFatal("%s", fault.text().c_str());
  return std::move(r->fields);
}

// What is wrong with it, empty if nothing.
std::string fault_of(const Field& f, Kind expected) {
  if (f.kind != expected)
    return std::string(kind_name(f.kind)) + " where " + std::string(kind_name(expected)) + " was promised";
  if (f.kind == Kind::regions && !f.regions) return "no table";
  for (const PlanePtr& p : planes_of(f)) {
    if (!p) return "a plane is missing";
    for (std::size_t i = 0; i < p->texels(); ++i)
      if (!std::isfinite(p->data()[i])) return "not finite";
  }
  if (f.kind == Kind::regions)
    for (std::size_t i = 0; i < f.strand[0]->texels(); ++i) {
      const float label = f.strand[0]->data()[i];
      if (label != std::floor(label) || label < -1 || label >= static_cast<float>(f.regions->count()))
        return "a label that the table does not have";
    }
  if (f.kind == Kind::normal)
    for (std::size_t i = 0; i < f.strand[0]->texels(); ++i) {
      const float x = f.strand[0]->data()[i], y = f.strand[1]->data()[i], z = f.strand[2]->data()[i];
      if (std::abs(std::sqrt(x * x + y * y + z * z) - 1) > 1e-4f) return "a direction that is not of length 1";
    }
  for (const auto& [name, member] : f.members)
    if (const auto fault = fault_of(member, member.kind); !fault.empty()) return name + ": " + fault;
  return {};
}

struct Move {
  const char* type;
  std::map<std::string, ParamValue> params;
  const char* driven_by;  // a peg that takes vectors, fed by a small smooth offset
};
const std::vector<Move>& moves() {
  static const std::vector<Move> kMoves = {
      {"transform", {{"turn", 90.0}}, nullptr},
      {"transform", {{"repeats", 2.0}, {"mirror_u", 1.0}}, nullptr},
      {"transform", {{"mode", std::string("one_copy")}, {"size", Vector{0.7, 0.4}}, {"turn", 30.0}}, nullptr},
      {"mirror", {{"fold", std::string("both")}, {"line_u", 0.3}}, nullptr},
      {"warp", {{"by", std::string("offset_map")}, {"amount", 0.05}}, "offset"},
      {"follow", {{"amount", 0.05}}, "field"},
      {"sample_at", {{"shift", Vector{0.25, 0.125}}}, nullptr},
  };
  return kMoves;
}

// One of them, reading `source`; several that are driven are driven alike.
std::string moved(Material& m, const Move& move, const std::string& source) {
  const std::string id = add(m, move.type);
  for (const auto& [key, value] : move.params) m = edit::set_param(std::move(m), id, key, value);
  m = edit::connect(std::move(m), between(source, id, "source"));
  if (!move.driven_by) return id;
  if (!m.node("drive")) {
    std::string noise = add(m, "gradient_noise"), join = add(m, "join_channels");
    m = edit::set_param(std::move(m), noise, "octaves", 1.0);
    m = edit::set_param(std::move(m), join, "as", std::string("vector2"));
    m = edit::connect(std::move(m), {noise, "value", join, "first"});
    auto drive = std::make_shared<Node>(*m.node(join));
    for (Thread& t : m.threads)
      if (t.to_node == join) t.to_node = "drive";
    drive->id = "drive";
    for (NodePtr& n : m.nodes)
      if (n->id == join) n = drive;
  }
  m = edit::connect(std::move(m), {"drive", "result", id, move.driven_by});
  return id;
}

}  // namespace

class TestKinds : public QObject {
  Q_OBJECT
  // Two cords, each with an own slot called dust; the second with one called moss, too.
  static Material two_cords() {
    Material m = edit::empty_material();
    for (const char* id : {"under", "over"}) {
      m = edit::add_node(std::move(m), catalogue(), "make_set", "relief", 0, 0);
      auto named = std::make_shared<Node>(*m.nodes.back());
      named->id = id;
      m.nodes.back() = named;
      m = edit::set_param(std::move(m), id, "own", id == std::string("over") ? 2.0 : 1.0);
      m = edit::set_param(std::move(m), id, "name_1", std::string("dust"));
      m = edit::set_param(std::move(m), id, "name_2", std::string("moss"));
      m = edit::set_param(std::move(m), id, "roughness", id == std::string("over") ? 0.75 : 0.25);
      const std::string dust = add(m, "value"), moss = add(m, "colour");
      m = edit::set_param(std::move(m), dust, "value", id == std::string("over") ? 1.0 : 0.5);
      m = edit::set_param(std::move(m), moss, "colour", Vector{0.1, 0.8, 0.2});
      m = edit::connect(std::move(m), {dust, "value", id, "own_1"});
      if (id == std::string("over")) m = edit::connect(std::move(m), {moss, "colour", id, "own_2"});
    }
    return m;
  }

 private Q_SLOTS:
  void aCordCarriesOwnSlotsAndTypedValues() {
    Material m = two_cords();
    const std::string blend = add(m, "blend"), open = add(m, "open_set");
    m = edit::set_param(std::move(m), blend, "amount", 0.25);
    m = edit::connect(std::move(m), {"under", "set", blend, "lower"});
    m = edit::connect(std::move(m), {"over", "set", blend, "upper"});
    m = edit::connect(std::move(m), {blend, "result", open, "set"});
    m = edit::set_param(std::move(m), open, "own", 2.0);
    m = edit::set_param(std::move(m), open, "name_1", std::string("dust"));
    m = edit::set_param(std::move(m), open, "name_2", std::string("moss"));
    m = edit::set_param(std::move(m), open, "own_as", std::string("colour"));
    for (const Error& e : validate(m, catalogue())) QFAIL(e.text().c_str());
    const auto fields = woven(m, open, 64);
    const NodeType& type = *catalogue().find("open_set");
    const auto at = [&](const char* peg) -> const Field& {
      return fields[static_cast<std::size_t>(type.output_index(peg))];
    };
    QCOMPARE(at("roughness").strand[0]->at(3, 3), 0.375f);  // 0.25 and 0.75, by a quarter
    QCOMPARE(at("own_1").strand[0]->at(3, 3), 0.625f);      // 0.5 and 1
    QCOMPARE(at("own_2").kind, Kind::colour);
    QCOMPARE(at("own_2").strand[1]->at(3, 3), 0.2f);  // nothing and 0.8, by a quarter
  }
  void ownSlotsNeedNamesOfTheirOwn() {
    const auto fault = [](const Material& m, const std::string& node) {
      const auto g = flatten(m, catalogue());
      Weaver w(0);
      const auto r = w.weave(*g, {Want(*g->find(node))}, 64, Stop{});
      return r->faults.empty() ? std::string() : r->faults.begin()->second.text();
    };
    Material m = two_cords();
    QCOMPARE(fault(m, "over.set"), std::string());
    QVERIFY(fault(edit::set_param(m, "over", "name_2", std::string("dust")), "over.set").find("'dust'") !=
            std::string::npos);
    QVERIFY(fault(edit::set_param(m, "over", "name_2", std::string("height")), "over.set").find("'height'") !=
            std::string::npos);
    QVERIFY(fault(edit::set_param(m, "over", "name_1", std::string()), "over.set").find("no slot") !=
            std::string::npos);
    const std::string open = add(m, "open_set");
    m = edit::set_param(edit::connect(std::move(m), {"under", "set", open, "set"}), open, "own", 1.0);
    m = edit::set_param(std::move(m), open, "name_1", std::string("soot"));
    QVERIFY(fault(m, open + ".own_1").find("'soot', which the cord lacks") != std::string::npos);
  }
  void everyPegTakesAKindOrRefusesItWithAMend_data() {
    QTest::addColumn<const NodeType*>("type");
    for (const NodeType* type : catalogue().all())
      if (!type->inputs.empty()) QTest::newRow(type->id.c_str()) << type;
  }
  void everyPegTakesAKindOrRefusesItWithAMend() {
    QFETCH(const NodeType*, type);
    for (const Peg& peg : type->inputs)
      for (const Kind kind : kKinds) {
        const std::string what = peg.id + " with " + std::string(kind_name(kind));
        Material m = edit::empty_material();
        const std::string source = source_of(m, kind), id = add(m, type->id.c_str());
        const Thread thread = between(source, id, peg.id);
        const std::string refused = refusal(m, catalogue(), thread);
        Material connected = m;
        connected.threads.push_back(thread);  // as a document may say it
        const auto faults = validate(connected, catalogue());
        QVERIFY2(refused.empty() == faults.empty(), what.c_str());
        if (!faults.empty()) {
          QVERIFY2(!faults[0].what.empty() && !faults[0].mend.empty(), what.c_str());
          continue;
        }
        OutputKinds kinds(connected, catalogue());
        const auto fields = woven(connected, id, 64);
        for (std::size_t i = 0; i < fields.size(); ++i) {
          const Kind promised = kinds.of(id, type->outputs[i].id);
          const std::string fault = fault_of(fields[i], promised);
          QVERIFY2(fault.empty(), (what + ", " + type->outputs[i].id + ": " + fault).c_str());
        }
      }
  }

  // A relief and its normals that are moved alike stay each other's.
  void normalsMoveWithTheirHeight() {
    for (const Move& move : moves()) {
      Material m = edit::empty_material();
      const std::string noise = add(m, "gradient_noise");
      m = edit::set_param(std::move(m), noise, "octaves", 1.0);
      const auto normal_of = [&](const std::string& height) {
        const std::string id = add(m, "normal_from_height");
        m = edit::set_param(std::move(m), id, "strength", 10.0);
        m = edit::connect(std::move(m), between(height, id, "height"));
        return id;
      };
      const std::string first = normal_of(noise + ".value"), moved_normal = moved(m, move, first + ".normal"),
                        moved_height = moved(m, move, noise + ".value"),
                        normal_of_moved = normal_of(moved_height + ".result");
      const auto a = woven(m, moved_normal, 256), b = woven(m, normal_of_moved, 256);
      const bool one_copy = move.params.count("mode");
      const Field copy = one_copy ? woven(m, moved_height, 256)[2] : field_of(Kind::scalar, Plane::filled(256, 1));
      // The edge of a copy is a step of the height, of which its normals know nothing.
      const auto within = [&](int x, int y) {
        for (const auto& [i, j] : {std::pair{0, 0}, {2, 0}, {-2, 0}, {0, 2}, {0, -2}})
          if (copy.strand[0]->at(wrap(x + i, 256), wrap(y + j, 256)) < 1) return false;
        return true;
      };
      double sum = 0, count = 0;
      for (int y = 0; y < 256; ++y)
        for (int x = 0; x < 256; ++x) {
          if (!within(x, y)) continue;
          ++count;
          for (std::size_t i = 0; i < 3; ++i)
            sum += std::pow(static_cast<double>(a[0].strand[i]->at(x, y) - b[0].strand[i]->at(x, y)), 2);
        }
      const double rms = std::sqrt(sum / count);
      // Lines of a fold have no normal; elsewhere a degree is 0.017.
      QVERIFY2(rms < (std::string(move.type) == "mirror" ? 0.03 : 0.012),
               (std::string(move.type) + " " + std::to_string(rms)).c_str());
    }
  }

  void cordsMoveMapByMap() {
    for (const Move& move : moves()) {
      Material m = edit::empty_material();
      const std::string noise = add(m, "gradient_noise"), set = add(m, "make_set"), dye = add(m, "dye");
      m = edit::connect(std::move(m), {noise, "value", set, "height"});
      m = edit::connect(std::move(m), {noise, "value", dye, "value"});
      m = edit::connect(std::move(m), {dye, "colour", set, "base_colour"});
      const std::string cord = moved(m, move, set + ".set"), open = add(m, "open_set");
      m = edit::connect(std::move(m), {cord, "result", open, "set"});
      const std::string height = moved(m, move, noise + ".value"), colour = moved(m, move, dye + ".colour");
      const auto opened = woven(m, open, 64), one = woven(m, height, 64), other = woven(m, colour, 64);
      const NodeType& type = *catalogue().find("open_set");
      const auto at = [&](const char* slot) { return static_cast<std::size_t>(type.output_index(slot)); };
      QVERIFY2(same_bits(*opened[at("height")].strand[0], *one[0].strand[0]), move.type);
      for (std::size_t i = 0; i < 3; ++i)
        QVERIFY2(same_bits(*opened[at("base_colour")].strand[i], *other[0].strand[i]), move.type);
    }
  }

  // Moving regions and then drawing a tone for each is drawing it first and moving the tones.
  void regionsKeepTheirIdentityWhereverTheyGo() {
    for (const Move& move : moves()) {
      Material m = edit::empty_material();
      const std::string laid = add(m, "masonry"), first = add(m, "region_values"), then = add(m, "region_values");
      m = edit::set_param(m, then, "seed",
                          m.node(first)->params.count("seed") ? m.node(first)->params.at("seed") : ParamValue(1.0));
      m = edit::connect(std::move(m), {laid, "regions", first, "regions"});
      const std::string parts = moved(m, move, laid + ".regions");
      m = edit::connect(std::move(m), {parts, "result", then, "regions"});
      const auto labels = woven(m, parts, 256)[0];
      const auto before = woven(m, first, 256)[0], after = woven(m, then, 256)[0];
      QCOMPARE(labels.kind, Kind::regions);
      QVERIFY(labels.regions->count() > 0);
      std::set<float> tones;
      for (std::size_t i = 0; i < before.strand[0]->texels(); ++i) tones.insert(before.strand[0]->data()[i]);
      for (std::size_t i = 0; i < after.strand[0]->texels(); ++i)
        QVERIFY2(tones.count(after.strand[0]->data()[i]), move.type);
      // Centres and boxes went along: a unit's own centre lies on it.
      int strayed = 0;
      const RegionTable& t = *labels.regions;
      for (std::size_t i = 0; i < t.count(); ++i) {
        if (t.area[i] < 1e-3f) continue;
        const auto texel = [&](float x) { return std::min(static_cast<int>(x * 256), 255); };
        strayed += labels.strand[0]->at(texel(t.centre_u[i]), texel(t.centre_v[i])) != static_cast<float>(i);
        QVERIFY2(t.size_u[i] * t.size_v[i] * 1.02f + 1e-4f > t.area[i], move.type);
      }
      QVERIFY2(strayed == 0, (std::string(move.type) + " " + std::to_string(strayed)).c_str());
    }
  }

  void aQuarterTurnTurnsTheBoxes() {
    Material m = edit::empty_material();
    const std::string laid = add(m, "masonry");
    const std::string turned = moved(m, {"transform", {{"turn", 90.0}}, nullptr}, laid + ".regions");
    const Field labels = woven(m, turned, 256)[0];
    int whole_units = 0;
    for (std::size_t i = 0; i < labels.regions->count(); ++i) {
      QVERIFY(std::abs(std::abs(labels.regions->sine[i]) - 1) < 1e-5f);
      whole_units += labels.regions->size_u[i] > 1.5f * labels.regions->size_v[i];  // as long and as narrow as laid
    }
    QCOMPARE(whole_units, static_cast<int>(labels.regions->count()));
  }

  void grownCellsAreRegionsWithTheirSeedsKeys() {
    Material m = edit::empty_material();
    const std::string laid = add(m, "masonry"), grown = add(m, "distance_to_mask");
    m = edit::connect(std::move(m), {laid, "mask", grown, "mask"});
    m = edit::connect(std::move(m), {laid, "regions", grown, "value"});
    m = edit::set_param(std::move(m), grown, "reach", 0.5);
    const Field seeds = woven(m, laid, 256)[3], cells = woven(m, grown, 256)[1];
    QCOMPARE(cells.kind, Kind::regions);
    const std::set<std::uint32_t> keys(seeds.regions->key.begin(), seeds.regions->key.end());
    double area = 0;
    for (std::size_t i = 0; i < cells.regions->count(); ++i) {
      QVERIFY(keys.count(cells.regions->key[i]));
      area += static_cast<double>(cells.regions->area[i]);
    }
    QVERIFY(std::abs(area - 1) < 1e-3);  // they meet everywhere
  }

  void betweenTwoDirectionsLiesADirection() {
    Fields in;
    in["a"] = bumpy_field(Kind::normal, 64, 1);
    in["b"] = bumpy_field(Kind::normal, 64, 5);
    const Field mid = weave_alone(*catalogue().find("interpolate"), 64, in).at("result");
    QCOMPARE(fault_of(mid, Kind::normal), std::string());
  }

  void aWholeCordThroughNodesThatWorkOnOneMapIsRefusedWhereverItIsLaid() {
    // Into a switch that feeds a node for one map: the thread above is what would break it.
    Material m = edit::empty_material();
    const std::string chosen = add(m, "switch"), tone = add(m, "tone"), set = source_of(m, Kind::set);
    m = edit::connect(std::move(m), {chosen, "result", tone, "value"});
    const std::string refused = refusal(m, catalogue(), between(set, chosen, "input_1"));
    QVERIFY2(refused.find("Open set") != std::string::npos, refused.c_str());
  }
};

QTEST_GUILESS_MAIN(TestKinds)
#include "tst_kinds.moc"
