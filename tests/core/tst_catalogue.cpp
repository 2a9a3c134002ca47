// Properties that hold for every node type: the laws of docs/design.md, one row a type.
#include <oneapi/tbb/global_control.h>

#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/example.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

Q_DECLARE_METATYPE(const NodeType*)

class TestCatalogue : public QObject {
  Q_OBJECT
  static void every_type() {
    QTest::addColumn<const NodeType*>("type");
    for (const NodeType* t : catalogue().all()) QTest::newRow(t->id.c_str()) << t;
  }

  // A random value within a parameter's limits or useful range.
  static ParamValue random_value(const Parameter& p, std::mt19937& chance, bool useful) {
    const Limits r = useful ? p.useful : p.limits;
    const auto number = [&] { return std::uniform_real_distribution<double>(r.least, r.most)(chance); };
    switch (p.kind) {
      case ParameterKind::integer:
      case ParameterKind::seed:
        return std::round(number());
      case ParameterKind::toggle:
        return static_cast<double>(chance() % 2);
      case ParameterKind::vector2:
        return Vector{number(), number()};
      case ParameterKind::colour:
        return Vector{number(), number(), number()};
      case ParameterKind::choice:
        return p.options[chance() % p.options.size()];
      case ParameterKind::points:
        return Points{{0, number()}, {0.3, number()}, {1, number()}};
      case ParameterKind::strokes: {
        std::uniform_real_distribution<float> share(0, 1);
        Strokes all;
        for (int i = 0; i < 3; ++i) {
          HandStroke s;
          s.radius = 0.05f + 0.1f * share(chance), s.softness = share(chance);
          for (int k = 0; k < 4; ++k)
            s.points.push_back({share(chance), share(chance), 0, 0.5f + 0.5f * share(chance)});
          all.all.push_back(kept(std::move(s)));
        }
        return all;
      }
      case ParameterKind::stops: {
        Stops s{{0, {0, 0, 0, 1}}, {0.4, {1, 0.5, 0, 1}}, {1, {0, 1, 1, 1}}};
        s[1].at = std::uniform_real_distribution<double>(0.1, 0.9)(chance);
        return s;
      }
      case ParameterKind::formula:
        return std::string(chance() % 2 ? "a * 2 + b" : "sqrt(a) / d");
      case ParameterKind::figure:
        return std::string("<svg><ellipse cx=\"0.5\" cy=\"0.4\" rx=\"") + (chance() % 2 ? "0.3" : "0.7") +
               "\" ry=\"0.2\"/></svg>";
      case ParameterKind::text:
        if (p.id.rfind("name_", 0) == 0) return p.initial;  // of own slots: one that a cord lacks is a fault, tst_kinds
        return std::string(chance() % 2 ? "text" : "two\nlines");
      case ParameterKind::file:
        return std::string();  // tst_drawings has files
      default:
        return number();
    }
  }

  // Large counts within the limits are slow and prove no more than middling ones do.
  static void tame(const NodeType& type, Resolved& params) {
    // All at once they ask for more units than are laid, and a rule for many parts too.
    for (const auto& [id, most] : {std::pair{"parts_along", 2.0}, {"parts_across", 2.0}, {"multiplier", 1.0}})
      if (type.parameter(id)) {
        const auto* number = std::get_if<double>(&params[id]);
        params[id] = number ? std::min(*number, most) : most;
      }
    for (const Parameter& p : type.parameters)
      if (p.unit == Unit::count || p.unit == Unit::times)
        if (auto* v = std::get_if<double>(&params[p.id])) *v = std::min(*v, 48.0);
  }

  static Fields position(int size, double du, double dv) {
    Fields f;
    f["coordinates"] = field_of(Kind::vector2, painted(size, [&](double u, double) { return u + du; }),
                                painted(size, [&](double, double v) { return v + dv; }));
    return f;
  }

