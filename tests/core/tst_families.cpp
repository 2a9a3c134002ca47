// What single families of nodes promise, each against a plain computation.
#include "core/nodes/stroke_stops.h"
#include "core/plane/flow.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestFamilies : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> alone(const char* type, int size, const Fields& in, const Resolved& params = {}) {
    return weave_alone(*catalogue().find(type), size, in, params);
  }
  static Plane plane(const char* type, int size, const Fields& in, const Resolved& params, const char* out) {
    return alone(type, size, in, params).at(out).strand[0]->clone();
  }
  static Fields one(const char* peg, Plane p) {
    Fields f;
    f[peg] = field_of(Kind::scalar, std::move(p));
    return f;
  }

 private Q_SLOTS:
  // ---- move ----

  void followingAnEvenFieldIsAShift() {
    const Plane source = bumpy(128, 1);
    Fields in = one("source", source.clone());
    in["field"] = field_of(Kind::vector2, Plane::filled(128, 1), Plane::filled(128, 0));
    // A quarter of a tile along u, on whole texels: what was there is here now.
    const Plane moved = plane("follow", 128, in, {{"amount", 0.25}}, "result");
    QVERIFY(furthest(moved, rolled(source, -32, 0)) < 1e-5);
  }
  void manySmallStepsRoundACircleStayOnIt() {
    // A field that turns about the middle: one leap leaves the circle by 1 - 1/cos, many steps stay near it.
    const Plane u = painted(256, [](double, double v) { return -(v - 0.5); }),
                v = painted(256, [](double x, double) { return x - 0.5; });
    const auto radius_after = [&](int doublings) {
      // The field is the place itself, turned: what is read where one arrives tells where that is.
      const auto at = followed({&u, &v}, u, v, 1.0f / static_cast<float>(1 << doublings), doublings, Stop{});
      return std::hypot(static_cast<double>(at[0].at(150, 128)), static_cast<double>(at[1].at(150, 128)));
    };
    const double start = std::hypot(150.5 / 256 - 0.5, 128.5 / 256 - 0.5);
    QVERIFY(std::abs(radius_after(0) - start * std::sqrt(2.0)) < 1e-4);
    QVERIFY(std::abs(radius_after(6) - start) < 0.02 * start);
  }
  void smearingKeepsTheMeanAndSmoothsAlongTheFieldOnly() {
    const Plane stripes = painted(128, [](double u, double) { return std::fmod(u * 8, 1.0) < 0.5 ? 1.0 : 0.0; });
    Fields in = one("source", stripes.clone());
    in["field"] = field_of(Kind::vector2, Plane::filled(128, 0), Plane::filled(128, 1));
    QVERIFY(furthest(plane("smear", 128, in, {{"length", 0.3}}, "result"), stripes) <
            1e-5);  // along the stripes: nothing changes
    in["field"] = field_of(Kind::vector2, Plane::filled(128, 1), Plane::filled(128, 0));
    const Range across = range_of(plane("smear", 128, in, {{"length", 0.25}}, "result"));
    QVERIFY2(across.most - across.least < 0.2f, "two whole stripes even out");
    QVERIFY(std::abs(across.mean - 0.5f) < 1e-3f);
  }
  void smearingColoursSmearsEachStrand() {
    Fields in;
    in["source"] = bumpy_field(Kind::colour, 64, 4);
    in["field"] = bumpy_field(Kind::vector2, 64, 1);
    const NodeType& smear = *catalogue().find("smear");
    const Field colour = weave_alone(smear, 64, in, {{"length", 0.2}}).at("result");
    for (std::size_t i = 0; i < 3; ++i) {
      Fields one = in;
      one["source"] = Field{.kind = Kind::scalar, .strand = {in["source"].strand[i]}, .regions = {}, .members = {}};
      QVERIFY(same_bits(*colour.strand[i], *weave_alone(smear, 64, one, {{"length", 0.2}}).at("result").strand[0]));
    }
  }
  void mirroredHalvesAreEqual() {
    const Plane m = plane("mirror", 128, one("source", bumpy(128, 2)), {{"fold", std::string("both")}}, "result");
    for (int y = 0; y < 128; ++y)
      for (int x = 0; x < 128; ++x) {
        QVERIFY(std::abs(m.at(x, y) - m.at(127 - x, y)) < 1e-5f);
        QVERIFY(std::abs(m.at(x, y) - m.at(x, 127 - y)) < 1e-5f);
      }
  }
  void sectorsRepeatRoundTheMiddle() {
    const Plane m = plane("mirror", 256, one("source", bumpy(256, 1)),
                          {{"fold", std::string("into_sectors")}, {"sectors", 4.0}}, "result");
    for (int i = 20; i < 110; i += 7)  // a quarter turn: (x, y) to (y, 255 - x)
      for (int j = 20; j < 110; j += 11) QVERIFY(std::abs(m.at(128 + i, 128 + j) - m.at(128 + j, 127 - i)) < 2e-3f);
  }
  void readingAtTheOwnPlaceIsTheSource() {
    Fields in = one("source", bumpy(64, 3));
    QVERIFY(furthest(plane("sample_at", 64, in, {}, "result"), bumpy(64, 3)) < 1e-6);
    QVERIFY(furthest(plane("sample_at", 64, in, {{"shift", Vector{0.25, 0}}}, "result"), rolled(bumpy(64, 3), -16, 0)) <
            1e-5);
  }
  void warpsMergeAsTheyAreCalled() {
    Fields in =
        one("source", painted(128, [](double u, double v) { return std::hypot(u - 0.5, v - 0.5) < 0.2 ? 1.0 : 0.0; }));
    in["drive"] = field_of(Kind::scalar, bumpy(128, 1));
    const auto with = [&](const char* merge) {
      return range_of(
                 plane("warp", 128, in, {{"amount", 0.05}, {"pushes", 6.0}, {"merge", std::string(merge)}}, "result"))
          .mean;
    };
    QVERIFY(with("minimum") < with("mean") && with("mean") < with("maximum"));  // it eats, is soft, grows
    QVERIFY(with("multiply") <= with("minimum") + 1e-6f && with("screen") >= with("maximum") - 1e-6f);
  }

  // ---- tone, edge ----

  void fullRangeReachesBothEnds() {
    Plane narrow(64);
    const Plane source = bumpy(64, 2);
    for (std::size_t i = 0; i < narrow.texels(); ++i) narrow.data()[i] = 3 + 0.1f * source.data()[i];
    const Range r = range_of(plane("tone", 64, one("value", narrow.clone()), {{"full_range", 1.0}}, "value"));
    QVERIFY(std::abs(r.least) < 1e-4f && std::abs(r.most - 1) < 1e-4f);
  }
  void statisticsAreThePlainOnes() {
    const Plane p = bumpy(128, 4);
    double sum = 0, square = 0, least = 1e9, most = -1e9;
    for (std::size_t i = 0; i < p.texels(); ++i) {
      const double x = static_cast<double>(p.data()[i]);
      sum += x, square += x * x, least = std::min(least, x), most = std::max(most, x);
    }
    const double n = static_cast<double>(p.texels()), mean = sum / n;
    const auto out = alone("statistics", 128, one("source", p.clone()));
    QVERIFY(std::abs(static_cast<double>(out.at("mean").strand[0]->at(5, 5)) - mean) < 1e-5);
    QVERIFY(std::abs(static_cast<double>(out.at("deviation").strand[0]->at(5, 5)) -
                     std::sqrt(square / n - mean * mean)) < 1e-4);
    QCOMPARE(static_cast<double>(out.at("minimum").strand[0]->at(0, 0)), least);
    QCOMPARE(static_cast<double>(out.at("maximum").strand[0]->at(0, 0)), most);
  }
  void colourAdjustAtItsStartChangesNothing() {
    Fields in;
    in["colour"] = bumpy_field(Kind::colour, 64, 1);
    const auto out = alone("colour_adjust", 64, in).at("colour");
    for (std::size_t i = 0; i < 3; ++i) QVERIFY(furthest(*out.strand[i], *in["colour"].strand[i]) < 2e-3);
    const auto grey = alone("colour_adjust", 64, in, {{"saturation", 0.0}}).at("colour");
    QVERIFY(furthest(*grey.strand[0], *grey.strand[2]) < 2e-3);
  }
  void aLineBlurActsAlongItsLineOnly() {
    const Plane stripes = painted(128, [](double, double v) { return std::fmod(v * 8, 1.0) < 0.5 ? 1.0 : 0.0; });
    QVERIFY(furthest(plane("blur", 128, one("source", stripes.clone()), {{"by", std::string("line")}, {"radius", 0.1}},
                           "result"),
                     stripes) < 1e-5);
    const Range across =
        range_of(plane("blur", 128, one("source", stripes.clone()),
                       {{"by", std::string("line")}, {"radius", 0.125}, {"direction", 90.0}}, "result"));
    QVERIFY(across.most - across.least < 0.15f && std::abs(across.mean - 0.5f) < 1e-4f);
  }
  void aBlurByMapIsTheEvenBlurWhereTheMapIsEven() {
    const Plane source =
        painted(128, [](double u, double v) { return std::hypot(u - 0.5, v - 0.5) < 0.2 ? 1.0 : 0.0; });
    Fields in = one("source", source.clone());
    in["map"] = field_of(Kind::scalar, Plane::filled(128, 1));
    const Resolved by_map{{"by", std::string("map_of_radii")}, {"radius", 0.06}};
    QVERIFY(furthest(plane("blur", 128, in, by_map, "result"),
                     plane("blur", 128, one("source", source.clone()), {{"radius", 0.06}}, "result")) < 1e-5);
    in["map"] = field_of(Kind::scalar, Plane::filled(128, 0));
    QVERIFY(furthest(plane("blur", 128, in, by_map, "result"), source) < 1e-6);
    in["map"] = field_of(Kind::scalar, bumpy(128, 1));
    const Range r = range_of(plane("blur", 128, in, by_map, "result"));
    QVERIFY2(r.least >= -1e-5f && r.most <= 1 + 1e-5f, "no halos");
  }
  void growingAndShrinkingMovesADiscsEdge() {
    const Plane disc = painted(
        256, [](double u, double v) { return std::clamp(0.5 + (0.2 - std::hypot(u - 0.5, v - 0.5)) * 256, 0.0, 1.0); });
    for (const double by : {0.05, -0.05}) {
      const double mean = static_cast<double>(
                       range_of(plane("grow_and_shrink", 256, one("mask", disc.clone()), {{"distance", by}}, "mask"))
                           .mean),
                   expected = 3.14159265 * (0.2 + by) * (0.2 + by);
      QVERIFY2(std::abs(mean - expected) < 0.01 * expected,
               qPrintable(QStringLiteral("%1, not %2").arg(mean).arg(expected)));
    }
  }
  void outlinesOfRegionsHaveTheWidthAskedForAndNoGap() {
    // Four quarters of the tile, as regions: two lines each way.
    Labels l{painted(256, [](double u, double v) { return (u < 0.5 ? 0.0 : 1.0) + (v < 0.5 ? 0.0 : 2.0); }), {}};
    l.table.resize(4);
    Field regions;
    regions.kind = Kind::regions;
    regions.strand[0] = shared(std::move(l.index));
    regions.regions = std::make_shared<RegionTable>(std::move(l.table));
    const Plane mask = plane("outline", 256, {{"source", regions}}, {{"width", 0.03}}, "mask");
    const double line = 2 * 0.03, expected = 1 - (1 - line) * (1 - line);
    QVERIFY(std::abs(static_cast<double>(range_of(mask).mean) - expected) < 0.01);
    for (int i = 0; i < 256; ++i) QVERIFY(mask.at(i, 128) > 0.9f && mask.at(128, i) > 0.9f && mask.at(0, i) > 0.9f);
  }
  void sharpeningIsTheOppositeOfBlurringToFirstOrder() {
    const Plane p = bumpy(128, 2);
    const Plane sharp = plane("sharpen", 128, one("source", p.clone()), {{"amount", 1.0}, {"radius", 0.02}}, "result"),
                soft = plane("blur", 128, one("source", p.clone()), {{"radius", 0.02}}, "result");
    for (std::size_t i = 0; i < p.texels(); ++i)
      QVERIFY(std::abs(sharp.data()[i] + soft.data()[i] - 2 * p.data()[i]) < 1e-5f);
  }

  // ---- mix, measure ----

  void switchPassesTheBitsOfTheChosen() {
    Fields in;
    for (int i = 1; i <= 3; ++i) in["input_" + std::to_string(i)] = bumpy_field(Kind::colour, 64, i);
    for (int i = 1; i <= 3; ++i)
      QVERIFY(same_bits(*alone("switch", 64, in, {{"chosen", static_cast<double>(i)}}).at("result").strand[1],
                        *in["input_" + std::to_string(i)].strand[1]));
  }
  void joiningWhatWasSplitGivesItBack() {
    Fields in;
    in["source"] = bumpy_field(Kind::colour, 64, 1);
    const auto parts = alone("split_channels", 64, in);
    Fields joined;
    for (const char* name : {"first", "second", "third"}) joined[name] = parts.at(name);
    const auto out = alone("join_channels", 64, joined).at("result");
    for (std::size_t i = 0; i < 3; ++i) QVERIFY(same_bits(*out.strand[i], *in["source"].strand[i]));
  }
  // Where nothing comes near the tile's edge it does not matter whether the picture ends there.
  void aFigureFarFromTheEdgeIsTheSameEitherWay_data() {
    QTest::addColumn<QString>("type");
    for (const NodeType* t : catalogue().all())
      if (t->parameter("ends_at_edge")) QTest::newRow(t->id.c_str()) << QString::fromStdString(t->id);
  }
  void aFigureFarFromTheEdgeIsTheSameEitherWay() {
    QFETCH(QString, type);
    const NodeType& t = *catalogue().find(type.toStdString());
    Fields in;
    const Plane disc = painted(256, [](double u, double v) {
      return std::clamp(0.5 + 256 * (0.15 - std::hypot(u - 0.5, v - 0.47)), 0.0, 1.0);
    });
    in[t.inputs.front().id] = field_of(Kind::scalar, disc.clone());
    const auto here = alone(t.id.c_str(), 256, in), ends = alone(t.id.c_str(), 256, in, {{"ends_at_edge", 1.0}});
    for (const Peg& out : t.outputs)
      for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(here.at(out.id).kind)); ++i) {
        const double apart = share_apart(*here.at(out.id).strand[i], *ends.at(out.id).strand[i], 2e-3);
        // Which way a level place rises is chance.
        if (out.id != "direction") QVERIFY2(apart < 0.001, (out.id + " " + std::to_string(apart)).c_str());
      }
  }
  void anOutlineDrawsNoBorderWhereThePictureEnds() {
    Fields in;  // a half of the tile: its left and right edges do not meet
    in["source"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u < 0.5 ? 0.0 : 1.0; }));
    const auto line = [&](double ends) {
      return alone("outline", 256, in, {{"ends_at_edge", ends}}).at("mask").strand[0]->clone();
    };
    QVERIFY(line(0).at(0, 100) > 0.5f && line(1).at(0, 100) == 0.0f && line(1).at(255, 100) == 0.0f);
    QVERIFY(line(1).at(128, 100) > 0.5f);
    // Nor does a blur bring one side to the other, and a slope sees no cliff there.
    const auto blurred =
        alone("blur", 256, in, {{"ends_at_edge", 1.0}, {"radius", 0.05}}).at("result").strand[0]->clone();
    QVERIFY(blurred.at(0, 9) < 1e-4f && blurred.at(255, 9) > 1 - 1e-4f);
    Fields height;
    height["height"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u; }));
    const auto steep =
        alone("slope", 256, height, {{"ends_at_edge", 1.0}, {"radius", 0.0}}).at("gradient").strand[0]->clone();
    for (int x = 2; x < 254; ++x) QVERIFY(std::abs(steep.at(x, 9) - steep.at(128, 9)) < 1e-3f);
    QVERIFY(std::abs(steep.at(0, 9)) <= steep.at(128, 9) + 1e-3f);
  }
  void sandSettlesInTheHollows() {
    Fields in;
    in["base"] = field_of(Kind::scalar, Plane::filled(128, 0));
    in["height"] = field_of(Kind::scalar, bumpy(128, 1));
    in["layer_1"] = field_of(Kind::scalar, Plane::filled(128, 1));
    const auto out =
        alone("layers", 128, in, {{"mode_1", std::string("settle")}, {"amount_1", 0.5}, {"contrast_width", 0.0}});
    for (std::size_t i = 0; i < in["height"].strand[0]->texels(); ++i) {
      const float h = in["height"].strand[0]->data()[i], sand = out.at("result").strand[0]->data()[i];
      if (std::abs(h - 0.5f) > 1e-3f) QCOMPARE(sand, h < 0.5f ? 1.0f : 0.0f);
      QVERIFY(out.at("height").strand[0]->data()[i] >= std::min(h, 0.5f) - 1e-3f);
    }
  }
  void aLayerThatIsOffIsAsIfItWereNotThere() {
    Fields in;
    in["base"] = bumpy_field(Kind::colour, 64, 1);
    in["layer_1"] = bumpy_field(Kind::colour, 64, 3);
    in["layer_2"] = bumpy_field(Kind::colour, 64, 5);
    Fields without = in;
    without.erase("layer_1");
    const Resolved off{{"on_1", 0.0}, {"mode_1", std::string("multiply")}, {"amount_2", 0.5}};
    for (std::size_t i = 0; i < 3; ++i)
      QVERIFY(same_bits(*alone("layers", 64, in, off).at("result").strand[i],
                        *alone("layers", 64, without, off).at("result").strand[i]));
  }
  // Two cords: where the upper one's height is above the lower one's, all of its maps lie there.
  void aCordSettlesByItsOwnHeight() {
    const auto cord = [](Plane height, float roughness) {
      Fields maps;
      maps["height"] = field_of(Kind::scalar, std::move(height));
      maps["roughness"] = field_of(Kind::scalar, Plane::filled(64, roughness));
      return alone("make_set", 64, maps).at("set");
    };
    Fields in;
    in["base"] = cord(bumpy(64, 1), 0.2f);
    in["layer_1"] = cord(bumpy(64, 3), 0.9f);
    const Plane lower = bumpy(64, 1), upper = bumpy(64, 3);
    const auto out =
        alone("layers", 64, in, {{"mode_1", std::string("settle")}, {"amount_1", 0.5}, {"contrast_width", 0.0}});
    const auto member = [&](const char* name) -> const Plane& {
      for (const auto& [id, map] : out.at("result").members)
        if (id == name) return *map.strand[0];
      qFatal("no such map");
    };
    std::size_t above = 0;
    for (std::size_t i = 0; i < lower.texels(); ++i) {
      const float a = lower.data()[i], b = upper.data()[i];
      if (std::abs(a - b) < 1e-3f) continue;
      above += b > a;
      QVERIFY(std::abs(member("roughness").data()[i] - (b > a ? 0.9f : 0.2f)) < 1e-4f);
      QVERIFY(std::abs(member("height").data()[i] - std::max(a, b)) < 2e-3f);
    }
    QVERIFY(above > 100);
  }
  void aStackOfOneLayerIsABlend() {
    Fields stack, pair;
    stack["base"] = pair["lower"] = bumpy_field(Kind::colour, 64, 1);
    stack["layer_1"] = pair["upper"] = bumpy_field(Kind::colour, 64, 3);
    stack["mask_1"] = pair["mask"] = bumpy_field(Kind::scalar, 64, 5);
    for (const std::string mode : {"plain", "multiply", "overlay", "soft_light"})
      QVERIFY(same_bits(*alone("layers", 64, stack, {{"mode_1", mode}}).at("result").strand[0],
                        *alone("blend", 64, pair, {{"mode", mode}}).at("result").strand[0]));
  }
  void keptAndOtherRegionsMakeTheWhole() {
    Fields in;
    in["regions"] = bumpy_field(Kind::regions, 128, 1);
    const Plane kept = plane("keep_regions", 128, in, {{"minimum", 0.3}}, "mask"),
                others = plane("keep_regions", 128, in, {{"minimum", 0.3}, {"inverted", 1.0}}, "mask");
    for (std::size_t i = 0; i < kept.texels(); ++i)
      QCOMPARE(kept.data()[i] + others.data()[i], in["regions"].strand[0]->data()[i] >= 0 ? 1.0f : 0.0f);
  }
  void aPlainWeaveIsEvenAndASatinFloats() {
    const auto warp_share = [](const char* weave) {
      return static_cast<double>(
          range_of(*alone("woven_cloth", 256, {}, {{"weave", std::string(weave)}, {"gap", 0.0}}).at("warp").strand[0])
              .mean);
    };
    QVERIFY(std::abs(warp_share("plain") - 0.5) < 0.02);
    QVERIFY(std::abs(warp_share("twill") - 0.5) < 0.02);
    QVERIFY(warp_share("satin") > 0.65);  // four of five crossings
  }
  void raysAreAsManyAsAsked() {
    const Plane p = plane("rays", 512, {}, {{"count", 7.0}, {"softness", 0.0}}, "mask");
    int rises = 0;
    float last = 0;
    for (int i = 0; i <= 4096; ++i) {
      const double a = 6.283185307 * (i + 0.5) / 4096;
      const float here =
          p.at(static_cast<int>(256 + 150 * std::cos(a)), static_cast<int>(256 - 150 * std::sin(a))) > 0.5f ? 1.0f
                                                                                                            : 0.0f;
      rises += i > 0 && here > last;
      last = here;
    }
    QVERIFY2(rises == 7 || rises == 6, qPrintable(QString::number(rises)));  // one may lie over the start
  }

  // ---- regions ----

  // A disc and a slanting strip, alone on the tile, both across an edge.
  static Fields disc_and_strip(int size) {
    Plane index = painted(size, [](double u, double v) {
      double du = u - 0.02, dv = v - 0.3;
      du -= std::round(du);
      if (std::hypot(du, dv) < 0.12) return 0.0;
      const double c = std::cos(0.5), s = std::sin(0.5);
      double x = u - 0.55, y = v - 0.98;
      y -= std::round(y);
      return std::abs(c * x - s * y) < 0.2 && std::abs(s * x + c * y) < 0.04 ? 1.0 : -1.0;  // 0.5 anticlockwise as seen
    });
    auto table = std::make_shared<RegionTable>();
    table->resize(2);
    Fields in;
    in["regions"] = field_of(Kind::regions, std::move(index));
    in["regions"].regions = table;
    return in;
  }
  void regionShapesKnowDiscAndStrip() {
    const Fields in = disc_and_strip(512);
    const auto out = alone("region_shapes", 512, in);
    const auto at = [&](const char* peg, int x, int y) { return static_cast<double>(out.at(peg).strand[0]->at(x, y)); };
    const int dx = 10, dy = 154, sx = 282, sy = 502;
    QVERIFY2(std::abs(at("perimeter", dx, dy) - 2 * 3.14159265 * 0.12) < 0.01,
             qPrintable(QString::number(at("perimeter", dx, dy))));
    QVERIFY2(std::abs(at("perimeter", sx, sy) - 2 * (0.4 + 0.08)) < 0.06,
             qPrintable(QString::number(at("perimeter", sx, sy))));  // four directions: within 6 % of a straight edge
    QVERIFY2(std::abs(at("longest_axis", sx, sy) - 0.4) < 0.005,
             qPrintable(QString::number(at("longest_axis", sx, sy))));
    QVERIFY2(std::abs(at("longest_axis", dx, dy) - 0.12 * std::sqrt(3.0)) < 0.003,
             qPrintable(QString::number(at("longest_axis", dx, dy))));  // variance r^2 / 4
    QVERIFY2(std::abs(at("direction", sx, sy) - 0.5 / 3.14159265) < 0.01,
             qPrintable(QString::number(at("direction", sx, sy))));
    QCOMPARE(at("neighbours", dx, dy), 1.0);
    QCOMPARE(at("neighbours", 256, 300), 0.0);  // no region there
  }
  void bricksHaveSixNeighboursAcrossTheirJoints() {
    // Running bond: two beside, two above, two below.
    const auto laid = alone("masonry", 512, {}, {{"units_across", 4.0}});
    Fields in;
    in["regions"] = laid.at("regions");
    const Plane n = alone("region_shapes", 512, in).at("neighbours").strand[0]->clone();
    for (std::size_t i = 0; i < n.texels(); ++i) QVERIFY(n.data()[i] == 0 || n.data()[i] == 6);
    QCOMPARE(range_of(n).most, 6.0f);
  }
  void theMeanOfAMapIsItsMeanOverTheRegion() {
    Fields in = disc_and_strip(256);
    in["map"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u; }));
    const Plane mean = alone("region_shapes", 256, in).at("mean").strand[0]->clone();
    double sum = 0, count = 0;
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x)
        if (in["regions"].strand[0]->at(x, y) == 1) sum += (x + 0.5) / 256, ++count;
    QVERIFY(std::abs(static_cast<double>(mean.at(141, 251)) - sum / count) < 1e-5);
  }
  void valuesReachUnderTheJoints() {
    Fields in = disc_and_strip(256);
    const Resolved on{{"reach", 1.0}};
    const Plane bare = plane("region_values", 256, in, {}, "grey"),
                reached = plane("region_values", 256, in, on, "grey");
    int inside = 0, outside = 0;
    for (std::size_t i = 0; i < bare.texels(); ++i) {
      const bool there = in["regions"].strand[0]->data()[i] >= 0;
      QVERIFY(there ? bare.data()[i] == reached.data()[i] : bare.data()[i] == 0 && reached.data()[i] > 0);
      ++(there ? inside : outside);
    }
    QVERIFY(inside > 0 && outside > 0);
  }

  // ---- figures, colours, noise ----

  void figuresHaveTheirAreas() {
    const auto area = [](Resolved p) {
      p["size"] = 1.0, p["softness"] = 0.0;
      return static_cast<double>(range_of(plane("motif", 512, {}, p, "value")).mean);
    };
    // A vesica of two circles of radius 1.25 whose middles lie 1.5 apart, in a square of side 2.
    const double half = std::acos(0.75 / 1.25), lens = 2 * (1.25 * 1.25 * half - 0.75 * 1.0);
    QVERIFY(std::abs(area({{"figure", std::string("leaf")}}) - lens / 4) < 0.004);
    QVERIFY(std::abs(area({{"figure", std::string("cross")}, {"arm", 0.25}}) - (2 * 0.25 - 0.25 * 0.25)) < 0.004);
    QVERIFY(std::abs(area({{"figure", std::string("pyramid")}}) - 1.0 / 3) < 0.002);
    const double disc = 3.14159265 * 0.6 * 0.6 / 4,
                 gear = area({{"figure", std::string("gear")}, {"sides", 8.0}, {"inner", 0.6}});
    QVERIFY(gear > disc + 0.05 && gear < 3.14159265 / 4);
  }
  void aGearHasItsTeeth() {
    const Plane p = plane("motif", 512, {},
                          {{"figure", std::string("gear")}, {"sides", 9.0}, {"inner", 0.6}, {"size", 1.0}}, "value");
    int rises = 0;
    float last = p.at(static_cast<int>(256 + 205 * std::cos(0.1)), static_cast<int>(256 + 205 * std::sin(0.1)));
    for (int i = 1; i <= 4096; ++i) {
      const double a = 0.1 + 6.283185307 * i / 4096;
      const float here = p.at(static_cast<int>(256 + 205 * std::cos(a)), static_cast<int>(256 + 205 * std::sin(a)));
      rises += here > 0.5f && last <= 0.5f;
      last = here;
    }
    QCOMPARE(rises, 9);
  }
  // Ottosson 2020: in Oklab the middle of blue and white keeps its hue; in linear light it turns to violet.
  void dyeMixesInOklab() {
    const auto middle = [](const char* space) {
      Fields in = one("value", Plane::filled(64, 0.5f));
      const auto f = alone("dye", 64, in,
                           {{"stops", Stops{{0, {0, 0, 1, 1}}, {1, {1, 1, 1, 1}}}}, {"mixed_in", std::string(space)}})
                         .at("colour");
      return std::array<float, 3>{f.strand[0]->at(0, 0), f.strand[1]->at(0, 0), f.strand[2]->at(0, 0)};
    };
    const auto linear = middle("linear"), lab = middle("oklab");
    QVERIFY(std::abs(linear[0] - 0.5f) < 1e-6f && std::abs(linear[2] - 1) < 1e-6f);
    // L, a, b of blue are 0.452, -0.032, -0.312 (Ottosson's table of sRGB's corners); halved towards white at 1, 0, 0.
    const double l = 0.726, a = -0.016228, b = -0.155764;
    const double L = std::pow(l + 0.3963377774 * a + 0.2158037573 * b, 3),
                 M = std::pow(l - 0.1055613458 * a - 0.0638541728 * b, 3),
                 S = std::pow(l - 0.0894841775 * a - 1.2914855480 * b, 3);
    QVERIFY(std::abs(static_cast<double>(lab[0]) - (4.0767416621 * L - 3.3077115913 * M + 0.2309699292 * S)) < 2e-3);
    QVERIFY(std::abs(static_cast<double>(lab[2]) - (-0.0041960863 * L - 0.7034186147 * M + 1.7076147010 * S)) < 2e-3);
  }
  void aStrokeBecomesFewStops() {
    std::vector<std::array<double, 3>> colours;
    for (int i = 0; i <= 100; ++i) colours.push_back({i < 40 ? i / 40.0 : 1.0, 0.5, i / 100.0});
    const Stops stops = stroke_stops(colours);
    QCOMPARE(stops.size(), std::size_t{3});
    QCOMPARE(stops[1].at, 0.4);
    QCOMPARE(stroke_stops({{{0.1, 0.2, 0.3}}}).size(), std::size_t{1});
    QVERIFY(stroke_stops({}).empty());
    for (std::size_t i = 0; i < colours.size(); ++i) colours[i][1] = static_cast<double>(i * 37 % 11) / 10;
    QCOMPARE(stroke_stops(colours, 0.01, 6).size(), std::size_t{6});
  }
  void measuresOfCellsAgreeWithAPlainSearch() {
    // Eight by eight points, read back from where the nearest distance is least; then a plain search by each measure.
    constexpr int kCells = 8, kSize = 256;
    const Resolved base{{"scale", static_cast<double>(kCells)}};
    const Plane nearest = plane("cellular_noise", 2048, {}, base, "nearest");
    std::vector<std::array<double, 2>> points;
    for (int y = 0; y < 2048; ++y)
      for (int x = 0; x < 2048; ++x) {
        bool least = nearest.at(x, y) < 0.02f;
        for (int j = -1; j <= 1 && least; ++j)
          for (int i = -1; i <= 1; ++i) least &= nearest.at(x, y) <= nearest.at(wrap(x + i, 2048), wrap(y + j, 2048));
        if (least) points.push_back({(x + 0.5) / 2048, (y + 0.5) / 2048});
      }
    QVERIFY(points.size() >= 62 && points.size() <= 66);
    for (const char* measure : {"manhattan", "chebyshev"}) {
      Resolved p = base;
      p["metric"] = std::string(measure);
      const Plane got = plane("cellular_noise", kSize, {}, p, "nearest");
      double most = 0;
      for (int y = 0; y < kSize; y += 3)
        for (int x = 0; x < kSize; x += 3) {
          double least = 9;
          for (const auto& q : points) {
            double du = (x + 0.5) / kSize - q[0], dv = (y + 0.5) / kSize - q[1];
            du = std::abs(du - std::round(du)) * kCells, dv = std::abs(dv - std::round(dv)) * kCells;
            least = std::min(least, measure[0] == 'm' ? du + dv : std::max(du, dv));
          }
          most = std::max(most, std::abs(least - static_cast<double>(got.at(x, y))));
        }
      QVERIFY2(most < 0.02, measure);
    }
  }
  void driftsLoopAndKeepTheirMean() {
    for (const char* type : {"value_noise", "facet_noise", "gradient_noise"}) {
      const auto at = [&](double drift) {
        return plane(type, 256, {}, {{"scale", 16.0}, {"octaves", 1.0}, {"drift", drift}}, "value");
      };
      const Plane start = at(0);
      QVERIFY2(furthest(start, at(1)) < 1e-4, type);
      for (const double drift : {0.25, 0.5, 0.75}) {
        QVERIFY2(furthest(start, at(drift)) > 0.2, type);
        QVERIFY2(std::abs(range_of(start).mean - range_of(at(drift)).mean) < 0.06f, type);
      }
    }
  }
  void solidNoiseIsOneBlock() {
    // A plane cut through the block along u and v, then the same one period higher, then one that stands upright.
    const auto cut = [](const char* type, const char* out, const Plane& x, const Plane& y, const Plane& z) {
      Fields in;
      in["positions"] = field_of(Kind::vector3, x.clone(), y.clone(), z.clone());
      return plane(type, 128, in, {{"scale", 4.0}}, out);
    };
    const Plane u = painted(128, [](double a, double) { return a; }),
                v = painted(128, [](double, double b) { return b; });
    for (const auto& [type, out] : {std::pair{"gradient_noise", "value"},
                                    {"value_noise", "value"},
                                    {"facet_noise", "value"},
                                    {"cellular_noise", "nearest"},
                                    {"cellular_noise", "border"},
                                    {"speckle", "value"}}) {
      const Plane low = cut(type, out, u, v, Plane::filled(128, 0.3f)),
                  high = cut(type, out, u, v, Plane::filled(128, 1.3f)),
                  upright = cut(type, out, u, Plane::filled(128, 0.7f), v);
      QVERIFY2(furthest(low, high) < 2e-3, type);  // whole periods in a unit
      // Where both cuts meet, along u at v = 0.7 and height 0.3, they agree: row 0.7 of one, row 0.3 of the other.
      const Plane row = cut(type, out, u, Plane::filled(128, 0.7f), Plane::filled(128, 0.3f));
      const Range r = range_of(row);
      QVERIFY2(r.most - r.least > 0.1f, type);
      for (int x = 0; x < 128; ++x) {
        const float a = low.at(x, 89) + (low.at(x, 90) - low.at(x, 89)) * 0.1f,
                    b = upright.at(x, 37) + (upright.at(x, 38) - upright.at(x, 37)) * 0.9f;
        QVERIFY2(std::abs(a - row.at(x, 0)) < 0.05f && std::abs(b - row.at(x, 0)) < 0.05f, type);
      }
    }
  }
  void theSidesOfSolidCellsAreAtTheirExactDistance() {
    const Plane u = painted(256, [](double a, double) { return a; }),
                v = painted(256, [](double, double b) { return b; });
    const auto cut = [&](double jitter, const Plane& x, const Plane& y, const Plane& z, const char* out = "border") {
      Fields in;
      in["positions"] = field_of(Kind::vector3, x.clone(), y.clone(), z.clone());
      return plane("cellular_noise", 256, in, {{"scale", 5.0}, {"jitter", jitter}}, out);
    };
    // Points in rank and file: cubes. Inside one the nearest of its six sides counts.
    const Plane cubes = cut(0, u, v, Plane::filled(256, 0.27f));
    const auto side = [](double at) {
      const double in = at * 5 - std::floor(at * 5);
      return std::min(in, 1 - in);
    };
    QVERIFY(furthest(cubes, painted(256, [&](double a, double b) {
                       return std::min({side(a), side(b), side(0.27)});
                     })) < 1e-4);
    // A distance to planes rises by one per way everywhere but on the ridges where the nearest side changes.
    constexpr float kStep = 1.0f / 4096;
    const Plane z = Plane::filled(256, 0.4f), here = cut(1, u, v, z);
    const auto moved = [](const Plane& p) {
      return painted(
          256, [&p](double a, double b) { return p.at(static_cast<int>(a * 256), static_cast<int>(b * 256)) + kStep; });
    };
    const Plane along_u = cut(1, moved(u), v, z), along_v = cut(1, u, moved(v), z), along_z = cut(1, u, v, moved(z));
    std::size_t steep = 0;
    for (std::size_t i = 0; i < here.texels(); ++i) {
      const auto slope = [&](const Plane& p) {
        return static_cast<double>((p.data()[i] - here.data()[i]) / (5 * kStep));
      };
      steep += std::abs(std::hypot(slope(along_u), slope(along_v), slope(along_z)) - 1) < 0.02;
    }
    QVERIFY2(static_cast<double>(steep) / static_cast<double>(here.texels()) > 0.97,
             QByteArray::number(static_cast<double>(steep) / static_cast<double>(here.texels())));
    // It is never less than half of what the second point is farther than the nearest, and 0 where both are as far.
    const Plane nearest = cut(1, u, v, z, "nearest"), second = cut(1, u, v, z, "second");
    for (std::size_t i = 0; i < here.texels(); ++i)
      QVERIFY(here.data()[i] >= 0.5f * (second.data()[i] - nearest.data()[i]) - 1e-4f &&
              here.data()[i] <= 0.5f * (second.data()[i] + nearest.data()[i]));
  }
  void solidSpeckleHasTheSameSpreadInEveryCut() {
    // The sum of many impulses: mean 0.5, and the deviation that the window's norm is made for, 0.2, in the torus and
    // in space alike.
    const Plane u = painted(256, [](double a, double) { return a; }),
                v = painted(256, [](double, double b) { return b; });
    const auto deviation = [](const Plane& p) {
      double sum = 0;
      for (std::size_t i = 0; i < p.texels(); ++i) sum += std::pow(static_cast<double>(p.data()[i]) - 0.5, 2);
      return std::sqrt(sum / static_cast<double>(p.texels()));
    };
    const Resolved params{{"scale", 24.0}, {"density", 8.0}};
    const double flat = deviation(plane("speckle", 256, {}, params, "value"));
    QVERIFY2(std::abs(flat - 0.2) < 0.02, QByteArray::number(flat));
    for (const double high : {0.1, 0.37, 0.82}) {
      Fields in;
      in["positions"] = field_of(Kind::vector3, u.clone(), v.clone(), Plane::filled(256, static_cast<float>(high)));
      const Plane cut = plane("speckle", 256, in, params, "value");
      QVERIFY2(std::abs(deviation(cut) - 0.2) < 0.02 && std::abs(range_of(cut).mean - 0.5f) < 0.02f,
               QByteArray::number(deviation(cut)));
      QVERIFY(furthest(cut, plane("speckle", 256, in, {{"scale", 24.0}, {"density", 8.0}, {"seed", 2.0}}, "value")) >
              0.2);
    }
  }
  void solidFibresAreRodsInABlock() {
    const Plane u = painted(256, [](double a, double) { return a; }),
                v = painted(256, [](double, double b) { return b; });
    const auto cut = [&](const char* out, const Resolved& params, const Plane& x, const Plane& y, const Plane& z) {
      Fields in;
      in["positions"] = field_of(Kind::vector3, x.clone(), y.clone(), z.clone());
      return plane("fibre_noise", 256, in, params, out);
    };
    const Resolved params{
        {"count", 120.0}, {"length", 0.25}, {"thickness", 0.03}, {"length_spread", 0.0}, {"spread", 1.0}};
    const Plane low = cut("mask", params, u, v, Plane::filled(256, 0.3f));
    // The same one period higher and farther; another elsewhere.
    QVERIFY(furthest(low, cut("mask", params, u, v, Plane::filled(256, 1.3f))) < 0.02);
    QVERIFY(furthest(low, cut("mask", params, painted(256, [](double a, double) { return a + 1; }), v,
                              Plane::filled(256, 0.3f))) < 0.02);
    QVERIFY(furthest(low, cut("mask", params, u, v, Plane::filled(256, 0.6f))) > 0.9);
    // Every cut is as full: by chance rods, 1 - exp(-count * length * width).
    for (const float high : {0.1f, 0.45f, 0.8f}) {
      const float full = range_of(cut("mask", params, u, v, Plane::filled(256, high))).mean;
      QVERIFY2(std::abs(full - (1 - std::exp(-120 * 0.25f * 0.03f))) < 0.12f,
               QByteArray::number(static_cast<double>(full)));
    }
    // Without spread they lie along x: a cut across them shows discs, one along them streaks, which hardly change along
    // u.
    const Resolved combed{
        {"count", 60.0}, {"length", 0.5}, {"thickness", 0.03}, {"length_spread", 0.0}, {"spread", 0.0}};
    const auto changes = [](const Plane& p, bool along_u) {
      double sum = 0;
      for (int y = 0; y < 256; ++y)
        for (int x = 0; x < 256; ++x)
          sum += std::abs(
              static_cast<double>(p.at(x, y) - (along_u ? p.at(wrap(x + 1, 256), y) : p.at(x, wrap(y + 1, 256)))));
      return sum;
    };
    const Plane streaks = cut("mask", combed, u, v, Plane::filled(256, 0.5f)),
                discs = cut("mask", combed, Plane::filled(256, 0.5f), u, v);
    QVERIFY(changes(streaks, false) > 5 * changes(streaks, true));
    QVERIFY(std::abs(changes(discs, false) / changes(discs, true) - 1) < 0.15);
    // Each rod has one tone, and none lies where the mask is empty.
    const Plane tone = cut("grey", params, u, v, Plane::filled(256, 0.3f));
    for (std::size_t i = 0; i < tone.texels(); ++i) QVERIFY(low.data()[i] > 0 || tone.data()[i] == 0);
  }
  void aFormulaReadsItsInputsElsewhere() {
    const Plane source = bumpy(64, 1);
    Fields in;
    in["a"] = field_of(Kind::scalar, source.clone());
    const auto formula = [&](const char* text) {
      return plane("formula", 64, in, {{"formula", std::string(text)}}, "result");
    };
    // A quarter of the tile to the right of every place, round the edge; and turned about.
    QVERIFY(furthest(formula("a(u + 0.25, v)"), rolled(source, -16, 0)) < 1e-6);
    QVERIFY(furthest(formula("a(vector(u, v - 0.5))"), rolled(source, 0, 32)) < 1e-6);
    QVERIFY(furthest(formula("a(v, u)"), painted(64, [&](double u, double v) {
                       return static_cast<double>(source.at(static_cast<int>(v * 64), static_cast<int>(u * 64)));
                     })) < 1e-6);
    // Beside itself: the slope by differences.
    const Plane slope = formula("(a(u + 1/64, v) - a) * 64");
    for (int x = 0; x < 64; ++x)
      QVERIFY(std::abs(slope.at(x, 7) - (source.at(wrap(x + 1, 64), 7) - source.at(x, 7)) * 64) < 1e-4f);
    // A free input is the same everywhere.
    QCOMPARE(formula("b(u, v + 0.3)").at(5, 5), 0.5f);
    // Colours keep their strands.
    in["a"] = field_of(Kind::colour, bumpy(64, 1), bumpy(64, 2), bumpy(64, 3));
    const auto all = weave_alone(*catalogue().find("formula"), 64, in, {{"formula", std::string("a(u, v + 0.5)")}});
    QCOMPARE(all.at("result").kind, Kind::colour);
    QVERIFY(furthest(*all.at("result").strand[2], rolled(bumpy(64, 3), 0, -32)) < 1e-6);
  }
  void aStopGoesOnInItsOwnWay() {
    const Plane ramp = painted(256, [](double u, double) { return u; });
    Fields in;
    in["value"] = field_of(Kind::scalar, ramp.clone());
    const auto dyed = [&](const char* first, const char* second, const char* all) {
      const Stops stops{{0, {0, 0, 0, 1}, first}, {0.5, {0.5, 0.5, 0.5, 1}, second}, {1, {1, 0, 0, 1}}};
      return plane("dye", 256, in, {{"stops", stops}, {"between", std::string(all)}}, "colour");
    };
    const Plane mixed = dyed("stepped", "", "straight");
    QCOMPARE(mixed.at(100, 0), 0.0f);  // held until the next stop
    QVERIFY(std::abs(mixed.at(192, 0) - (0.5f + 0.5f * (192.5f / 256 - 0.5f) * 2)) < 1e-4f);
    const Plane smooth = dyed("smooth", "stepped", "straight");
    QVERIFY(furthest(dyed("", "", "smooth"), dyed("smooth", "smooth", "stepped")) < 1e-6);
    QVERIFY(std::abs(smooth.at(64, 0) - dyed("", "", "smooth").at(64, 0)) < 1e-6f);
    QCOMPARE(smooth.at(200, 0), 0.5f);
  }
};

QTEST_GUILESS_MAIN(TestFamilies)
#include "tst_families.moc"
