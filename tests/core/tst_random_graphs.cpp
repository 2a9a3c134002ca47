// The evaluator on documents drawn by chance: what an output holds depends on the document alone (law 4), not on what
// else is asked for, on memory, on the cache, on edits before or on the number of threads. Bit for bit.
// WILDLOOM_GRAPHS=N draws N documents, WILDLOOM_FIRST_SEED=S begins with seed S; the seed stands in each failure.
#include <oneapi/tbb/global_control.h>

#include "core/graph/json.h"
#include "core/weave/weaver.h"
#include "tests/core/alone.h"
#include "tests/core/random_graph.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr int kSize = 64;

int from_environment(const char* name, int otherwise) {
  bool ok = false;
  const int n = qEnvironmentVariableIntValue(name, &ok);
  return ok ? n : otherwise;
}

std::vector<Want> all_outputs(const FlatGraph& g) {
  std::vector<Want> wants;
  for (std::size_t n = 0; n < g.nodes.size(); ++n)
    for (std::size_t o = 0; o < g.nodes[n].type->outputs.size(); ++o)
      wants.emplace_back(OutputRef{static_cast<int>(n), static_cast<int>(o)});
  return wants;
}

bool same_field(const Field& a, const Field& b) {
  const auto p = planes_of(a), q = planes_of(b);
  if (a.kind != b.kind || p.size() != q.size()) return false;
  for (std::size_t i = 0; i < p.size(); ++i)
    if (!same_bits(*p[i], *q[i])) return false;
  return !a.regions == !b.regions && (!a.regions || a.regions->key == b.regions->key);
}

// Every strand is there, and a table where there are regions: nothing was left out in silence.
bool whole(const Field& f) {
  for (int i = 0; i < strand_count(f.kind); ++i)
    if (!f.strand[static_cast<std::size_t>(i)]) return false;
  if (f.kind == Kind::any || (f.kind == Kind::regions && !f.regions)) return false;
  for (const auto& [name, member] : f.members)
    if (!whole(member)) return false;
  return true;
}

}  // namespace

class TestRandomGraphs : public QObject {
  Q_OBJECT

  static std::vector<Field> woven(Weaver& w, const FlatGraph& g, const std::vector<Want>& wants, bool keep) {
    WeaveOptions options;
    options.keep = keep;
    auto r = w.weave(g, wants, kSize, Stop{}, options);
    if (!r) qFatal("%s", r.error().text().c_str());
    for (const auto& [node, fault] : r->faults)
      qFatal("%s: %s", g.nodes[static_cast<std::size_t>(node)].path.c_str(), fault.text().c_str());
    return std::move(r->fields);
  }

  static QByteArray told(const Field& a, const Field& b) {
    const auto p = planes_of(a), q = planes_of(b);
    for (std::size_t s = 0; s < std::min(p.size(), q.size()); ++s)
      for (std::size_t i = 0; i < p[s]->texels(); ++i)
        if (std::memcmp(p[s]->data() + i, q[s]->data() + i, sizeof(float)) != 0)
          return ", plane " + QByteArray::number(static_cast<int>(s)) + " texel " +
                 QByteArray::number(static_cast<int>(i)) + ": " + QByteArray::number(p[s]->data()[i], 'g', 9) +
                 " and " + QByteArray::number(q[s]->data()[i], 'g', 9);
    return ", its kind or its table";
  }

  // The first output that differs, told so that it can be found again; empty: none.
  static QByteArray difference(const FlatGraph& g, const std::vector<Want>& wants, const std::vector<Field>& a,
                               const std::vector<Field>& b, const char* when) {
    for (std::size_t i = 0; i < wants.size(); ++i)
      if (!same_field(a[i], b[i])) {
        const FlatNode& n = g.nodes[static_cast<std::size_t>(wants[i].ref.node)];
        return QByteArray(when) + ": " + n.path.c_str() + "." +
               n.type->outputs[static_cast<std::size_t>(wants[i].ref.output)].id.c_str() + told(a[i], b[i]);
      }
    return {};
  }

  static QByteArray first_difference(const Material& m, RandomGraph& chance) {
    const auto flat = flatten(m, catalogue());
    if (!flat) return QByteArray("refused: ") + flat.error().text().c_str();
    const FlatGraph& g = *flat;
    const auto wants = all_outputs(g);
    Weaver cached(std::size_t{1} << 30);
    const auto all = woven(cached, g, wants, true);
    OutputKinds kinds(m, catalogue());
    for (std::size_t i = 0; i < all.size(); ++i) {
      const FlatNode& n = g.nodes[static_cast<std::size_t>(wants[i].ref.node)];
      const std::string& out = n.type->outputs[static_cast<std::size_t>(wants[i].ref.output)].id;
      if (!whole(all[i]) || all[i].kind != kinds.of(n.path, out))
        return QByteArray("not what it should give: ") + n.path.c_str() + "." + out.c_str();
    }
    // One at a time in no memory: what a delivery does that must save it.
    Weaver little(0);
    std::vector<Field> one_by_one;
    for (const Want& want : wants) one_by_one.push_back(woven(little, g, {want}, false)[0]);
    if (auto d = difference(g, wants, all, one_by_one, "one by one"); !d.isEmpty()) return d;
    if (const auto other = chance.changed(m)) {
      const auto changed = flatten(*other, catalogue());
      if (changed) woven(cached, *changed, {wants[chance.below(wants.size())], wants.back()}, true);
      if (auto d = difference(g, wants, all, woven(cached, g, wants, true), "changed and back"); !d.isEmpty()) return d;
    }
    const oneapi::tbb::global_control one(oneapi::tbb::global_control::max_allowed_parallelism, 1);
    Weaver alone(std::size_t{1} << 30);
    return difference(g, wants, all, woven(alone, g, wants, false), "with one thread");
  }

 private Q_SLOTS:
  void whatAnOutputHoldsDependsOnTheDocumentAlone() {
    const int graphs = from_environment("WILDLOOM_GRAPHS", 300);
    const auto first = static_cast<unsigned>(from_environment("WILDLOOM_FIRST_SEED", 1));
    for (unsigned seed = first; seed < first + static_cast<unsigned>(graphs); ++seed) {
      RandomGraph chance(catalogue(), seed);
      const Material m = chance.make(5 + static_cast<int>(chance.below(36)));
      if (qEnvironmentVariableIsSet("WILDLOOM_PRINT")) printf("%s\n", write_material(m).c_str()), fflush(stdout);
      const QByteArray found = first_difference(m, chance);
      QVERIFY2(found.isEmpty(), "seed " + QByteArray::number(seed) + ", " + found);
    }
    qInfo("%d documents from seed %u on", graphs, first);
  }
};

QTEST_GUILESS_MAIN(TestRandomGraphs)
#include "tst_random_graphs.moc"