 private Q_SLOTS:
  void describesItself_data() { every_type(); }
  void describesItself() {
    QFETCH(const NodeType*, type);
    QVERIFY((type->emit != nullptr) != (type->evaluate != nullptr));
    QVERIFY(!type->label.empty() && !type->help.empty() && type->help.back() == '.');
    QVERIFY2(!type->outputs.empty(), "a node gives something");
    for (const Parameter& p : type->parameters) {
      QVERIFY2(!p.label.empty() && !p.column.empty(), p.id.c_str());
      QVERIFY2(p.help.size() > 4 && p.help.back() == '.', p.id.c_str());
      if (p.kind == ParameterKind::choice)
        QVERIFY(std::find(p.options.begin(), p.options.end(), std::get<std::string>(p.initial)) != p.options.end());
      else if (const auto* v = std::get_if<double>(&p.initial))
        QVERIFY2(*v >= p.limits.least && *v <= p.limits.most, p.id.c_str());
      QVERIFY2(p.useful.least >= p.limits.least - 1e-12 || p.kind == ParameterKind::choice ||
                   p.kind == ParameterKind::formula,
               p.id.c_str());
      QVERIFY2(p.acts.formula.empty() == p.acts.reason.empty(), p.id.c_str());
      for (const Parameter& q : type->parameters)  // a formula over both must know which is meant
        QVERIFY2(std::find(p.options.begin(), p.options.end(), q.id) == p.options.end(),
                 "a choice's word is also a parameter");
    }
    // A document with this node alone is valid, and survives writing and reading.
    const Material m = edit::add_node(edit::empty_material(), catalogue(), type->id, "relief", 0, 0);
    QCOMPARE(validate(m, catalogue()).size(), std::size_t{0});
    QCOMPARE(write_material(*read_material(write_material(m))), write_material(m));
  }

  void wholeTilesAwayNothingChanges_data() {
    QTest::addColumn<const NodeType*>("type");
    for (const NodeType* t : catalogue().all())  // the next test is for the others
      if (t->input("coordinates")) QTest::newRow(t->id.c_str()) << t;
  }
  void wholeTilesAwayNothingChanges() {
    QFETCH(const NodeType*, type);
    constexpr int kSize = 64;
    const auto here = weave_alone(*type, kSize, position(kSize, 0, 0));
    for (const auto& [du, dv] : {std::pair{1.0, 0.0}, {0.0, -1.0}, {2.0, 1.0}}) {
      const auto there = weave_alone(*type, kSize, position(kSize, du, dv));
      for (const Peg& out : type->outputs)
        for (std::size_t i = 0; i < planes_of(here.at(out.id)).size(); ++i) {
          const double apart = share_apart(*planes_of(here.at(out.id))[i], *planes_of(there.at(out.id))[i], 1e-3);
          QVERIFY2(
              apart < 0.004,
              qPrintable(QStringLiteral("%1: %2 of the texels differ").arg(QString::fromStdString(out.id)).arg(apart)));
        }
    }
  }

  void rollingInputsRollsOutputs_data() { every_type(); }
  void rollingInputsRollsOutputs() {
    QFETCH(const NodeType*, type);
    // Region values read places from the table, Transform moves the roll itself; tst_moves has both.
    if (type->inputs.empty() || type->input("coordinates") || type->id == "region_values" || type->id == "transform" ||
        type->id == "mirror" || type->id == "polar")
      return;
    constexpr int kSize = 64;
    const Fields inputs = bumpy_inputs(*type, kSize);
    const auto still = weave_alone(*type, kSize, inputs);
    for (const auto& [du, dv] : {std::pair{1, 0}, {0, 1}, {31, 17}}) {
      Fields moved = inputs;
      for (const Peg& p : type->inputs)
        if (moved.count(p.id) && !p.own_frame) moved[p.id] = rolled(moved[p.id], du, dv);
      const auto after = weave_alone(*type, kSize, moved);
      for (const Peg& out : type->outputs) {
        if (out.kind == Kind::regions) continue;  // up to renaming: tst_filters
        const auto a = planes_of(still.at(out.id)), b = planes_of(after.at(out.id));
        for (std::size_t i = 0; i < a.size(); ++i) {
          const Range r = range_of(*a[i]);
          const double off =
              furthest(rolled(*a[i], du, dv), *b[i]) / std::max(static_cast<double>(r.most - r.least), 1.0);
          // A tie between two nearest sources may go either way: such texels are few.
          const bool ties = type->id == "distance_to_mask" && out.id == "carried";
          QVERIFY2(ties ? share_apart(rolled(*a[i], du, dv), *b[i], 1e-4) < 0.02 : off < 2e-5,
                   qPrintable(QStringLiteral("%1 off by %2").arg(QString::fromStdString(out.id)).arg(off)));
        }
      }
    }
  }

