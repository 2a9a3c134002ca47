// One account of bytes: what does not fit is refused with its size, what is kept gives way, and memory that cannot be
// had ends in words.
#include <QTemporaryDir>
#include <atomic>
#include <cstdlib>
#include <filesystem>
#include <new>
#include <thread>

#include "core/bolt/delivery.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/plane/ledger.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

// The process's allocations are counted, those of at least `least` bytes. The one that is told to fails once: then the
// handler of the program has its turn. Where `hard`, what is large fails a second time, as it does where memory is
// short.
constexpr std::size_t kLarge = std::size_t{64} << 10;
std::atomic<long> counted{0}, failing{-1};
std::atomic<std::size_t> least{0};
std::atomic<int> fail_again{0};
std::atomic<bool> hard{false};

bool fails(std::size_t bytes) {
  if (bytes >= kLarge && fail_again.exchange(0)) return true;
  if (bytes < least || ++counted != failing) return false;
  if (hard) fail_again = 1;
  return true;
}

void* tried(std::size_t bytes, std::size_t alignment) {
  if (fails(bytes)) return nullptr;
  if (alignment <= alignof(std::max_align_t)) return std::malloc(bytes ? bytes : 1);
  void* at = nullptr;
  return ::posix_memalign(&at, alignment, bytes) == 0 ? at : nullptr;
}
// As the standard asks of operator new.
void* taken_or_thrown(std::size_t bytes, std::size_t alignment = 0) {
  for (;;) {
    if (void* at = tried(bytes, alignment)) return at;
    const auto handler = std::get_new_handler();
    if (!handler) throw std::bad_alloc();
    handler();
  }
}
void* taken(std::size_t bytes) noexcept {
  try {
    return taken_or_thrown(bytes);
  } catch (const std::bad_alloc&) {
    return nullptr;
  }
}

}  // namespace

void* operator new(std::size_t n) { return taken_or_thrown(n); }
void* operator new[](std::size_t n) { return taken_or_thrown(n); }
void* operator new(std::size_t n, std::align_val_t a) { return taken_or_thrown(n, static_cast<std::size_t>(a)); }
void* operator new[](std::size_t n, std::align_val_t a) { return taken_or_thrown(n, static_cast<std::size_t>(a)); }
void* operator new(std::size_t n, const std::nothrow_t&) noexcept { return taken(n); }
void* operator new[](std::size_t n, const std::nothrow_t&) noexcept { return taken(n); }
void operator delete(void* p) noexcept { std::free(p); }
void operator delete[](void* p) noexcept { std::free(p); }
void operator delete(void* p, std::size_t) noexcept { std::free(p); }
void operator delete[](void* p, std::size_t) noexcept { std::free(p); }
void operator delete(void* p, std::align_val_t) noexcept { std::free(p); }
void operator delete[](void* p, std::align_val_t) noexcept { std::free(p); }
void operator delete(void* p, std::size_t, std::align_val_t) noexcept { std::free(p); }
void operator delete[](void* p, std::size_t, std::align_val_t) noexcept { std::free(p); }
// Buffers of planes come from here.
extern "C" void* aligned_alloc(std::size_t alignment, std::size_t bytes) noexcept { return tried(bytes, alignment); }

class TestMemory : public QObject {
  Q_OBJECT
  static constexpr std::size_t kMiB = std::size_t{1} << 20;
  static std::vector<Want> hem_of(const FlatGraph& g) {
    std::vector<Want> wants;
    for (const auto& [slot, ref] : g.hem) wants.emplace_back(ref, slot_kind(slot));
    return wants;
  }