  void looksTheSameAtEverySize_data() { every_type(); }
  void looksTheSameAtEverySize() {
    QFETCH(const NodeType*, type);
    std::set<std::string> except{"motif_a", "motif_b", "motif_c", "motif_d"};
    // Of some hundreds of stamps a few lie so near to the map that they avoid that a texel decides.
    if (type->id == "nested_scatter") except.insert("avoid");
    if (type->id == "bevel")
      except.insert("profile_map");  // one that does not begin at the ground makes cliffs, as wide as a texel
    const auto at = [&](int size) { return weave_alone(*type, size, bumpy_inputs(*type, size, except)); };
    const auto small = at(512), large = at(2048);
    for (const Peg& out : type->outputs) {
      if (out.kind == Kind::regions) continue;
      const auto a = planes_of(small.at(out.id)), b = planes_of(large.at(out.id));
      for (std::size_t i = 0; i < a.size(); ++i) {
        const Plane half = reduced(*b[i]), less = reduced(half);
        const Range r = range_of(*a[i]);
        // A constant, such as a mean, is held against one.
        const double spread = static_cast<double>(r.most - r.least), span = spread < 1e-6 ? 1 : std::max(spread, 1e-3);
        double sum = 0, mean_a = 0, mean_b = 0;
        std::size_t n = 0;
        for (int y = 0; y < 512; ++y)
          for (int x = 0; x < 512; ++x) {
            mean_a += static_cast<double>(a[i]->at(x, y));
            mean_b += static_cast<double>(less.at(x, y));
            double step = 0;  // an edge within two texels: the law speaks of what lies away from edges
            for (int j = -2; j <= 2; ++j)
              for (int k = -2; k <= 2; ++k)
                step = std::max(
                    step, std::abs(static_cast<double>(a[i]->at(wrap(x + k, 512), wrap(y + j, 512)) - a[i]->at(x, y))));
            if (step > 0.12 * span) continue;
            const double d = static_cast<double>(a[i]->at(x, y)) - static_cast<double>(less.at(x, y));
            sum += d * d;
            ++n;
          }
        const double rms = n ? std::sqrt(sum / static_cast<double>(n)) / span : 0,
                     mean = std::abs(mean_a - mean_b) / (512.0 * 512.0) / span;
        // The corners of blocky regions cost their perimeter a texel each.
        const double corners = type->id == "region_shapes" && out.id == "perimeter" ? 0.005 : 0,
                     // Nested stamps of 20 texels and less have an edge nearly everywhere.
            nested = type->id == "nested_scatter" ? 0.002 : 0, allowed = 0.01 + corners + nested;
        QVERIFY2(rms <= allowed, qPrintable(QStringLiteral("%1, strand %2: RMS %3 away from edges")
                                                .arg(QString::fromStdString(out.id))
                                                .arg(i)
                                                .arg(rms)));
        QVERIFY2(mean <= 0.005 + corners, qPrintable(QStringLiteral("%1, strand %2: means differ by %3")
                                                         .arg(QString::fromStdString(out.id))
                                                         .arg(i)
                                                         .arg(mean)));
      }
    }
  }

  void isFiniteForAnyParameters_data() { every_type(); }
  void isFiniteForAnyParameters() {
    QFETCH(const NodeType*, type);
    std::mt19937 chance(7);
    for (int round = 0; round < 12; ++round) {
      Resolved params;
      for (const Parameter& p : type->parameters) params[p.id] = random_value(p, chance, round % 2 == 0);
      tame(*type, params);
      const bool with = round % 3 != 0;
      const auto out = weave_alone(*type, 64, with ? bumpy_inputs(*type, 64) : Fields{}, params);
      for (const auto& [id, f] : out)
        for (const auto& p : planes_of(f))
          for (std::size_t i = 0; i < p->texels(); ++i)
            if (!std::isfinite(p->data()[i])) {
              Json told = Json::object();
              for (const auto& [key, v] : params) told[key] = param_to_json(v);
              QFAIL(qPrintable(QString::fromStdString(id + " is not finite with " + told.dump())));
            }
    }
  }

  void parametersActOrSayWhyNot_data() { every_type(); }
  void parametersActOrSayWhyNot() {
    QFETCH(const NodeType*, type);
    std::mt19937 chance(3);
    // States to look for one in which a parameter acts: inputs connected or not, each choice and toggle in turn.
    for (const Parameter& p : type->parameters) {
      if (p.kind == ParameterKind::file) continue;
      if (type->item_of(p.id) > 6) continue;  // as those before
      // Of an input: said to whoever uses it.
      if (type->id == kComesIn && std::set<std::string>{"required", "help", "from", "to"}.count(p.id)) continue;
      bool found = false, changed = false;
      std::vector<Resolved> states{{}};
      for (const Parameter& q : type->parameters) {
        if (q.id == p.id || type->item_of(q.id) > 6) continue;
        if (q.kind == ParameterKind::choice)
          for (const auto& o : q.options) states.push_back({{q.id, o}});
        if (q.kind == ParameterKind::toggle)
          for (const double v : {0.0, 1.0}) states.push_back({{q.id, v}});
        if (q.kind == ParameterKind::integer && q.useful.most - q.useful.least < 12)
          for (double v = q.useful.least; v <= q.useful.most; ++v) states.push_back({{q.id, v}});
        if ((q.kind == ParameterKind::scalar || q.kind == ParameterKind::integer) &&
            std::holds_alternative<double>(q.initial))
          states.push_back({{q.id, std::floor(50 * (q.useful.least + q.useful.most)) /
                                       (q.kind == ParameterKind::integer ? 80 : 100)}});
      }
      for (const int size : {64, 128})  // what is finer than a texel shows at the larger one
        for (const Resolved& state : states)
          for (const char* connected : {"all", "all but those with a frame of their own", "none"}) {
            if (changed) break;
            std::set<std::string> except;
            for (const Peg& peg : type->inputs)
              if (*connected == 'n' || (std::strlen(connected) > 4 && peg.own_frame)) except.insert(peg.id);
            if (type->input(p.id)) except.insert(p.id);  // the peg of the same name is free
            Fields inputs = bumpy_inputs(*type, size, except);
            // Corners alone touch only in a busy mask.
            if (type->id == "label_regions" && inputs.count("mask"))
              inputs["mask"] =
                  field_of(Kind::scalar,
                           painted(size, [&](double, double) { return static_cast<double>(chance() % 1000) / 1000; }));
            const auto is = [&](std::string_view peg) { return inputs.count(peg) != 0; };
            const bool acts = parameter_acts(*type, p, state, is);
            if (found && acts && changed) continue;
            const auto before = weave_alone(*type, size, inputs, state);
            bool differs = false;
            for (int tries = 0; tries < 6 && !differs; ++tries) {
              Resolved other = state;
              other[p.id] = random_value(p, chance, true);
              if (p.kind == ParameterKind::choice)
                other[p.id] = p.options[static_cast<std::size_t>(tries) % p.options.size()];
              if (p.kind == ParameterKind::toggle) other[p.id] = std::get<double>(p.initial) != 0 ? 0.0 : 1.0;
              const auto after = weave_alone(*type, size, inputs, other);
              for (const Peg& out : type->outputs) {
                const auto a = planes_of(before.at(out.id)), b = planes_of(after.at(out.id));
                for (std::size_t i = 0; i < a.size() && i < b.size(); ++i) differs |= furthest(*a[i], *b[i]) > 1e-6;
                differs |= a.size() != b.size();
              }
              differs |= over_two_boxes(*type, state) != over_two_boxes(*type, other);
              if (!acts) break;
            }
            if (!acts)
              QVERIFY2(!differs, qPrintable(QString::fromStdString(p.id + " acts although it says that it does not")));
            found |= acts;
            changed |= acts && differs;
          }
      // An even height has no relief whatever its value: the one parameter that only holds a peg's place.
      if (p.acts.formula == "0 > 1") continue;
      if (p.id.rfind("name_", 0) == 0) continue;  // of own slots: names no planes show
      QVERIFY2(found, qPrintable(QString::fromStdString(p.id + ": no state was found in which it acts")));
      QVERIFY2(changed, qPrintable(QString::fromStdString(p.id + " changes nothing where it says that it acts")));
    }
  }

  void bitsDoNotDependOnThreads_data() { every_type(); }
  void bitsDoNotDependOnThreads() {
    QFETCH(const NodeType*, type);
    const Fields inputs = bumpy_inputs(*type, 256);
    const auto many = weave_alone(*type, 256, inputs);
    const oneapi::tbb::global_control one(oneapi::tbb::global_control::max_allowed_parallelism, 1);
    const auto alone = weave_alone(*type, 256, inputs);
    for (const auto& [id, f] : many)
      for (std::size_t i = 0; i < planes_of(f).size(); ++i)
        QVERIFY2(same_bits(*planes_of(f)[i], *planes_of(alone.at(id))[i]), id.c_str());
  }

  void everyTypeHasAnExample_data() { every_type(); }
  void everyTypeHasAnExample() {
    QFETCH(const NodeType*, type);
    const Material m = example_of(*type, catalogue());
    QVERIFY(validate(m, catalogue()).empty());
    const auto graph = flatten(m, catalogue());
    QVERIFY(graph.ok() && graph->find(example_output(*type)));
    Weaver weaver(1 << 24);
    const auto woven = weaver.weave(*graph, {Want(*graph->find(example_output(*type)))}, 64, Stop{});
    QVERIFY(woven.ok() && woven->faults.empty());
  }

  void docsListEveryType() {
    QFile file(QStringLiteral(LOOM_DOCS "/nodes.md"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    QVERIFY2(file.readAll().toStdString() == catalogue_markdown(),
             "run: wildloom-cli nodes --markdown > docs/nodes.md");
  }
};

QTEST_GUILESS_MAIN(TestCatalogue)
#include "tst_catalogue.moc"