  // An hour at the bench: opened, edited, woven, delivered, packed, saved. What it wrote, byte for byte.
  static Result<std::map<std::string, std::string>> session(const std::filesystem::path& folder) {
    auto m = open_material(LOOM_DEMO "/rush-matting.loom");
    if (!m) return m.error();
    std::string id;
    Material n = edit::add_node(*m, catalogue(), "blur", m->lanes.front().id, 9, 9, &id);
    n = edit::connect(std::move(n), {m->threads.front().from_node, m->threads.front().from_peg, id, "source"});
    n = edit::set_param(std::move(n), id, "radius", 0.02);
    n = edit::set_of_hem(std::move(n), "opacity", 0.5);
    n = edit::make_dial(n, catalogue(), id, "radius");
    Weaver weaver(64 * kMiB);
    DeliveryPlan plan;
    plan.folder = folder / "maps";
    plan.size = 256;
    plan.files = usual_files(n);
    plan.files.front().format = ImageFormat::exr;
    plan.files.front().bits = 16;
    const auto report = deliver(n, catalogue(), weaver, plan, Stop{});
    if (!report) return report.error();
    if (const auto done = write_bolt(folder / "a.bolt", {n}); !done) return done.error();
    const auto bolt = read_bolt(folder / "a.bolt");
    if (!bolt) return bolt.error();
    if (const auto done = write_file(folder / "a.loom", write_material(bolt->material)); !done) return done.error();
    std::map<std::string, std::string> written;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder))
      if (entry.is_regular_file()) {
        auto bytes = read_file(entry.path(), 64 * kMiB);
        if (!bytes) return bytes.error();
        written[entry.path().filename().string()] = std::move(bytes).value();
      }
    return written;
  }

 private Q_SLOTS:
  void init() { set_memory_budget(default_budget()); }

  // Whatever the budget, either all fits into it or it is said how much is needed; with that much it goes on.
  void whatIsWovenStaysWithinTheBudget_data() {
    QTest::addColumn<QString>("file");
    for (const auto& entry : std::filesystem::directory_iterator(LOOM_DEMO))
      if (entry.path().extension() == ".loom")
        QTest::newRow(entry.path().stem().c_str()) << QString::fromStdString(entry.path().string());
  }
  void whatIsWovenStaysWithinTheBudget() {
    QFETCH(QString, file);
    const auto m = open_material(file.toStdString());
    const auto g = flatten(*m, catalogue());
    QVERIFY(g.ok());
    int fitted = 0, refused = 0;
    for (const std::size_t budget : {4 * kMiB, 8 * kMiB, 16 * kMiB, 24 * kMiB, 48 * kMiB, 192 * kMiB}) {
      Weaver w(512 * kMiB);
      drop_spare_buffers();
      set_memory_budget(bytes_held() + budget);
      const std::size_t before = pool_state().used;
      reset_pool_peak();
      const auto r = w.weave(*g, hem_of(*g), 512, Stop{});
      const std::size_t most = pool_state().peak - before;
      // A plane of 512 has one MiB. Tables and pyramids that a program reads are made before it is admitted.
      QVERIFY2(most <= budget + 4 * kMiB, QByteArray::number(static_cast<qulonglong>(most / kMiB)) + " MiB of " +
                                              QByteArray::number(static_cast<qulonglong>(budget / kMiB)));
      if (r) {
        ++fitted;
        continue;
      }
      ++refused;
      QVERIFY2(r.error().text().find("needs at least") != std::string::npos, r.error().text().c_str());
    }
    QVERIFY(fitted > 0 && refused > 0);
  }
  void workingPlanesAreWhatATypeSays_data() {
    QTest::addColumn<QString>("type");
    for (const NodeType* t : catalogue().all())
      if (t->evaluate) QTest::newRow(t->id.c_str()) << QString::fromStdString(t->id);
  }
  void workingPlanesAreWhatATypeSays() {
    QFETCH(QString, type);
    const NodeType& t = *catalogue().find(type.toStdString());
    constexpr int kSize = 512;
    const std::size_t plane = std::size_t{kSize} * kSize * sizeof(float);
    Fields inputs;
    for (const Peg& p : t.inputs) inputs[p.id] = bumpy_field(p.kind, kSize, 1);
    std::size_t most = 0;
    for (const Parameter* choice = nullptr; const Parameter& p : t.parameters)
      if (!choice && p.kind == ParameterKind::choice) {
        choice = &p;
        for (const std::string& word : p.options) most = std::max(most, beside(t, inputs, {{p.id, word}}));
      }
    most = std::max(most, beside(t, inputs, {}));
    QVERIFY2(most <= static_cast<std::size_t>(t.working_planes) * plane,
             QByteArray::number(static_cast<double>(most) / static_cast<double>(plane)) + " planes");
  }

  // Each wanted output goes out once, with the bits that it has among all of them, and fewer planes are there at a
  // time.
  void whatStandsIsHandedOver_data() { whatIsWovenStaysWithinTheBudget_data(); }
  void whatStandsIsHandedOver() {
    QFETCH(QString, file);
    const auto m = open_material(file.toStdString());
    const auto g = flatten(*m, catalogue());
    std::vector<Want> wants = hem_of(*g);
    wants.push_back(wants.front());  // the same twice is asked for twice
    const auto peak_of = [&](const WeaveOptions& how, std::vector<Field>& fields) {
      Weaver w(512 * kMiB);
      drop_spare_buffers();
      reset_pool_peak();
      const std::size_t before = pool_state().used;
      auto r = w.weave(*g, wants, 512, Stop{}, how);
      if (!r) qFatal("%s", r.error().text().c_str());
      if (!r->fields.empty()) fields = std::move(r->fields);
      return pool_state().peak - before;
    };
    WeaveOptions together;
    together.keep = false;
    std::vector<Field> fields;
    const std::size_t all = peak_of(together, fields);
    WeaveOptions one_by_one = together;
    std::vector<int> taken(wants.size());
    bool same = true;
    one_by_one.finished = [&](std::size_t i, const Field& f) {
      ++taken[i];
      const auto a = planes_of(f), b = planes_of(fields[i]);
      same &= a.size() == b.size();
      for (std::size_t k = 0; same && k < a.size(); ++k) same &= same_bits(*a[k], *b[k]);
      return true;
    };
    std::vector<Field> none;
    const std::size_t before = pool_state().used, some = peak_of(one_by_one, none);
    QCOMPARE(pool_state().used, before);
    QVERIFY(none.empty() && same);
    for (const int n : taken) QCOMPARE(n, 1);
    QVERIFY(some <= all);
    // What is said beforehand is near enough to choose by. Tables and pyramids of pictures come on top of it.
    Weaver w(512 * kMiB);
    const auto told = static_cast<double>(w.bytes_at_peak(*g, wants, 512, one_by_one)),
               seen = static_cast<double>(some);
    // What is kept and read again counts as well.
    (void)w.weave(*g, wants, 512, Stop{});
    QVERIFY(w.bytes_at_peak(*g, wants, 512) >= fields.front().bytes());
    QVERIFY2(seen < 1.1 * told + 4 * kMiB && told < 1.7 * seen + 3 * kMiB,
             QByteArray::number(seen / kMiB) + " MiB, told " + QByteArray::number(told / kMiB));
  }
  void whoTakesMayEndTheWeaving() {
    const auto m = open_material(LOOM_DEMO "/quay-floor.loom");
    const auto g = flatten(*m, catalogue());
    Weaver w(512 * kMiB);
    WeaveOptions how;
    int taken = 0;
    how.finished = [&](std::size_t, const Field&) { return ++taken < 2; };
    QCOMPARE(w.weave(*g, hem_of(*g), 128, Stop{}, how).error().what, std::string("cancelled"));
    QCOMPARE(taken, 2);
  }

  // What was thought to fit and does not is delivered one after the other, and none twice; what cannot fit even so says
  // what it needs.
  void aDeliveryThatDoesNotFitAtOnceGoesOnSlotBySlot() {
    const auto m = open_material(LOOM_DEMO "/quay-floor.loom");
    QTemporaryDir at_once, short_of_room;
    const auto delivered = [&](const QTemporaryDir& folder, std::vector<std::string>& told) {
      DeliveryPlan plan;
      plan.folder = folder.path().toStdString();
      plan.size = 512;
      plan.files = usual_files(*m);
      Weaver w(64 * kMiB);
      const auto note = [&](double, const std::string& what) {
        if (what.ends_with(".png") && (told.empty() || told.back() != what)) told.push_back(what);
      };
      return deliver(*m, catalogue(), w, plan, Stop{}, note, 4096 * kMiB);
    };
    std::vector<std::string> first, second;
    const auto whole = delivered(at_once, first);
    QVERIFY(whole.ok());
    drop_spare_buffers();
    set_memory_budget(bytes_held() + 8 * kMiB);  // at once it takes eleven
    const auto parts = delivered(short_of_room, second);
    QVERIFY2(parts.ok(), parts ? "" : parts.error().text().c_str());
    std::sort(second.begin(), second.end());
    QVERIFY(std::unique(second.begin(), second.end()) == second.end());
    QCOMPARE(second.size(), first.size());
    for (std::size_t i = 0; i < whole->files.size(); ++i)
      QCOMPARE(*read_file(parts->files[i].path, 64 * kMiB), *read_file(whole->files[i].path, 64 * kMiB));
    set_memory_budget(bytes_held() + 2 * kMiB);
    const auto none = delivered(short_of_room, second);
    QVERIFY(!none && none.error().text().find("needs at least") != std::string::npos);
  }

  void whatIsKeptGivesWay() {
    const auto m = open_material(LOOM_DEMO "/quay-floor.loom");
    const auto g = flatten(*m, catalogue());
    Weaver one(512 * kMiB), other(512 * kMiB);
    QVERIFY(one.weave(*g, hem_of(*g), 512, Stop{}).ok());
    const std::size_t kept = one.cached_bytes();
    QVERIFY(kept > 8 * kMiB);
    set_memory_budget(bytes_held() + kMiB);  // another window has hardly room
    QVERIFY(admit(kept / 2));
    QVERIFY(one.cached_bytes() < kept);
    QVERIFY(!admit(bytes_held() + kept));
    QCOMPARE(one.cached_bytes(), std::size_t{0});
    set_memory_budget(default_budget());
    QVERIFY(other.weave(*g, hem_of(*g), 512, Stop{}).ok());
  }
  // Weavers come and go on one thread, as deliveries do, while another has too little room and asks all that there are.
  void aKeeperThatGoesIsAskedNoMore() {
    const auto m = open_material(LOOM_DEMO "/rush-matting.loom");
    const auto g = flatten(*m, catalogue());
    std::atomic<bool> ending{false};
    std::thread asking([&] {
      while (!ending) (void)admit(memory_budget());
    });
    for (int i = 0; i < 60; ++i) {
      Weaver w(64 * kMiB);
      QVERIFY(w.weave(*g, hem_of(*g), 64, Stop{}).ok());
    }
    ending = true;
    asking.join();
  }
  // Two that are admitted do not count on the same bytes: the second waits until the first has what it came for.
  void roomIsGivenToOneAtATime() {
    set_memory_budget(bytes_held() + 8 * kMiB);
    QVERIFY(!admit(9 * kMiB));  // nobody to wait for
    Room first = admit(6 * kMiB);
    QVERIFY(first);
    Stop stop;
    stop.ask();
    QVERIFY(!admit(6 * kMiB, stop));
    QVERIFY(admit(2 * kMiB));
    std::atomic<bool> asked{false}, given{false};
    std::thread other([&] {
      asked = true;
      given = static_cast<bool>(admit(6 * kMiB));
    });
    while (!asked) std::this_thread::yield();
    QTest::qSleep(30);
    QVERIFY(!given);
    first = Room();
    other.join();
    QVERIFY(given);
  }
  void whatIsBookedCounts() {
    const std::size_t before = bytes_held();
    {
      Booked one(5 * kMiB), other;
      other = std::move(one);
      QCOMPARE(bytes_held(), before + 5 * kMiB);
      Booked third(std::move(other));
      QCOMPARE(bytes_held(), before + 5 * kMiB);
    }
    QCOMPARE(bytes_held(), before);
  }

  // One allocation fails, anywhere: the session goes on from what was set aside, or ends in words; and the next one
  // gives what it always gave.
  void noFailedAllocationEndsTheProgram_data() {
    QTest::addColumn<bool>("large");
    QTest::newRow("any, once: served from what was set aside") << false;
    QTest::newRow("a large one, for good") << true;
  }
  void noFailedAllocationEndsTheProgram() {
    QFETCH(bool, large);
    keep_reserve();
    QTemporaryDir dir;
    const std::filesystem::path folder = dir.path().toStdString();
    const auto expected = session(folder / "expected");
    QVERIFY2(expected.ok(), expected ? "" : expected.error().text().c_str());
    least = large ? kLarge : 0;
    hard = large;
    counted = 0;
    QVERIFY(session(folder / "counted").ok());
    const long all = counted;
    std::vector<long> places{1, 10, 100, 1000, 10000};
    for (long at = 37; at < all; at += all / 120 + 1) places.push_back(at);
    int told = 0, thrown = 0, unharmed = 0;
    for (const long at : places) {
      if (at > all) continue;
      keep_reserve();
      counted = 0;
      failing = at;
      try {
        const auto r = session(folder / "failing");
        r ? ++unharmed : ++told;
        if (r) QVERIFY(*r == *expected);
      } catch (const std::bad_alloc&) {  // out of an edit: the window tells it
        ++thrown;
      }
      failing = -1;
      fail_again = 0;
      std::filesystem::remove_all(folder / "failing");
      if (at % 4) continue;
      const auto after = session(folder / "after");
      QVERIFY2(after.ok() && *after == *expected, ("after the failure at " + std::to_string(at)).c_str());
      std::filesystem::remove_all(folder / "after");
    }
    qInfo("%ld allocations: %d told, %d thrown, %d went on", all, told, thrown, unharmed);
    QVERIFY(large ? told + thrown > 0 : told + thrown == 0);
  }

 private:
  // The most bytes that it takes from the pool beside what comes in and goes out.
  static std::size_t beside(const NodeType& type, const Fields& inputs,
                            const std::map<std::string, ParamValue>& params) {
    drop_spare_buffers();
    reset_pool_peak();
    const std::size_t before = pool_state().used;
    const auto outputs = weave_alone(type, 512, inputs, params);
    std::size_t given = 0;
    for (const auto& [id, field] : outputs) given += field.bytes();
    const std::size_t most = pool_state().peak - before;
    return most > given ? most - given : 0;
  }
};

QTEST_GUILESS_MAIN(TestMemory)
#include "tst_memory.moc"
